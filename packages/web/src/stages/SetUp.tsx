// Set up: the recipe as a page of sentences.
import type { ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { added } from '@bramblemist/core/presets/edit';
import { STARTERS } from '@bramblemist/core/presets/new-parts';
import { changeRecipe } from '../data/bench';
import { useAssets } from '../data/files';
import { select, useSelection } from '../data/selection';
import { NextStep } from '../parts/NextStep';
import { Heading, Plain, Primary, Quiet, Section, Trouble } from '../parts/ui';
import { Air } from './Air';
import type { StageProps } from './context';
import { Files } from './Files';
import { later } from '../parts/later';
import { newId, Under, usePageParts } from './page-parts';
import { Places } from './Places';
import { DomainLine } from './DomainLine';

const PickHistograms = later(() => import('./PickHistograms'), 'PickHistograms');

export function SetUp({ shot, documents }: StageProps): ReactNode {
  const { recipe } = documents;
  const navigate = useNavigate();
  const { space } = recipe;
  const aloneId = useSelection((s) => s.alone);
  const assets = useAssets(recipe);
  const parts = usePageParts(recipe);
  const { one, item, add, wrong } = parts;
  const loose = recipe.patterns
    .map((p, n) => ({ p, n }))
    .filter(({ p }) => !recipe.sources.some((s) => s.id === p.source));
  return (
    <>
      <NextStep>
        <Primary onPress={() => void navigate(`/shots/${shot.id}/run`)}>
          Bake {space.lastFrame - space.firstFrame + 1} frames …
        </Primary>
      </NextStep>
      <Section>
        <Heading>
          Space{' '}
          <small>
            {space.frameRate} fps · frames {space.firstFrame}–{space.lastFrame}
          </small>
        </Heading>
        {one('space')}
        <DomainLine recipe={recipe} />
        {one('window')}
      </Section>
      {wrong && <Trouble>{wrong}</Trouble>}
      <Section>
        <Heading>Sources {add('sources', 'a source')}</Heading>
        {recipe.sources.length === 0 && (
          <Quiet>
            Nothing gives off the medium yet. Add a source: it starts in the middle of the domain.
          </Quiet>
        )}
        {aloneId !== null && recipe.sources.some((s) => s.id === aloneId) && (
          <Quiet role="status">
            Only {recipe.sources.find((s) => s.id === aloneId)!.name} plays here; a bake takes all.
          </Quiet>
        )}
        {recipe.sources.map((s, n) => (
          <div key={s.id}>
            {item('sources', n)}
            <Under>{recipe.patterns.map((p, m) => (p.source === s.id ? item('patterns', m) : null))}</Under>
          </div>
        ))}
        {loose.map(({ n }) => item('patterns', n))}
      </Section>
      <Section>
        <Heading>Obstacles {add('obstacles', 'an obstacle')}</Heading>
        {recipe.obstacles.length === 0 && <Quiet>Nothing stands in the way.</Quiet>}
        {recipe.obstacles.map((_, n) => item('obstacles', n))}
      </Section>
      <Air recipe={recipe} parts={parts} />
      <Places recipe={recipe} parts={parts} />
      <Section>
        <Heading>Particles {add('particles', 'particles')}</Heading>
        {recipe.particles.length === 0 && (
          <Quiet>None fly. They can carry a source, or show how the air goes.</Quiet>
        )}
        {recipe.particles.map((p, n) => (
          <div key={p.id}>
            {item(
              'particles',
              n,
              p.born === 'file' ? { under: <PickHistograms recipe={recipe} part={p} assets={assets} /> } : {},
            )}
            {!recipe.sources.some((s) => s.on && s.particles === p.id && s.shape === 'particles') && (
              <Under>
                <Plain
                  onPress={() => {
                    const id = newId();
                    const starter = STARTERS.sources.find((s) => s.name === 'Off particles')!;
                    changeRecipe(`let ${p.name} give off`, added(recipe, 'sources', starter, id, p.id));
                    select(id);
                  }}
                >
                  Let them give off the medium
                </Plain>
              </Under>
            )}
          </div>
        ))}
      </Section>
      <Files recipe={recipe} />
      <Section>
        <Heading>Keep</Heading>
        {one('keep')}
      </Section>
    </>
  );
}

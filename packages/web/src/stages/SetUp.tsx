// Set up: the recipe as a page of sentences.
import { Plus } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { RECIPE, type ObstaclePart, type SourcePart } from '@bramblemist/core/recipe/recipe';
import { partOf, type Part } from '@bramblemist/core/recipe/settings';
import { change } from '../data/bench';
import { Ingredient } from '../parts/Ingredient';
import { Button, Heading, Plain, Quiet, Section } from '../parts/ui';
import type { StageProps } from './context';

const Actions = styled.div`
  display: flex;
  gap: 6px;
  padding: 4px 0;
`;

const AIR = ['buoyancy', 'wind', 'turbulence', 'vorticity', 'fading', 'spreading', 'method'] as const;

function fresh(kind: 'sources' | 'obstacles', documents: StageProps['documents']): SourcePart | ObstaclePart {
  const { space } = documents.recipe,
    list = documents.recipe[kind];
  const middle = space.corner.map((c, a) => Number((c + space.size[a] * (a === 1 ? 0.2 : 0.5)).toPrecision(4)));
  const small = Number((Math.min(...space.size) * 0.12).toPrecision(2));
  const name = kind === 'sources' ? 'Source' : 'Obstacle';
  return RECIPE.defaultPart(kind, {
    id: `${kind}-${crypto.randomUUID().slice(0, 8)}`,
    name: list.length ? `${name} ${list.length + 1}` : name,
    centre: middle,
    radius: small,
    size: [small * 2, small * 2, small * 2],
  });
}

export function SetUp({ documents }: StageProps): ReactNode {
  const { recipe } = documents,
    { space } = recipe;
  const one = (key: 'space' | 'window' | 'keep' | (typeof AIR)[number]): ReactNode => (
    <Ingredient
      key={key}
      part={partOf(RECIPE.parts, key)}
      values={recipe[key]}
      frameRate={space.frameRate}
      onChange={(path, label, value) => change(label, 'recipe', `${key}.${path}`, value)}
    />
  );
  const many = (key: 'sources' | 'obstacles', part: Part): ReactNode =>
    recipe[key].map((item, n) => (
      <Ingredient
        key={item.id}
        part={part}
        values={item}
        frameRate={space.frameRate}
        onChange={(path, label, value) => change(label, 'recipe', `${key}.${n}.${path}`, value)}
        actions={
          <Actions>
            <Button onPress={() => change(`${item.name} ${item.on ? 'off' : 'on'}`, 'recipe', `${key}.${n}.on`, !item.on)}>
              {item.on ? 'Turn off' : 'Turn on'}
            </Button>
            <Button
              onPress={() =>
                change(
                  `remove ${item.name}`,
                  'recipe',
                  key,
                  recipe[key].filter((_, i) => i !== n),
                )
              }
            >
              Remove
            </Button>
          </Actions>
        }
      />
    ));
  const add = (key: 'sources' | 'obstacles', word: string): ReactNode => (
    <Plain aria-label={`Add ${word}`} onPress={() => change(`add ${word}`, 'recipe', key, [...recipe[key], fresh(key, documents)])}>
      <Plus size={13} /> add
    </Plain>
  );
  return (
    <>
      <Section>
        <Heading>
          Space{' '}
          <small>
            {space.frameRate} fps · frames {space.firstFrame}–{space.lastFrame}
          </small>
        </Heading>
        {one('space')}
        {one('window')}
      </Section>
      <Section>
        <Heading>Sources {add('sources', 'a source')}</Heading>
        {recipe.sources.length === 0 && <Quiet>Nothing gives off the medium yet. Add a source: it starts in the middle of the room.</Quiet>}
        {many('sources', partOf(RECIPE.parts, 'sources'))}
      </Section>
      <Section>
        <Heading>Obstacles {add('obstacles', 'an obstacle')}</Heading>
        {recipe.obstacles.length === 0 && <Quiet>Nothing stands in the way.</Quiet>}
        {many('obstacles', partOf(RECIPE.parts, 'obstacles'))}
      </Section>
      <Section>
        <Heading>Air</Heading>
        {AIR.map(one)}
      </Section>
      <Section>
        <Heading>Keep</Heading>
        {one('keep')}
      </Section>
    </>
  );
}

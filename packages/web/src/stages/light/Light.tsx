// Light: how the baked volume is lit and seen. The window shows the render itself; files are made on the
// server by the same kernels.
import { ClipboardPaste, Copy, SunMedium } from 'lucide-react';
import { useEffect, type ReactNode } from 'react';
import { useLocation, useNavigate } from 'react-router';
import styled from 'styled-components';
import { LOOK } from '@bramblemist/core/look/look';
import { lookText, MEDIUM_LOOKS, pastedLook } from '@bramblemist/core/presets/looks';
import type { MeasuredSaving } from '@bramblemist/core/look/savings';
import { setAt } from '@bramblemist/core/recipe/paths';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change } from '../../data/bench';
import { useKeys } from '../../data/keyed';
import { AddMenu } from '../../parts/AddMenu';
import { Ingredient } from '../../parts/Ingredient';
import { Heading, Plain, Section, Trouble } from '../../parts/ui';
import { useAttempt } from '../../parts/use-attempt';
import { Lightbox } from '../../picture/Lightbox';
import type { StageProps } from '../context';
import { Cameras } from './Cameras';
import { changeLook } from './change-look';
import { Lights } from './Lights';
import { Media } from './Media';
import { Passes } from './Passes';
import { Renders } from './Renders';
import { Sky } from './Sky';
import { Surfaces } from './Surfaces';

const Tools = styled.span`
  display: inline-flex;
  gap: 10px;
`;

/** Takes a saving that was adopted on its page. */
function useAdopted(): void {
  const { state, pathname } = useLocation() as {
    state: { adopt?: Pick<MeasuredSaving, 'name' | 'changes'> } | null;
    pathname: string;
  };
  const navigate = useNavigate();
  useEffect(() => {
    const adopted = state?.adopt;
    if (!adopted) return;
    changeLook(`take the saving: ${adopted.name}`, (l) =>
      adopted.changes.reduce((look, { path, value }) => setAt(look, path, value), l),
    );
    // once only, and not again when one comes back to it
    void navigate(pathname, { replace: true, state: null });
  }, [state, pathname, navigate]);
}

export function Light(props: StageProps): ReactNode {
  const { documents } = props;
  const { look, recipe } = documents;
  const { frameRate } = recipe.space;
  const keysFor = useKeys('look', look);
  useAdopted();
  const { wrong, attempt } = useAttempt();
  const one = (key: 'solids' | 'quality'): ReactNode => (
    <Ingredient
      part={partOf(LOOK.parts, key)}
      values={look[key]}
      frameRate={frameRate}
      keysOf={keysFor(key)}
      onChange={(path, label, value) => change(label, 'look', `${key}.${path}`, value)}
    />
  );
  const shared = { look, frameRate, keysFor };
  return (
    <>
      <Section>
        <Heading>
          Medium
          <Tools>
            <Plain
              aria-label="Copy the look as text"
              onPress={() => attempt(() => navigator.clipboard.writeText(lookText(look)))}
            >
              <Copy size={13} /> Copy look
            </Plain>
            <Plain
              aria-label="Paste a look"
              onPress={() =>
                attempt(async () => {
                  const next = pastedLook(look, await navigator.clipboard.readText());
                  changeLook('paste a look', () => next);
                })
              }
            >
              <ClipboardPaste size={13} /> Paste
            </Plain>
            <AddMenu
              label="Take a medium’s look"
              starters={MEDIUM_LOOKS}
              icon={<SunMedium size={13} />}
              onAdd={({ name, settings }) =>
                changeLook(`look of ${name.toLowerCase()}`, (l) => ({
                  ...l,
                  medium: { ...l.medium, ...settings },
                }))
              }
            >
              presets
            </AddMenu>
          </Tools>
        </Heading>
        {wrong && <Trouble>{wrong}</Trouble>}
        <Media {...shared} bakes={props.shot.bakes} lit={props.bake?.id} />
      </Section>
      <Section>
        <Lights {...shared} />
        <Sky {...shared} />
      </Section>
      <Section>
        <Heading>Surfaces</Heading>
        {one('solids')}
        <Surfaces {...shared} obstacles={recipe.obstacles} />
      </Section>
      <Section>
        <Cameras {...shared} space={recipe.space} />
      </Section>
      <Section>
        <Heading>Quality and passes</Heading>
        {one('quality')}
        <Passes look={look} bake={props.bake} />
      </Section>
      <Lightbox look={look} />
      <Renders {...props} />
    </>
  );
}

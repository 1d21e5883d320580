// Everything that can be done and set in a shot, found by name: Ctrl-K.
import { useMemo, type ReactNode } from 'react';
import { Autocomplete, Dialog, Input, Menu, SearchField, Text, useFilter } from 'react-aria-components';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { Sheet, Veil } from '../parts/sheet';
import { MenuLine } from '../parts/ui';
import { COMBINE } from '@bramblemist/core/combine/combine';
import { LOOK } from '@bramblemist/core/look/look';
import { added } from '@bramblemist/core/presets/edit';
import { LIGHT_STARTERS, withLight } from '@bramblemist/core/presets/looks';
import { type CopiedList, STARTERS } from '@bramblemist/core/presets/new-parts';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import { getAt } from '@bramblemist/core/recipe/paths';
import type { Part } from '@bramblemist/core/recipe/settings';
import { changeRecipe, redo, undo, useBench, type Documents } from '../data/bench';
import { select } from '../data/selection';
import { guidePath } from '../guide/read';
import { GUIDE } from '../guide/text';
import { reveal } from '../parts/reveal';
import { forcesOf, forceTitle } from '../seeing/names';
import { useWish } from '../seeing/use-seeing';
import { STAGES } from '../stages/context';
import { changeLook } from '../stages/light/change-look';
import { newId } from '../stages/page-parts';
import { startTour } from '../tour/tour';

const Field = styled(Input)`
  width: 100%;
  padding: 7px 12px;
  font: 15px/1.4 ${({ theme }) => theme.sans};
  color: ${({ theme }) => theme.text};
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.thorn};
  border-radius: 16px;
  &::-webkit-search-cancel-button {
    display: none;
  }
`;
const List = styled(Menu<Entry>)`
  max-height: 52vh;
  overflow: auto;
  margin-top: 8px;
  outline: none;
`;
/** The trade's other words for parts, so that they are found by these too. */
const ALSO: Readonly<Record<string, string>> = {
  space: 'domain box resolution voxels frame range substeps cfl time scale sides walls',
  window: 'bounds grow shrink fit travel',
  sources: 'emitter inflow density temperature',
  obstacles: 'collision collider solid boundary',
  gravity: 'weight up down',
  buoyancy: 'lift rise sink warm cold weight medium',
  settling: 'dust grains sediment fall sink deposit terminal velocity sand droplets rain',
  wind: 'gust breeze draught',
  drag: 'damping friction slow',
  turbulence: 'noise curl churn chaos',
  edges: 'break-up erosion fine detail wisps',
  vorticity: 'confinement swirl curl whirls',
  currents: 'jet spin whirl vortex pull push attractor path pipe shear',
  dissipation: 'dissipation decay half-life cooling disappear',
  diffusion: 'viscosity diffusion blur',
  method: 'advection transport conservative maccormack mass parabola',
  regions: 'limit mask field falloff place volume',
  changes: 'multiply override inside region',
  formulas: 'expression script arithmetic channel',
  medium: 'extinction albedo opacity absorption scattering phase anisotropy ramp clip',
  media: 'volume second extinction albedo opacity overlap',
  lights: 'key fill rim lamp area exposure kelvin colour temperature',
  sky: 'environment dome hdr lat-long ambient background',
  solids: 'holdout matte shadow catcher ground floor',
  surfaces: 'holdout matte shadow catcher emission glow',
  camera: 'lens focal film back sensor roll crop overscan resolution',
  cameras: 'lens focal film back sensor roll crop overscan resolution',
  quality: 'samples bounces noise estimator render',
  passes: 'layers aov channels lights deep depth position normal motion vectors albedo shadow matte holdout',
  keep: 'channels output export half float colour velocity age',
};

interface Entry {
  readonly id: string;
  readonly name: string;
  readonly about: string;
  readonly words: string;
  readonly act: () => void;
}

function entriesOf({ recipe, look, combine }: Documents, go: (stage: string) => void): Entry[] {
  const out: Entry[] = [];
  const add = (name: string, about: string, act: () => void, words = ''): void => {
    out.push({ id: String(out.length), name, about, act, words: `${name} ${about} ${words}` });
  };

  const show = (part: string, stage: 'set-up' | 'light' | 'combine' = 'set-up'): void => {
    go(stage);
    select(part);
    reveal(part);
  };

  add(
    'Trial sheets',
    'Many small runs with one setting or two varied, side by side.',
    () => go('sheets'),
    'wedge variations compare tries values grid',
  );
  const past = useBench.getState().past;
  for (const s of STAGES) add(`Go to ${s.label}`, 'A stage of the shot.', () => go(s.key));
  if (past.length > 0) add(`Undo ${past[past.length - 1].label}`, 'Ctrl-Z', undo);
  add('Redo', 'Ctrl-Shift-Z', redo);
  const settings = (stage: 'set-up' | 'light' | 'combine', parts: readonly Part[], content: object): void => {
    for (const part of parts.filter(
      ({ key }) => key !== 'curves' && !(stage === 'light' && key === 'files'),
    )) {
      const holders = part.many
        ? (getAt(content, part.key) as readonly { id: string; name?: string }[]).map((p) => ({
            id: p.id,
            title: p.name ?? part.title,
          }))
        : [{ id: part.key, title: part.title }];
      for (const { id, title } of holders)
        for (const s of part.settings)
          if (s.path !== 'name') add(`${title}: ${s.label}`, s.doc, () => show(id, stage), ALSO[part.key]);
    }
  };

  settings('set-up', RECIPE.parts, recipe);
  settings('light', LOOK.parts, look);
  settings('combine', COMBINE.parts, combine);
  for (const s of LIGHT_STARTERS)
    add(
      `Add ${s.name} (light)`,
      s.when,
      () => {
        const id = newId();
        changeLook(`add ${s.name}`, (l) => withLight(l, s, id));
        show(id, 'light');
      },
      ALSO.lights,
    );
  for (const [list, starters] of Object.entries(STARTERS) as [
    CopiedList | 'patterns',
    (typeof STARTERS)['sources'],
  ][])
    if (list !== 'patterns')
      for (const s of starters)
        add(
          `Add ${s.name} (${RECIPE.parts.find((p) => p.key === list)!.title.toLowerCase()})`,
          s.when,
          () => {
            const id = newId();
            changeRecipe(`add ${s.name}`, added(recipe, list, s, id));
            show(id);
          },
          ALSO[list],
        );
  for (const name of ['air', 'lines', 'all', ...forcesOf(recipe)])
    add(
      'Arrows of ' + ({ air: 'the air', lines: 'the air, as streamlines' }[name] ?? forceTitle(recipe, name)),
      'Drawn into the window.',
      () => {
        go('set-up');
        useWish.setState({ arrows: name });
      },
      'show force velocity flow',
    );
  add(
    'Take the tour',
    'From a number to a movie, step by step, on this shot.',
    startTour,
    'help begin first',
  );
  for (const { slug, title, opening } of GUIDE)
    add(
      `Guide: ${title}`,
      opening,
      () => void window.open(guidePath(slug), '_blank', 'noopener'),
      'help how',
    );
  return out;
}

export function Finder({
  documents,
  shotId,
  open,
  onClose,
}: {
  documents: Documents;
  shotId: number;
  open: boolean;
  onClose: () => void;
}): ReactNode {
  const navigate = useNavigate();
  const { contains } = useFilter({ sensitivity: 'base' });
  const entries = useMemo(
    () => (open ? entriesOf(documents, (stage) => void navigate(`/shots/${shotId}/${stage}`)) : []),
    [open, documents, navigate, shotId],
  );
  return (
    <Veil isOpen={open} onOpenChange={(is) => !is && onClose()} isDismissable>
      <Sheet>
        <Dialog aria-label="Find an action or a setting">
          <Autocomplete filter={(text, typed) => typed.split(/\s+/).every((word) => contains(text, word))}>
            <SearchField aria-label="Find" autoFocus>
              <Field placeholder="What do you want to do or set?" />
            </SearchField>
            <List
              aria-label="What fits"
              items={entries}
              renderEmptyState={() => <p>Nothing is called that. Try another word for it.</p>}
              onAction={(key) => {
                onClose();
                entries.find((e) => e.id === key)?.act();
              }}
            >
              {(e) => (
                <MenuLine id={e.id} textValue={e.words}>
                  <Text slot="label">{e.name}</Text>
                  <Text slot="description">{e.about}</Text>
                </MenuLine>
              )}
            </List>
          </Autocomplete>
        </Dialog>
      </Sheet>
    </Veil>
  );
}

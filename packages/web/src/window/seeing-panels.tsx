// What the rail's panels say of what is seen: what the medium's colour tells, which of the air's movers are
// drawn into the scene, and what their colours mean.
import { Cloud, Layers2, MoveUpRight, SquareDashed } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { SHOWN, type Shown } from '@bramblemist/core/analysis/flow';
import { ChoiceWord } from '../parts/controls';
import { NumberControl } from '../parts/NumberControl';
import { Plain, Quiet, Trouble } from '../parts/ui';
import { useView, type ViewState } from '../data/view';
import { number } from '@bramblemist/core/recipe/settings';
import type { ShownBrick } from '../live/use-live';
import { rangeOf } from '../viewport/range';
import type { Seen } from '../seeing/messages';
import { forcesOf, forceTitle } from '../seeing/names';
import { RAMP_CSS, spanOf } from '../seeing/ramp';
import { useSeen, useWish } from '../seeing/use-seeing';
import { strongest } from '../viewport/probe';
import type { RailItem } from './Rail';

const Line = styled.p`
  font: 15px/1.6 ${({ theme }) => theme.serif};
  input {
    vertical-align: middle;
    width: 100%;
    accent-color: ${({ theme }) => theme.thorn};
  }
`;
const Legend = styled.span`
  display: block;
  font: 12px/1.8 ${({ theme }) => theme.sans};
  font-variant-numeric: tabular-nums;
  i {
    display: inline-block;
    width: 90px;
    height: 8px;
    margin: 0 6px;
    border-radius: 2px;
    background: ${RAMP_CSS};
  }
`;
const value = (v: number, unit: string): string => `${Number(v.toPrecision(2))}${unit && ` ${unit}`}`;
const NONE = { value: '', label: 'none' };
const AXES = [
  { value: '2', label: 'facing the front' },
  { value: '0', label: 'facing the side' },
  { value: '1', label: 'lying flat' },
];

const DISTANCE = { value: '=distance', label: 'distance to obstacles' };
const COLOURINGS = [
  { value: 'light', label: 'as it is lit' },
  ...Object.keys(SHOWN).map((name) => ({ value: name, label: `by ${name}` })),
];
const CARES = [
  { value: 'full', label: 'with care' },
  { value: 'quick', label: 'quickly' },
];

/** What the medium's colour tells; its range follows the frame, or stays as it was when it was locked. */
function Colouring({ shown }: { shown: ShownBrick | null }): ReactNode {
  const { colouring, locked, care } = useView();
  const range = colouring !== 'light' && shown ? (locked ?? rangeOf(shown, colouring)) : null;
  const unit = colouring === 'light' ? '' : SHOWN[colouring];
  const blind = colouring !== 'light' && colouring !== 'density' && shown !== null && shown.glimpse === null;
  const end = (n: 0 | 1, v: number): void =>
    useView.setState({ locked: n === 0 ? [v, range![1]] : [range![0], v] });
  const field = (n: 0 | 1): ReactNode => (
    <NumberControl
      setting={number('range', n ? 'brightest at' : 'darkest at', unit, [-1e5, 1e5], range![n], '')}
      name={n ? 'Brightest at' : 'Darkest at'}
      value={Number(range![n].toPrecision(3))}
      frameRate={24}
      onChange={(v) => end(n, v)}
    />
  );
  return (
    <>
      <Line as="div">
        Shown{' '}
        <ChoiceWord
          name="Medium coloured"
          value={colouring}
          options={COLOURINGS}
          onChange={(v) => useView.setState({ colouring: v as ViewState['colouring'], locked: null })}
        />
        , drawn{' '}
        <ChoiceWord
          name="Drawn"
          value={care}
          options={CARES}
          onChange={(v) => useView.setState({ care: v as ViewState['care'] })}
        />
        .
      </Line>
      {range && (
        <Legend>
          {field(0)}
          <i />
          {field(1)}{' '}
          <Plain
            aria-pressed={locked !== null}
            onPress={() => useView.setState({ locked: locked ? null : range })}
          >
            {locked ? 'Follow the frame' : 'Lock this range'}
          </Plain>
        </Legend>
      )}
      {blind && <Quiet>This bake keeps no air to show. Bake it again.</Quiet>}
    </>
  );
}

/** What arrows of the wish reach, told; null where there are none. */
function arrowsTold(arrows: string | null, seen: Seen | null): string | null {
  if (!arrows || !(seen?.arrows || seen?.lines)) return null;
  const pushed = seen.arrows?.pushes[arrows];
  const most = pushed ? strongest(pushed) : (seen.lines?.speeds.reduce((m, v) => Math.max(m, v), 0) ?? 0);
  const unit = arrows === 'air' || arrows === 'lines' ? 'm/s' : 'm/s²';
  return most > 0 ? `up to ${value(most, unit)}` : 'nothing moves at this frame';
}

function Arrows({ recipe }: { recipe: Recipe }): ReactNode {
  const { arrows } = useWish();
  const { seen, error } = useSeen();
  const forces = ['all', ...forcesOf(recipe)].map((name) => ({
    value: name,
    label: forceTitle(recipe, name),
  }));
  const told = arrowsTold(arrows, seen);
  return (
    <>
      <Line as="div">
        Arrows of{' '}
        <ChoiceWord
          name="Arrows of"
          value={arrows ?? ''}
          options={[NONE, ...AIR, ...forces]}
          onChange={(v) => useWish.setState({ arrows: v || null })}
        />
        {told && `, ${told}`}.
      </Line>
      {error && <Trouble>{error}</Trouble>}
    </>
  );
}

const AIR = [
  { value: 'air', label: 'the air itself' },
  { value: 'lines', label: 'the air, as streamlines' },
];

function Slice({ recipe }: { recipe: Recipe }): ReactNode {
  const wish = useWish();
  const { seen, error } = useSeen();
  const channels = (Object.keys(SHOWN) as Shown[]).map((name) => ({ value: `=${name}`, label: name }));
  const forces = ['all', ...forcesOf(recipe)].map((name) => ({
    value: name,
    label: forceTitle(recipe, name),
  }));
  return (
    <>
      <Line as="div">
        Slice of{' '}
        <ChoiceWord
          name="Slice of"
          value={wish.slice ?? ''}
          options={[NONE, ...channels, ...(recipe.obstacles.some((o) => o.on) ? [DISTANCE] : []), ...forces]}
          onChange={(v) => useWish.setState({ slice: v || null })}
        />
        {wish.slice && (
          <>
            ,{' '}
            <ChoiceWord
              name="Slice, how it lies"
              value={String(wish.axis)}
              options={AXES}
              onChange={(v) => useWish.setState({ axis: Number(v) as 0 | 1 | 2 })}
            />{' '}
            <input
              type="range"
              aria-label="Slice, where it lies"
              min={0.02}
              max={0.98}
              step={0.02}
              value={wish.at}
              onChange={(e) => useWish.setState({ at: Number(e.target.value) })}
            />
          </>
        )}
      </Line>
      {wish.slice && <SliceLegend seen={seen} />}
      {error && <Trouble>{error}</Trouble>}
    </>
  );
}

function SliceLegend({ seen }: { seen: Seen | null }): ReactNode {
  if (!seen?.slice) return null;
  const [least, most] = spanOf(seen.slice.values);
  return (
    <Legend>
      {value(least, seen.slice.unit)}
      <i />
      {value(most, seen.slice.unit)}
    </Legend>
  );
}

function Veil({ recipe }: { recipe: Recipe }): ReactNode {
  const { veil } = useWish();
  const { seen } = useSeen();
  const regions = recipe.regions.filter((r) => r.on).map((r) => ({ value: r.id, label: r.name }));
  return (
    <Line as="div">
      Veil of{' '}
      <ChoiceWord
        name="Veil of"
        value={veil ?? ''}
        options={[NONE, ...regions]}
        onChange={(v) => useWish.setState({ veil: v || null })}
      />
      .{veil && seen && seen.veil === null && ' Nothing is limited to it or changed in it yet.'}
    </Line>
  );
}

/** @param shown the frame, for the range of what the medium's colour tells */
export function useSeeingItems(recipe: Recipe, shown: ShownBrick | null): RailItem[] {
  const { arrows, slice, veil } = useWish();
  const isColoured = useView((s) => s.colouring !== 'light');
  return [
    {
      key: 'medium',
      label: 'The medium',
      icon: <Cloud size={16} />,
      isOn: isColoured,
      panel: <Colouring shown={shown} />,
    },
    {
      key: 'arrows',
      label: 'What moves the air',
      icon: <MoveUpRight size={16} />,
      isOn: arrows !== null,
      panel: <Arrows recipe={recipe} />,
    },
    {
      key: 'slice',
      label: 'A slice',
      icon: <Layers2 size={16} />,
      isOn: slice !== null,
      panel: <Slice recipe={recipe} />,
    },
    ...(recipe.regions.some((r) => r.on)
      ? [
          {
            key: 'veil',
            label: 'Regions',
            icon: <SquareDashed size={16} />,
            isOn: veil !== null,
            panel: <Veil recipe={recipe} />,
          },
        ]
      : []),
  ];
}

const Told = styled.p`
  position: absolute;
  left: 12px;
  bottom: 8px;
  margin: 0;
  display: flex;
  gap: 14px;
  color: #f2f0f1;
  text-shadow: 0 1px 2px #000a;
  pointer-events: none;
`;

/** What the colours and arrows in the scene mean, while there are any. */
export function SeenTold({ recipe, shown }: { recipe: Recipe; shown: ShownBrick | null }): ReactNode {
  const { arrows, slice } = useWish();
  const { seen } = useSeen();
  const { colouring, locked } = useView();
  const reach = arrowsTold(arrows, seen);
  const range = colouring !== 'light' && shown ? (locked ?? rangeOf(shown, colouring)) : null;
  const nameOf = (wish: string): string =>
    wish.startsWith('=') ? wish.slice(1) : forceTitle(recipe, wish).toLowerCase();
  const air = AIR.find((a) => a.value === arrows)?.label;
  return (
    <Told>
      {range && colouring !== 'light' && (
        <Legend>
          {colouring} {value(range[0], SHOWN[colouring])}
          <i />
          {value(range[1], SHOWN[colouring])}
        </Legend>
      )}
      {slice && seen?.slice && (
        <Legend style={{ display: 'flex', alignItems: 'center', gap: 6 }}>
          {nameOf(slice)} <SliceLegend seen={seen} />
        </Legend>
      )}
      {arrows && reach && (
        <Legend>
          {air ?? nameOf(arrows)} {reach}
        </Legend>
      )}
    </Told>
  );
}

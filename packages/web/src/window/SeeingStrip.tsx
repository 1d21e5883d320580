// The strip under the window's head: which of the air's movers are drawn into the scene, and what their
// colours mean.
import { memo, type ReactNode } from 'react';
import styled from 'styled-components';
import { overScene } from './over-scene';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { SHOWN, type Shown } from '@bramblemist/core/analysis/flow';
import { ChoiceWord } from '../parts/controls';
import { NumberControl } from '../parts/NumberControl';
import { Plain, Trouble } from '../parts/ui';
import { useView, type ViewState } from '../data/view';
import { number } from '@bramblemist/core/recipe/settings';
import type { ShownBrick } from '../live/use-live';
import { rangeOf } from '../viewport/range';
import { forcesOf, forceTitle } from '../seeing/names';
import { RAMP_CSS, spanOf } from '../seeing/ramp';
import { useSeen, useWish } from '../seeing/use-seeing';
import { strongest } from '../viewport/probe';

const Strip = styled.div`
  ${overScene}
  top: 34px;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: baseline;
  input {
    vertical-align: middle;
    width: 90px;
    accent-color: ${({ theme }) => theme.thorn};
  }
`;
const Legend = styled.span`
  font-size: 12px;
  i {
    display: inline-block;
    width: 70px;
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
    <span>
      the medium{' '}
      <ChoiceWord
        name="Medium coloured"
        value={colouring}
        options={COLOURINGS}
        onChange={(v) => useView.setState({ colouring: v as ViewState['colouring'], locked: null })}
      />
      {range && (
        <Legend>
          {' '}
          {field(0)}
          <i />
          {field(1)}{' '}
          <Plain
            aria-pressed={locked !== null}
            onPress={() => useView.setState({ locked: locked ? null : range })}
          >
            {locked ? 'locked' : 'of this frame'}
          </Plain>
        </Legend>
      )}
      {blind && <Legend> this bake keeps no air to show; bake it again</Legend>}
      {', drawn '}
      <ChoiceWord
        name="Drawn"
        value={care}
        options={CARES}
        onChange={(v) => useView.setState({ care: v as ViewState['care'] })}
      />
    </span>
  );
}

export const SeeingStrip = memo(function SeeingStrip({
  recipe,
  shown,
}: {
  recipe: Recipe;
  shown: ShownBrick | null;
}): ReactNode {
  const wish = useWish();
  const { seen, error } = useSeen();
  const air = [
    { value: 'air', label: 'the air itself' },
    { value: 'lines', label: 'the air, as streamlines' },
  ];
  const channels = (Object.keys(SHOWN) as Shown[]).map((name) => ({ value: `=${name}`, label: name }));
  const forces = ['all', ...forcesOf(recipe)].map((name) => ({
    value: name,
    label: forceTitle(recipe, name),
  }));
  const regions = recipe.regions.filter((r) => r.on).map((r) => ({ value: r.id, label: r.name }));
  const pushed = seen?.arrows && wish.arrows ? seen.arrows.pushes[wish.arrows] : undefined;
  const most = pushed ? strongest(pushed) : (seen?.lines?.speeds.reduce((m, v) => Math.max(m, v), 0) ?? 0);
  const unit = wish.arrows === 'air' || wish.arrows === 'lines' ? 'm/s' : 'm/s²';
  const range = seen?.slice ? spanOf(seen.slice.values) : null;
  return (
    <Strip role="group" aria-label="What is seen">
      <Colouring shown={shown} />
      <span>
        arrows of{' '}
        <ChoiceWord
          name="Arrows of"
          value={wish.arrows ?? ''}
          options={[NONE, ...air, ...forces]}
          onChange={(v) => useWish.setState({ arrows: v || null })}
        />
        {wish.arrows && (seen?.arrows || seen?.lines) && (
          <Legend> {most > 0 ? `up to ${value(most, unit)}` : 'nothing moves at this frame'}</Legend>
        )}
      </span>
      {regions.length > 0 && (
        <span>
          veil of{' '}
          <ChoiceWord
            name="Veil of"
            value={wish.veil ?? ''}
            options={[NONE, ...regions]}
            onChange={(v) => useWish.setState({ veil: v || null })}
          />
          {wish.veil && seen && seen.veil === null && (
            <Legend> nothing is limited to it or changed in it yet</Legend>
          )}
        </span>
      )}
      <span>
        slice of{' '}
        <ChoiceWord
          name="Slice of"
          value={wish.slice ?? ''}
          options={[NONE, ...channels, ...(recipe.obstacles.some((o) => o.on) ? [DISTANCE] : []), ...forces]}
          onChange={(v) => useWish.setState({ slice: v || null })}
        />
        {wish.slice && (
          <>
            {' '}
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
            {range && (
              <Legend>
                {value(range[0], seen!.slice!.unit)}
                <i />
                {value(range[1], seen!.slice!.unit)}
              </Legend>
            )}
          </>
        )}
      </span>
      {error && <Trouble>{error}</Trouble>}
    </Strip>
  );
});

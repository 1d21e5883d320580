// The foot of the window: what the live run takes, changes while it ran, and the words of the handle.
import { memo, type ReactNode } from 'react';
import styled from 'styled-components';
import { overScene } from './over-scene';
import { useShallow } from 'zustand/react/shallow';
import { solid, cellShape } from '@bramblemist/core/geometry/shape';
import { poseOf } from '@bramblemist/core/geometry/pose';
import type { Size } from '@bramblemist/core/recipe/sizes';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';
import { formatValue } from '@bramblemist/core/recipe/units';
import { withMoreSubsteps } from '@bramblemist/core/record/incident';
import { playAgain, type Source } from '../app/there';
import { change, changeRecipe, useBench } from '../data/bench';
import { usePlayhead } from '../data/playhead';
import { useSelection } from '../data/selection';
import { BUDGETS, chooseBudget, framesBudget } from '../live/budget';
import { chooseThreads, mostThreads, useLive } from '../live/use-live';
import { ChoiceWord } from '../parts/controls';
import { bytes, Plain, Trouble } from '../parts/ui';
import { chosenPart, ROOM, useHandle, type Chosen } from '../viewport/chosen';

/** A line over the scene. */
export const Over = styled.div`
  ${overScene}
  justify-content: space-between;
  gap: 12px;
`;

/** Sets a part down on the floor of the room, by how far it reaches below its middle. */
function onGround({ list, index, part: { on }, name }: Chosen): void {
  const recipe = useBench.getState().documents!.recipe;
  if (list === ROOM || !on) return;
  const part = list === 'regions' ? solid(recipe.regions[index]) : recipe[list][index];
  const shape = cellShape(part, poseOf(part, 0), 1, null);
  const low = shape.reach
    ? Math.min(...corners(shape.reach).map((c) => c.reduce((y, v, m) => y + v * shape.toOwn[m][1], 0)))
    : 0;
  change(
    `${name} to the ground`,
    'recipe',
    `${list}.${index}.centre.1`,
    Number((recipe.space.corner[1] - low).toFixed(4)),
  );
}

function corners([least, most]: readonly [Triple, Triple]): Triple[] {
  return Array.from(
    { length: 8 },
    (_, n) => [0, 1, 2].map((a) => ((n >> a) & 1 ? most : least)[a]) as Triple,
  );
}

export const Foot = memo(function Foot({
  recipe,
  source,
  size,
  handles,
}: {
  recipe: Recipe;
  source: Source;
  size: Size;
  handles: boolean;
}): ReactNode {
  const grip = useHandle();
  const selected = useSelection((s) => s.id);
  const chosen = handles ? chosenPart(recipe, selected) : null;
  const live = useLive(
    useShallow(
      ({
        status,
        wentWrong,
        message,
        stumbled,
        voxels,
        bytes,
        keptBytes,
        framesBytes,
        threads,
        changedFrom,
      }) => ({
        status,
        wentWrong,
        message,
        stumbled,
        voxels,
        bytes,
        keptBytes,
        framesBytes,
        threads,
        changedFrom,
      }),
    ),
  );
  const changed = usePlayhead((s) => live.changedFrom !== null && s.frame < live.changedFrom);
  return (
    <Over style={{ bottom: 10, flexWrap: 'wrap', rowGap: 4 }}>
      <span>
        {source === 'live' && live.changedFrom !== null && (
          <span aria-live="polite" style={{ display: 'block' }}>
            {changed
              ? `This frame is from before the change at ${live.changedFrom}`
              : `Changed while it ran, from frame ${live.changedFrom}`}{' '}
            ·{' '}
            <Plain style={{ textDecoration: 'underline' }} onPress={() => playAgain(recipe, size)}>
              play it from the start
            </Plain>
          </span>
        )}
        {source === 'live' && live.voxels > 0 && (
          <>
            {(live.voxels / 1e6).toFixed(2)} million voxels · {bytes(live.bytes)}, states{' '}
            {bytes(live.keptBytes)}, frames {bytes(live.framesBytes)} of at most{' '}
            <ChoiceWord
              name="Memory for frames"
              value={String(framesBudget() / 1e6)}
              options={BUDGETS.map((mb) => ({ value: String(mb), label: bytes(mb * 1e6) }))}
              onChange={(v) => {
                chooseBudget(Number(v));
                playAgain(recipe, size);
              }}
            />{' '}
            ·{' '}
            <ChoiceWord
              name="Threads"
              value={String(live.threads)}
              options={Array.from({ length: mostThreads() }, (_, n) => ({
                value: String(n + 1),
                label: n === 0 ? '1 thread' : `${n + 1} threads`,
              }))}
              onChange={(v) => {
                chooseThreads(Number(v));
                playAgain(recipe, size);
              }}
            />
          </>
        )}
      </span>
      <span
        style={{
          display: 'flex',
          flexWrap: 'wrap',
          justifyContent: 'flex-end',
          gap: '4px 14px',
          marginLeft: 'auto',
          whiteSpace: 'nowrap',
        }}
      >
        {chosen && (
          <>
            <span role="group" aria-label={`Handle of ${chosen.name}`} style={{ display: 'flex', gap: 8 }}>
              {chosen.name}:
              {chosen.modes.map((mode) => {
                const own = (chosen.modes.includes(grip.mode) ? grip.mode : 'move') === mode;
                return (
                  <Plain
                    key={mode}
                    aria-pressed={own}
                    style={own ? { textDecoration: 'underline', textUnderlineOffset: 3 } : {}}
                    onPress={() => useHandle.setState({ mode })}
                  >
                    {mode}
                  </Plain>
                );
              })}
            </span>
            {chosen.modes.includes('paint') && grip.mode === 'paint' && (
              <span
                role="group"
                aria-label="Brush"
                title="Hold Shift to wipe away"
                style={{ display: 'flex', gap: 8 }}
              >
                brush {formatValue(grip.brushM, 'm')}
                <Plain
                  aria-label="Smaller brush"
                  onPress={() =>
                    useHandle.setState({
                      brushM: Math.max(0.005, Number((grip.brushM / 1.4).toPrecision(2))),
                    })
                  }
                >
                  −
                </Plain>
                <Plain
                  aria-label="Larger brush"
                  onPress={() =>
                    useHandle.setState({ brushM: Math.min(10, Number((grip.brushM * 1.4).toPrecision(2))) })
                  }
                >
                  +
                </Plain>
              </span>
            )}
            <Plain onPress={() => useHandle.setState({ snap: !grip.snap })}>
              {grip.snap ? 'by steps' : 'freely'}
            </Plain>
            {chosen.list !== ROOM && <Plain onPress={() => onGround(chosen)}>to the ground</Plain>}
          </>
        )}
      </span>
      {live.status === 'trouble' && source === 'live' && (
        <Trouble>
          {live.message}{' '}
          <Plain style={{ textDecoration: 'underline' }} onPress={() => playAgain(recipe, size)}>
            play it again
          </Plain>
          {live.wentWrong && (
            <>
              {' '}
              ·{' '}
              <Plain
                style={{ textDecoration: 'underline' }}
                onPress={() => changeRecipe('more substeps', withMoreSubsteps(recipe))}
              >
                go on with more substeps
              </Plain>
            </>
          )}
        </Trouble>
      )}
      {live.stumbled && source === 'live' && (
        <span role="status">The run began anew by itself: its worker had failed ({live.stumbled}).</span>
      )}
      {recipe.sources.every((s) => !s.on) && source === 'live' && (
        <span>Nothing gives off the medium: add a source, or turn one on.</span>
      )}
    </Over>
  );
});

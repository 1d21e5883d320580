// The foot of the window: what plays at which size, changes while it ran, the handle of what is chosen, and,
// where one asks for it, what the live run takes.
import { Gauge, Minus, Plus } from 'lucide-react';
import { memo, type ReactNode } from 'react';
import { Button, Dialog, DialogTrigger, Popover } from 'react-aria-components';
import styled from 'styled-components';
import { useShallow } from 'zustand/react/shallow';
import { overScene } from './over-scene';
import { solid, cellShape } from '@bramblemist/core/geometry/shape';
import { poseOf } from '@bramblemist/core/geometry/pose';
import { voxelSizeAt, type Size } from '@bramblemist/core/recipe/sizes';
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
import { SizeWord } from '../parts/SizeWord';
import { bytes, Plain, plainStyle, Trouble, unfolded } from '../parts/ui';
import { chosenPart, DOMAIN, useHandle, type Chosen } from '../viewport/chosen';

/** A line over the scene. */
export const Over = styled.div`
  ${overScene}
  justify-content: space-between;
  gap: 12px;
`;

/** Sets a part down on the floor of the domain, by how far it reaches below its middle. */
function onGround({ list, index, part: { on }, name }: Chosen): void {
  const recipe = useBench.getState().documents!.recipe;
  if (list === DOMAIN || !on) return;
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

/** The lower edge of a window. */
export const FootBar = styled.footer`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 14px;
  min-height: 32px;
  padding: 2px 12px;
  background: ${({ theme }) => theme.panel};
  border-top: 1px solid ${({ theme }) => theme.line};
  font-variant-numeric: tabular-nums;
`;
const Together = styled.span`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
`;
const Taken = styled(Popover)`
  ${unfolded}
  padding: 10px 14px;
  dl {
    display: grid;
    grid-template-columns: auto auto;
    gap: 4px 18px;
    margin: 0;
  }
  dt {
    color: ${({ theme }) => theme.quiet};
  }
  dd {
    margin: 0;
    text-align: right;
  }
`;
const Alert = styled.div`
  ${overScene}
  left: 48px;
  bottom: 8px;
`;
const FootButton = styled(Button)`
  ${plainStyle}
`;

/** What a live run takes of this machine, and what may be given to it. */
function LiveCost({
  recipe,
  size,
  short,
}: {
  recipe: Recipe;
  size: Size;
  /** Where there is little space. */
  short: boolean;
}): ReactNode {
  const live = useLive(
    useShallow(({ voxels, bytes: state, keptBytes, framesBytes, threads }) => ({
      ...{ voxels, state, keptBytes, framesBytes, threads },
    })),
  );
  if (live.voxels === 0) return null;
  const voxels = `${(live.voxels / 1e6).toFixed(2)} M voxels`;
  return (
    <DialogTrigger>
      <FootButton aria-label={`What the live run takes: ${voxels}`}>
        <Gauge size={14} /> {!short && voxels}
      </FootButton>
      <Taken placement="top end">
        <Dialog aria-label="What the live run takes" style={{ outline: 'none' }}>
          <dl>
            <dt>memory of the run</dt>
            <dd>{bytes(live.state)}</dd>
            <dt>states to go back to</dt>
            <dd>{bytes(live.keptBytes)}</dd>
            <dt>frames</dt>
            <dd>
              {bytes(live.framesBytes)} of at most{' '}
              <ChoiceWord
                name="Memory for frames"
                value={String(framesBudget() / 1e6)}
                options={BUDGETS.map((mb) => ({ value: String(mb), label: bytes(mb * 1e6) }))}
                onChange={(v) => {
                  chooseBudget(Number(v));
                  playAgain(recipe, size);
                }}
              />
            </dd>
            <dt>runs on</dt>
            <dd>
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
            </dd>
          </dl>
        </Dialog>
      </Taken>
    </DialogTrigger>
  );
}

export const Foot = memo(function Foot({
  recipe,
  source,
  size,
  setSize,
  baked,
  handles,
}: {
  recipe: Recipe;
  source: Source;
  size: Size;
  setSize: (size: Size) => void;
  /** Which bake is shown; null for the live run. */
  baked: string | null;
  handles: boolean;
}): ReactNode {
  const selected = useSelection((s) => s.id);
  const chosen = handles ? chosenPart(recipe, selected) : null;
  const changedFrom = useLive((s) => s.changedFrom);
  const isBefore = usePlayhead((s) => changedFrom !== null && s.frame < changedFrom);
  return (
    <FootBar>
      <span>
        {baked ?? (
          <>
            Playing at <SizeWord name="Live size" value={size} onChange={setSize} /> size
            {!chosen && `, voxels of ${formatValue(voxelSizeAt(recipe, size), 'm')}`}
          </>
        )}
      </span>
      {source === 'live' && changedFrom !== null && (
        <Together aria-live="polite">
          {isBefore
            ? `This frame is from before the change at ${changedFrom}.`
            : `Changed while it ran, from frame ${changedFrom}.`}
          <Plain onPress={() => playAgain(recipe, size)}>Play it from the start</Plain>
        </Together>
      )}
      <span style={{ flex: 1 }} />
      {chosen && <HandleWords chosen={chosen} />}
      {source === 'live' && <LiveCost recipe={recipe} size={size} short={chosen !== null} />}
    </FootBar>
  );
});

/** What the handle of the chosen part does, and how. */
function HandleWords({ chosen }: { chosen: Chosen }): ReactNode {
  const grip = useHandle();
  const mode = chosen.modes.includes(grip.mode) ? grip.mode : 'move';
  const brush = (times: number): void =>
    useHandle.setState({
      brushM: Math.min(10, Math.max(0.005, Number((grip.brushM * times).toPrecision(2)))),
    });
  return (
    <Together>
      <Together role="group" aria-label={`Handle of ${chosen.name}`}>
        {chosen.modes.map((m) => (
          <Plain key={m} aria-pressed={m === mode} onPress={() => useHandle.setState({ mode: m })}>
            {m}
          </Plain>
        ))}
      </Together>
      {mode === 'paint' && (
        <Together role="group" aria-label="Brush">
          brush {formatValue(grip.brushM, 'm')}, Shift wipes away
          <Plain aria-label="Smaller brush" onPress={() => brush(1 / 1.4)}>
            <Minus size={13} />
          </Plain>
          <Plain aria-label="Larger brush" onPress={() => brush(1.4)}>
            <Plus size={13} />
          </Plain>
        </Together>
      )}
      <Plain aria-pressed={grip.snap} onPress={() => useHandle.setState({ snap: !grip.snap })}>
        by steps
      </Plain>
      {chosen.list !== DOMAIN && <Plain onPress={() => onGround(chosen)}>to the ground</Plain>}
    </Together>
  );
}

/** What hinders the live run, over the scene. */
export function LiveTrouble({ recipe, size }: { recipe: Recipe; size: Size }): ReactNode {
  const live = useLive(
    useShallow(({ status, wentWrong, message, stumbled }) => ({ status, wentWrong, message, stumbled })),
  );
  const isEmpty = recipe.sources.every((s) => !s.on);
  if (live.status !== 'trouble' && !live.stumbled && !isEmpty) return null;
  return (
    <Alert>
      {live.status === 'trouble' && (
        <Trouble>
          {live.message}
          <Together>
            <Plain onPress={() => playAgain(recipe, size)}>Play it again</Plain>
            {live.wentWrong && (
              <Plain onPress={() => changeRecipe('more substeps', withMoreSubsteps(recipe))}>
                Go on with more substeps
              </Plain>
            )}
          </Together>
        </Trouble>
      )}
      {live.stumbled && (
        <span role="status">The run began anew by itself: its worker had failed ({live.stumbled}).</span>
      )}
      {isEmpty && <span>Nothing gives off the medium: add a source, or turn one on.</span>}
    </Alert>
  );
}

// Finds trouble in the substep that makes it: values that are not finite, air that runs away, a pressure that
// was not found.
import { readSplit, type Field } from '../grid/memory';
import type { Triple } from '../math/vector';
import { takeSnapshot } from '../step/snapshot';
import { sites, SLAB } from '../grid/sweep';
import { SolverError } from '../record/solver-error';
import { type SimulationState, momentOf, raiseIncident } from '../step/state';
import { moreSubsteps } from '../record/incident';

/** No scene of an artist moves air faster than sound, and the method does not hold for it. */
const FASTEST = 340;
/** Part of the divergence that may be left where the solver gave up, before the run is stopped. */
const WORST_LEFT = 0.05;

/**
 * @throws SolverError with frame, substep, place and likely cause; the fields then hold the substep that went
 * wrong
 */
export function checkSubstep(state: SimulationState, capped: boolean): void {
  const { plan, layout, solve, window } = state;
  const named: [string, Field, number][] = [
    // the projection has looked at the air already: only where that is not finite it is searched for the
    // place
    ...(state.velocityIsFinite
      ? []
      : layout.velocity.map((f, axis): [string, Field, number] => [
          `velocity along ${'xyz'[axis]}`,
          f,
          axis,
        ])),
    ...plan.channels.map((c, n): [string, Field, number] => [c.name, layout.channels[n], 3]),
  ];
  for (const [name, field, axis] of named) {
    const placeM = firstBad(state, field, axis);
    if (placeM)
      throw new SolverError(
        { ...momentOf(state), placeM },
        `The ${name} is no longer a finite number.`,
        'Raise the least substeps or lower the strongest force.',
      );
  }

  const speed = Math.max(...state.topSpeeds);
  const crossed = (speed * state.dtS) / window.voxelSizeM;
  if (speed > FASTEST)
    throw new SolverError(
      { ...momentOf(state), placeM: fastestPlace(state) },
      `The air runs away: ${speed.toFixed(0)} m/s, faster than sound.`,
      'Lower the strongest force or the expansion, raise the most substeps, or check the scale of the scene.',
    );
  if (capped && crossed > plan.recipe.space.cfl) {
    raiseIncident(state, {
      kind: 'capped',
      what:
        `The fastest air crosses ${crossed.toFixed(1)} voxels in a substep, more than the CFL of ` +
        `${plan.recipe.space.cfl}.`,
      cure: 'Raise the most substeps.',
      fix: {
        label: 'more substeps',
        settings: [['space.substepsMost', Math.min(64, 2 * plan.recipe.space.substepsMost)]],
      },
    });
  }

  if (!solve.met) {
    if (solve.left > WORST_LEFT * solve.before)
      throw new SolverError(
        { ...momentOf(state), placeM: worstPlace(state) },
        `The pressure was not found: ${((100 * solve.left) / solve.before).toFixed(0)} % of the ` +
          `divergence is left after ${solve.iterations} iterations.`,
        'An obstacle may press air into a closed pocket: give it a way out, or raise the least substeps.',
      );
    raiseIncident(state, {
      kind: 'unmet',
      what:
        `The pressure stopped short of its tolerance, ${(solve.left / solve.before).toExponential(1)} of ` +
        'the divergence is left.',
      cure: 'Raise the least substeps.',
      fix: { label: 'more substeps', settings: moreSubsteps(plan.recipe) },
    });
  }
}

/** Where of a lattice a tight array is greatest in size, in metres. */
function placeOfGreatest(
  state: SimulationState,
  values: Float32Array,
  axis: number,
): { size: number; placeM: Triple } {
  const { window } = state;
  const [mx, my] = sites(window.lattice, axis);
  let at = 0;
  for (let n = 1; n < values.length; n++) if (Math.abs(values[n]) > Math.abs(values[at])) at = n;
  const cell = [at % mx, Math.floor(at / mx) % my, Math.floor(at / mx / my)];
  return {
    size: Math.abs(values[at]),
    placeM: cell.map((c, a) => (c + (a === axis ? 0 : 0.5) + window.origin[a]) * window.voxelSizeM) as Triple,
  };
}

function fastestPlace(state: SimulationState): Triple {
  const places = takeSnapshot(state).velocity.map((values, axis) => placeOfGreatest(state, values, axis));
  return places.reduce((a, b) => (b.size > a.size ? b : a)).placeM;
}

function worstPlace(state: SimulationState): Triple {
  const { r, lattice } = state.layout.levels[0];
  return placeOfGreatest(state, readSplit(state.threadPool.memory, { address: r, lattice }), 3).placeM;
}

/** Where a field is first not finite, in metres; null where it is everywhere. */
function firstBad(state: SimulationState, field: Field, axis: number): Triple | null {
  const { threadPool, layout, window } = state;
  const l = field.lattice;
  const [mx, my, mz] = sites(l, axis);
  threadPool.run('findNonFinite', mz, SLAB, {
    f: field.address,
    mx,
    my,
    rowStride: l.rowStride,
    planeStride: l.planeStride,
    partials: layout.partials,
  });
  const parts = new Float64Array(threadPool.memory.buffer, layout.partials, mz * 8);
  for (let k = 0; k < mz; k++) {
    const at = parts[k * 8];
    if (at < 0) continue;
    return [at % mx, Math.floor(at / mx), k].map(
      (c, a) => (c + (a === axis ? 0 : 0.5) + window.origin[a]) * window.voxelSizeM,
    ) as Triple;
  }

  return null;
}

// How far each voxel lies in each region: once for those that stay, at every substep for the others.
import { keptForFormulas } from '../recipe/kept';
import { placeShape } from './place-shape';
import { Join, RegionStruct } from '@bramblemist/kernels/seam';
import { cellShape, solid } from '../geometry/shape';
import { putFloats } from '../grid/memory';
import { SLAB, named, extent } from '../grid/sweep';
import { tableOf } from '../recipe/profile';
import type { RegionPart } from '../recipe/types';
import { runFormula } from './run-formula';
import { programOf } from '../plan/programs';
import { textOfRegion } from '../plan/plan-regions';
import type { PlannedRegion } from '../plan/plan';
import { poseAt } from '../plan/placement';
import type { SimulationState } from './state';

const JOINS = {
  alone: Join.ALONE,
  both: Join.BOTH,
  either: Join.EITHER,
  without: Join.WITHOUT,
} as const;

/**
 * Fills the weights of the plan's regions; those that stay as they are only where memory was laid out anew.
 */
export function regions(state: SimulationState): void {
  const { plan, layout } = state;
  const anew = state.weightedLayout !== layout;
  plan.regions.forEach((planned, n) => {
    if (anew || planned.varies) weighRegion(state, planned, n);
  });
  state.weightedLayout = layout;
}

function weighRegion(state: SimulationState, planned: PlannedRegion, n: number): void {
  const { plan, threadPool, layout, window } = state;
  const l = window.lattice;
  const atS = state.timeS + state.dtS / 2;
  const part = plan.at(atS).regions[planned.index];
  const out = layout.regions[n].address;
  const cells = [l.nx, l.ny, l.rowStride, l.planeStride];
  const text = textOfRegion(part);
  putFloats(threadPool.memory, layout.profile, tableOf(part.edge));
  if (text !== null) {
    runFormula(state, programOf(text, null, keptForFormulas(plan.recipe)), 0, out);
    threadPool.run('weightByValue', l.nz, SLAB, {
      f: out,
      table: layout.profile,
      low: part.low,
      high: part.high,
      ...named(['nx', 'ny', 'rowStride', 'planeStride'], cells),
    });
  } else {
    weighShape(state, planned, part, n, atS);
  }

  const joins = planned.other < 0 ? 'alone' : part.joins;
  if (part.facing === 'outside' || joins !== 'alone')
    threadPool.run('combineWeights', l.nz, SLAB, {
      out,
      other: planned.other < 0 ? 0 : layout.regions[planned.other].address,
      inverted: Number(part.facing === 'outside'),
      how: JOINS[joins],
      ...named(['nx', 'ny', 'rowStride', 'planeStride'], cells),
    });
}

function weighShape(
  state: SimulationState,
  planned: PlannedRegion,
  part: RegionPart,
  n: number,
  atS: number,
): void {
  const { plan, threadPool, layout, window } = state;
  const l = window.lattice;
  const h = window.voxelSizeM;
  const pose = poseAt(plan, 'regions', planned, atS, 0);
  const grid = planned.mesh?.at(atS).grid ?? null;
  if (grid) putFloats(threadPool.memory, layout.regionGrids[n], grid.distances);
  RegionStruct.write(threadPool.memory, layout.emission, {
    ...placeShape(state, cellShape(solid(part), pose, h, grid), layout.regionGrids[n]),
    out: layout.regions[n].address,
    table: layout.profile,
    soft: part.soft / h,
  });
  threadPool.run('weightByShape', l.nz, SLAB, { block: layout.emission, ...extent(l) });
}

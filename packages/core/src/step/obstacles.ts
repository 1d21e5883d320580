// Stage 1: obstacles move to where they are at the substep's end; the faces they cut and the air they drive
// out follow.
import { moveObstacles } from './cut-cells';
import { SLAB } from '../grid/sweep';
import type { SimulationState } from './state';

export function obstacles(state: SimulationState): void {
  const { layout, threadPool } = state;
  const { outflow } = layout;
  if (!outflow) return;
  const { nx, ny, nz, rowStride, planeStride } = outflow.lattice;
  threadPool.run('fill', nz, SLAB, { f: outflow.address, ny, rowStride, planeStride, nx, value: 0 });
  moveObstacles(state, state.timeS + state.dtS);
}

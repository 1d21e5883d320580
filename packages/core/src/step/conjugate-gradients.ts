// A pressure by conjugate gradients, preconditioned by a multigrid V-cycle (McAdams, Sifakis, Teran 2010).
import { LevelStruct, type KernelArguments } from '@bramblemist/kernels/seam';
import { share } from '../grid/sweep';
import { runsOnThreads, type Level } from '../plan/levels';
import { reduce, type SimulationState } from './state';

const COARSEST_SWEEPS = 16;

/** A pressure and what it is searched with; fields split by the parity of x. */
export interface PressureGrid {
  readonly levels: readonly Level[];
  readonly pressure: number;
  readonly direction: number;
}

/**
 * Goes on from the pressure that is there, whose residual lies in the finest level's `r`.
 * @param left the greatest residual
 * @param even called after each iteration; where it has changed the residual it says the greatest of it
 * @returns `left` is not a number where the search ran away
 */
export function conjugateGradients(
  state: SimulationState,
  grid: PressureGrid,
  left: number,
  tolerance: number,
  most: number,
  even: () => number | null = () => null,
): { iterations: number; left: number } {
  const { threadPool, layout } = state;
  const { partials } = layout;
  const [fine] = grid.levels;
  const { nz } = fine.lattice;
  const slab = share(nz, threadPool);
  let { direction } = grid;
  let correction = fine.e;
  let iterations = 0;
  let rho = 0;
  const point = (e: number): void => LevelStruct.set(threadPool.memory, fine.block, 'e', e);
  for (; left > tolerance && iterations < most; iterations++) {
    vCycle(state, grid.levels);
    const last = rho;
    rho = reduce(state, nz, 0, 'sum');
    if (!Number.isFinite(rho)) {
      left = NaN;
      break;
    }

    if (rho === 0) break;
    if (iterations === 0) {
      [correction, direction] = [direction, correction]; // the first direction is the correction itself
      point(correction);
    }

    threadPool.run('updateDirection', nz, slab, {
      level: fine.block,
      s: direction,
      beta: iterations === 0 ? 0 : rho / last,
      partials,
      slab,
    });
    threadPool.run('directionEnergyEdges', nz, slab, { level: fine.block, s: direction, partials, slab });
    const curvature = reduce(state, nz, 0, 'sum');
    if (!(curvature > 0)) break;
    threadPool.run('updateSolution', nz, slab, {
      level: fine.block,
      p: grid.pressure,
      s: direction,
      alpha: rho / curvature,
      partials,
      slab,
    });
    left = even() ?? reduce(state, nz, 0, 'max');
  }

  point(fine.e);
  return { iterations, left };
}

/** e = M⁻¹ r on the finest level, M symmetric; leaves Σ e r in the partials. */
function vCycle({ layout, threadPool }: SimulationState, levels: readonly Level[]): void {
  const { partials } = layout;
  const last = levels.length - 1;
  const pass = <K extends 'multigridDown' | 'multigridUp'>(
    kernel: K,
    { lattice }: Level,
    args: Omit<KernelArguments[K], 'slab' | 'k0' | 'k1'>,
  ): void => {
    const { nz } = lattice;
    const slab = runsOnThreads(lattice) ? share(nz, threadPool) : nz + 1;
    const all = { ...args, slab, k0: 0, k1: nz } as KernelArguments[K];
    if (runsOnThreads(lattice)) threadPool.run(kernel, nz, slab, all);
    else threadPool.solo(kernel, all);
  };

  const pair = (d: number): { level: number; below: number } => ({
    level: levels[d].block,
    below: levels[d + 1].block,
  });

  for (let d = 0; d < last; d++) pass('multigridDown', levels[d], pair(d));
  threadPool.solo('relaxCoarsest', { level: levels[last].block, sweeps: COARSEST_SWEEPS });
  for (let d = last - 1; d >= 0; d--) pass('multigridUp', levels[d], { ...pair(d), partials });
}

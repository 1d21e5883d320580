// A recipe from its first frame to its last, one frame at a time: the shortest way to run one.
import type { Assets } from '../assets/assets';
import type { ThreadPool } from '../grid/thread-pool';
import { compile } from '../plan/compile';
import type { Recipe } from '../recipe/types';
import { Simulation, type Checkpoint, type FrameReport } from './simulation';

export interface SimulateOptions {
  /** What the recipe's files hold, where it has any. */
  readonly assets?: Assets;
  /** Workers in all, the calling one included; the bits are the same with any number. */
  readonly threads?: number;
  /** Instead of the recipe's voxel size, m. */
  readonly voxelSizeM?: number;
  /** Instead of the recipe's last frame. */
  readonly last?: number;
  /** Where to go on, instead of the start. */
  readonly from?: Checkpoint;
}

/** How a door starts workers: those of io/node are threads, those of io/browser web workers. */
export type StartThreadPool = (pages: number, threads: number) => ThreadPool;

export interface SimulatedFrame extends FrameReport {
  /** The run as it stands at the end of the frame; read from it before the next one is asked for. */
  readonly simulation: Simulation;
}

/**
 * Runs as it is asked for frames. Its memory and workers are let go at the end, or when it is left.
 * @throws CoreError where a file is missing or memory is short; SolverError where the run goes wrong
 */
export function* simulateWith(
  startThreadPool: StartThreadPool,
  recipe: Recipe,
  { assets, threads = 1, voxelSizeM, last, from }: SimulateOptions = {},
): Generator<SimulatedFrame, void, void> {
  const { plan } = compile(recipe, { assets, voxelSizeM });
  const threadPool = startThreadPool(Simulation.pages(plan, threads), threads);
  try {
    const simulation = new Simulation(plan, threadPool, from);
    while (simulation.frame < (last ?? plan.frames.last)) yield { ...simulation.advanceFrame(), simulation };
  } finally {
    threadPool.close();
  }
}

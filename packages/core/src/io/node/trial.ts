// A small run to be looked at: frame after frame as small pictures, with nothing kept on disk.
import { takePreviewVolume } from '../../cache/take-preview';
import type { Assets } from '../../assets/assets';
import type { Look } from '../../look/look';
import { beforeSolids, limitsOf, seeBrick, type Sight } from '../../look/see';
import { obstacleHoldout } from '../../look/holdout';
import type { Opacity } from '../../analysis/measures';
import type { Recipe } from '../../recipe/types';
import { simulateWith } from '../../run/simulate';
import type { FrameReport } from '../../run/simulation';
import { startThreadPool } from './thread-pool';

export interface TrialOptions {
  readonly voxelSizeM: number;
  readonly last: number;
  /** Pixels across. */
  readonly width: number;
  readonly assets?: Assets;
  readonly threads?: number;
  /** Frames that are not pictured are only run. */
  readonly pictured?: (frame: number) => boolean;
  /** Whether obstacles are seen, and not only what they hide is not. */
  readonly solids?: boolean;
}
export interface TrialFrame {
  readonly report: FrameReport;
  /** Null where the frame was not to be pictured. */
  readonly sight: Sight | null;
}

/**
 * Runs as it is asked for frames; its memory is let go at the end, or when it is left. @throws SolverError
 */
export function* trialFrames(
  recipe: Recipe,
  look: Look,
  options: TrialOptions,
): Generator<TrialFrame, void, void> {
  const { voxelSizeM, last, width, assets, threads = 1, pictured = () => true, solids = false } = options;
  let limits: Float32Array | null | undefined;
  for (const frame of simulateWith(startThreadPool, recipe, { voxelSizeM, last, assets, threads })) {
    const { simulation } = frame;
    if (!pictured(frame.frame)) {
      yield { report: frame, sight: null };
      continue;
    }

    const { plan } = simulation;
    if (limits === undefined || plan.obstacles.some((o) => o.moves)) {
      const holdout = obstacleHoldout(plan, (frame.frame - recipe.space.firstFrame + 1) * plan.frameS);
      limits = holdout && limitsOf(look, width, holdout);
    }

    const sight = seeBrick(takePreviewVolume(simulation), look, width, limits);
    yield { report: frame, sight: solids && limits ? beforeSolids(sight, look, limits) : sight };
  }
}

export const opacityOf = ({ width, height, rgba }: Sight): Opacity => ({
  width,
  height,
  values: Float32Array.from({ length: width * height }, (_, n) => rgba[4 * n + 3]),
});

// A small run to be looked at: frame after frame as small pictures, with nothing kept on disk.
import { takeBrick } from '../../cache/take-preview';
import type { Assets } from '../../assets/assets';
import type { Look } from '../../look/look';
import { beforeSolids, limitsOf, seeBrick, type Sight } from '../../look/see';
import { obstacleHoldout } from '../../look/holdout';
import type { Opacity } from '../../analysis/measures';
import type { Recipe } from '../../recipe/types';
import { compile } from '../../plan/compile';
import { Simulation, type FrameReport } from '../../run/simulation';
import { startTeam } from './thread-pool';

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
 * Runs as it is asked for frames; its memory is let go at the end, or when it is left. @throws StepTrouble
 */
export function* trialFrames(
  recipe: Recipe,
  look: Look,
  options: TrialOptions,
): Generator<TrialFrame, void, void> {
  const { voxelSizeM, last, width, assets, threads = 1, pictured = () => true, solids = false } = options;
  const plan = compile(recipe, { voxelSizeM, assets });
  const team = startTeam(Simulation.pages(plan, threads), threads);
  try {
    const simulation = new Simulation(plan, team);
    const moves = plan.obstacles.some((o) => o.moves);
    let limits: Float32Array | null | undefined;
    while (simulation.frame < last) {
      const report = simulation.advanceFrame();
      if (!pictured(report.frame)) {
        yield { report, sight: null };
        continue;
      }

      if (moves || limits === undefined) {
        const holdout = obstacleHoldout(plan, (report.frame - recipe.space.firstFrame + 1) * plan.frameS);
        limits = holdout && limitsOf(look, width, holdout);
      }

      const sight = seeBrick(takeBrick(simulation), look, width, limits);
      yield { report, sight: solids && limits ? beforeSolids(sight, look, limits) : sight };
    }
  } finally {
    team.close();
  }
}

export const opacityOf = ({ width, height, rgba }: Sight): Opacity => ({
  width,
  height,
  values: Float32Array.from({ length: width * height }, (_, n) => rgba[4 * n + 3]),
});

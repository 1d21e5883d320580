// Runs that are drawn on one chart.
import type { Read } from '@bramblemist/core/record/reading-curves';

export interface ChartedRun {
  readonly name: string;
  readonly frames: readonly Read[];
  /** Simulated seconds from frame to frame. */
  readonly frameS: number;
}

/** Lines on one chart at the most: as many as the strokes that tell them apart. */
export const MOST_CHARTED = 4;

// The board: productions and their shots as cards.

/** How far a shot is. */
export type ShotStatus = 'work' | 'review' | 'approved';

export interface ShotCard {
  readonly id: number;
  readonly name: string;
  readonly note: string;
  readonly variants: number;
  readonly bakes: number;
  /** A picture to show on the board: of the newest comp, else of the newest bake, else the reference. */
  readonly picture: string | null;
  /** Some more of the same, in the order of frames, to be shown one after the other. */
  readonly loop: readonly string[];
  readonly status: ShotStatus;
  readonly assignee: string;
  /** A day as 2026-11-29; null without. */
  readonly due: string | null;
  /** What has been computed for it, s. */
  readonly computedS: number;
  readonly archived: boolean;
  readonly changedAt: string;
}

export interface ProductionCard {
  readonly id: number;
  readonly name: string;
  readonly note: string;
  readonly archived: boolean;
  /** In the order of the board, those that are archived among them. */
  readonly shots: readonly ShotCard[];
}

// The queue.

export type JobState = 'queued' | 'running' | 'paused' | 'done' | 'failed' | 'stopped';

export type JobKind =
  | 'bake'
  | 'render'
  | 'combine'
  | 'movie'
  | 'savings'
  | 'sheet'
  | 'tool'
  | 'refine'
  | 'bring'
  | 'particles'
  | 'verify';

export interface JobInfo {
  readonly id: number;
  readonly kind: JobKind;
  readonly state: JobState;
  /**
   * The bake, render, combine, movie, sheet of savings, sheet or particles that it makes, or the bake that it
   * looks over.
   */
  readonly targetId: number;
  readonly shotId: number;
  readonly shotName: string;
  readonly done: number;
  readonly total: number;
  /** Why it failed or paused by itself, in one line. */
  readonly message: string | null;
  /** Frames a second since it was started last; null before the first. */
  readonly rate: number | null;
  /** What its process holds, bytes; null where it does not run. */
  readonly memory: number | null;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}

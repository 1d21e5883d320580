// What a job that runs here consists of: its children, and for kinds whose frames do not need each other the
// frames that no child has yet. Frames are handed out in chunks, so that more than one slot can work on a job
// and a slot is soon free for another.
import type { ChildProcess } from 'node:child_process';
import type { Job } from '../models';

/** About how long a chunk takes: a child’s start hardly counts, and a job that goes first waits little. */
const CHUNK_S = 10;
/** Before it is known how long a frame takes. */
const FIRST_CHUNK = 2;
const MOST_IN_CHUNK = 64;

export type Lane = 'long' | 'waited';

/** A slot's share of a job, and its child. */
export interface Part {
  readonly lane: Lane;
  /** What it has to make; null where the job is one piece. */
  frames: readonly number[] | null;
  readonly made: Set<number>;
  readonly began: number;
  child: ChildProcess | null;
  /** Its slot is wanted by somebody who waits: what it does not finish is handed out again. */
  givenBack: boolean;
}

export class Work {
  readonly parts = new Set<Part>();
  /** How it ends when its last child has; the first trouble counts. */
  outcome: { state: 'failed' | 'paused'; message: string } | null = null;
  /** Ended from here before it was whole. */
  isInterrupted = false;
  /** Says that this server still works on it. */
  beat: NodeJS.Timeout | undefined;
  /** Frames that were there when it began, and when that was. */
  begun = { done: 0, at: Date.now() };
  private all: readonly number[] | null = null;
  private left: number[] = [];
  private frameS: number | null = null;

  constructor(readonly job: Job) {}

  /** @param frames all that the job is to have made in the end and those that are missing, in order */
  plan(frames: { all: number[]; missing: number[] }): void {
    this.all = frames.all;
    this.left = [...frames.missing];
  }

  /** How many frames it has in the end; null where it is one piece. */
  get total(): number | null {
    return this.all?.length ?? null;
  }

  /** Whether a further slot could work on it now. */
  get hasMore(): boolean {
    return this.outcome === null && this.left.length > 0;
  }

  /** Frames that are made. */
  get done(): number {
    const inWork = [...this.parts].reduce((n, p) => n + (p.frames?.length ?? 0) - p.made.size, 0);
    return (this.all?.length ?? 0) - this.left.length - inWork;
  }

  /** A part for a slot; what it has to make is said by `hand`. */
  open(lane: Lane): Part {
    const part: Part = {
      lane,
      frames: null,
      made: new Set(),
      began: Date.now(),
      child: null,
      givenBack: false,
    };
    this.parts.add(part);
    return part;
  }

  /** Gives a part the next frames, those that follow each other: a child is told the first and the last. */
  hand(part: Part): void {
    const { all, left } = this;
    if (!all) return;
    const wish = this.frameS === null ? FIRST_CHUNK : Math.round(CHUNK_S / this.frameS);
    const most = Math.min(Math.max(1, wish), MOST_IN_CHUNK, left.length);
    const from = all.indexOf(left[0]);
    let n = 0;
    while (n < most && left[n] === all[from + n]) n++;
    part.frames = left.splice(0, n);
  }

  /** A part has ended: what it has not made can be handed out again. @returns that */
  drop(part: Part): readonly number[] {
    this.parts.delete(part);
    const missing = part.frames?.filter((f) => !part.made.has(f)) ?? [];
    if (part.made.size > 0) this.frameS = (Date.now() - part.began) / 1000 / part.made.size;
    this.left = [...this.left, ...missing].sort((a, b) => a - b);
    return missing;
  }
}

// States of the live run, kept so that it can start again from the middle; thinned out where they take too
// much room.
import { arraysOf } from '@bramblemist/core/cache/checkpoint';
import type { Checkpoint } from '@bramblemist/core/run/simulation';

/** Frames from state to state at first. */
const EVERY = 4;

const bytesOf = ({ snapshot }: Checkpoint): number =>
  arraysOf(snapshot).reduce((n, a) => n + a.byteLength, 0);

export class States {
  private kept: Checkpoint[] = [];
  private every = EVERY;

  /** @param budget bytes that all of them may take */
  constructor(private readonly budget: number) {}

  /** Whether a state of this frame is to be kept. */
  wants(frame: number): boolean {
    return frame % this.every === 0;
  }

  add(state: Checkpoint): void {
    this.kept = [...this.kept.filter((s) => s.frame < state.frame), state];
    while (this.bytes > this.budget && this.kept.length > 2) {
      // every second one goes, but the newest
      this.every *= 2;
      this.kept = this.kept.filter((s, n) => s.frame % this.every === 0 || n === this.kept.length - 1);
    }
  }

  /** The latest state from which a frame can be made; those behind it are let go. */
  before(frame: number): Checkpoint | null {
    this.kept = this.kept.filter((s) => s.frame < frame);
    return this.kept[this.kept.length - 1] ?? null;
  }

  clear(): void {
    this.kept = [];
    this.every = EVERY;
  }

  get bytes(): number {
    return this.kept.reduce((n, s) => n + bytesOf(s), 0);
  }
}

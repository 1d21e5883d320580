// Comps, what feeds them, and movies.
import type { Combine } from '@bramblemist/core/combine/combine';
import type { JobInfo } from './jobs';

/** How a movie is wanted. */
export interface MovieWanted {
  /** MP4 for review; MOV with alpha, packed by ProRes 4444 or, without loss, by PNG. */
  readonly kind: 'review' | 'prores' | 'png';
  /** Whether shot, version and the frame’s number are burnt in, and what stands behind them. */
  readonly burn: boolean;
  readonly note: string;
}

export interface MovieInfo {
  readonly id: number;
  readonly renderId: number | null;
  readonly combineId: number | null;
  readonly settings: MovieWanted;
  readonly job: JobInfo | null;
  /** What it takes; null while it is not there. */
  readonly bytes: number | null;
  readonly createdAt: string;
}

export interface CombineInfo {
  readonly id: number;
  readonly settings: Combine;
  readonly output: CompWritten;
  readonly job: JobInfo | null;
  readonly frames: readonly number[];
  readonly createdAt: string;
}

/** How frames of a comp are written. */
export interface CompWritten {
  readonly exr: 'half' | 'float';
  readonly png: 8 | 16;
  readonly jpeg: boolean;
  /** Of the comp's frame: 1 is full size. */
  readonly scale: number;
}

/** A comp as it was put aside. */
export interface CompVersionInfo {
  readonly id: number;
  readonly number: number;
  readonly note: string;
  readonly settings: Combine;
  readonly createdAt: string;
}

/** What a render gives to a comp, of whatever shot it is. */
export interface RenderFeed {
  readonly frames: readonly number[];
  /** Frames a second. */
  readonly rate: number;
  readonly width: number;
  readonly height: number;
  /** Names of its passes. */
  readonly passes: readonly string[];
  /** The shot that it is of. */
  readonly shot: string;
}

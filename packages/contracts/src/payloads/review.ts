// Versions of a shot under review, and what is said of them.
import type { ShotStatus } from './board';

export type ReviewedKind = 'comp' | 'render' | 'bake';

/** A line drawn over a picture: x, y, x, y … in parts of its width and height, from the upper left. */
export type Stroke = readonly number[];

/** Something of a shot that is looked at as moving pictures. */
export interface ReviewVersion {
  readonly kind: ReviewedKind;
  readonly id: number;
  readonly name: string;
  readonly about: string;
  readonly frames: readonly number[];
  /** Frames a second. */
  readonly rate: number;
  /** Where its pictures are; {frame} stands for the frame. */
  readonly picture: string;
  readonly createdAt: string;
}

export interface ReviewNoteInfo {
  readonly id: number;
  readonly kind: ReviewedKind;
  readonly of: number;
  readonly frame: number;
  readonly author: string;
  readonly text: string;
  readonly strokes: readonly Stroke[];
  readonly done: boolean;
  readonly createdAt: string;
}

export interface ReviewInfo {
  readonly status: ShotStatus;
  readonly versions: readonly ReviewVersion[];
  readonly notes: readonly ReviewNoteInfo[];
}

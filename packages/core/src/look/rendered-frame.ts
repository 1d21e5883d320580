// What a render gives, and the part of a picture that one asks for.
import type { PictureLayer } from './passes';

/** Premultiplied linear light, top row first. */
export interface RenderedFrame {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
  /** What is kept besides; none where nothing is asked for. */
  readonly layers: readonly PictureLayer[];
}

/** Pixels from a corner and behind the last. */
export interface PixelBox {
  readonly from: readonly [number, number];
  readonly end: readonly [number, number];
}

// What the page and the worker that measures pictures say to each other.
import type { PreviewVolume } from '@bramblemist/core/volume/preview-volume';
import type { Look } from '@bramblemist/core/look/look';
import type { Matte, Measures } from '@bramblemist/core/analysis/measures';
import type { Recipe } from '@bramblemist/core/recipe/types';

export interface ToMeasure {
  readonly recipe: Recipe;
  readonly look: Look;
  /** The frame that is measured, last, and some before it for its front. */
  readonly bricks: readonly PreviewVolume[];
  readonly brickSecondsApart: number;
  /** Addresses of the reference's pictures, likewise. */
  readonly pictures: readonly string[];
  readonly pictureSecondsApart: number;
  readonly matte: Matte;
}
export interface Measured {
  readonly reference: Measures | null;
  readonly run: Measures | null;
  /** The reference's matte, a byte a pixel, to be shown. */
  readonly matte: {
    readonly width: number;
    readonly height: number;
    readonly bytes: Uint8ClampedArray<ArrayBuffer>;
  } | null;
}

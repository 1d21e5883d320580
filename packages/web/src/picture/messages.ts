// What the page and the worker that renders say to each other.
import type { Look } from '@bramblemist/core/look/look';
import type { PictureLayer } from '@bramblemist/core/look/passes';
import type { PixelBox } from '@bramblemist/core/look/rendered-frame';
import type { Spread } from '@bramblemist/core/look/spread';
import type { Recipe } from '@bramblemist/core/recipe/types';

/** A picture that is wanted: the worker leaves what it does and begins with it. */
export interface PictureWish {
  readonly id: number;
  /** Where the frame's volume is to be had. */
  readonly url: string;
  /** As it is at the frame, seen by the camera that is looked through. */
  readonly look: Look;
  /** As it stands in the document, and the further camera that is looked through: how both move. */
  readonly own: Look;
  readonly camera: string | null;
  /** The layer that is looked at, as files call it; null: the beauty. */
  readonly layer: string | null;
  /** Whose solids stand there, and when: s since the start of the first frame. */
  readonly recipe: Recipe;
  readonly timeS: number;
  readonly frame: number;
  readonly threads: number;
  /** The part that is to become true first; null: all of it. */
  readonly region: PixelBox | null;
}

export type PictureStage = 'first' | 'quick' | 'blurred' | 'true';

/** A picture as it is so far. */
export interface PictureNews {
  readonly id: number;
  readonly stage: PictureStage;
  readonly width: number;
  readonly height: number;
  /** What is shown: premultiplied linear light, top row first. */
  readonly rgba: Float32Array;
  /** The layer that this is a picture of; null: the beauty itself. */
  readonly layer: PictureLayer | null;
  /** Samples a pixel, and the root mean square of the luminance's standard error; 0 and 0 for quick ones. */
  readonly samples: number;
  readonly noise: number;
  /** Since the wish came, s. */
  readonly seconds: number;
  /** Nothing more comes. */
  readonly isDone: boolean;
}

/** What a frame holds: how its densities are spread, and what the look's ramp runs over. */
export interface FrameSpread {
  readonly density: Spread;
  readonly ramp: Spread | null;
}

/** Seconds of a quick picture with what is clipped left out, and with it. */
export interface ClipCost {
  readonly clippedS: number;
  readonly wholeS: number;
}

export type ToPicture = PictureWish | { readonly measureClip: PictureWish } | 'end';
export type FromPicture =
  | PictureNews
  | { readonly id: number; readonly trouble: string }
  | { readonly id: number; readonly spread: FrameSpread }
  | { readonly clipCost: ClipCost };

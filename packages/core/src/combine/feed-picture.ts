// A picture that feeds a layer of a comp, with its passes.

/** A picture whose pixels are parted by depth. */
export interface DeepPixels {
  readonly width: number;
  readonly height: number;
  /** The first sample of each pixel, top row first, and one past the last. */
  readonly starts: Uint32Array;
  /**
   * Nearest first, none reaching into the next: premultiplied red, green, blue and alpha, each as if nothing
   * stood before it, and where it begins and ends, m.
   */
  readonly samples: Float32Array;
}

/** What is asked for as a pass, and is more than one. */
export const DEEP = 'deep';

/** A picture of a feed with the passes that were asked for. */
export interface FeedPicture {
  /** The same for the same picture: by it what was made of one is known again. */
  readonly key: string;
  readonly width: number;
  readonly height: number;
  readonly pixelAspect: number;
  /** Premultiplied linear light, top row first. */
  readonly rgba: Float32Array;
  /** Passes by name, four values a pixel; one that the picture does not have is missing. */
  readonly passes: ReadonlyMap<string, Float32Array>;
  /** Where it was asked for, and there is one. */
  readonly deep?: DeepPixels;
}

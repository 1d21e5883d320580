// One frame as a look asks for it: quick, or true to its samples.
import type { ThreadPool } from '../grid/thread-pool';
import { compileLook, type Surroundings } from './compile-look';
import type { Look } from './look';
import type { Volume } from './medium';
import { renderPages } from './render-layout';
import { LookRenderer, type PixelBox, type RenderedFrame } from './renderer';

export type { Volume } from './medium';
export type { RenderedFrame } from './renderer';

/** Samples between two looks at the noise. */
const AT_ONCE = 16;

export interface RenderOptions extends Surroundings {
  /** Workers in all, the calling one included. */
  readonly threads?: number;
  /** The part of the picture that is rendered; the rest stays clear. */
  readonly region?: PixelBox;
  /**
   * True pictures end with fewer samples than the look has once the root mean square of the luminance's
   * standard error is no more than this.
   */
  readonly noise?: number;
}

/**
 * Renders with workers of its own, which are let go at the end.
 * @throws CoreError where the volume lacks a channel that the look asks for, or memory is short
 */
export function renderWith(
  startThreadPool: (pages: number, threads: number) => ThreadPool,
  volume: Volume,
  look: Look,
  { threads = 1, region, noise = 0, ...surroundings }: RenderOptions = {},
): RenderedFrame {
  const compiled = compileLook(look, volume, surroundings);
  const threadPool = startThreadPool(renderPages(compiled, threads), threads);
  try {
    const renderer = new LookRenderer(threadPool, compiled);
    if (look.quality.mode === 'quick')
      return together(renderer.march({ box: region }), renderer.marchApart(region));
    const { samples } = look.quality;
    while (renderer.samples < samples && renderer.noise() > noise)
      renderer.trace(Math.min(noise > 0 ? AT_ONCE : samples, samples - renderer.samples), region);
    // depths are of the medium itself, without any noise
    return {
      ...renderer.march({ box: region, isLit: false }),
      rgba: renderer.traced(),
      lights: renderer.tracedApart(),
    };
  } finally {
    threadPool.close();
  }
}

/** A quick picture with each light apart; where there are such, it is their sum. */
function together(picture: RenderedFrame, lights: RenderedFrame['lights']): RenderedFrame {
  if (lights.length === 0) return picture;
  const rgba = picture.rgba.slice();
  for (let n = 0; n < rgba.length; n++)
    if (n % 4 < 3) rgba[n] = lights.reduce((sum, { rgb }) => sum + rgb[3 * Math.floor(n / 4) + (n % 4)], 0);
  return { ...picture, rgba, lights };
}

// One frame as a look asks for it: quick, or true to its samples or its noise, with its passes.
import type { ThreadPool } from '../grid/thread-pool';
import { compileLook, type Surroundings } from './compile-look';
import type { Volume } from './colouring';
import { deepPicture, quickParts, type DeepPicture } from './deep';
import { denoised } from './denoise';
import type { Look } from './look';
import { isBlurred, quickMoments, SHARP } from './moments';
import { colourOf, ordersOf, type PictureLayer } from './passes';
import { renderPages } from './render-layout';
import { LookRenderer } from './renderer';
import type { PixelBox, RenderedFrame } from './rendered-frame';
import { TruePicture } from './true-picture';

export type { Volume } from './colouring';
export type { RenderedFrame } from './rendered-frame';

export interface RenderOptions extends Surroundings {
  /** Workers in all, the calling one included. */
  readonly threads?: number;
  /** The part of the picture that is rendered; the rest stays clear. */
  readonly region?: PixelBox;
}

/** A frame, and its deep picture where one is asked for. */
export interface Rendered extends RenderedFrame {
  readonly deep: DeepPicture | null;
  /** Of true pictures: samples a pixel, their mean, and the noise that is left. */
  readonly reached: { readonly samples: number; readonly noise: number } | null;
}

/**
 * Renders with workers of its own, which are let go at the end.
 * @throws CoreError where the volume lacks a channel that the look asks for, or memory is short
 */
export function renderWith(
  startThreadPool: (pages: number, threads: number) => ThreadPool,
  volume: Volume,
  look: Look,
  { threads = 1, region, ...surroundings }: RenderOptions = {},
): Rendered {
  const compiled = compileLook(look, volume, surroundings);
  const threadPool = startThreadPool(renderPages(compiled, threads), threads);
  try {
    const renderer = new LookRenderer(threadPool, compiled);
    return rendered(renderer, region ?? renderer.all());
  } finally {
    threadPool.close();
  }
}

/** The picture that a renderer's look asks for, or a part of it. */
export function rendered(renderer: LookRenderer, box: PixelBox): Rendered {
  const { width, height, compiled } = renderer;
  // what is sensed is sharp: a mean of depths would be the depth of nothing
  const sensed = renderer.sense(box);
  const { mode } = compiled.look.quality;
  const picture = mode === 'quick' ? withDeep(renderer, box) : truePicture(renderer, box);
  return {
    width,
    height,
    rgba: picture.rgba,
    layers: [...sensed, ...picture.layers],
    deep: picture.deep ?? null,
    reached: picture.reached ?? null,
  };
}

interface Picture {
  readonly rgba: Float32Array;
  readonly layers: readonly PictureLayer[];
  readonly reached?: Rendered['reached'];
  readonly deep?: DeepPicture;
}

/**
 * The mean of the picture's moments, with each light apart and the orders of scattering.
 * @param isFine spread over each pixel too, as the samples of true pictures are
 */
export function quickPicture(renderer: LookRenderer, box: PixelBox, isFine = false): Picture {
  const moments = quickPictureByMoments(renderer, box, isFine);
  for (;;) {
    const { done, value } = moments.next();
    if (done) return value;
  }
}

/** The same moment by moment, for callers that let others in between: whoever stops half-way starts anew. */
export function* quickPictureByMoments(
  renderer: LookRenderer,
  box: PixelBox,
  isFine = false,
): Generator<void, Picture> {
  const moments = quickMoments(renderer.compiled.look, isFine);
  // light is that of the frame's own moment
  renderer.light();
  let sum: Picture | null = null;
  for (const moment of moments) {
    renderer.expose(moment);
    const one = oneMoment(renderer, box);
    if (sum === null) sum = one;
    else addTo(sum, one);
    yield;
  }

  renderer.expose(SHARP);

  const mean = (values: Float32Array): Float32Array => values.map((v) => v / moments.length);
  const { rgba, layers } = sum!;
  if (moments.length === 1) return sum!;
  return { rgba: mean(rgba), layers: layers.map((layer) => ({ ...layer, values: mean(layer.values) })) };
}

function addTo(sum: Picture, one: Picture): void {
  one.rgba.forEach((v, n) => (sum.rgba[n] += v));
  one.layers.forEach(({ values }, n) => values.forEach((v, at) => (sum.layers[n].values[at] += v)));
}

function oneMoment(renderer: LookRenderer, box: PixelBox): Picture {
  const { look } = renderer.compiled;
  const beauty = renderer.march(box);
  const lights = renderer.marchApart(box);
  const rgba = together(beauty, lights);
  if (!look.passes.orders) return { rgba, layers: lights };
  const single = colourOf(renderer.marchSingle(box));
  const multiple = colourOf(rgba).map((v, n) => v - single[n]);
  return { rgba, layers: [...lights, ...ordersOf(single, multiple)] };
}

/** A quick picture that is the sum of its lights, where those are apart. */
function together(rgba: Float32Array, lights: readonly PictureLayer[]): Float32Array {
  if (lights.length === 0) return rgba;
  return rgba.map((v, n) =>
    n % 4 === 3 ? v : lights.reduce((sum, { values }) => sum + values[3 * (n >> 2) + (n % 4)], 0),
  );
}

/** A quick picture with its deep one, where that is asked for. */
function withDeep(renderer: LookRenderer, box: PixelBox): Picture {
  const { look } = renderer.compiled;
  const picture = quickPicture(renderer, box);
  if (!look.passes.deep) return picture;
  const sharp = isBlurred(look) ? renderer.march(box) : picture.rgba;
  return { ...picture, deep: deepPicture(renderer, box, quickParts(renderer, sharp)) };
}

function truePicture(renderer: LookRenderer, box: PixelBox): Picture {
  const { look } = renderer.compiled;
  const { quality, passes } = look;
  const picture = new TruePicture(renderer, box);
  const read = (): Picture => ({
    rgba: picture.rgba(),
    layers: picture.layers(),
    reached: picture.reached(),
  });
  const isPlain = quality.until === 'samples' && !isBlurred(look);
  if (passes.deep && isPlain) {
    const deep = picture.traceDeep(quality.samples);
    return { ...clean(renderer, box, read(), picture), deep };
  }

  if (quality.until === 'samples') picture.trace(quality.samples);
  else picture.traceToNoise({ noise: quality.noise, most: quality.samples, limitS: quality.limit });
  const made = clean(renderer, box, read(), picture);
  return passes.deep ? { ...made, deep: picture.traceDeep(quality.samples) } : made;
}

/** Without its noise, where that is asked for in files. */
function clean(renderer: LookRenderer, box: PixelBox, made: Picture, picture: TruePicture): Picture {
  if (renderer.compiled.look.quality.denoise !== 'always') return made;
  const quick = quickPicture(renderer, box, true);
  return { ...made, ...denoised(made, quick, picture.variance(), renderer.width, box, renderer.noiseRoom) };
}

// Makes the frame of a comp that is looked at, with the kernels that files are made with, and then those that
// come next.
import type { Combine } from '@bramblemist/core/combine/combine';
import { Composer, mergedIn, sizeAt } from '@bramblemist/core/combine/composer';
import { measureGrain } from '@bramblemist/core/combine/measure-grain';
import { gather, type Ingredients } from '@bramblemist/core/combine/gather';
import { bytesOf, viewOf } from '@bramblemist/core/combine/light';
import { cornersOf, placeOf } from '@bramblemist/core/combine/placing';
import type { LinearPicture } from '@bramblemist/core/files/picture';
import { LUMINANCE } from '@bramblemist/core/math/luminance';
import { breathe } from '../data/breathe';
import { startThreadPool } from '../live/thread-pool';
import type {
  Channel,
  CompNews,
  CompWish,
  FromComp,
  GrainWish,
  Ground,
  LayerSeen,
  Shown,
  ToComp,
} from './messages';
import { WebFeeds } from './web-feeds';

const FIRST_PAGES = 64;
const THUMB = { width: 96, height: 54 } as const;
/** Squares behind what is clear: their light and size in pixels. */
const SQUARES = [0.06, 0.045] as const;
const SQUARE = 12;

let wanted = 0;
const feeds = new WebFeeds(24);
let pool: Awaited<ReturnType<typeof startThreadPool>> | null = null;
let threads = 0;
let composer: { readonly made: Composer; readonly key: string } | null = null;

async function composerFor(comp: Combine, scale: number, wantedThreads: number): Promise<Composer> {
  const { width, height } = sizeAt(comp, scale);
  const { frame, layers } = comp;
  const key = [width, height, frame.width, frame.height, layers.length, mergedIn(comp)].join(' ');
  if (!pool || threads !== wantedThreads) {
    pool?.end();
    pool = await startThreadPool(FIRST_PAGES, wantedThreads);
    threads = wantedThreads;
    composer = null;
  }

  if (composer?.key !== key) composer = { made: new Composer(pool.threadPool, comp, scale), key };
  return composer.made;
}

/** Which values are shown as grey; those of colour are shown as they are. */
const GREY: Readonly<Record<Exclude<Channel, 'colour' | 'alpha'>, readonly [number, number, number]>> = {
  red: [1, 0, 0],
  green: [0, 1, 0],
  blue: [0, 0, 1],
  luminance: LUMINANCE,
};
const GROUNDS: Readonly<Record<Exclude<Ground, 'squares'>, readonly [number, number, number]>> = {
  black: [0, 0, 0],
  white: [1, 1, 1],
  red: [0.5, 0, 0],
};

/** A frame as the window shows it. */
function shownBytes(
  { width, height, rgba }: LinearPicture,
  { comp, tables }: Ingredients,
  { exposure, channel, ground }: Shown,
): Uint8ClampedArray {
  const { display, table: by } = comp.frame;
  const table = display === 'table' ? (tables.get(by) ?? null) : null;
  const { table: bytes, perRoot } = bytesOf(display);
  const out = new Uint8ClampedArray(4 * width * height);
  const gain = 2 ** exposure;
  const last = bytes.length - 1;
  const grey = channel === 'colour' || channel === 'alpha' ? null : GREY[channel];
  const plain = ground === 'squares' ? null : GROUNDS[ground];
  const own = [0, 0, 0];
  const view = table ? viewOf(display, table) : null;
  for (let y = 0, n = 0; y < height; y++)
    for (let x = 0; x < width; x++, n += 4) {
      out[n + 3] = 255;
      const alpha = rgba[n + 3];
      if (channel === 'alpha') {
        out[n] = out[n + 1] = out[n + 2] = 255 * alpha;
        continue;
      }

      const clear = alpha < 1 ? 1 - alpha : 0;
      const square = SQUARES[(Math.floor(x / SQUARE) + Math.floor(y / SQUARE)) & 1];
      for (let c = 0; c < 3; c++) own[c] = rgba[n + c] * gain + clear * (plain ? plain[c] : square);
      if (grey) own.fill(own[0] * grey[0] + own[1] * grey[1] + own[2] * grey[2]);
      if (view) {
        view(own[0], own[1], own[2], own);
        for (let c = 0; c < 3; c++) out[n + c] = 255 * own[c];
        continue;
      }

      for (let c = 0; c < 3; c++) {
        const at = own[c] > 0 ? (Math.sqrt(own[c]) * perRoot + 0.5) | 0 : 0;
        out[n + c] = bytes[at < last ? at : last];
      }
    }

  return out;
}

/** Where each layer stands, and what it looks like. */
function layersSeen(ingredients: Ingredients, made: Composer): LayerSeen[] {
  const { comp, layers, tracks, frame } = ingredients;
  const view = viewOf('srgb', null);
  const own = [0, 0, 0];
  return comp.layers.map((layer) => {
    const picture = layers.get(layer.id)?.picture;
    const size = picture ?? { ...comp.frame, pixelAspect: comp.frame.squeeze };
    const thumb = made.thumbOf(layer.id, THUMB.width, THUMB.height);
    const bytes = new Uint8ClampedArray(4 * THUMB.width * THUMB.height);
    if (thumb)
      for (let n = 0; n < thumb.length; n += 4) {
        const behind = 0.05 * Math.max(0, 1 - thumb[n + 3]);
        view(thumb[n] + behind, thumb[n + 1] + behind, thumb[n + 2] + behind, own);
        for (let c = 0; c < 3; c++) bytes[n + c] = 255 * own[c];
        bytes[n + 3] = 255;
      }

    return {
      id: layer.id,
      corners: cornersOf(comp, layer, size, tracks.get(layer.bind.file) ?? null, frame),
      thumb: thumb ? { width: THUMB.width, height: THUMB.height, bytes } : null,
    };
  });
}

async function make(wish: CompWish, frame: number, isWished: boolean): Promise<CompNews | null> {
  const began = performance.now();
  const { comp, scale, shown, against } = wish;
  feeds.know(comp.files, comp.frame.rate);
  const made = await composerFor(comp, scale, wish.threads);
  const ingredients = await gather(comp, frame, feeds);
  if (wanted !== wish.id) return null;
  const picture = made.compose(ingredients);
  const bytes = shownBytes(picture, ingredients, shown);
  const rgba = isWished ? picture.rgba.slice() : null;
  const ms = performance.now() - began;
  const layers = isWished ? layersSeen(ingredients, made) : [];
  let other: Uint8ClampedArray | null = null;
  if (against && isWished) {
    feeds.know(against.files, against.frame.rate);
    // of another size it cannot be held against this one
    const same = {
      ...against,
      frame: { ...against.frame, width: comp.frame.width, height: comp.frame.height },
    };
    const theirs = await gather(same, frame, feeds);
    if (wanted !== wish.id) return null;
    other = shownBytes(made.compose(theirs), theirs, shown);
  }

  return {
    id: wish.id,
    frame,
    width: made.width,
    height: made.height,
    bytes,
    rgba,
    against: other,
    layers,
    notes: ingredients.notes,
    ms,
  };
}

async function answer(wish: CompWish): Promise<void> {
  for (const [n, frame] of [wish.frame, ...wish.ahead].entries()) {
    const news = await make(wish, frame, n === 0);
    if (!news || wanted !== wish.id) return;
    const moves = [news.bytes, news.rgba, news.against].flatMap((v) => (v ? [v.buffer as ArrayBuffer] : []));
    self.postMessage(news satisfies FromComp, { transfer: moves });
    await breathe();
    if (wanted !== wish.id) return;
  }
}

async function grainOf({ measureGrain: { comp, frame, layer } }: GrainWish): Promise<void> {
  feeds.know(comp.files, comp.frame.rate);
  const { comp: now, layers, tracks } = await gather(comp, frame, feeds);
  const picture = layers.get(layer)?.picture;
  const own = now.layers.find(({ id }) => id === layer);
  const grain = picture ? measureGrain(picture) : null;
  if (!grain || !picture || !own) return self.postMessage({ grain: null } satisfies FromComp);
  // what is told in the plate's pixels is meant in the frame's
  const [a, b, , d, e] = placeOf(now, own, picture, tracks.get(own.bind.file) ?? null, frame);
  const size = grain.size * Math.sqrt(Math.abs(a * e - b * d));
  self.postMessage({ grain: { ...grain, size } } satisfies FromComp);
}

self.onmessage = ({ data }: MessageEvent<ToComp>) => {
  if (data === 'end') {
    wanted = 0;
    composer = null;
    pool?.end();
    pool = null;
    return;
  }

  if ('measureGrain' in data) {
    const failed = (): void => self.postMessage({ grain: null } satisfies FromComp);
    return void grainOf(data).catch(failed);
  }

  wanted = data.id;
  answer(data).catch((error: unknown) => {
    if (wanted === data.id)
      self.postMessage({ id: data.id, trouble: (error as Error).message } satisfies FromComp);
  });
};

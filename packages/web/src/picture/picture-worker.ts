// Renders the frame that is looked at, with the kernels that files are rendered with: a small quick picture
// at once, then a whole one, then samples of the true one for as long as nothing changes.
import type { Texture } from '@bramblemist/core/files/picture';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { compileLook, type Surroundings } from '@bramblemist/core/look/compile-look';
import type { Volume } from '@bramblemist/core/look/colouring';
import { denoised } from '@bramblemist/core/look/denoise';
import { askedOf } from '@bramblemist/core/look/fields';
import { filesOf, lookAt, type Look, type MediumSettings } from '@bramblemist/core/look/look';
import { shownLayer, withPassOf } from '@bramblemist/core/look/look-at-pass';
import { isBlurred } from '@bramblemist/core/look/moments';
import type { PictureLayer } from '@bramblemist/core/look/passes';
import { quickPictureByMoments } from '@bramblemist/core/look/render';
import { renderPages } from '@bramblemist/core/look/render-layout';
import { LookRenderer } from '@bramblemist/core/look/renderer';
import { solidsAt } from '@bramblemist/core/look/solids';
import { spreadOf } from '@bramblemist/core/look/spread';
import { TruePicture } from '@bramblemist/core/look/true-picture';
import { gridsFor, volumeOf } from '@bramblemist/core/look/volume-of';
import { compile } from '@bramblemist/core/plan/compile';
import type { Plan } from '@bramblemist/core/plan/plan';
import { routes } from '@bramblemist/contracts/routes';
import { breathe } from '../data/breathe';
import { fetchAssets } from '../data/fetch-assets';
import { startThreadPool } from '../live/thread-pool';
import type { ClipCost, FromPicture, FrameSpread, PictureStage, PictureWish, ToPicture } from './messages';

/** Pixels across a first picture, at the most. */
const FIRST_WIDTH = 200;
/** Rows that are rendered before messages are looked at. */
const ROWS = 64;
/** Samples of the first true passes; from there on as many as this each. */
const MOST_AT_ONCE = 16;

let wanted = 0;
let plans: { key: string; of: Promise<Plan> } | null = null;
let pool: { threadPool: ThreadPool; threads: number; end: () => void } | null = null;

/** Volumes that were fetched last, by where they are from and what was read of them. */
const volumes = new Map<string, Promise<Volume | null>>();
const MOST_VOLUMES = 6;

/** @returns null where there is none: a further medium may end before the shot */
async function fetched(url: string, asked: ReadonlySet<string>): Promise<Volume | null> {
  const response = await fetch(url);
  if (response.status === 404) return null;
  if (!response.ok) throw new Error(`The frame’s volume does not come (${response.status}).`);
  const data = new Uint8Array(await response.arrayBuffer());
  return volumeOf(readVdb(data, { only: gridsFor(asked) }), asked);
}

/** A volume with the channels that a medium of a look asks for. */
function volumeAt(url: string, medium: MediumSettings, look: Look): Promise<Volume | null> {
  const asked = askedOf(medium, look);
  const key = [url, ...asked].join(' ');
  const known = volumes.get(key);
  // the one that is asked for is the newest
  volumes.delete(key);
  const of = known ?? fetched(url, asked);
  volumes.set(key, of);
  of.catch(() => volumes.delete(key));
  for (const old of [...volumes.keys()].slice(0, Math.max(0, volumes.size - MOST_VOLUMES)))
    volumes.delete(old);
  return of;
}

async function volumeFor({ url, look }: PictureWish): Promise<Volume> {
  const found = await volumeAt(url, look.medium, look);
  if (!found) throw new Error('The frame’s volume is not there any more.');
  return found;
}

async function furtherFor({ look, frame }: PictureWish): Promise<ReadonlyMap<string, Volume>> {
  const all = await Promise.all(
    look.media
      .filter(({ on, bake }) => on && bake > 0)
      .map(async (m) => [m.id, await volumeAt(routes.volume(m.bake, frame - m.shift), m, look)] as const),
  );
  return new Map(all.flatMap(([id, volume]) => (volume ? [[id, volume] as const] : [])));
}

function planFor({ recipe }: PictureWish): Promise<Plan> {
  const key = JSON.stringify([recipe.obstacles, recipe.files, recipe.curves, recipe.space]);
  if (plans?.key !== key)
    plans = { key, of: (async () => compile(recipe, { assets: await fetchAssets(recipe) }).plan)() };
  return plans.of;
}

/** Pictures that the look is made with; files are kept by their content. */
async function picturesFor({ look }: PictureWish): Promise<ReadonlyMap<string, Texture>> {
  const files = [...filesOf(look)];
  const assets = await fetchAssets({ files });
  return new Map(files.map((file) => [file.id, assets.picture(file)]));
}

async function surroundingsFor(wish: PictureWish): Promise<Surroundings> {
  const [plan, pictures, further] = await Promise.all([planFor(wish), picturesFor(wish), furtherFor(wish)]);
  const { own, camera, frame, timeS } = wish;
  return {
    solids: solidsAt(plan, timeS),
    pictures,
    volumes: further,
    timing: {
      frameS: plan.frameS,
      later: (frames) => ({
        look: lookAt(own, frame + frames, camera ?? undefined),
        solids: solidsAt(plan, timeS + frames * plan.frameS),
      }),
    },
  };
}

async function poolOf(pages: number, threads: number): Promise<ThreadPool> {
  if (pool?.threads !== threads) {
    pool?.end();
    pool = { ...(await startThreadPool(pages, threads)), threads };
  }

  pool.threadPool.ensurePages(pages);
  return pool.threadPool;
}

/** The same look at another size. */
const sized = (look: Look, scale: number): Look => ({
  ...look,
  camera: {
    ...look.camera,
    width: Math.max(16, Math.round(look.camera.width * scale)),
    height: Math.max(16, Math.round(look.camera.height * scale)),
  },
});

async function render(asked: PictureWish): Promise<void> {
  const began = performance.now();
  // passes that are not looked at would only cost time
  const wish = { ...asked, look: withPassOf(asked.look, asked.layer) };
  const isLeft = (): boolean => wanted !== wish.id;
  const [seen, around] = await Promise.all([volumeFor(wish), surroundingsFor(wish)]);
  if (isLeft()) return;
  post({ id: wish.id, spread: spreadFor(seen, wish.look) });
  const tell = (
    stage: PictureStage,
    { width, height }: { width: number; height: number },
    picture: { readonly rgba: Float32Array; readonly layers: readonly PictureLayer[] },
    isDone: boolean,
    { samples, noise }: { samples: number; noise: number } = { samples: 0, noise: 0 },
  ): void => {
    const layer = picture.layers.find(({ name }) => name === wish.layer) ?? null;
    const rgba = layer ? shownLayer(layer) : picture.rgba;
    const news: FromPicture = {
      id: wish.id,
      stage,
      width,
      height,
      rgba,
      layer,
      samples,
      noise,
      seconds: (performance.now() - began) / 1000,
      isDone,
    };
    self.postMessage(news, { transfer: [rgba.buffer as ArrayBuffer] });
  };

  const begin = async (own: Look): Promise<LookRenderer> => {
    const compiled = compileLook(own, seen, around);
    return new LookRenderer(await poolOf(renderPages(compiled, wish.threads), wish.threads), compiled);
  };

  const { look } = wish;
  const scale = FIRST_WIDTH / look.camera.width;
  if (scale < 0.7 && wish.layer === null) {
    const first = await begin(sized(look, scale));
    if (isLeft()) return;
    tell('first', first, { rgba: first.march(), layers: [] }, false);
    await breathe();
    if (isLeft()) return;
  }

  const renderer = await begin(look);
  const sensed = renderer.sense();
  let sharp = renderer.march({ from: [0, 0], end: [renderer.width, 0] });
  for (sharp of renderer.marchInBands(ROWS)) {
    await breathe();
    if (isLeft()) return;
  }

  const isTrue = look.quality.mode === 'true';
  const isWhole = sensed.length > 0 || (!isTrue && !isBlurred(look));
  const isApart = look.passes.lights || look.passes.orders;
  tell('quick', renderer, { rgba: sharp.slice(), layers: sensed }, isWhole && !isApart);
  if (isWhole && !isApart) return;
  await breathe();
  // what noise is taken out by, and what quick pictures are in the end
  const isCleaned = isTrue && look.quality.denoise !== 'never';
  let quick: { rgba: Float32Array; layers: readonly PictureLayer[] } = { rgba: sharp, layers: sensed };
  if (isCleaned || !isTrue) {
    const moments = quickPictureByMoments(renderer, renderer.all(), isCleaned);
    let next = moments.next();
    for (; !next.done; next = moments.next()) {
      await breathe();
      if (isLeft()) return;
    }

    quick = next.value;
    tell('blurred', renderer, { ...quick, rgba: quick.rgba.slice() }, !isTrue);
  }

  if (!isTrue) return;
  const picture = new TruePicture(renderer, wish.region ?? renderer.all());
  const { samples, until, noise } = look.quality;
  const isEnough = (): boolean =>
    picture.samples >= samples || (until === 'noise' && picture.samples >= 16 && picture.noise() <= noise);
  // from one sample nobody can tell what is noise
  for (let at = isCleaned ? 4 : 1; !isEnough(); at = Math.min(MOST_AT_ONCE, 2 * at)) {
    const bands = picture.tracing(Math.min(at, samples - picture.samples), ROWS);
    while (!bands.next().done) {
      await breathe();
      if (isLeft()) return;
    }

    const own = picture.rgba();
    const rgba = wish.region ? within(quick.rgba, own, renderer.width, wish.region) : own;
    const raw = { rgba, layers: picture.layers() };
    const made = isCleaned
      ? denoised(
          raw,
          quick,
          picture.variance(),
          renderer.width,
          wish.region ?? renderer.all(),
          renderer.noiseRoom,
        )
      : raw;
    tell('true', renderer, made, isEnough(), picture.reached());
    await breathe();
    if (isLeft()) return;
  }
}

/** The last that was counted: a frame is the same under many looks. */
let counted: { seen: Volume; channel: string; spread: FrameSpread } | null = null;

function spreadFor(seen: Volume, { medium }: Look): FrameSpread {
  const channel = medium.colour === 'ramp' ? medium.channel : '';
  if (counted?.seen === seen && counted.channel === channel) return counted.spread;
  const values = seen.channels?.[channel as 'age'];
  const density = counted?.seen === seen ? counted.spread.density : spreadOf(seen);
  const own = channel === 'density' ? density : null;
  const spread = { density, ramp: values ? spreadOf(seen, values) : own };
  counted = { seen, channel, spread };
  return spread;
}

/** One picture with a region of another. */
function within(
  around: Float32Array,
  inside: Float32Array,
  width: number,
  { from, end }: NonNullable<PictureWish['region']>,
): Float32Array {
  const out = around.slice();
  for (let y = from[1]; y < end[1]; y++) {
    const row = 4 * y * width;
    out.set(inside.subarray(row + 4 * from[0], row + 4 * end[0]), row + 4 * from[0]);
  }

  return out;
}

/** Times a quick picture with the look's clip and without it, each the better of two. */
async function measureClip(wish: PictureWish): Promise<ClipCost> {
  const [seen, around] = await Promise.all([volumeFor(wish), surroundingsFor(wish)]);
  const timed = async (look: Look): Promise<number> => {
    let best = Infinity;
    for (let n = 0; n < 2; n++) {
      const began = performance.now();
      const compiled = compileLook(look, seen, around);
      const pages = renderPages(compiled, wish.threads);
      new LookRenderer(await poolOf(pages, wish.threads), compiled).march();
      best = Math.min(best, (performance.now() - began) / 1000);
    }

    return best;
  };

  const { look } = wish;
  const wholeS = await timed({ ...look, medium: { ...look.medium, clip: 0 } });
  return { clippedS: await timed(look), wholeS };
}

const post = (message: FromPicture): void => self.postMessage(message);

self.onmessage = ({ data }: MessageEvent<ToPicture>) => {
  if (data === 'end') {
    wanted = 0;
    volumes.clear();
    pool?.end();
    pool = null;
    return;
  }

  const wish = 'measureClip' in data ? data.measureClip : data;
  wanted = wish.id;
  const failed = (error: unknown): void => {
    if (wanted === wish.id) post({ id: wish.id, trouble: (error as Error).message });
  };

  if (!('measureClip' in data)) return void render(wish).catch(failed);
  // the picture that was under way begins anew afterwards
  measureClip(wish)
    .then((clipCost) => {
      post({ clipCost });
      if (wanted === wish.id) return render(wish);
    })
    .catch(failed);
};

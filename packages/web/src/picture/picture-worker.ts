// Renders the frame that is looked at, with the kernels that files are rendered with: a small quick picture
// at once, then a whole one, then samples of the true one for as long as nothing changes.
import type { Texture } from '@bramblemist/core/files/picture';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { compileLook, type Surroundings } from '@bramblemist/core/look/compile-look';
import { channelsAsked, type Volume } from '@bramblemist/core/look/medium';
import { filesOf, type Look, type MediumSettings } from '@bramblemist/core/look/look';
import { renderPages } from '@bramblemist/core/look/render-layout';
import { LookRenderer } from '@bramblemist/core/look/renderer';
import { solidsAt, type Solid } from '@bramblemist/core/look/solids';
import { spreadOf } from '@bramblemist/core/look/spread';
import { volumeOf } from '@bramblemist/core/look/volume-of';
import { compile } from '@bramblemist/core/plan/compile';
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
let solids: { key: string; of: Promise<readonly Solid[]> } | null = null;
let pool: { threadPool: ThreadPool; threads: number; end: () => void } | null = null;

/** Volumes that were fetched last, by where they are from and what was read of them. */
const volumes = new Map<string, Promise<Volume | null>>();
const MOST_VOLUMES = 6;

/** @returns null where there is none: a further medium may end before the shot */
async function fetched(url: string, medium: MediumSettings): Promise<Volume | null> {
  const response = await fetch(url);
  if (response.status === 404) return null;
  if (!response.ok) throw new Error(`The frame’s volume does not come (${response.status}).`);
  return volumeOf(readVdb(new Uint8Array(await response.arrayBuffer())), medium);
}

/** A volume with the channels that a medium asks for. */
function volumeAt(url: string, medium: MediumSettings): Promise<Volume | null> {
  const key = [url, medium.colour, ...channelsAsked(medium)].join(' ');
  const known = volumes.get(key);
  // the one that is asked for is the newest
  volumes.delete(key);
  const of = known ?? fetched(url, medium);
  volumes.set(key, of);
  of.catch(() => volumes.delete(key));
  for (const old of [...volumes.keys()].slice(0, Math.max(0, volumes.size - MOST_VOLUMES)))
    volumes.delete(old);
  return of;
}

async function volumeFor({ url, look }: PictureWish): Promise<Volume> {
  const found = await volumeAt(url, look.medium);
  if (!found) throw new Error('The frame’s volume is not there any more.');
  return found;
}

async function furtherFor({ look, frame }: PictureWish): Promise<ReadonlyMap<string, Volume>> {
  const all = await Promise.all(
    look.media
      .filter(({ on, bake }) => on && bake > 0)
      .map(async (m) => [m.id, await volumeAt(routes.volume(m.bake, frame - m.shift), m)] as const),
  );
  return new Map(all.flatMap(([id, volume]) => (volume ? [[id, volume] as const] : [])));
}

function solidsFor({ recipe, timeS }: PictureWish): Promise<readonly Solid[]> {
  const key = JSON.stringify([recipe.obstacles, recipe.files, recipe.curves, recipe.space, timeS]);
  if (solids?.key !== key)
    solids = {
      key,
      of: (async () => solidsAt(compile(recipe, { assets: await fetchAssets(recipe) }).plan, timeS))(),
    };
  return solids.of;
}

/** Pictures that the look is made with; files are kept by their content. */
async function picturesFor({ look }: PictureWish): Promise<ReadonlyMap<string, Texture>> {
  const files = [...filesOf(look)];
  const assets = await fetchAssets({ files });
  return new Map(files.map((file) => [file.id, assets.picture(file)]));
}

async function surroundingsFor(wish: PictureWish): Promise<Surroundings> {
  const [solid, pictures, further] = await Promise.all([
    solidsFor(wish),
    picturesFor(wish),
    furtherFor(wish),
  ]);
  return { solids: solid, pictures, volumes: further };
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

async function render(wish: PictureWish): Promise<void> {
  const began = performance.now();
  const isLeft = (): boolean => wanted !== wish.id;
  const [seen, around] = await Promise.all([volumeFor(wish), surroundingsFor(wish)]);
  if (isLeft()) return;
  post({ id: wish.id, spread: spreadFor(seen, wish.look) });
  const tell = (
    stage: PictureStage,
    { width, height }: { width: number; height: number },
    rgba: Float32Array,
    isDone: boolean,
    { samples, noise }: { samples: number; noise: number } = { samples: 0, noise: 0 },
  ): void => {
    const news: FromPicture = {
      id: wish.id,
      stage,
      width,
      height,
      rgba,
      samples,
      noise,
      seconds: (performance.now() - began) / 1000,
      isDone,
    };
    self.postMessage(news, { transfer: [rgba.buffer as ArrayBuffer] });
  };

  const begin = async (own: Look): Promise<LookRenderer> => {
    // the window shows the beauty
    const compiled = compileLook({ ...own, passes: { lights: false } }, seen, around);
    return new LookRenderer(await poolOf(renderPages(compiled, wish.threads), wish.threads), compiled);
  };

  const { look } = wish;
  const scale = FIRST_WIDTH / look.camera.width;
  if (scale < 0.7) {
    const first = await begin(sized(look, scale));
    if (isLeft()) return;
    tell('first', first, first.march().rgba, false);
    await breathe();
    if (isLeft()) return;
  }

  const renderer = await begin(look);
  let quick = renderer.march({ box: { from: [0, 0], end: [renderer.width, 0] } });
  for (quick of renderer.marchInBands(ROWS)) {
    await breathe();
    if (isLeft()) return;
  }

  const isTrue = look.quality.mode === 'true';
  tell('quick', renderer, quick.rgba.slice(), !isTrue);
  if (!isTrue) return;
  for (let at = 1; renderer.samples < look.quality.samples; at = Math.min(MOST_AT_ONCE, 2 * at)) {
    const count = Math.min(at, look.quality.samples - renderer.samples);
    const bands = renderer.traceInBands(count, ROWS, wish.region ?? undefined);
    while (!bands.next().done) {
      await breathe();
      if (isLeft()) return;
    }

    const rgba = wish.region
      ? within(quick.rgba, renderer.traced(), renderer.width, wish.region)
      : renderer.traced();
    tell('true', renderer, rgba, renderer.samples >= look.quality.samples, renderer.reached());
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

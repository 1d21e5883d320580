// `bench comp`: five soft clouds over a plate, each as large as the frame of 1920 × 1080, every one with a
// blur, a curve and a mask.
import { COMBINE } from '@bramblemist/core/combine/combine';
import { Composer } from '@bramblemist/core/combine/composer';
import type { FeedPicture } from '@bramblemist/core/combine/feed-picture';
import { gather, type Feeds } from '@bramblemist/core/combine/gather';
import { CoreError } from '@bramblemist/core/base/error';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';

export interface CompBenchOptions {
  readonly threads: number;
  readonly repeats: number;
  readonly json: boolean;
}

const [WIDTH, HEIGHT] = [1920, 1080];
const LAYERS = 6;
const FIRST_PAGES = 64;
const NUMBERS = Array.from({ length: LAYERS }, (_, n) => n + 1);

const none = (): never => {
  throw new CoreError('file', 'The bench has no files.');
};

/** A soft cloud in the middle of the frame, or a plate; with grain, as pictures have it. */
function pictured(isPlate: boolean): Float32Array {
  const rgba = new Float32Array(4 * WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const n = 4 * (y * WIDTH + x);
      const away = Math.hypot((2 * x) / WIDTH - 1, (2 * y) / HEIGHT - 1);
      const alpha = isPlate ? 1 : Math.min(1, Math.max(0, 1.3 - 1.3 * away));
      const grain = 1 + 0.1 * (((n * 2654435761) >>> 8) / 2 ** 24 - 0.5);
      for (let c = 0; c < 3; c++)
        rgba[n + c] = alpha * grain * (0.2 + 0.5 * Math.abs(Math.sin(0.01 * (x + y) + c)));
      rgba[n + 3] = alpha;
    }

  return rgba;
}

/** Another picture each time, so that no layer is known again. */
function benchFeeds(): Feeds {
  let count = 0;
  const [cloud, plate] = [pictured(false), pictured(true)];
  const picture = (isPlate: boolean): FeedPicture => ({
    key: String(count++),
    width: WIDTH,
    height: HEIGHT,
    pixelAspect: 1,
    rgba: isPlate ? plate : cloud,
    passes: new Map(),
  });
  return {
    range: () => Promise.resolve({ first: 1, last: 1, rate: 24 }),
    picture: (feed) => Promise.resolve(picture('render' in feed && feed.render === LAYERS)),
    track: none,
    fonts: none,
    table: none,
  };
}

/** Prints the time of a frame, all of it and with one layer changed. */
export async function benchComp({ threads, repeats, json }: CompBenchOptions): Promise<void> {
  const comp = COMBINE.parse({
    frame: { width: WIDTH, height: HEIGHT },
    layers: NUMBERS.map((n) => ({
      id: `layer-${n}`,
      name: `Layer ${n}`,
      feed: { kind: 'render', render: n },
      meet: n % 2 === 0 ? 'over' : 'screen',
      opacity: 60,
      mask: 'mask',
      place: { x: 3.3 * n },
    })),
    operations: NUMBERS.flatMap((n) => [
      { id: `blur-${n}`, layer: `layer-${n}`, kind: 'blur', size: 6 },
      {
        id: `curve-${n}`,
        layer: `layer-${n}`,
        kind: 'curves',
        curve: [
          [0, 0],
          [0.5, 0.6],
          [1, 1],
        ],
      },
    ]),
    masks: [{ id: 'mask', name: 'Mask' }],
  });
  const pool = startThreadPool(FIRST_PAGES, threads);
  const composer = new Composer(pool, comp, 1);
  const feeds = benchFeeds();
  const timed = async (isWhole: boolean): Promise<number> => {
    const ingredients = await gather(comp, 1, feeds);
    const fresh = isWhole ? null : ingredients.layers.get('layer-1')!;
    const layers = fresh ? new Map(last.layers).set('layer-1', fresh) : ingredients.layers;
    const began = performance.now();
    composer.compose({ ...ingredients, layers });
    last = { ...ingredients, layers };
    return performance.now() - began;
  };

  let last = await gather(comp, 1, feeds);
  composer.compose(last);
  const best = async (isWhole: boolean): Promise<number> => {
    let least = Infinity;
    for (let n = 0; n < repeats; n++) least = Math.min(least, await timed(isWhole));
    return Number(least.toFixed(1));
  };

  const told = {
    threads,
    width: WIDTH,
    height: HEIGHT,
    layers: LAYERS,
    msFrame: await best(true),
    msOneLayer: await best(false),
  };
  pool.close();
  if (json) return void console.log(JSON.stringify(told));
  console.log(`${LAYERS} layers of ${WIDTH} × ${HEIGHT} with blur, curve and mask on ${threads} threads:`);
  console.log(`  ${told.msFrame} ms a frame, ${told.msOneLayer} ms where one layer changed`);
}

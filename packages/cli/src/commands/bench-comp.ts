// `bench comp`: six layers that each fill the frame of 1920 × 1080, every one with a blur, a curve and a
// mask.
import { COMBINE } from '@bramblemist/core/combine/combine';
import { Composer } from '@bramblemist/core/combine/composer';
import { gather, type FeedPicture, type Feeds } from '@bramblemist/core/combine/gather';
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

/** Another picture each time, so that no layer is known again. */
function benchFeeds(): Feeds {
  let count = 0;
  const rgba = Float32Array.from(
    { length: 4 * WIDTH * HEIGHT },
    (_, n) => ((n * 2654435761) >>> 8) / 2 ** 24,
  );
  const picture = (): FeedPicture => ({
    key: String(count++),
    width: WIDTH,
    height: HEIGHT,
    pixelAspect: 1,
    rgba,
    passes: new Map(),
  });
  return {
    range: () => Promise.resolve({ first: 1, last: 1, rate: 24 }),
    picture: () => Promise.resolve(picture()),
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

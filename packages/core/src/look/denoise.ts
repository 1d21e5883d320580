// Noise taken out of a true picture by its quick one, which has none: around each pixel the true picture is
// taken to be a plane over what the quick one shows and covers (first-order regression by features: He, Sun &
// Tang 2010; Bitterli et al. 2016). Detail of the medium is in the quick picture, so that windows may be
// wide.
import type { ThreadPool } from '../grid/thread-pool';
import type { PictureLayer } from './passes';
import { colourOf } from './passes';
import type { PixelBox } from './rendered-frame';

/**
 * Pixels from a window's middle to its edge, wide ones first, and the part of the pixels' noise that is left
 * in what narrower ones find; the last are the pixels themselves.
 */
const SCALES = [
  { radius: 8, part: 0 },
  { radius: 4, part: 0.015 },
  { radius: 2, part: 0.05 },
  { radius: 0, part: 1 },
] as const;
/** The same of the windows in which what is left over is compared with the noise. */
const SMALL = 3;
/** What is left over counts as a difference from so many times the noise on. */
const SURE = 1.5;
/** Rows that are filtered at a time, and those around them that count: what bounds the memory. */
const ROWS = 256;
const APRON = 2 * SCALES[0].radius + 3 * SMALL;
/** Columns that a worker takes at a time. */
const COLUMNS = 16;
/** Rows that a worker takes at a time. */
const SLAB = 16;

/** Planes of doubles that it works on. */
const PLANES = [
  ...['noisy', 'first', 'second', 'noise', 'unsure', 'now', 'fit', 'change', 'off', 'rows'],
  ...['p', 'g', 'h', 'gg', 'gh', 'hh', 'gp', 'hp'],
] as const;

/** Bytes that it needs for a picture. */
export const denoiseBytes = (width: number, height: number): number =>
  PLANES.length * evenWidth(width) * Math.min(height, ROWS + 2 * APRON) * 8;

const evenWidth = (width: number): number => width + (width % 2);

export interface Noisy {
  readonly rgba: Float32Array;
  readonly layers: readonly PictureLayer[];
}

/** Where it works: planes of doubles at an address of a thread pool's memory. */
interface Room {
  readonly threadPool: ThreadPool;
  readonly address: number;
}

/**
 * @param quick the same picture by the quick estimator, with the same lights apart
 * @param variance of the noisy picture's luminance at each pixel
 * @param width of the pictures, pixels
 * @param box the part that is there; the rest is left as it is
 */
export function denoised(
  { rgba, layers }: Noisy,
  quick: Noisy,
  variance: Float32Array,
  width: number,
  box: PixelBox,
  room: Room,
): Noisy {
  const cover = quick.rgba.filter((_, n) => n % 4 === 3);
  const filter = (noisy: Float32Array, guide: Float32Array, channels: number): Float32Array => {
    const out = noisy.slice();
    for (let y = box.from[1]; y < box.end[1]; y += ROWS)
      new Band(room, width, box, y).filter({ noisy, guide, channels, cover, variance, out });
    return out;
  };

  const apart = layers.map((layer) => {
    const guide = quick.layers.find(({ name }) => name === layer.name);
    return guide ? { ...layer, values: filter(layer.values, guide.values, 3) } : layer;
  });
  const whole = filter(rgba, quick.rgba, 4);
  const lights = apart.filter(({ name }) => name.startsWith('lights.'));
  if (lights.length > 0) {
    // lights are the beauty together
    const sums = lights.map(({ values }) => values);
    for (let n = 0; n < whole.length; n++)
      if (n % 4 < 3) whole[n] = sums.reduce((sum, values) => sum + values[3 * (n >> 2) + (n % 4)], 0);
  }

  for (let n = 3; n < whole.length; n += 4) whole[n] = Math.min(1, Math.max(0, whole[n]));
  const orders = apart.find(({ name }) => name === 'single');
  if (!orders) return { rgba: whole, layers: apart };
  const beauty = colourOf(whole);
  return {
    rgba: whole,
    layers: apart.map((layer) =>
      layer.name === 'multiple' ? { ...layer, values: beauty.map((v, n) => v - orders.values[n]) } : layer,
    ),
  };
}

interface Filtering {
  readonly noisy: Float32Array;
  readonly guide: Float32Array;
  /** Of a pixel of both. */
  readonly channels: number;
  readonly cover: Float32Array;
  readonly variance: Float32Array;
  readonly out: Float32Array;
}

type PlaneName = (typeof PLANES)[number];

/** Some rows of a picture, with those around them. */
class Band {
  private readonly wide: number;
  private readonly rows: number;
  private readonly from: number;
  private readonly last: number;

  constructor(
    private readonly room: Room,
    private readonly width: number,
    private readonly box: PixelBox,
    private readonly first: number,
  ) {
    this.wide = evenWidth(box.end[0] - box.from[0]);
    this.from = Math.max(box.from[1], first - APRON);
    this.last = Math.min(box.end[1], first + ROWS);
    this.rows = Math.min(box.end[1], first + ROWS + APRON) - this.from;
  }

  filter({ noisy, guide, channels, cover, variance, out }: Filtering): void {
    this.put('second', cover, 1, 0);
    this.put('noise', variance, 1, 0);
    this.mean('noise', null, 'unsure', SMALL);
    for (let c = 0; c < channels; c++) {
      this.put('noisy', noisy, channels, c);
      this.put('first', guide, channels, c);
      this.regress();
      const result = this.plane('now');
      const [x0, x1] = [this.box.from[0], this.box.end[0]];
      for (let y = this.first; y < this.last; y++)
        for (let x = x0; x < x1; x++)
          out[(y * this.width + x) * channels + c] = result[(y - this.from) * this.wide + x - x0];
    }
  }

  /**
   * Wide windows first; what narrower ones find besides is added by how far it stands out from the noise that
   * they leave, and at last what the pixels themselves have.
   */
  private regress(): void {
    const { rows, wide: width } = this;
    const { threadPool } = this.room;
    this.fit(SCALES[0].radius, 'now');
    for (const { radius, part } of SCALES.slice(1)) {
      if (radius > 0) this.fit(radius, 'fit');
      const fit = this.at(radius > 0 ? 'fit' : 'noisy');
      threadPool.run('takeDifference', rows, SLAB, { fit, width, ...this.all('now', 'change') });
      this.mean('change', 'change', 'off', SMALL);
      threadPool.run('keepDifference', rows, SLAB, {
        ...this.all('now', 'change', 'off'),
        noise: this.at('unsure'),
        scale: SURE * part,
        width,
      });
    }
  }

  /** The mean of planes over both guides, in all windows that a pixel is in. */
  private fit(radius: number, to: PlaneName): void {
    this.mean('noisy', null, 'p', radius);
    this.mean('first', null, 'g', radius);
    this.mean('second', null, 'h', radius);
    this.mean('first', 'first', 'gg', radius);
    this.mean('first', 'second', 'gh', radius);
    this.mean('second', 'second', 'hh', radius);
    this.mean('first', 'noisy', 'gp', radius);
    this.mean('second', 'noisy', 'hp', radius);
    const { rows, wide: width } = this;
    const { threadPool } = this.room;
    const windows = this.all('p', 'g', 'h', 'gg', 'gh', 'hh', 'gp', 'hp');
    threadPool.run('slopesOfWindows', rows, SLAB, { ...windows, width });
    this.mean('gp', null, 'g', radius);
    this.mean('hp', null, 'h', radius);
    this.mean('p', null, to, radius);
    const [along, across] = [this.at('g'), this.at('h')];
    const planes = { rest: this.at(to), along, across, ...this.all('first', 'second') };
    threadPool.run('addPlanes', rows, SLAB, { ...planes, width });
  }

  /** Means over squares of values, or of their products with others. */
  private mean(from: PlaneName, by: PlaneName | null, to: PlaneName, radius: number): void {
    const { threadPool } = this.room;
    const rows = this.at('rows');
    const width = this.wide;
    const planes = { from: this.at(from), by: by === null ? 0 : this.at(by), to: rows };
    threadPool.run('meanOfRows', this.rows, SLAB, { ...planes, width, radius });
    const along = { from: rows, to: this.at(to), width, height: this.rows, radius };
    threadPool.run('meanOfColumns', Math.ceil(width / COLUMNS), 2, along);
  }

  private at(name: PlaneName): number {
    return this.room.address + PLANES.indexOf(name) * this.wide * this.rows * 8;
  }

  private all<K extends PlaneName>(...names: readonly K[]): Record<K, number> {
    return Object.fromEntries(names.map((name) => [name, this.at(name)])) as Record<K, number>;
  }

  private plane(name: PlaneName): Float64Array {
    return new Float64Array(this.room.threadPool.memory.buffer, this.at(name), this.wide * this.rows);
  }

  /** One channel of a picture. A column that was added to make rows even is as the one beside it. */
  private put(name: PlaneName, values: Float32Array, channels: number, c: number): void {
    const to = this.plane(name);
    const [x0, x1] = [this.box.from[0], this.box.end[0]];
    for (let y = 0; y < this.rows; y++)
      for (let x = 0; x < this.wide; x++) {
        const from = (this.from + y) * this.width + Math.min(x1 - 1, x0 + x);
        to[y * this.wide + x] = values[from * channels + c];
      }
  }
}

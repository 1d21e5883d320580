// A true picture as it grows: samples of its tiles, what they add up to and how sure that is. Sums are whole
// numbers, so that neither the order of samples nor the threads change a bit of them.
import { LUMINANCE } from '../math/luminance';
import { deepPicture, trueParts, type DeepPicture } from './deep';
import { momentsOf, SHARP } from './moments';
import { lightLayer, ordersOf, RGB, type PictureLayer } from './passes';
import { apartCount, CAUGHT, SUMS, TILE } from './render-layout';
import type { LookRenderer } from './renderer';
import type { PixelBox } from './rendered-frame';

/** Samples of a first round, from which noise is judged. */
const FIRST = 16;
/** A round has this many times the samples before it at the most: their own noise makes them unsure. */
const GROWTH = 2;
/** A tile counts as at least this part as noisy as those beside it: it may have missed what they have met. */
const BESIDE = 0.25;
const PART = 2 ** -32;

export interface NoiseTarget {
  /** Standard error of the luminance at pixels, their root mean square. */
  readonly noise: number;
  /** Samples a pixel at the most. */
  readonly most: number;
  /** Seconds after which no further round begins. */
  readonly limitS?: number;
}

export class TruePicture {
  private readonly across: number;
  private readonly down: number;
  private readonly done: Int32Array;

  /** @param box what of the picture is rendered; the rest stays clear */
  constructor(
    private readonly renderer: LookRenderer,
    private readonly box: PixelBox = renderer.all(),
  ) {
    this.across = Math.ceil((box.end[0] - box.from[0]) / TILE);
    this.down = Math.ceil((box.end[1] - box.from[1]) / TILE);
    this.done = new Int32Array(this.across * this.down);
    renderer.clearSums();
  }

  /** Samples a pixel so far, their mean. */
  get samples(): number {
    let all = 0;
    this.done.forEach((n, tile) => (all += n * this.pixelsOf(tile)));
    return all / this.pixels;
  }

  private get pixels(): number {
    return (this.box.end[0] - this.box.from[0]) * (this.box.end[1] - this.box.from[1]);
  }

  /** Adds so many samples a pixel. */
  trace(count: number): void {
    finish(this.tracing(count));
  }

  /**
   * The same in bands of rows, for callers that let others in between: whoever stops half-way starts anew.
   * @param bandRows a multiple of a tile's
   */
  *tracing(count: number, bandRows = Infinity): Generator<void> {
    yield* this.traceTo(
      this.done.map((n) => n + count),
      bandRows,
    );
  }

  /**
   * Samples where they help most until the noise is as asked for: the best shares go with the square root of
   * a tile's variance (Neyman 1934). Rounds judge by the variance of whole tiles, so that no pixel stops
   * because its own samples happened to agree, which would darken it.
   */
  traceToNoise({ noise, most, limitS = Infinity }: NoiseTarget): void {
    const began = performance.now();
    this.trace(Math.min(FIRST, most));
    while (this.noise() > noise && (performance.now() - began) / 1000 < limitS) {
      const deviation = this.deviations();
      const all = deviation.reduce((sum, d, tile) => sum + d * this.pixelsOf(tile), 0);
      const scale = all / (this.pixels * noise ** 2);
      const wanted = this.done.map((n, tile) =>
        Math.max(n, Math.min(most, GROWTH * n, Math.ceil(deviation[tile] * scale))),
      );
      // what is left to do may be less than a sample
      if (wanted.every((n, tile) => n === this.done[tile]))
        this.done.forEach((n, tile) => {
          if (deviation[tile] > 0) wanted[tile] = Math.min(most, n + Math.ceil(n / 16));
        });
      if (wanted.every((n, tile) => n === this.done[tile])) return;
      finish(this.traceTo(wanted, Infinity));
    }
  }

  private *traceTo(wanted: Int32Array, bandRows: number): Generator<void> {
    const { renderer, done } = this;
    const { look } = renderer.compiled;
    const moments = momentsOf(look);
    const { from, end } = this.box;
    const shares = new Int32Array(2 * done.length);
    const run = function* (this: TruePicture): Generator<void> {
      renderer.writeShares(shares);
      for (let y = from[1]; y < end[1]; y += bandRows) {
        const firstTile = ((y - from[1]) / TILE) * this.across;
        renderer.tracePart({ from: [from[0], y], end: [end[0], Math.min(end[1], y + bandRows)] }, firstTile);
        yield;
      }
    };

    if (moments.count === 1) {
      wanted.forEach((n, tile) => shares.set([done[tile], n - done[tile]], 2 * tile));
      yield* run.call(this);
    } else {
      const first = done.reduce((a, b) => Math.min(a, b), Infinity);
      const last = wanted.reduce((a, b) => Math.max(a, b), 0);
      const samples = Array.from({ length: last - first }, (_, n) => first + n);
      // those of a moment together: the medium is moved once for them
      for (let moment = 0; moment < moments.count; moment++) {
        const own = samples.filter((n) => moments.of(n) === moment);
        if (own.length > 0) renderer.expose({ ...SHARP, frames: moments.time(moment) });
        for (const n of own) {
          wanted.forEach((w, tile) => shares.set([n, Number(n >= done[tile] && n < w)], 2 * tile));
          yield* run.call(this);
        }
      }

      renderer.expose(SHARP);
    }

    done.set(wanted);
  }

  /**
   * Traces all samples of the picture anew, or so many where it has none yet, and says of which part of the
   * rays their light is. What the picture holds afterwards is sharp.
   */
  traceDeep(count: number): DeepPicture {
    const { renderer, done, across, box } = this;
    if (done.every((n) => n === 0)) done.fill(count);
    renderer.clearSums();
    const shares = new Int32Array(2 * done.length);
    done.forEach((n, tile) => shares.set([0, n], 2 * tile));
    const trace = (band: PixelBox): void => {
      renderer.writeShares(shares);
      renderer.tracePart(band, ((band.from[1] - box.from[1]) / TILE) * across, true);
    };

    const shadowAt = this.shadows();
    const parts = trueParts(renderer, trace, (pixel) => done[this.tileAt(pixel)], shadowAt);
    return deepPicture(renderer, box, parts);
  }

  private tileAt(pixel: number): number {
    const { width } = this.renderer;
    const [x, y] = [pixel % width, Math.floor(pixel / width)];
    const { from } = this.box;
    return Math.floor((y - from[1]) / TILE) * this.across + Math.floor((x - from[0]) / TILE);
  }

  private pixelsOf(tile: number): number {
    const x = (tile % this.across) * TILE;
    const y = Math.floor(tile / this.across) * TILE;
    const [wide, high] = [0, 1].map((a) => this.box.end[a] - this.box.from[a]);
    return Math.min(TILE, wide - x) * Math.min(TILE, high - y);
  }

  /** Calls with each pixel's number and its tile. */
  private each(visit: (pixel: number, tile: number) => void): void {
    const { from, end } = this.box;
    for (let y = from[1]; y < end[1]; y++)
      for (let x = from[0]; x < end[0]; x++) {
        const pixel = y * this.renderer.width + x;
        visit(pixel, this.tileAt(pixel));
      }
  }

  /** Premultiplied linear light. */
  rgba(): Float32Array {
    const { renderer, done } = this;
    const sums = renderer.sums('sums', SUMS);
    const shadowAt = this.shadows();
    const rgba = new Float32Array(renderer.width * renderer.height * 4);
    this.each((p, tile) => {
      const scale = PART / Math.max(1, done[tile]);
      for (let c = 0; c < 4; c++) rgba[4 * p + c] = Number(sums[SUMS * p + c]) * scale;
      rgba[4 * p + 3] += shadowAt(p);
    });
    return rgba;
  }

  /** How much darker a pixel is where light is held back from a surface that catches shadows. */
  private shadows(): (pixel: number) => number {
    const { renderer, done } = this;
    if (!renderer.layout.caught) return () => 0;
    const caught = renderer.sums('caught', CAUGHT);
    return (p) => {
      const [clear, all, lit] = [0, 1, 2].map((n) => Number(caught[CAUGHT * p + n]));
      const scale = PART / Math.max(1, done[this.tileAt(p)]);
      return all > 0 ? clear * scale * Math.max(0, 1 - lit / all) : 0;
    };
  }

  /** Each light apart, the orders of scattering, and how sure each pixel is, as far as they are asked for. */
  layers(): PictureLayer[] {
    const { apart, look } = this.renderer.compiled;
    const pictures = this.apart();
    const [single, multiple] = pictures.slice(apart.length);
    return [
      ...apart.map(({ name }, n) => lightLayer(name, pictures[n])),
      ...(look.passes.orders ? ordersOf(single, multiple) : []),
      ...(look.passes.noise ? this.noiseLayers() : []),
    ];
  }

  private apart(): Float32Array[] {
    const { renderer, done } = this;
    const count = apartCount(renderer.compiled);
    if (count === 0) return [];
    const values = renderer.width * renderer.height * RGB.length;
    const sums = renderer.sums('apart', 3 * count);
    return Array.from({ length: count }, (_, n) => {
      const picture = new Float32Array(values);
      this.each((p, tile) => {
        const scale = PART / Math.max(1, done[tile]);
        for (let c = 0; c < 3; c++) picture[3 * p + c] = Number(sums[n * values + 3 * p + c]) * scale;
      });
      return picture;
    });
  }

  private noiseLayers(): PictureLayer[] {
    const samples = new Float32Array(this.renderer.width * this.renderer.height);
    this.each((p, tile) => (samples[p] = this.done[tile]));
    return [
      { name: 'samples', channels: ['Y'], type: 'float', values: samples },
      { name: 'variance', channels: ['Y'], type: 'float', values: this.variance() },
    ];
  }

  /** Variance of the picture's luminance at each pixel. */
  variance(): Float32Array {
    const own = this.variances();
    const out = new Float32Array(own.length);
    this.each((p, tile) => (out[p] = own[p] / Math.max(1, this.done[tile])));
    return out;
  }

  /** Variance of a sample's luminance at each pixel. */
  private variances(): Float64Array {
    const { renderer, done } = this;
    const sums = renderer.sums('sums', SUMS);
    const out = new Float64Array(renderer.width * renderer.height);
    this.each((p, tile) => {
      const n = done[tile];
      if (n < 2) return;
      const at = SUMS * p;
      const mean = LUMINANCE.reduce((sum, part, c) => sum + part * Number(sums[at + c]) * PART, 0) / n;
      out[p] = (Math.max(0, (Number(sums[at + 4]) * PART) / n - mean * mean) * n) / (n - 1);
    });
    return out;
  }

  /** Standard deviation of a sample in each tile. */
  private deviations(): Float64Array {
    const sums = new Float64Array(this.done.length);
    const variances = this.variances();
    this.each((p, tile) => (sums[tile] += variances[p]));
    const own = sums.map((sum, tile) => sum / this.pixelsOf(tile));
    return own.map((v, tile) => {
      const x = tile % this.across;
      const y = Math.floor(tile / this.across);
      let beside = 0;
      for (let j = Math.max(0, y - 1); j <= Math.min(this.down - 1, y + 1); j++)
        for (let i = Math.max(0, x - 1); i <= Math.min(this.across - 1, x + 1); i++)
          beside = Math.max(beside, own[j * this.across + i]);
      return Math.sqrt(Math.max(v, BESIDE * beside));
    });
  }

  /** Standard error of the picture's luminance at its pixels, their root mean square. */
  noise(): number {
    if (this.done.some((n) => n < 2)) return Infinity;
    const variances = this.variances();
    let total = 0;
    this.each((p, tile) => (total += variances[p] / this.done[tile]));
    return Math.sqrt(total / this.pixels);
  }

  /** How far it has come. */
  reached(): { readonly samples: number; readonly noise: number } {
    return { samples: this.samples, noise: this.noise() };
  }
}

/** Goes through all bands at once. */
function finish(bands: Generator<void>): void {
  while (!bands.next().done);
}

// Makes frames of a comp in the memory of a thread pool, and keeps what the next frame may want again. The
// page's window, the command line and the server's jobs all go through here.
import type { LinearPicture } from '../files/picture';
import type { ThreadPool } from '../grid/thread-pool';
import type { Combine } from './combine';
import { ComposedFrame, Work, type KeptWork } from './composed-frame';
import type { Ingredients } from './gather';
import { Pixels, type Address } from './pixels';
import { scaled, type Matrix } from './placing';

/** Masks that it works with: two, that the one that is asked for is joined of. */
const WORK_MASKS = 2;
/** Drawn masks that are kept as they were made last. */
const KEPT_MASKS = 6;
/** Bytes that kept layers may take. */
const KEPT_BYTES = 768 * 2 ** 20;
const MOST_KEPT = 16;
/** Layers that are merged by depth at a time, the same at every size. */
const MOST_MERGED = 7;
/** The size of a comp's frame in so much of its pixels. */
export const sizeAt = ({ frame }: Combine, scale: number): { width: number; height: number } => ({
  width: Math.max(1, Math.round(frame.width * scale)),
  height: Math.max(1, Math.round(frame.height * scale)),
});

/** How many layers of a comp are merged by depth at a time; a composer has room for them. */
export const mergedIn = ({ layers }: Combine): number =>
  Math.min(MOST_MERGED, layers.filter(({ meet }) => meet === 'depth').length);

/** A layer as it was made last. */
interface Kept {
  readonly at: Address;
  layer: string;
  key: string;
  used: number;
}

export class Composer implements KeptWork {
  private readonly pixels: Pixels;
  private readonly kept: Kept[];
  private readonly toHere: Matrix;
  private turn = 0;

  /**
   * @param comp whose frame's size, number of layers and of those that are merged are taken; others that have
   * the same may follow
   * @param scale of the pictures to the comp's frame: 1 is full size
   */
  constructor(
    threadPool: ThreadPool,
    comp: Combine,
    private readonly scale: number,
  ) {
    const { width, height } = sizeAt(comp, scale);
    const slots = Math.floor(KEPT_BYTES / (16 * width * height));
    this.merged = mergedIn(comp);
    // one that is merged keeps its depth too, and one more is worked on
    const least = 2 * this.merged + 2;
    const kept = Math.max(least, Math.min(MOST_KEPT, slots, comp.layers.length + least));
    const masks = WORK_MASKS + KEPT_MASKS + this.merged;
    this.pixels = new Pixels(threadPool, width, height, Work.COUNT + kept, masks);
    this.kept = Array.from({ length: kept }, (_, n) => ({
      at: this.pixels.picture(Work.COUNT + n),
      layer: '',
      key: '',
      used: 0,
    }));
    this.toHere = scaled(width / comp.frame.width, height / comp.frame.height);
  }

  private readonly keptMasks: string[] = [];

  /** A drawn mask by all that it depends on; made where it is not kept. */
  maskFor(key: string, make: () => Address): Address {
    const at = (n: number): Address => this.pixels.mask(WORK_MASKS + n);
    const known = this.keptMasks.indexOf(key);
    if (known >= 0) return at(known);
    const made = make();
    const n = this.nextMask;
    this.nextMask = (n + 1) % KEPT_MASKS;
    this.pixels.viewMask(at(n)).set(this.pixels.viewMask(made));
    this.keptMasks[n] = key;
    return at(n);
  }

  private nextMask = 0;

  get width(): number {
    return this.pixels.width;
  }

  get height(): number {
    return this.pixels.height;
  }

  /** A frame, in premultiplied linear light: as it lies in memory until the next one. */
  compose(ingredients: Ingredients): LinearPicture {
    const { pixels } = this;
    const { comp } = ingredients;
    const { ground, colour } = comp.frame;
    const below = pixels.picture(Work.COMP);
    pixels.fill(below, ground === 'colour' ? [colour[0], colour[1], colour[2], 1] : [0, 0, 0, 0]);
    const isMerged = comp.layers.some(({ on, meet }) => on && meet === 'depth');
    if (isMerged) pixels.fill(pixels.picture(Work.DEPTH), [0, 0, 0, 0]);
    const frame = new ComposedFrame(this, pixels, ingredients, this.scale, this.toHere);
    for (const layer of [...comp.layers].reverse()) if (layer.on) frame.meet(layer, isMerged);
    frame.merge();
    return { width: this.width, height: this.height, rgba: pixels.view(below) };
  }

  /**
   * A layer as it was made last, before it met what is below it, as a small picture of so many pixels; null
   * where it was not kept.
   */
  thumbOf(id: string, width: number, height: number): Float32Array | null {
    const found = this.kept.find(({ layer, key }) => layer === id && key !== '');
    if (!found) return null;
    const view = this.pixels.view(found.at);
    const out = new Float32Array(4 * width * height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const px = Math.floor(((x + 0.5) * this.width) / width);
        const py = Math.floor(((y + 0.5) * this.height) / height);
        const from = 4 * (py * this.width + px);
        out.set(view.subarray(from, from + 4), 4 * (y * width + x));
      }

    return out;
  }

  /** Where a layer is to be made, or where it is already. */
  slotFor(
    layer: string,
    key: string,
  ): { readonly at: Address; readonly isThere: boolean; readonly done: () => void } {
    const known = this.kept.find((k) => k.layer === layer && k.key === key);
    const own = known ?? this.kept.find((k) => k.layer === layer) ?? this.oldest();
    own.used = ++this.turn;
    if (known) return { at: own.at, isThere: true, done: () => undefined };
    own.layer = layer;
    own.key = '';
    return {
      at: own.at,
      isThere: false,
      done: () => {
        own.key = key;
      },
    };
  }

  /** How many layers can wait to be merged. */
  readonly merged: number;

  /** The mask of a layer that waits, a copy, as the next one is made where it is. */
  keepMask(n: number, mask: Address): Address {
    const at = this.pixels.mask(WORK_MASKS + KEPT_MASKS + n);
    this.pixels.viewMask(at).set(this.pixels.viewMask(mask));
    return at;
  }

  private oldest(): Kept {
    return this.kept.reduce((a, b) => (b.used < a.used ? b : a));
  }
}

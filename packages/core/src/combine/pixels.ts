// Pictures in a thread pool's memory, and the kernels that work on them.
import {
  Beside,
  Halves,
  HalvesKept,
  MaskTile,
  MergedLayerStruct,
  PixelRooms,
  RemapTable,
  VectorTile,
} from '@bramblemist/kernels/seam';
import { PLAN_START, putFloats } from '../grid/memory';
import type { ThreadPool } from '../grid/thread-pool';
import type { DeepPixels } from './feed-picture';
import type { Matrix } from './placing';

/** Rows that a worker takes at a time. */
const SLAB = 8;
/** Columns that a worker takes at a time: a line of memory serves four. */
const COLUMNS = 8;
const PAGE = 65536;
/** Deviation from which on a blur is that of a half. */
const WIDE = 4;
/** What halving and doubling add to a blur's variance, pixels². */
const HALVING = 1;

/** An address in the memory: of a picture, or of a mask. */
export type Address = number;

/** What is merged by depth: a picture where it stands, and how far away its pixels are. */
export interface Merged {
  readonly picture: Address;
  /** A picture whose red is m; 0: all of it is infinitely far. */
  readonly depth: Address;
  /** 0: everywhere. */
  readonly mask: Address;
  readonly opacity: number;
  /** @param back a place here to one of the deep picture */
  readonly deep?: { readonly pixels: DeepPixels; readonly back: Matrix };
}

interface Size {
  readonly width: number;
  readonly height: number;
}

/**
 * The standard deviation of a Gaussian as three boxes: pixels to each side, and the part of one more (Gwosdek
 * et al. 2011).
 */
export function boxesOf(deviation: number): { readonly radius: number; readonly part: number } {
  const each = (deviation * deviation) / 3;
  const radius = Math.floor((Math.sqrt(1 + 12 * each) - 1) / 2);
  const whole = 2 * radius + 1;
  const own = (radius * (radius + 1) * whole) / 3;
  return { radius, part: (own - each * whole) / (2 * (each - (radius + 1) ** 2)) };
}

/** Memory in which pictures of one size are worked on. */
export class Pixels {
  private readonly first: Address;
  private readonly constants: Address;
  private readonly rooms: Address;
  private readonly roomBytes: number;
  private readonly tiles: Address;
  private readonly sources: Address;
  private next = PLAN_START;

  constructor(
    readonly threadPool: ThreadPool,
    readonly width: number,
    readonly height: number,
    private readonly pictures: number,
    private readonly masks: number,
  ) {
    this.constants = this.take(3 * RemapTable.FLOATS * 4 + 4096 * 8);
    this.roomBytes = 32 * Math.max(width, COLUMNS * height, 4096);
    this.rooms = this.take(PixelRooms.HEAD + (threadPool.helpers + 1) * this.roomBytes);
    this.tiles = this.take(8 * this.tilesAcross * this.tilesDown);
    this.first = this.take(this.pictures * this.bytes + this.masks * this.maskBytes);
    this.sources = this.next;
    this.ensure(this.next);
    const words = new Int32Array(threadPool.memory.buffer, this.rooms, PixelRooms.HEAD / 4);
    words.fill(1).fill(0, 0, threadPool.helpers + 1);
  }

  private take(bytes: number): Address {
    const at = this.next;
    this.next = Math.ceil((at + bytes) / 64) * 64;
    return at;
  }

  private ensure(end: number): void {
    this.threadPool.ensurePages(Math.ceil(end / PAGE) + 1);
  }

  private get bytes(): number {
    return Math.ceil((16 * this.width * this.height) / 64) * 64;
  }

  private get maskBytes(): number {
    return Math.ceil((4 * this.width * this.height) / 64) * 64;
  }

  private get tilesAcross(): number {
    return Math.ceil(this.width / VectorTile.EDGE);
  }

  private get tilesDown(): number {
    return Math.ceil(this.height / VectorTile.EDGE);
  }

  /** The nth picture, the nth mask. */
  picture(n: number): Address {
    return this.first + n * this.bytes;
  }

  mask(n: number): Address {
    return this.first + this.pictures * this.bytes + n * this.maskBytes;
  }

  view(picture: Address): Float32Array {
    return new Float32Array(this.threadPool.memory.buffer, picture, 4 * this.width * this.height);
  }

  viewMask(mask: Address): Float32Array {
    return new Float32Array(this.threadPool.memory.buffer, mask, this.width * this.height);
  }

  put(picture: Address, rgba: Float32Array): void {
    putFloats(this.threadPool.memory, picture, rgba);
  }

  fill(picture: Address, colour: readonly [number, number, number, number]): void {
    const view = this.view(picture);
    view.set(colour);
    if (colour.every((v) => v === colour[0])) view.fill(colour[0]);
    else for (let n = 4; n < view.length; n *= 2) view.copyWithin(n, 0, Math.min(n, view.length - n));
  }

  copy(from: Address, to: Address): void {
    this.view(to).set(this.view(from));
  }

  private floats(values: ArrayLike<number>): Address {
    new Float32Array(this.threadPool.memory.buffer, this.constants, values.length).set(values);
    return this.constants;
  }

  private get rows() {
    return { width: this.width };
  }

  // ---- One pixel at a time
  // ----------------------------------------

  /** @param columns what red, green, blue and alpha give to each: sixteen values */
  matrix(picture: Address, mask: Address, columns: readonly number[]): void {
    const matrix = this.floats(columns);
    this.threadPool.run('matrixPixels', this.height, SLAB, { picture, mask, matrix, ...this.rows });
  }

  /** @param curves of red, green and blue, see remapTables */
  remap(picture: Address, mask: Address, curves: Float32Array): void {
    const tables = this.floats(curves);
    this.threadPool.run('remapPixels', this.height, SLAB, { picture, mask, tables, ...this.rows });
  }

  /** @param cube size³ colours of four values, over light from 0 to 1 */
  cube(picture: Address, mask: Address, cube: Float32Array, size: number): void {
    const at = this.sources;
    this.ensure(at + cube.byteLength);
    putFloats(this.threadPool.memory, at, cube);
    const args = { picture, mask, cube: at, size, ...this.rows };
    this.threadPool.run('cubePixels', this.height, SLAB, args);
  }

  thin(picture: Address, mask: Address, power: number): void {
    this.threadPool.run('thinPixels', this.height, SLAB, { picture, mask, power, ...this.rows });
  }

  fog(
    picture: Address,
    mask: Address,
    depth: Address,
    { near, perMetre, colour }: { near: number; perMetre: number; colour: readonly number[] },
  ): void {
    const [red, green, blue] = colour;
    const args = { picture, mask, depth, near, perMetre, red, green, blue, ...this.rows };
    this.threadPool.run('fogPixels', this.height, SLAB, args);
  }

  /** picture · own + other · factors */
  add(
    picture: Address,
    other: Address,
    mask: Address,
    own: number,
    [red, green, blue, alpha]: readonly [number, number, number, number],
  ): void {
    const args = { picture, other, mask, own, red, green, blue, alpha, ...this.rows };
    this.threadPool.run('addPixels', this.height, SLAB, args);
  }

  bright(from: Address, to: Address, least: number): void {
    this.threadPool.run('brightPixels', this.height, SLAB, { from, to, least, ...this.rows });
  }

  softenEdges(picture: Address, soft: Address, mask: Address): void {
    this.threadPool.run('softenEdges', this.height, SLAB, { picture, soft, mask, ...this.rows });
  }

  mix(picture: Address, becomes: Address, mask: Address): void {
    this.threadPool.run('mixPixels', this.height, SLAB, { picture, becomes, mask, ...this.rows });
  }

  grain(to: Address, seed: number): void {
    this.threadPool.run('grainPixels', this.height, SLAB, { to, seed, ...this.rows });
  }

  addGrain(
    picture: Address,
    grain: Address,
    mask: Address,
    [red, green, blue]: readonly [number, number, number],
    dark: number,
  ): void {
    const args = { picture, grain, mask, red, green, blue, dark, ...this.rows };
    this.threadPool.run('addGrain', this.height, SLAB, args);
  }

  // ---- Many pixels at a time
  // ----------------------------------------

  /**
   * A wide blur is that of a smaller picture: of halves of it, as long as the rest of the blur hides them.
   * @param to may be `from`
   * @param room another picture, which is written over
   */
  blur(from: Address, to: Address, room: Address, deviation: number): void {
    if (deviation <= 0.05) {
      if (from !== to) this.copy(from, to);
      return;
    }

    const sizes = [{ width: this.width, height: this.height }];
    const halves = (n: number): Size =>
      (sizes[n] ??= { width: (halves(n - 1).width + 1) >> 1, height: (halves(n - 1).height + 1) >> 1 });
    let own = deviation;
    let level = 0;
    while (own >= WIDE && Math.min(halves(level).width, halves(level).height) > 8 * WIDE) {
      // a half is a mean over two pixels, and it is drawn out again between its pixels
      own = Math.sqrt((own * own - HALVING) / 4);
      level++;
    }

    if (level === 0) return this.blurAt(from, to, room, this, own);
    // they lie one behind the other where pictures come in
    const at = [from];
    let next = this.sources;
    for (let n = 1; n <= level; n++) {
      at.push(next);
      next += Math.ceil((16 * halves(n).width * halves(n).height) / 64) * 64;
    }

    this.ensure(next);
    for (let n = 1; n <= level; n++) {
      const args = { from: at[n - 1], to: at[n], ...halves(n - 1), halfWidth: halves(n).width };
      this.threadPool.run('halvePicture', halves(n).height, SLAB, args);
    }

    this.blurAt(at[level], at[level], room, halves(level), own);
    for (let n = level; n > 0; n--) {
      const [half, whole] = [halves(n), halves(n - 1)];
      const args = {
        from: at[n],
        to: n === 1 ? to : at[n - 1],
        halfWidth: half.width,
        halfHeight: half.height,
        width: whole.width,
      };
      this.threadPool.run('doublePicture', whole.height, SLAB, args);
    }
  }

  private blurAt(
    from: Address,
    to: Address,
    room: Address,
    { width, height }: Size,
    deviation: number,
  ): void {
    const { rooms, roomBytes } = this;
    const boxes = boxesOf(deviation);
    this.threadPool.run('blurRows', height, SLAB, { from, to: room, rooms, roomBytes, width, ...boxes });
    const down = { from: room, to, rooms, roomBytes, width, height, ...boxes };
    this.threadPool.run('blurColumns', width, COLUMNS, down);
  }

  smear(from: Address, to: Address, dx: number, dy: number): void {
    const places = Math.max(1, Math.min(256, Math.ceil(Math.hypot(dx, dy))));
    const args = { from, to, dx, dy, places, width: this.width, height: this.height };
    this.threadPool.run('blurAlong', this.height, SLAB, args);
  }

  /** @param open part of a frame */
  blurByVectors(from: Address, to: Address, vectors: Address, open: number): void {
    const { width, height, tiles } = this;
    this.threadPool.run('longestWays', this.tilesDown, 1, { vectors, to: tiles, width, height });
    const args = { from, to, vectors, tiles, open, places: 48, width, height };
    this.threadPool.run('blurByVectors', height, SLAB, args);
  }

  carry(from: Address, to: Address, vectors: Address, part: number): void {
    const args = { from, to, vectors, part, width: this.width, height: this.height };
    this.threadPool.run('carryPixels', this.height, SLAB, args);
  }

  quiet(from: Address, to: Address, mask: Address, alike: number, radius: number): void {
    const args = { from, to, mask, alike, radius, width: this.width, height: this.height };
    this.threadPool.run('quietPixels', this.height, SLAB, args);
  }

  /**
   * A picture of any size placed in this one.
   * @param back a place here to one of it, both in pixels
   * @param isHeld whether its edge goes on beside it
   */
  place(source: Size & { readonly rgba: Float32Array }, to: Address, back: Matrix, isHeld: boolean): void {
    const { memory } = this.threadPool;
    const levels: (Size & { readonly at: Address })[] = [];
    let at = this.sources;
    for (let { width, height } = source; ; width = (width + 1) >> 1, height = (height + 1) >> 1) {
      levels.push({ width, height, at });
      at += Math.ceil((16 * width * height) / 64) * 64;
      if ((width <= 2 && height <= 2) || levels.length === HalvesKept.MOST) break;
    }

    this.ensure(at);
    putFloats(memory, levels[0].at, source.rgba);
    const shrinks =
      Math.max(Math.hypot(back[0], back[3]), Math.hypot(back[1], back[4])) >= 2 ||
      back[6] !== 0 ||
      back[7] !== 0;
    const used = shrinks ? levels : levels.slice(0, 1);
    for (let n = 1; n < used.length; n++) {
      const [from, half] = [used[n - 1], used[n]];
      const args = {
        from: from.at,
        to: half.at,
        width: from.width,
        height: from.height,
        halfWidth: half.width,
      };
      this.threadPool.run('halvePicture', half.height, SLAB, args);
    }

    const halves = new Uint32Array(memory.buffer, this.constants, (used.length * Halves.BYTES) / 4);
    used.forEach((level, n) => halves.set([level.at, level.width, level.height], (n * Halves.BYTES) / 4));
    const matrix = this.constants + HalvesKept.MOST * Halves.BYTES;
    new Float64Array(memory.buffer, matrix, 9).set(back);
    this.threadPool.run('placePixels', this.height, SLAB, {
      halves: this.constants,
      count: used.length,
      to,
      matrix,
      beside: isHeld ? Beside.EDGE : Beside.NOTHING,
      width: this.width,
    });
  }

  /** A picture placed so that each pixel is one of it, for what has no mean. */
  placeNearest(
    source: Size & { readonly rgba: Float32Array },
    to: Address,
    back: Matrix,
    isHeld: boolean,
  ): void {
    const { memory } = this.threadPool;
    const from = this.sources;
    this.ensure(from + source.rgba.byteLength);
    putFloats(memory, from, source.rgba);
    const matrix = this.constants;
    new Float64Array(memory.buffer, matrix, 9).set(back);
    const beside = isHeld ? Beside.EDGE : Beside.NOTHING;
    const args = { from, wide: source.width, high: source.height, to, matrix, beside, ...this.rows };
    this.threadPool.run('placeNearest', this.height, SLAB, args);
  }

  // ---- Layers and masks
  // ----------------------------------------

  meet(below: Address, layer: Address, mask: Address, opacity: number, mode: number): void {
    this.threadPool.run('meetPixels', this.height, SLAB, { below, layer, mask, opacity, mode, ...this.rows });
  }

  /**
   * @param layers the topmost first
   * @param to,toDepth may be those of one of them
   */
  mergeByDepth(layers: readonly Merged[], to: Address, toDepth: Address): void {
    const { memory } = this.threadPool;
    let at = this.sources;
    const take = (bytes: number): Address => {
      const own = at;
      at = Math.ceil((at + bytes) / 64) * 64;
      return own;
    };

    const list = take(layers.length * MergedLayerStruct.bytes);
    const deep = layers.map(({ deep: own }) =>
      own
        ? {
            starts: take(own.pixels.starts.byteLength),
            samples: take(own.pixels.samples.byteLength),
            back: take(9 * 8),
          }
        : { starts: 0, samples: 0, back: 0 },
    );
    this.ensure(at);
    layers.forEach(({ deep: own, ...layer }, n) => {
      const { width = 0, height = 0 } = own?.pixels ?? {};
      const block = { ...layer, ...deep[n], width, height };
      MergedLayerStruct.write(memory, list + n * MergedLayerStruct.bytes, block);
      if (!own) return;
      new Float64Array(memory.buffer, deep[n].back, 9).set(own.back);
      new Uint32Array(memory.buffer, deep[n].starts, own.pixels.starts.length).set(own.pixels.starts);
      putFloats(memory, deep[n].samples, own.pixels.samples);
    });
    const { rooms, roomBytes } = this;
    const args = { layers: list, count: layers.length, to, toDepth, rooms, roomBytes, ...this.rows };
    this.threadPool.run('mergeByDepth', this.height, 1, args);
  }

  /** How far away what lies over all is, where something of it is. */
  coverDepth(layer: Address, mask: Address, opacity: number, depth: Address, toDepth: Address): void {
    const args = { layer, mask, opacity, depth, toDepth, ...this.rows };
    this.threadPool.run('coverDepth', this.height, SLAB, args);
  }

  /**
   * @param outline pairs of places, closed; @param inner, outer how far it fades, more than nothing together
   */
  outline(outline: readonly (readonly [number, number])[], inner: number, outer: number, to: Address): void {
    const { width, height } = this;
    const { rooms, roomBytes } = this;
    const points = this.floats(outline.flat());
    const args = { points, count: outline.length, inner, outer, to, rooms, roomBytes, width, height };
    this.threadPool.run('fillOutline', Math.ceil(height / MaskTile.EDGE), 1, args);
  }

  maskFrom(picture: Address, source: number, low: number, high: number, to: Address): void {
    this.threadPool.run('maskFromPicture', this.height, SLAB, {
      picture,
      source,
      low,
      high,
      to,
      ...this.rows,
    });
  }

  joinMasks(mask: Address, other: Address, how: number): void {
    this.threadPool.run('joinMasks', this.height, SLAB, { mask, other, how, ...this.rows });
  }
}

/** Curves of red, green and blue: what comes out for light that comes in, as remapPixels looks it up. */
export function remapTables(curves: readonly ((light: number) => number)[]): Float32Array {
  const all = new Float32Array(3 * RemapTable.FLOATS);
  curves.forEach((curve, c) => all.set(remapTable(curve), c * RemapTable.FLOATS));
  return all;
}

/** A curve over light as remapPixels looks it up. */
export function remapTable(curve: (light: number) => number): Float32Array {
  const table = new Float32Array(RemapTable.FLOATS);
  for (let n = 0; n <= RemapTable.STEPS; n++) table[n] = curve((n / RemapTable.STEPS) ** 2);
  table[RemapTable.ABOVE] = (curve(1) - curve(0.98)) / 0.02;
  table[RemapTable.BELOW] = (curve(0.0001) - curve(0)) / 0.0001;
  return table;
}

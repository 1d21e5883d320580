// One frame of a comp, while it is made: every layer is placed, worked on and laid over what is below it.
import { MaskJoin, MeetMode } from '@bramblemist/kernels/seam';
import type { ColourTable } from '../files/cube/cube';
import { canonicalText } from '../recipe/document';
import { operationsOf, type CompLayer, type CompMask, type CompOperation } from './combine';
import type { FeedPicture } from './feed-picture';
import type { Ingredients } from './gather';
import { lineOf, MASK_JOINS, MASK_SOURCES } from './masks';
import { applyOperation, type AtHand } from './operations';
import { Pixels, type Address, type Merged } from './pixels';
import { bindingAt, inverted, placeOf, scaled, times, type Matrix } from './placing';

const MEETINGS: Readonly<Record<Exclude<CompLayer['meet'], 'depth'>, number>> = {
  over: MeetMode.OVER,
  under: MeetMode.UNDER,
  screen: MeetMode.SCREEN,
  add: MeetMode.ADD,
  multiply: MeetMode.MULTIPLY,
  lighten: MeetMode.LIGHTEN,
  difference: MeetMode.DIFFERENCE,
  atop: MeetMode.ATOP,
  keep: MeetMode.KEEP,
  cut: MeetMode.CUT,
};

/** Pictures that it works with, before those in which layers are kept. */
export enum Work {
  COMP,
  DEPTH,
  SPARE,
  ROOM,
  PASS,
  FAR,
  COUNT,
}

/** An edge that is not soft is still no staircase. */
const CRISP = 0.5;

/** What stays from frame to frame, so that only what changes is made again. */
export interface KeptWork {
  /** How many layers can wait to be merged. */
  readonly merged: number;
  /** A drawn mask by all that it depends on; made where it is not kept. */
  maskFor(key: string, make: () => Address): Address;
  /** The mask of a layer that waits, a copy, as the next one is made where it is. */
  keepMask(n: number, mask: Address): Address;
  /** Where a layer is to be made, or where it is already. */
  slotFor(
    layer: string,
    key: string,
  ): { readonly at: Address; readonly isThere: boolean; readonly done: () => void };
}

/** One frame of a comp, while it is made. */
export class ComposedFrame {
  constructor(
    private readonly kept: KeptWork,
    private readonly pixels: Pixels,
    private readonly all: Ingredients,
    private readonly scale: number,
    private readonly toHere: Matrix,
  ) {}

  meet(layer: CompLayer, isMerged: boolean): void {
    const made = this.layer(layer);
    if (made === null) return;
    if (layer.meet === 'depth') return this.wait(layer, made);
    this.merge();
    const { pixels } = this;
    const mask = this.mask(layer.mask);
    const opacity = layer.opacity / 100;
    pixels.meet(pixels.picture(Work.COMP), made, mask, opacity, MEETINGS[layer.meet]);
    if (!isMerged || layer.meet !== 'over') return;
    const depth = pixels.picture(Work.PASS);
    if (this.surfaces(layer, depth))
      pixels.coverDepth(made, mask, opacity, depth, pixels.picture(Work.DEPTH));
  }

  /** Layers one over another that are merged by depth, the topmost first. */
  private readonly waiting: Merged[] = [];

  /** Keeps what is merged by depth until all that it is merged with is there. */
  private wait(layer: CompLayer, picture: Address): void {
    const own = this.all.layers.get(layer.id);
    const deep = own?.picture.deep;
    const back = deep && own ? this.backOf(layer, own.picture) : null;
    const depth = deep && back ? 0 : this.depthOf(layer);
    const opacity = layer.opacity / 100;
    const made = this.mask(layer.mask);
    const mask = made === 0 ? 0 : this.kept.keepMask(this.waiting.length, made);
    const whole = deep && back ? { deep: { pixels: deep, back } } : {};
    this.waiting.unshift({ picture, depth, mask, opacity, ...whole });
    if (this.waiting.length >= this.kept.merged) this.merge();
  }

  /** A layer's depth where it stands; 0 where its pictures have none. */
  private depthOf(layer: CompLayer): Address {
    const key = this.keyOf({ ...layer, feed: { ...layer.feed, pass: 'depth' } }, []);
    if (key === null) return 0;
    const slot = this.kept.slotFor(`${layer.id} depth`, key);
    if (slot.isThere) return slot.at;
    if (!this.surfaces(layer, slot.at)) return 0;
    slot.done();
    return slot.at;
  }

  /** How far away a layer's surfaces are: not between them, where nothing is. */
  private surfaces(layer: CompLayer, to: Address): boolean {
    const own = this.all.layers.get(layer.id);
    const rgba = own?.picture.passes.get('depth');
    const back = own ? this.backOf(layer, own.picture) : null;
    if (!own || !rgba || !back) return false;
    const { width, height } = own.picture;
    this.pixels.placeNearest({ width, height, rgba }, to, back, this.isHeld(layer));
    return true;
  }

  /** Merges what waits with what is below it. */
  merge(): void {
    if (this.waiting.length === 0) return;
    const { pixels } = this;
    const [picture, depth] = [pixels.picture(Work.COMP), pixels.picture(Work.DEPTH)];
    pixels.mergeByDepth([...this.waiting, { picture, depth, mask: 0, opacity: 1 }], picture, depth);
    this.waiting.length = 0;
  }

  /** A layer with its operations; null where nothing of it is there. */
  private layer(layer: CompLayer): Address | null {
    const { comp } = this.all;
    const operations = operationsOf(comp, layer.id);
    const key = this.keyOf(layer, operations);
    if (key === null) return null;
    const slot = this.kept.slotFor(layer.id, key);
    if (slot.isThere) return slot.at;
    if (!this.feed(layer, slot.at)) return null;
    for (const operation of relightFirst(operations)) this.operate(layer, operation, slot.at);
    slot.done();
    return slot.at;
  }

  /** Everything that a layer's pixels depend on, as a text; null where it is fed by nothing. */
  private keyOf(layer: CompLayer, operations: readonly CompOperation[]): string | null {
    const { comp, layers, frame } = this.all;
    const { feed, place, bind } = layer;
    const own = layers.get(layer.id);
    const below = feed.kind === 'layer' ? comp.layers.find(({ id }) => id === feed.layer) : undefined;
    if (feed.kind === 'layer' && !below) return null;
    if ((feed.kind === 'render' || feed.kind === 'file') && !own) return null;
    const others = operations.flatMap((o) => (o.kind === 'fog' && o.depthOf !== '' ? [o.depthOf] : []));
    const masks = operations.flatMap((o) => this.maskChain(o.mask));
    const from = masks.flatMap((m) => (m.kind === 'taken' ? [m.from] : []));
    const source = (id: string): unknown => {
      const other = comp.layers.find((l) => l.id === id);
      const seen = layers.get(id);
      return [
        seen?.picture.key,
        seen?.next?.key,
        seen?.part,
        other && [other.place, other.bind, other.feed, other.time],
      ];
    };

    const isMoving =
      bind.how !== 'free' ||
      masks.some((m) => m.kind === 'drawn') ||
      operations.some(({ kind }) => kind === 'grain');
    return canonicalText([
      [feed, place, bind, layer.time.between, operations, masks],
      [own?.picture.key, own?.next?.key, own?.part, own?.pace],
      [...others, ...from].map(source),
      below ? this.keyOf(below, operationsOf(comp, below.id)) : null,
      isMoving || from.length > 0 ? frame : null,
      comp.frame,
      comp.files,
    ]);
  }

  /** Puts what feeds a layer at its place; false where nothing does. */
  private feed(layer: CompLayer, to: Address): boolean {
    const { pixels } = this;
    const { feed } = layer;
    if (feed.kind === 'plain') {
      pixels.fill(to, [feed.colour[0], feed.colour[1], feed.colour[2], 1]);
      return true;
    }

    if (feed.kind === 'gradient') {
      gradient(pixels, to, layer);
      return true;
    }

    if (feed.kind === 'layer') {
      const below = this.all.comp.layers.find(({ id }) => id === feed.layer);
      const made = below ? this.layer(below) : null;
      if (made === null) return false;
      const rgba = pixels.view(made).slice();
      const { width, height } = this.all.comp.frame;
      // it has the size of the frame, whatever it is shown in
      const back = this.backOf(layer, { width, height, pixelAspect: this.all.comp.frame.squeeze });
      if (!back) return false;
      const toSource = scaled(pixels.width / width, pixels.height / height);
      pixels.place(
        { width: pixels.width, height: pixels.height, rgba },
        to,
        times(toSource, back),
        this.isHeld(layer),
      );
      return true;
    }

    return this.fromPictures(layer, to);
  }

  private fromPictures(layer: CompLayer, to: Address): boolean {
    const own = this.all.layers.get(layer.id);
    if (!own) return false;
    const { pixels } = this;
    const { pass } = layer.feed;
    const put = (picture: FeedPicture, at: Address): boolean => {
      const rgba = pass === '' ? picture.rgba : picture.passes.get(pass);
      return rgba !== undefined && this.put(layer, picture, rgba, at);
    };

    if (!put(own.picture, to)) return false;
    if (!own.next || own.part === 0) return true;
    const [spare, room] = [pixels.picture(Work.SPARE), pixels.picture(Work.ROOM)];
    if (layer.time.between === 'motion') this.carry(layer, own.picture, to, own.part);
    if (!put(own.next, spare)) return true;
    if (layer.time.between === 'motion') {
      pixels.copy(spare, room);
      this.carry(layer, own.next, room, own.part - 1);
      pixels.copy(room, spare);
    }

    const { part } = own;
    pixels.add(to, spare, 0, 1 - part, [part, part, part, part]);
    return true;
  }

  /** A picture a part of a frame later, along its motion. */
  private carry(layer: CompLayer, picture: FeedPicture, at: Address, part: number): void {
    const { pixels } = this;
    const [vectors, away] = [pixels.picture(Work.PASS), pixels.picture(Work.FAR)];
    const motion = picture.passes.get('motion');
    if (!motion || !this.put(layer, picture, motion, vectors)) return;
    this.toWays(layer, picture, vectors, 1);
    pixels.carry(at, away, vectors, part);
    pixels.copy(away, at);
  }

  /** Motion in the picture's own pixels becomes motion in the pixels here. */
  private toWays(layer: CompLayer, picture: FeedPicture, vectors: Address, pace: number): void {
    const place = times(this.toHere, this.placeOf(layer, picture));
    const [a, b, d, e] = [place[0], place[1], place[3], place[4]].map((v) => v * pace);
    this.pixels.matrix(vectors, 0, [a, d, 0, 0, b, e, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
  }

  private put(layer: CompLayer, picture: FeedPicture, rgba: Float32Array, to: Address): boolean {
    const back = this.backOf(layer, picture);
    if (!back) return false;
    this.pixels.place({ width: picture.width, height: picture.height, rgba }, to, back, this.isHeld(layer));
    return true;
  }

  private isHeld(layer: CompLayer): boolean {
    return layer.place.edges === 'edge';
  }

  private placeOf(layer: CompLayer, size: { width: number; height: number; pixelAspect: number }): Matrix {
    const { comp, tracks, frame } = this.all;
    return placeOf(comp, layer, size, tracks.get(layer.bind.file) ?? null, frame);
  }

  private backOf(
    layer: CompLayer,
    size: { width: number; height: number; pixelAspect: number },
  ): Matrix | null {
    return inverted(times(this.toHere, this.placeOf(layer, size)));
  }

  /** A pass of a layer where the layer stands; null where its pictures have none. */
  private pass(layer: CompLayer, name: string, to: Address): Address | null {
    const own = this.all.layers.get(layer.id);
    const values = own?.picture.passes.get(name);
    if (!own || !values || !this.put(layer, own.picture, values, to)) return null;
    if (name === 'motion') this.toWays(layer, own.picture, to, own.pace);
    return to;
  }

  private operate(layer: CompLayer, operation: CompOperation, picture: Address): void {
    const { pixels, all, scale } = this;
    const far = pixels.picture(Work.FAR);
    const at: AtHand = {
      pixels,
      scale,
      frame: all.frame,
      spare: pixels.picture(Work.SPARE),
      room: pixels.picture(Work.ROOM),
      pass: (name) => this.pass(layer, name, pixels.picture(Work.PASS)),
      depthOf: (id) => {
        const other = all.comp.layers.find((l) => l.id === id);
        return other ? this.pass(other, 'depth', far) : null;
      },
      table: (file): ColourTable | null => all.tables.get(file) ?? null,
    };
    applyOperation(operation, picture, this.mask(operation.mask), at);
  }

  /** A mask and those that it is joined with, as far as they are on. */
  private maskChain(id: string): CompMask[] {
    const chain: CompMask[] = [];
    for (let next = id; next !== '';) {
      const mask = this.all.comp.masks.find((m) => m.id === next);
      if (!mask?.on || chain.includes(mask)) break;
      chain.push(mask);
      next = mask.with;
    }

    return chain;
  }

  /** @returns address of the mask; 0: everywhere */
  private mask(id: string): Address {
    const chain = this.maskChain(id);
    if (chain.length === 0) return 0;
    if (!chain.every(({ kind }) => kind === 'drawn')) return this.joined(chain);
    const key = canonicalText(chain.map((mask) => [this.lineOf(mask), mask]));
    return this.kept.maskFor(key, () => this.joined(chain));
  }

  private joined(chain: CompMask[]): Address {
    const { pixels } = this;
    let made = -1;
    for (const mask of [...chain].reverse()) {
      const own = made === 0 ? 1 : 0;
      this.ownMask(mask, pixels.mask(own));
      if (made >= 0) pixels.joinMasks(pixels.mask(own), pixels.mask(made), MASK_JOINS[mask.join]);
      made = own;
    }

    return pixels.mask(made);
  }

  /**
   * What a mask is taken from; where its layer is not there just now, that is nothing. @returns false: no
   * such pass
   */
  private source(from: CompLayer, pass: string, to: Address): boolean {
    const isThere =
      this.all.layers.has(from.id) || from.feed.kind === 'plain' || from.feed.kind === 'gradient';
    if (isThere) return pass === '' ? this.feed(from, to) : this.pass(from, pass, to) !== null;
    this.pixels.fill(to, [0, 0, 0, 0]);
    return true;
  }

  /** A drawn mask's line in the pixels here. */
  private lineOf(mask: CompMask): ReturnType<typeof lineOf> {
    const { comp, tracks, frame } = this.all;
    const binding = bindingAt(comp, mask.bind, tracks.get(mask.bind.file) ?? null, frame);
    return lineOf(mask, comp.frame, frame, times(this.toHere, binding));
  }

  private ownMask(mask: CompMask, to: Address): void {
    const { pixels, all, scale } = this;
    if (mask.kind === 'drawn') {
      const line = this.lineOf(mask);
      const size = scale * (mask.place.scale / 100);
      const isCrisp = (mask.inner + mask.outer) * size < 2 * CRISP;
      pixels.outline(line, isCrisp ? CRISP : mask.inner * size, isCrisp ? CRISP : mask.outer * size, to);
    } else {
      const from = all.comp.layers.find(({ id }) => id === mask.from);
      const picture = pixels.picture(Work.FAR);
      if (from && this.source(from, mask.pass, picture))
        pixels.maskFrom(picture, MASK_SOURCES[mask.channel], mask.low, mask.high, to);
      else pixels.viewMask(to).fill(1);
    }

    if (mask.invert) pixels.joinMasks(to, 0, MaskJoin.INVERT);
  }
}

/** Lights are parts of what was rendered, so that they are changed before anything else. */
const relightFirst = (operations: readonly CompOperation[]): CompOperation[] => [
  ...operations.filter(({ kind }) => kind === 'relight'),
  ...operations.filter(({ kind }) => kind !== 'relight'),
];

/** From one colour to another across the frame, along its turn. */
function gradient(pixels: Pixels, to: Address, { feed }: CompLayer): void {
  const { width, height } = pixels;
  const view = pixels.view(to);
  const a = (feed.turn * Math.PI) / 180;
  const [dx, dy] = [Math.cos(a), Math.sin(a)];
  const reach = Math.abs(dx) * width + Math.abs(dy) * height;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const along = (dx * (x + 0.5 - width / 2) + dy * (y + 0.5 - height / 2)) / reach + 0.5;
      const n = 4 * (y * width + x);
      for (let c = 0; c < 3; c++) view[n + c] = feed.colour[c] + along * (feed.second[c] - feed.colour[c]);
      view[n + 3] = 1;
    }
}

// A compiled look in the memory of a thread pool, and its two estimators: a quick picture at once, and
// samples of a true one that add up. Light volumes are made when they are first needed and kept.
import {
  Ambient,
  LampKind,
  LampStruct,
  LightSweepStruct,
  MediumStruct,
  SceneStruct,
  SurfaceSeen,
  SurfaceStruct,
  type SceneFields,
} from '@bramblemist/kernels/seam';
import { putFloats } from '../grid/memory';
import { named } from '../grid/sweep';
import type { ThreadPool } from '../grid/thread-pool';
import type { Triple } from '../math/vector';
import type { CompiledLook } from './compile-look';
import { GLOW_APART, SKY_APART } from './lamps';
import { cameraRays } from './look';
import { meanTint } from './medium';
import {
  BAND,
  boundsAround,
  type Box,
  CAUGHT,
  coarse,
  keyOf,
  lampsFor,
  type Layout,
  layOut,
  MARGIN,
  SUMS,
  VALUES_PER_PIXEL,
} from './render-layout';
import { placeOn } from './solids';
import { directionRule } from './sphere-rule';

/** Premultiplied linear light; depths in metres, 0 where nothing is met. All top row first. */
export interface RenderedFrame {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
  readonly opticalDepth: Float32Array;
  readonly depthFront: Float32Array;
  readonly depthBack: Float32Array;
  /** Premultiplied red, green and blue of each light apart; none where they are not asked for. */
  readonly lights: readonly { readonly name: string; readonly rgb: Float32Array }[];
}

/** Pixels from a corner and behind the last. */
export interface PixelBox {
  readonly from: readonly [number, number];
  readonly end: readonly [number, number];
}

const TILE = 32;
const MOST_ROOMS = 64;
/** Times that light goes from surface to surface in quick pictures before the rest is reckoned. */
const BOUNCES = 4;

const LAMP_KINDS = {
  sun: LampKind.SUN,
  point: LampKind.POINT,
  spot: LampKind.SPOT,
  rectangle: LampKind.RECTANGLE,
  disc: LampKind.DISC,
  environment: LampKind.ENVIRONMENT,
  mesh: LampKind.MESH,
} as const;

export class LookRenderer {
  private readonly layout: Layout;
  private isLit = false;
  private readonly meanTint: Triple;
  private readonly meanTakes: Triple;
  private sampled = 0;

  /** @param threadPool of at least renderPages pages */
  constructor(
    private readonly threadPool: ThreadPool,
    private readonly compiled: CompiledLook,
  ) {
    this.layout = layOut(compiled, threadPool.helpers + 1);
    threadPool.ensurePages(this.layout.pages);
    const { medium } = compiled;
    this.meanTint = meanTint(medium.tint, medium.density);
    this.meanTakes = medium.takes === null ? this.meanTint : meanTint(medium.takes, medium.density);
    this.writeMedium();
    this.writeLamps();
    this.writeSurfaces();
    const rooms = new Int32Array(threadPool.memory.buffer, this.layout.rooms, MOST_ROOMS);
    rooms.fill(1).fill(0, 0, threadPool.helpers + 1);
    this.bigSums(this.layout.sums, SUMS).fill(0n);
    this.counter().fill(0n);
    if (this.layout.apart) this.bigSums(this.layout.apart, 3 * compiled.apart.length).fill(0n);
    if (this.layout.caught) this.bigSums(this.layout.caught, CAUGHT).fill(0n);
  }

  get width(): number {
    return this.compiled.look.camera.width;
  }

  get height(): number {
    return this.compiled.look.camera.height;
  }

  /** Samples a pixel that the true picture has so far. */
  get samples(): number {
    return this.sampled;
  }

  /**
   * A quick picture: single scattering from light volumes, further orders as octaves.
   * @param isLit false where only depths are wanted
   */
  march({ box = this.all(), isLit = true }: { box?: PixelBox; isLit?: boolean } = {}): RenderedFrame {
    if (!this.isLit && isLit) this.light();
    return this.marchWith(box, isLit, {});
  }

  private marchWith(box: PixelBox, isLit: boolean, shines: Partial<SceneFields>): RenderedFrame {
    const { threadPool, layout } = this;
    const { from, count } = lampsFor(this.compiled, 'quick');
    this.writeScene(box, {
      lamps: layout.lamps + from * LampStruct.bytes,
      lampCount: layout.lit.some((address) => address > 0) ? count : 0,
      allLamps: count,
      image: layout.quick,
      ...shines,
    });
    if (layout.limits) {
      new Float32Array(threadPool.memory.buffer, layout.limits, this.width * (this.height + 1) + 8).fill(1e9);
      threadPool.run('surfaceLimits', box.end[1] - box.from[1], 2, { scene: layout.scene });
    }

    threadPool.run('marchTiles', this.tiles(box), 1, { scene: layout.scene });
    const rows = box.end[1] - box.from[1];
    if (layout.limits) threadPool.run('shadeSurfaces', rows, 2, { scene: layout.scene });
    if (this.compiled.look.sky.seen === 'seen' && isLit)
      threadPool.run('shadeBackground', rows, 2, { scene: layout.scene });
    return this.quickFrame();
  }

  /** Adds so many samples a pixel to the true picture, or to a part of it. */
  trace(count: number, box: PixelBox = this.all()): void {
    this.traceBox(count, box);
    this.sampled += count;
  }

  /**
   * The same in bands of rows, for callers that let others in between: whoever stops half-way starts anew.
   * @param rows of a band
   */
  *traceInBands(count: number, rows: number, { from, end }: PixelBox = this.all()): Generator<void> {
    for (let y = from[1]; y < end[1]; y += rows) {
      this.traceBox(count, { from: [from[0], y], end: [end[0], Math.min(end[1], y + rows)] });
      yield;
    }

    this.sampled += count;
  }

  /** A quick picture in bands of rows. */
  *marchInBands(rows: number): Generator<RenderedFrame> {
    for (let y = 0; y < this.height; y += rows)
      yield this.march({ box: { from: [0, y], end: [this.width, Math.min(this.height, y + rows)] } });
  }

  private traceBox(count: number, box: PixelBox): void {
    const { threadPool, layout } = this;
    const { from, count: lampCount } = lampsFor(this.compiled, 'true');
    this.writeScene(box, {
      lamps: layout.lamps + from * LampStruct.bytes,
      lampCount,
      image: layout.sums,
      firstSample: this.sampled,
      samples: count,
    });
    threadPool.run('tracePaths', this.tiles(box), 1, { scene: layout.scene });
  }

  /** The true picture as it is so far: premultiplied linear light. */
  traced(): Float32Array {
    const { width, height, sampled } = this;
    const sums = this.bigSums(this.layout.sums, SUMS);
    const caught = this.layout.caught ? this.bigSums(this.layout.caught, CAUGHT) : null;
    const rgba = new Float32Array(width * height * 4);
    const scale = 2 ** -32 / Math.max(1, sampled);
    for (let p = 0; p < width * height; p++) {
      for (let c = 0; c < 4; c++) rgba[4 * p + c] = Number(sums[SUMS * p + c]) * scale;
      if (!caught) continue;
      // where light is held back from a surface, the picture darkens
      const [clear, all, lit] = [0, 1, 2].map((n) => Number(caught[CAUGHT * p + n]));
      if (all > 0) rgba[4 * p + 3] += clear * scale * Math.max(0, 1 - lit / all);
    }

    return rgba;
  }

  private placeApart(light: string): number {
    return Math.max(
      0,
      this.compiled.apart.findIndex(({ of }) => of === light),
    );
  }

  /** Each light apart of the true picture as it is so far. */
  tracedApart(): RenderedFrame['lights'] {
    const { apart } = this.compiled;
    if (apart.length === 0) return [];
    const values = this.width * this.height * 3;
    const sums = this.bigSums(this.layout.apart, 3 * apart.length);
    const scale = 2 ** -32 / Math.max(1, this.sampled);
    return apart.map(({ name }, n) => ({
      name,
      rgb: Float32Array.from({ length: values }, (_, v) => Number(sums[n * values + v]) * scale),
    }));
  }

  /**
   * Each light apart of a quick picture: a picture with that one alone. Where solids give light to one
   * another, together they are a little other than all at once, whose endless rest is reckoned for all of it.
   */
  marchApart(box: PixelBox = this.all()): RenderedFrame['lights'] {
    if (!this.isLit) this.light();
    return this.compiled.apart.map(({ of, name }) => {
      const alone = this.alone(of);
      this.lightAround(alone);
      const { rgba } = this.marchWith(box, true, alone);
      return {
        name,
        rgb: Float32Array.from(
          { length: (rgba.length / 4) * 3 },
          (_, v) => rgba[4 * Math.floor(v / 3) + (v % 3)],
        ),
      };
    });
  }

  /** What of a scene is there where one light alone shines in a quick picture. */
  private alone(light: string): Partial<SceneFields> {
    const { compiled, layout } = this;
    const { lamps } = compiled;
    const own = lamps.flatMap((lamp, n) => (lamp.apart === light && lamp.lights !== 'true' ? [n] : []));
    const isKey = own.length === 1 && lamps[own[0]] === keyOf(compiled);
    return {
      ...(isKey ? {} : { sunR: 0, sunG: 0, sunB: 0 }),
      ...(light === SKY_APART ? {} : { skyR: 0, skyG: 0, skyB: 0, sky: 0 }),
      glows: Number(light === GLOW_APART),
      lamps: layout.lamps + (own[0] ?? 0) * LampStruct.bytes,
      lampCount: isKey ? 0 : own.length,
      allLamps: own.length,
    };
  }

  private counter(): BigInt64Array {
    return new BigInt64Array(this.threadPool.memory.buffer, this.layout.lookUps, 1);
  }

  /** How often rays have looked the medium's extinction up so far. */
  get lookUps(): number {
    return Number(this.counter()[0]);
  }

  /** Sums of pixels that the kernels keep as whole numbers, in parts of 2³². */
  private bigSums(address: number, perPixel: number): BigInt64Array {
    const { width, height, threadPool } = this;
    return new BigInt64Array(threadPool.memory.buffer, address, width * height * perPixel);
  }

  /** Standard error of the picture's mean luminance at its pixels, their root mean square. */
  noise(): number {
    const { width, height, sampled } = this;
    if (sampled < 2) return Infinity;
    const sums = this.bigSums(this.layout.sums, SUMS);
    const value = (n: number): number => Number(sums[n]) * 2 ** -32;
    let total = 0;
    for (let p = 0; p < width * height; p++) {
      const at = SUMS * p;
      const mean = (0.2126 * value(at) + 0.7152 * value(at + 1) + 0.0722 * value(at + 2)) / sampled;
      total += Math.max(0, value(at + 4) / sampled - mean * mean) / (sampled - 1);
    }

    return Math.sqrt(total / (width * height));
  }

  /** How far the true picture has come. */
  reached(): { readonly samples: number; readonly noise: number } {
    return { samples: this.sampled, noise: this.noise() };
  }

  private all(): PixelBox {
    return { from: [0, 0], end: [this.width, this.height] };
  }

  private tiles({ from, end }: PixelBox): number {
    return Math.ceil((end[0] - from[0]) / TILE) * Math.ceil((end[1] - from[1]) / TILE);
  }

  private quickFrame(): RenderedFrame {
    const { width, height } = this;
    const pixels = width * height;
    const raw = new Float32Array(this.threadPool.memory.buffer, this.layout.quick, pixels * VALUES_PER_PIXEL);
    const rgba = new Float32Array(pixels * 4);
    const opticalDepth = new Float32Array(pixels);
    const depthFront = new Float32Array(pixels);
    const depthBack = new Float32Array(pixels);
    for (let p = 0, q = 0; p < pixels; p++, q += VALUES_PER_PIXEL) {
      for (let c = 0; c < 4; c++) rgba[4 * p + c] = raw[q + c];
      opticalDepth[p] = raw[q + 4];
      depthFront[p] = raw[q + 5];
      depthBack[p] = raw[q + 6];
    }

    return { width, height, rgba, opticalDepth, depthFront, depthBack, lights: [] };
  }

  private writeMedium(): void {
    const { threadPool, layout, compiled } = this;
    const { memory } = threadPool;
    const { medium } = compiled;
    const { box } = layout;
    const [nx, ny, nz] = medium.dims;
    const values = new Float32Array(memory.buffer, layout.extinction - MARGIN, (box.bytes + 2 * MARGIN) / 4);
    values.fill(0);
    const lead = MARGIN / 4;
    for (let k = 0, from = 0; k < nz; k++)
      for (let j = 0; j < ny; j++, from += nx)
        values.set(
          medium.density.subarray(from, from + nx),
          lead + (k + 1) * box.plane + (j + 1) * box.row + 1,
        );
    if (medium.tint) this.writeTint(medium.tint, layout.tint);
    if (medium.takes && medium.takes !== medium.tint) this.writeTint(medium.takes, layout.takes);
    if (medium.curve) putFloats(memory, layout.curve, medium.curve.values);
    threadPool.run('toExtinction', box.n[2], 4, {
      field: layout.extinction,
      plane: box.plane,
      sigma: medium.sigma,
      curve: medium.curve ? layout.curve : 0,
      most: medium.curve?.most ?? 0,
    });
    MediumStruct.write(memory, layout.medium, {
      nx,
      ny,
      nz,
      row: box.row,
      plane: box.plane,
      extinction: layout.extinction,
      light: layout.light,
      tint: layout.tint,
      takes: layout.takes,
      needed: layout.needed,
      held: layout.held,
      blocks: layout.tops,
      blocksX: layout.blocks[0],
      blocksY: layout.blocks[1],
      blocksZ: layout.blocks[2],
    });
    const [bx, by, bz] = layout.blocks;
    new Uint32Array(memory.buffer, layout.tops, bx * by * bz).fill(0);
    threadPool.run('topsOfBlocks', bz - 2, 1, { medium: layout.medium });
    threadPool.solo('markAhead', { medium: layout.medium });
    threadPool.run('markNeeded', box.n[2], 4, { medium: layout.medium });
  }

  /** Colours with the nearest one in the ring, so that the medium's edge does not fade to black. */
  private writeTint(tint: Uint16Array, address: number): void {
    const { layout, threadPool, compiled } = this;
    const { box } = layout;
    const [nx, ny, nz] = compiled.medium.dims;
    const words = new Uint16Array(threadPool.memory.buffer, address, 2 * (box.bytes / 2));
    const near = (v: number, n: number): number => Math.min(n - 1, Math.max(0, v - 1));
    for (let k = 0; k < nz + 2; k++)
      for (let j = 0; j < ny + 2; j++) {
        const from = (near(k, nz) * ny + near(j, ny)) * nx;
        const to = 4 * (k * box.plane + j * box.row);
        words.set(tint.subarray(4 * from, 4 * (from + nx)), to + 4);
        words.copyWithin(to, to + 4, to + 8);
        words.copyWithin(to + 4 * (nx + 1), to + 4 * nx, to + 4 * (nx + 1));
      }
  }

  private writeLamps(): void {
    const { threadPool, layout, compiled } = this;
    compiled.lamps.forEach((lamp, n) =>
      LampStruct.write(threadPool.memory, layout.lamps + n * LampStruct.bytes, {
        kind: LAMP_KINDS[lamp.kind],
        shadows: Number(lamp.shadows),
        ...named(['x', 'y', 'z'], lamp.place),
        ...named(['aimX', 'aimY', 'aimZ'], lamp.aim),
        ...named(['uX', 'uY', 'uZ'], lamp.u),
        ...named(['vX', 'vY', 'vZ'], lamp.v),
        ...named(['red', 'green', 'blue'], lamp.power),
        cosineEnd: lamp.cosineEnd,
        cosineFull: lamp.cosineFull,
        lit: layout.lit[n],
        within: lamp.within,
        triangles: layout.glowing[n],
        triangleCount: (lamp.glowing?.triangles.length ?? 0) / 10,
        area: lamp.glowing?.area ?? 0,
        apart: Math.max(
          0,
          compiled.apart.findIndex(({ of }) => of === lamp.apart),
        ),
      }),
    );
    compiled.lamps.forEach(({ glowing }, n) => {
      if (glowing) putFloats(threadPool.memory, layout.glowing[n], glowing.triangles);
    });
    if (compiled.environment) putFloats(threadPool.memory, layout.sky, compiled.environment.table);
  }

  private writeSurfaces(): void {
    const { threadPool, layout, compiled } = this;
    const { memory } = threadPool;
    const { medium } = compiled;
    for (const { address, seen, tree, corners, grid } of layout.surfaces) {
      const { shape, cellM } = seen.solid;
      // from cells of the plan to cells of the volume
      const f = cellM / medium.voxelSizeM;
      const times = (v: readonly number[]): number[] => v.map((x) => x * f);
      putFloats(memory, corners, Float32Array.from(shape.corners.flatMap(times)));
      if (shape.grid)
        putFloats(
          memory,
          grid,
          shape.grid.distances.map((d) => d * f),
        );
      if (tree) {
        new Uint8Array(memory.buffer, tree.nodes, tree.made.nodes.byteLength).set(
          new Uint8Array(tree.made.nodes),
        );
        putFloats(memory, tree.triangles, tree.made.triangles);
      }

      SurfaceStruct.write(memory, address, {
        kind: shape.kind,
        ...named(
          ['cx', 'cy', 'cz'],
          placeOn(
            medium.corner,
            medium.voxelSizeM,
            shape.centre.map((c) => c * cellM),
          ),
        ),
        ...named(['hx', 'hy', 'hz'], times(shape.half)),
        ...named(['a00', 'a01', 'a02', 'a10', 'a11', 'a12', 'a20', 'a21', 'a22'], shape.toOwn.flat()),
        grow: shape.grow * f,
        facing: shape.facing,
        grid,
        ...named(['gnx', 'gny', 'gnz'], shape.grid?.nodes ?? [0, 0, 0]),
        ...named(['gx', 'gy', 'gz'], times(shape.grid?.first ?? [0, 0, 0])),
        perCell: (shape.grid?.nodesPerCell ?? 1) / f,
        points: corners,
        count: shape.corners.length,
        flow: 0,
        seen: SEEN[seen.seen],
        shadows: Number(seen.shadows),
        ...named(['red', 'green', 'blue'], seen.colour),
        ...named(['glowR', 'glowG', 'glowB'], seen.glow),
        isLamp: Number(seen.isLamp),
        nodes: tree?.nodes ?? 0,
        triangles: tree?.triangles ?? 0,
      });
    }
  }

  private writeScene({ from, end }: PixelBox, run: Partial<SceneFields>): void {
    const { threadPool, layout, compiled } = this;
    const { look, medium, sun, sky } = compiled;
    const { taking, phase } = medium;
    const { eye, corner, across, down } = cameraRays(look);
    SceneStruct.write(threadPool.memory, layout.scene, {
      medium: layout.medium,
      ...named(['eyeX', 'eyeY', 'eyeZ'], placeOn(medium.corner, medium.voxelSizeM, eye)),
      ...named(['cornerX', 'cornerY', 'cornerZ'], corner),
      ...named(['acrossX', 'acrossY', 'acrossZ'], across),
      ...named(['downX', 'downY', 'downZ'], down),
      width: look.camera.width,
      height: look.camera.height,
      fromX: from[0],
      fromY: from[1],
      endX: end[0],
      endY: end[1],
      metre: medium.voxelSizeM,
      ...named(['takes0R', 'takes0G', 'takes0B'], taking.takes0),
      ...named(['takes1R', 'takes1G', 'takes1B'], taking.takes1),
      ...named(['scatters0R', 'scatters0G', 'scatters0B'], taking.scatters0),
      ...named(['scatters1R', 'scatters1G', 'scatters1B'], taking.scatters1),
      ...named(['meanR', 'meanG', 'meanB'], this.meanTint),
      ...named(['meanTakesR', 'meanTakesG', 'meanTakesB'], this.meanTakes),
      chromatic: Number(taking.isChromatic),
      ...phase,
      mixed: Number(medium.takes !== null),
      shadow: look.medium.shadow,
      ...named(['toSunX', 'toSunY', 'toSunZ'], sun.toSun),
      ...named(['sunR', 'sunG', 'sunB'], sun.power),
      ...named(['skyR', 'skyG', 'skyB'], sky),
      sky: layout.sky,
      skySide: compiled.environment?.side ?? 0,
      skyGain: compiled.skyGain,
      skySeen: Number(look.sky.seen === 'seen'),
      lamps: layout.lamps,
      lampCount: 0,
      allLamps: compiled.lamps.length,
      step: look.quality.step,
      octaves: look.quality.octaves,
      firstSample: 0,
      samples: 0,
      bounces: look.quality.bounces,
      spread: 1,
      seed: look.quality.seed,
      limits: layout.limits,
      image: 0,
      caught: layout.caught,
      apart: layout.apart,
      skyApart: this.placeApart(SKY_APART),
      glowApart: this.placeApart(GLOW_APART),
      glows: 1,
      surfaces: layout.surfaces[0]?.address ?? 0,
      surfaceCount: layout.surfaces.length,
      rooms: layout.rooms,
      roomBytes: layout.roomBytes,
      lookUps: layout.lookUps,
      ...this.ambientFields(),
      ...run,
    });
  }

  /** The lattice of light from all round. */
  private ambientFields(): Pick<
    SceneFields,
    | 'ambient'
    | 'ambientRays'
    | 'ambientDirections'
    | 'ambientWays'
    | `ambient${'X' | 'Y' | 'Z'}`
    | `ambientStep${'X' | 'Y' | 'Z'}`
  > {
    const { layout, compiled } = this;
    const { from, end } = boundsAround(compiled);
    const steps = end.map((e, a) => (e - from[a]) / (Ambient.SIDE - 1)) as Triple;
    return {
      ambient: layout.ambient,
      ambientRays: layout.ambientRays,
      ambientDirections: layout.ambientDirections,
      ambientWays: directionRule().length,
      ...named(['ambientX', 'ambientY', 'ambientZ'], from),
      ...named(['ambientStepX', 'ambientStepY', 'ambientStepZ'], steps),
    };
  }

  /** Light from all round where solids stand; lamps have to be lit before. */
  private lightAround(shines: Partial<SceneFields> = {}): void {
    const { threadPool, layout, compiled } = this;
    if (!layout.ambient) return;
    putFloats(
      threadPool.memory,
      layout.ambientDirections,
      Float32Array.from(directionRule().flatMap(({ to, weight }) => [...to, weight])),
    );
    const { from, count } = lampsFor(compiled, 'quick');
    this.writeScene(this.all(), {
      lamps: layout.lamps + from * LampStruct.bytes,
      allLamps: count,
      ...shines,
    });
    threadPool.run('ambientRays', Ambient.SIDE, 1, { scene: layout.scene });
    threadPool.solo('ambientBounces', { scene: layout.scene, rounds: BOUNCES });
  }

  /** Light volumes of the key sun and the environment, and of the other lamps. */
  light(): void {
    const { threadPool, layout, compiled } = this;
    const { sun, sky, look } = compiled;
    new Uint8Array(threadPool.memory.buffer, layout.light, layout.box.bytes).fill(0);
    if (sun.power.some((p) => p > 0)) {
      this.gather([{ to: sun.toSun, weight: 1 }], 0);
      this.pack(0, false);
      // the sun of quick pictures casts hard shadows
      if (keyOf(compiled)?.shadows && layout.surfaces.length > 0) {
        this.writeScene(this.all(), {});
        threadPool.run('holdBackSun', layout.box.n[2], 1, { scene: layout.scene });
      }
    }

    // further orders need to know how much of the sky is seen, lit or not
    if (look.quality.octaves > 0 || sky.some((p) => p > 0)) {
      const rule = directionRule();
      const { forward, backward, backPart } = compiled.medium.phase;
      const lean = forward + backPart * (backward - forward);
      this.gather(rule, lean);
      if (layout.full) this.through(rule, lean);
      this.pack(layout.full, true);
    }

    this.writeScene(this.all(), {});
    const [, , cz] = compiled.medium.dims.map(coarse);
    layout.lit.forEach((address, n) => {
      if (address > 0)
        threadPool.run('marchLamp', cz, 1, {
          scene: layout.scene,
          lamp: layout.lamps + n * LampStruct.bytes,
        });
    });
    this.lightAround();
    this.isLit = true;
  }

  private pack(full: number, high: boolean): void {
    const { threadPool, layout } = this;
    threadPool.run('packLight', layout.box.n[2], 4, {
      part: layout.out,
      full,
      words: layout.light,
      plane: layout.box.plane,
      high: Number(high),
    });
  }

  private clear(address: number, box: Box): void {
    new Float32Array(this.threadPool.memory.buffer, address - MARGIN, (box.bytes + 2 * MARGIN) / 4).fill(0);
  }

  /** Sums weight · transmittance (· phase function) over directions into `out`. */
  private gather(directions: readonly { to: Triple; weight: number }[], lean: number): void {
    const { threadPool, layout } = this;
    const { box, turned } = layout;
    const isAlongX = ({ to }: { to: Triple }): boolean =>
      Math.abs(to[0]) > Math.abs(to[1]) && Math.abs(to[0]) > Math.abs(to[2]);
    const turning = directions.filter(isAlongX);
    this.clear(layout.out, box);
    if (turning.length > 0) {
      this.clear(layout.turnedExtinction, turned);
      this.clear(layout.turnedOut, turned);
      threadPool.run('turnOver', box.n[1], 4, {
        from: layout.extinction,
        to: layout.turnedExtinction,
        nx: box.n[0],
        nz: box.n[2],
        fromRow: box.row,
        fromPlane: box.plane,
        toRow: turned.row,
        toPlane: turned.plane,
        add: 0,
      });
      for (const d of turning)
        this.sweep({ to: [d.to[2], d.to[1], d.to[0]], weight: d.weight }, lean, turned, true);
      threadPool.run('turnOver', box.n[1], 4, {
        from: layout.turnedOut,
        to: layout.out,
        nx: turned.n[0],
        nz: turned.n[2],
        fromRow: turned.row,
        fromPlane: turned.plane,
        toRow: box.row,
        toPlane: box.plane,
        add: 1,
      });
    }

    for (const d of directions) if (!isAlongX(d)) this.sweep(d, lean, box, false);
  }

  /** What the directions would give through nothing. */
  private through(directions: readonly { to: Triple; weight: number }[], lean: number): void {
    const { threadPool, layout } = this;
    this.clear(layout.full, layout.box);
    for (const d of directions) {
      this.writeSweep(d, lean, layout.box, false, 2, layout.full);
      threadPool.run('sweepNothing', layout.box.n[2], 4, { sweep: layout.sweep });
    }
  }

  private sweep(d: { to: Triple; weight: number }, lean: number, box: Box, isTurned: boolean): void {
    const axis = Math.abs(d.to[2]) >= Math.abs(d.to[1]) ? 2 : 1;
    const bands = this.writeSweep(
      d,
      lean,
      box,
      isTurned,
      axis,
      isTurned ? this.layout.turnedOut : this.layout.out,
    );
    this.threadPool.run('sweepLight', bands, 1, { sweep: this.layout.sweep });
  }

  /** @returns bands of rows of columns */
  private writeSweep(
    { to, weight }: { to: Triple; weight: number },
    lean: number,
    { n, row, plane }: Box,
    isTurned: boolean,
    axis: 1 | 2,
    out: number,
  ): number {
    const { threadPool, layout, compiled } = this;
    const { medium, look } = compiled;
    const { taking } = medium;
    const other = axis === 2 ? 1 : 2;
    const main = Math.abs(to[axis]);
    const leanX = -to[0] / main;
    const leanRow = -to[other] / main;
    const reach = (by: number, count: number): [number, number] => {
      const far = -(n[axis] - 1) * by;
      return [Math.floor(Math.min(0, far)) - 2, Math.ceil(count - 1 + Math.max(0, far)) + 2];
    };

    const columns = Math.min(row, Math.ceil(n[0] / 4) * 4);
    const [firstColumn, lastColumn] = reach(leanX, columns);
    const [firstRow, lastRow] = reach(leanRow, n[other]);
    const seen = placeOn(medium.corner, medium.voxelSizeM, look.camera.eye);
    const eye = isTurned ? [seen[2], seen[1], seen[0]] : seen;
    const taken = (taking.takes0[0] + taking.takes0[1] + taking.takes0[2]) / 3;
    LightSweepStruct.write(threadPool.memory, layout.sweep, {
      extinction: isTurned ? layout.turnedExtinction : layout.extinction,
      out,
      columns,
      rows: n[other],
      planes: n[axis],
      rowStride: axis === 2 ? row : plane,
      planeStride: axis === 2 ? plane : row,
      fromLast: Number(to[axis] > 0),
      leanX,
      leanRow,
      half: (0.5 / main) * look.medium.shadow * taken,
      firstColumn,
      firstRow,
      wide: Math.ceil((lastColumn - firstColumn + 1 + 20) / 16) * 16,
      lastRow,
      weight,
      forward: lean,
      toX: to[0],
      toRow: to[other],
      toPlane: to[axis],
      eyeX: eye[0],
      eyeRow: eye[other],
      eyePlane: eye[axis],
      needed: isTurned ? 0 : layout.needed,
      neededRow: axis === 2 ? row : row * n[1],
      neededPlane: axis === 2 ? row * n[1] : row,
      held: isTurned ? 0 : layout.held,
      heldRow: axis === 2 ? 1 : n[1],
      heldPlane: axis === 2 ? n[1] : 1,
      rooms: layout.rooms,
      roomBytes: layout.roomBytes,
    });
    return Math.ceil((lastRow - firstRow) / BAND);
  }
}

const SEEN = {
  seen: SurfaceSeen.SEEN,
  'held-out': SurfaceSeen.HELD_OUT,
  catcher: SurfaceSeen.CATCHER,
  unseen: SurfaceSeen.UNSEEN,
} as const;

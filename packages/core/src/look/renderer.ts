// A compiled look in the memory of a thread pool, and its two estimators: a quick picture at once, and
// samples of a true one (see TruePicture). Light volumes are made when they are first needed and kept.
import {
  Ambient,
  LampStruct,
  SceneStruct,
  Sense,
  SensingStruct,
  type SceneFields,
} from '@bramblemist/kernels/seam';
import { putFloats } from '../grid/memory';
import { named } from '../grid/sweep';
import type { ThreadPool } from '../grid/thread-pool';
import type { Triple } from '../math/vector';
import type { CompiledLook } from './compile-look';
import { GLOW_APART, SKY_APART } from './lamps';
import { cameraRays, lensOf, pixelsOf, type Look } from './look';
import { VELOCITY } from './fields';
import { LightSweeps } from './light-sweeps';
import { meanTint } from './medium';
import { SHARP, type Moment } from './moments';
import type { PixelBox } from './rendered-frame';
import { colourOf, fieldsSeen, isSensed, lightLayer, sensedLayers, type PictureLayer } from './passes';
import { markBlocks, placeSurfaces, writeLamps, writeMedium, writeSurfaces } from './place-in-memory';
import {
  apartCount,
  boundsAround,
  CAUGHT,
  coarse,
  keyOf,
  lampsFor,
  type Layout,
  layOut,
  MOST_BOUNDS,
  SUMS,
  TILE,
  VALUES_PER_PIXEL,
} from './render-layout';
import { seenSolids } from './seen-solids';
import { placeOn } from './solids';
import { directionRule } from './sphere-rule';

const MOST_ROOMS = 64;
/** Nothing solid stands nearer. */
const FAR = 1e9;
/** How far what is let through may be off within a part of a deep picture. */
const DEEP_TOLERANCE = 0.004;
const NO_PROJECTION = new Array<number>(12).fill(0);
/** Times that light goes from surface to surface in quick pictures before the rest is reckoned. */
const BOUNCES = 4;

export class LookRenderer {
  readonly layout: Layout;
  private readonly sweeps: LightSweeps;
  private isLit = false;
  private readonly meanTint: Triple;
  private readonly meanTakes: Triple;
  private moment: Moment = SHARP;
  private camera: Look['camera'];

  /** @param threadPool of at least renderPages pages */
  constructor(
    readonly threadPool: ThreadPool,
    readonly compiled: CompiledLook,
  ) {
    this.layout = layOut(compiled, threadPool.helpers + 1);
    threadPool.ensurePages(this.layout.pages);
    this.sweeps = new LightSweeps(threadPool, this.layout, compiled);
    const { medium } = compiled;
    this.meanTint = meanTint(medium.tint, medium.density);
    this.meanTakes = medium.takes === null ? this.meanTint : meanTint(medium.takes, medium.density);
    writeMedium(this);
    writeLamps(this);
    writeSurfaces(this);
    const rooms = new Int32Array(threadPool.memory.buffer, this.layout.rooms, MOST_ROOMS);
    rooms.fill(1).fill(0, 0, threadPool.helpers + 1);
    this.camera = compiled.look.camera;
    this.counter().fill(0n);
  }

  get width(): number {
    return this.compiled.look.camera.width;
  }

  get height(): number {
    return this.compiled.look.camera.height;
  }

  /** A quick picture: single scattering from light volumes, further orders as octaves. */
  march(box: PixelBox = this.all()): Float32Array {
    if (!this.isLit) this.light();
    return this.marchWith(box);
  }

  private marchWith(box: PixelBox, shines: Partial<SceneFields> = {}): Float32Array {
    const { threadPool, layout, compiled } = this;
    this.writeScene(box, { ...this.quickLamps(), image: layout.quick, ...shines });
    if (this.isSolid) this.limit(box);
    threadPool.run('marchTiles', this.tiles(box), 1, { scene: layout.scene });
    const rows = box.end[1] - box.from[1];
    if (this.isSolid) threadPool.run('shadeSurfaces', rows, 2, { scene: layout.scene });
    if (compiled.look.sky.seen === 'seen')
      threadPool.run('shadeBackground', rows, 2, { scene: layout.scene });
    return this.quickColours();
  }

  /** The medium alone of a quick picture, each pixel no further than the limits that stand there. */
  marchWithin(box: PixelBox, limits: Float32Array): Float32Array {
    const { threadPool, layout } = this;
    if (!this.isLit) this.light();
    this.writeScene(box, { ...this.quickLamps(), image: layout.quick, limits: layout.limits });
    putFloats(threadPool.memory, layout.limits + 4 * box.from[1] * this.width, limits);
    threadPool.run('marchTiles', this.tiles(box), 1, { scene: layout.scene });
    return this.quickColours(box);
  }

  /** Where noise is taken out of its true pictures. */
  get noiseRoom(): { readonly threadPool: ThreadPool; readonly address: number } {
    return { threadPool: this.threadPool, address: this.layout.denoise };
  }

  private get isSolid(): boolean {
    return this.compiled.solids.length > 0;
  }

  private quickLamps(): Partial<SceneFields> {
    const { layout } = this;
    const { from, count } = lampsFor(this.compiled, 'quick');
    return {
      lamps: layout.lamps + from * LampStruct.bytes,
      lampCount: layout.lit.some((address) => address > 0) ? count : 0,
      allLamps: count,
    };
  }

  /** How far pixels see before something solid stands there. */
  private limit({ from, end }: PixelBox): void {
    const { threadPool, layout } = this;
    new Float32Array(threadPool.memory.buffer, layout.limits, this.width * (this.height + 1) + 8).fill(FAR);
    threadPool.run('surfaceLimits', end[1] - from[1], 2, { scene: layout.scene });
  }

  /** What is sensed along rays: layers, and the places that part them where a deep picture is wanted. */
  sense(box: PixelBox = this.all()): PictureLayer[] {
    const { passes } = this.compiled.look;
    if (!isSensed(passes)) return [];
    return sensedLayers(this.compiled, this.senseRays(box, 0));
  }

  /**
   * Parts the rays of a band of rows. @returns how many places part each pixel's; the nth of them, cells from
   * the eye, and behind the last the end of the medium; how far each sees before something solid stands there
   */
  partRays(box: PixelBox): {
    readonly counts: Int32Array;
    readonly boundOf: (pixel: number, n: number) => number;
    readonly limits: Float32Array;
  } {
    const { layout, threadPool, width } = this;
    const { buffer } = threadPool.memory;
    const pixels = width * (box.end[1] - box.from[1]);
    new Int32Array(buffer, layout.bounds, pixels * MOST_BOUNDS).fill(0);
    this.senseRays(box, layout.bounds);
    const bounds = new Float32Array(buffer, layout.bounds, pixels * MOST_BOUNDS).slice();
    const words = new Int32Array(bounds.buffer);
    return {
      counts: Int32Array.from({ length: pixels }, (_, p) => words[p * MOST_BOUNDS]),
      boundOf: (pixel, n) => bounds[pixel * MOST_BOUNDS + n],
      limits: this.isSolid
        ? new Float32Array(buffer, layout.limits + 4 * box.from[1] * width, pixels).slice()
        : new Float32Array(pixels).fill(FAR),
    };
  }

  /** Sums of the parts of a band of a deep picture, cleared. */
  deepSums({ from, end }: PixelBox): BigInt64Array {
    const { threadPool, layout, width } = this;
    const values = width * (end[1] - from[1]) * (MOST_BOUNDS + 1) * 4;
    return new BigInt64Array(threadPool.memory.buffer, layout.deep, values).fill(0n);
  }

  private senseRays(box: PixelBox, bounds: number): Float32Array {
    const { threadPool, layout, compiled } = this;
    const { passes } = compiled.look;
    if (passes.shadow && this.isSolid && !this.isLit) this.light();
    const fields = fieldsSeen(compiled);
    const floats = Sense.COUNT + fields.length;
    this.writeSensing(bounds, box);
    this.writeScene(box, this.quickLamps());
    if (this.isSolid) this.limit(box);
    threadPool.run('senseTiles', this.tiles(box), 1, { scene: layout.scene });
    const rows = box.end[1] - box.from[1];
    if (this.isSolid) threadPool.run('senseSurfaces', rows, 2, { scene: layout.scene });
    if (this.isSolid && passes.matte) threadPool.run('solidCover', rows, 2, { scene: layout.scene });
    return new Float32Array(threadPool.memory.buffer, layout.sensed, this.width * this.height * floats);
  }

  private writeSensing(bounds: number, { from }: PixelBox): void {
    const { threadPool, layout, compiled, width } = this;
    const { look, medium, timing } = compiled;
    const { passes } = look;
    const fields = fieldsSeen(compiled);
    const addresses = fields.map((name) => layout.fields.get(name)!);
    new Uint32Array(threadPool.memory.buffer, layout.sensedFields, addresses.length).set(addresses);
    const next = passes.motion && timing ? timing.later(1) : null;
    const h = medium.voxelSizeM;
    const origin = medium.corner.map((c) => c - h / 2) as Triple;
    const to = next ? pixelsOf(next.look, { metre: h, origin }) : NO_PROJECTION;
    if (next) placeSurfaces(this, seenSolids(look, next.solids), layout.nextSurfaces);
    SensingStruct.write(threadPool.memory, layout.sensing, {
      out: layout.sensed,
      floats: Sense.COUNT + fields.length,
      fields: layout.sensedFields,
      fieldCount: fields.length,
      velocityX: layout.fields.get('velocityX') ?? 0,
      velocityY: layout.fields.get('velocityY') ?? 0,
      velocityZ: layout.fields.get('velocityZ') ?? 0,
      normals: Number(passes.normal),
      motion: Number(next !== null),
      ...named(['xX', 'xY', 'xZ', 'xW', 'yX', 'yY', 'yZ', 'yW', 'wX', 'wY', 'wZ', 'wW'], to),
      nextSurfaces: layout.nextSurfaces,
      shadows: Number(passes.shadow),
      bounds,
      width,
      boundsFrom: from[1],
      mostBounds: MOST_BOUNDS,
      tolerance: DEEP_TOLERANCE,
    });
  }

  /** A quick picture in bands of rows. */
  *marchInBands(rows: number): Generator<Float32Array> {
    for (let y = 0; y < this.height; y += rows)
      yield this.march({ from: [0, y], end: [this.width, Math.min(this.height, y + rows)] });
  }

  /** What each tile of a true picture gets next: its first sample and how many. */
  writeShares(shares: Int32Array): void {
    new Int32Array(this.threadPool.memory.buffer, this.layout.shares, shares.length).set(shares);
  }

  /**
   * Adds samples to the sums of a true picture.
   * @param firstTile of its tiles among the shares
   * @param isDeep whether they add to the sums of a deep picture too, whose rays are parted; it is sharp
   */
  tracePart(box: PixelBox, firstTile: number, isDeep = false): void {
    const { threadPool, layout } = this;
    const { from, count: lampCount } = lampsFor(this.compiled, 'true');
    this.writeScene(box, {
      lamps: layout.lamps + from * LampStruct.bytes,
      lampCount,
      image: layout.sums,
      shares: layout.shares + 8 * firstTile,
      ...(isDeep ? { deep: layout.deep, focus: 0 } : {}),
    });
    threadPool.run('tracePaths', this.tiles(box), 1, { scene: layout.scene });
  }

  /**
   * Brings the camera, solids and the medium to a moment of the shutter, and the camera to a place on its
   * lens.
   */
  expose(moment: Moment): void {
    const { threadPool, layout, compiled } = this;
    const { timing, look, medium } = compiled;
    if (moment.frames !== this.moment.frames && timing) {
      const then = moment.frames === 0 ? null : timing.later(moment.frames);
      this.camera = (then?.look ?? look).camera;
      if (layout.surfaces.length > 0)
        placeSurfaces(
          this,
          then ? seenSolids(look, then.solids) : compiled.solids,
          layout.surfaces[0].address,
        );
      if (layout.still) {
        const [velocityX, velocityY, velocityZ] = VELOCITY.map((name) => layout.fields.get(name)!);
        const go = { medium: layout.medium, velocityX, velocityY, velocityZ, frames: moment.frames };
        threadPool.run('carryAlong', medium.dims[2], 4, { ...go, from: layout.still, to: layout.extinction });
        if (layout.stillTint)
          threadPool.run('carryTint', medium.dims[2], 4, { ...go, from: layout.stillTint, to: layout.tint });
        markBlocks(this);
      }
    }

    this.moment = moment;
  }

  private placeApart(light: string): number {
    return Math.max(
      0,
      this.compiled.apart.findIndex(({ of }) => of === light),
    );
  }

  /**
   * Each light apart of a quick picture: a picture with that one alone. Where solids give light to one
   * another, together they are a little other than all at once, whose endless rest is reckoned for all of it.
   */
  marchApart(box: PixelBox = this.all()): PictureLayer[] {
    if (!this.isLit) this.light();
    const layers = this.compiled.apart.map(({ of, name }) => {
      const alone = this.alone(of);
      this.lightAround(alone);
      return lightLayer(name, colourOf(this.marchWith(box, alone)));
    });
    if (layers.length > 0) this.lightAround();
    return layers;
  }

  /** The quick picture with single scattering alone. */
  marchSingle(box: PixelBox = this.all()): Float32Array {
    if (!this.isLit) this.light();
    return this.marchWith(box, { octaves: 0 });
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

  /** Sums of a true picture's pixels, whole numbers in parts of 2³². */
  sums(which: 'sums' | 'apart' | 'caught', perPixel: number): BigInt64Array {
    const { width, height, threadPool, layout } = this;
    return new BigInt64Array(threadPool.memory.buffer, layout[which], width * height * perPixel);
  }

  clearSums(): void {
    this.sums('sums', SUMS).fill(0n);
    if (this.layout.apart) this.sums('apart', 3 * apartCount(this.compiled)).fill(0n);
    if (this.layout.caught) this.sums('caught', CAUGHT).fill(0n);
  }

  all(): PixelBox {
    return { from: [0, 0], end: [this.width, this.height] };
  }

  private tiles({ from, end }: PixelBox): number {
    return Math.ceil((end[0] - from[0]) / TILE) * Math.ceil((end[1] - from[1]) / TILE);
  }

  /** Red, green, blue and alpha of a quick picture; of a band of rows where one is asked for. */
  private quickColours({ from, end }: PixelBox = this.all()): Float32Array {
    const first = from[1] * this.width;
    const pixels = (end[1] - from[1]) * this.width;
    const raw = new Float32Array(
      this.threadPool.memory.buffer,
      this.layout.quick + 4 * VALUES_PER_PIXEL * first,
      pixels * VALUES_PER_PIXEL,
    );
    const rgba = new Float32Array(pixels * 4);
    for (let p = 0, q = 0; p < pixels; p++, q += VALUES_PER_PIXEL)
      for (let c = 0; c < 4; c++) rgba[4 * p + c] = raw[q + c];
    return rgba;
  }

  private writeScene({ from, end }: PixelBox, run: Partial<SceneFields>): void {
    const { threadPool, layout, compiled } = this;
    const { look, medium, sun, sky } = compiled;
    const { taking, phase } = medium;
    const { eye, corner, across, down } = this.rays();
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
      limits: this.isSolid ? layout.limits : 0,
      image: 0,
      caught: layout.caught,
      apart: layout.apart,
      lightsApart: Number(compiled.apart.length > 0),
      orders: look.passes.orders ? compiled.apart.length : -1,
      skyApart: this.placeApart(SKY_APART),
      glowApart: this.placeApart(GLOW_APART),
      glows: 1,
      surfaces: layout.surfaces[0]?.address ?? 0,
      surfaceCount: layout.surfaces.length,
      rooms: layout.rooms,
      roomBytes: layout.roomBytes,
      ...this.lens(),
      shares: 0,
      deep: 0,
      sensing: layout.sensing,
      lookUps: layout.lookUps,
      ...this.ambientFields(),
      ...run,
    });
  }

  /** The camera's frame at the present moment, from the present place on the lens. */
  private rays(): ReturnType<typeof cameraRays> {
    const { camera, moment } = this;
    const plain = cameraRays({ camera });
    const [x, y] = moment.pixel;
    const corner = plain.corner.map((c, a) => c + x * plain.across[a] + y * plain.down[a]) as Triple;
    const rays = { ...plain, corner };
    const [u, v] = moment.lens;
    if (u === 0 && v === 0) return rays;
    const { right, up } = lensOf(camera);
    const shift = right.map((r, a) => u * r + v * up[a]);
    return {
      ...rays,
      eye: rays.eye.map((e, a) => e + shift[a]) as Triple,
      // what is in focus stays where it is
      corner: rays.corner.map((c, a) => c - shift[a] / camera.focus) as Triple,
    };
  }

  /** Half the width of the lens along the picture's axes, and what is in focus, in cells. */
  private lens(): Pick<SceneFields, 'focus' | `lens${'Right' | 'Up'}${'X' | 'Y' | 'Z'}`> {
    const { voxelSizeM } = this.compiled.medium;
    const { right, up } = lensOf(this.camera);
    return {
      ...named(
        ['lensRightX', 'lensRightY', 'lensRightZ'],
        right.map((v) => v / voxelSizeM),
      ),
      ...named(
        ['lensUpX', 'lensUpY', 'lensUpZ'],
        up.map((v) => v / voxelSizeM),
      ),
      focus: this.camera.lens === 'thin' ? this.camera.focus / voxelSizeM : 0,
    };
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
      this.sweeps.gather([{ to: sun.toSun, weight: 1 }], 0);
      this.sweeps.pack(0, false);
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
      this.sweeps.gather(rule, lean);
      if (layout.full) this.sweeps.through(rule, lean);
      this.sweeps.pack(layout.full, true);
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
}

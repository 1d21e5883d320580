// One frame through the ray-marcher: shadow toward the sun, light from all round, then the camera rays.
import { RayMarchStruct } from '@bramblemist/kernels/seam';
import { fieldView, MemoryPlan, writeField, type Field } from '../grid/memory';
import { lattice } from '../grid/lattice';
import type { ThreadPool } from '../grid/thread-pool';
import { extent, fillHalo, named } from '../grid/sweep';
import { cameraRays, sunDirection, type Look } from './look';
import type { Triple } from '../math/vector';

/** A density to be seen: tight values, x fastest, where it is, and shapes that stand before it. */
export interface Volume {
  readonly dims: Triple;
  readonly density: Float32Array;
  /** World position of its least corner, m. */
  readonly corner: Triple;
  readonly voxelSizeM: number;
}
/** Distance in metres at which a ray meets something solid, Infinity for never. */
export type Holdout = (eye: Triple, direction: Triple) => number;

/** Premultiplied linear light; depths in metres, 0 where nothing is met. All top row first. */
export interface RenderedFrame {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
  readonly opticalDepth: Float32Array;
  readonly depthFront: Float32Array;
  readonly depthBack: Float32Array;
}

const VALUES_PER_PIXEL = 7;
const SLAB = 4;

interface RenderLayout {
  readonly density: Field;
  readonly sun: Field;
  readonly sky: Field;
  readonly rays: number;
  readonly limit: number;
  readonly image: number;
  readonly pages: number;
}

function layOut(dims: Triple, pixels: number): RenderLayout {
  const memory = new MemoryPlan();
  const l = lattice(...dims);
  const density = memory.field(l);
  const sun = memory.field(l);
  const sky = memory.field(l);
  const rays = memory.bytes(RayMarchStruct.bytes);
  const limit = memory.bytes(pixels * 4);
  const image = memory.bytes(pixels * VALUES_PER_PIXEL * 4);
  return { density, sun, sky, rays, limit, image, pages: memory.pages };
}

export function renderPages(dims: Triple, look: Look): number {
  return layOut(dims, look.camera.width * look.camera.height).pages;
}

/**
 * Single scattering of the sun (with shadow) and of an even environment (averaged over the six axis
 * directions).
 * @param thread pool of at least renderPages pages
 */
export function renderVolume(
  threadPool: ThreadPool,
  volume: Volume,
  look: Look,
  holdout: Holdout | null = null,
  seed = 1,
): RenderedFrame {
  const { width, height, step } = look.camera;
  const pixels = width * height;
  const [nx, ny, nz] = volume.dims;
  const l = lattice(nx, ny, nz);
  const layout = layOut(volume.dims, pixels);
  const h = volume.voxelSizeM;
  writeField(threadPool.memory, layout.density, volume.density);
  fillHalo(threadPool, layout.density, 3, 63);
  const toSun = sunDirection(look);
  const sigma = look.medium.density * h;
  threadPool.run('sunTransmittance', nz, 2, {
    density: layout.density.address,
    out: layout.sun.address,
    ...extent(l),
    ...named(['lx', 'ly', 'lz'], toSun),
    sigma: sigma * look.medium.shadow,
  });
  fieldView(threadPool.memory, layout.sky).fill(0);
  for (let axis = 0; axis < 3; axis++) {
    for (const forward of [0, 1]) {
      threadPool.run('axisTransmittance', axis === 2 ? ny : nz, SLAB, {
        density: layout.density.address,
        out: layout.sky.address,
        ...extent(l),
        axis,
        forward,
        sigma: sigma * look.medium.shadow,
        weight: 1 / 6,
      });
    }
  }

  for (const f of [layout.sun, layout.sky]) fillHalo(threadPool, f, 3, 0);

  const { eye, corner, across, down } = cameraRays(look);
  const sunPower = 2 ** look.sun.stops;
  const skyPower = 2 ** look.sky.stops;
  RayMarchStruct.write(threadPool.memory, layout.rays, {
    ...named(
      ['eyeX', 'eyeY', 'eyeZ'],
      eye.map((v, a) => (v - volume.corner[a]) / h),
    ),
    ...named(['cornerX', 'cornerY', 'cornerZ'], corner),
    ...named(['acrossX', 'acrossY', 'acrossZ'], across),
    ...named(['downX', 'downY', 'downZ'], down),
    step,
    sigma,
    ...named(['albedoR', 'albedoG', 'albedoB'], look.medium.albedo),
    ...named(
      ['sunR', 'sunG', 'sunB'],
      look.sun.colour.map((c) => c * sunPower),
    ),
    ...named(
      ['skyR', 'skyG', 'skyB'],
      look.sky.colour.map((c) => c * skyPower),
    ),
    forward: look.medium.forward,
    ...named(['toSunX', 'toSunY', 'toSunZ'], toSun),
    width,
    metre: h,
    seed,
  });
  const limit = new Float32Array(threadPool.memory.buffer, layout.limit, pixels).fill(1e9);
  if (holdout) {
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const d = corner.map((c, a) => c + x * across[a] + y * down[a]);
        const n = Math.hypot(...d);
        limit[y * width + x] = Math.min(1e9, holdout(eye, d.map((v) => v / n) as Triple) / h);
      }
    }
  }

  threadPool.run('marchRays', height, SLAB, {
    density: layout.density.address,
    sun: layout.sun.address,
    sky: layout.sky.address,
    ...extent(l),
    rays: layout.rays,
    limit: layout.limit,
    image: layout.image,
  });

  const raw = new Float32Array(threadPool.memory.buffer, layout.image, pixels * VALUES_PER_PIXEL);
  const plane = (slot: number): Float32Array =>
    Float32Array.from({ length: pixels }, (_, p) => raw[p * VALUES_PER_PIXEL + slot]);
  const rgba = new Float32Array(pixels * 4);
  for (let p = 0; p < pixels; p++)
    for (let c = 0; c < 4; c++) rgba[4 * p + c] = raw[p * VALUES_PER_PIXEL + c];
  return { width, height, rgba, opticalDepth: plane(4), depthFront: plane(5), depthBack: plane(6) };
}

export interface RenderOptions {
  /** Workers in all, the calling one included. */
  readonly threads?: number;
  /** What stands before the medium; null for nothing. */
  readonly holdout?: Holdout | null;
  /** Of the jitter of samples. */
  readonly seed?: number;
}

/** renderVolume with workers of its own, which are let go at the end. */
export function renderWith(
  startThreadPool: (pages: number, threads: number) => ThreadPool,
  volume: Volume,
  look: Look,
  { threads = 1, holdout = null, seed = 1 }: RenderOptions = {},
): RenderedFrame {
  const threadPool = startThreadPool(renderPages(volume.dims, look), threads);
  try {
    return renderVolume(threadPool, volume, look, holdout, seed);
  } finally {
    threadPool.close();
  }
}

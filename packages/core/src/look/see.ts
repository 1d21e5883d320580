// A brick to a small picture, without a thread pool or a kernel: for trial sheets, and for measures beside a
// reference. What is seen is what the window shows; final pictures come from render.ts.
import { trilinear } from '../math/trilinear';
import type { PreviewVolume } from '../volume/preview-volume';
import { cameraRays, type Look } from './look';
import { lightSweep } from './sweep';
import { workLight } from './work-light';
import type { Holdout } from './holdout';
import type { Triple } from '../math/vector';

/** Premultiplied linear light, top row first. */
export interface Sight {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
}

/** Step along a ray in brick voxels. */
const STEP = 1;
/** What is left of the light behind which nothing is looked for. */
const THROUGH = 0.005;

const heightOf = ({ camera }: Look, width: number): number =>
  Math.max(1, Math.round((width * camera.height) / camera.width));

/** How far each pixel of a picture sees before something stands in its way, m. */
export function limitsOf(look: Look, width: number, holdout: Holdout): Float32Array {
  const height = heightOf(look, width);
  const { eye, corner, across, down } = cameraRays({ ...look, camera: { ...look.camera, width, height } });
  return Float32Array.from({ length: width * height }, (_, n) => {
    const d = corner.map((c, a) => c + (n % width) * across[a] + Math.floor(n / width) * down[a]);
    const length = Math.hypot(...d);
    return holdout(eye, d.map((v) => v / length) as Triple);
  });
}

/** Grey of what stands in the domain, by the sun and all round. */
const STONE = 0.16;

/**
 * What stands in the domain behind the medium, as plain grey shapes: their surface is that of the places
 * which the pixels see.
 */
export function beforeSolids({ width, height, rgba }: Sight, look: Look, limits: Float32Array): Sight {
  const { eye, corner, across, down } = cameraRays({ ...look, camera: { ...look.camera, width, height } });
  const { toSun } = workLight(look);
  const out = rgba.slice();
  const place = (x: number, y: number): Triple => {
    const d = corner.map((c, a) => c + x * across[a] + y * down[a]);
    const far = limits[y * width + x] / Math.hypot(...d);
    return eye.map((v, a) => v + d[a] * far) as Triple;
  };

  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const n = y * width + x;
      if (limits[n] === Infinity) continue;
      // toward the neighbours that see the same thing
      const i = x + 1 < width && limits[n + 1] !== Infinity ? 1 : -1;
      const j = y + 1 < height && limits[n + width] !== Infinity ? 1 : -1;
      let lit = 0.5;
      if (x + i >= 0 && y + j >= 0 && limits[n + i] !== Infinity && limits[n + j * width] !== Infinity) {
        const p = place(x, y);
        const u = place(x + i, y).map((v, a) => (v - p[a]) * i);
        const w = place(x, y + j).map((v, a) => (v - p[a]) * j);
        const normal = [w[1] * u[2] - w[2] * u[1], w[2] * u[0] - w[0] * u[2], w[0] * u[1] - w[1] * u[0]];
        const facing = normal.reduce((sum, v, a) => sum + v * (p[a] - eye[a]), 0) > 0 ? -1 : 1;
        const long = Math.hypot(...normal) || 1;
        lit =
          0.35 +
          0.65 *
            Math.max(
              0,
              (facing * (normal[0] * toSun[0] + normal[1] * toSun[1] + normal[2] * toSun[2])) / long,
            );
      }

      const through = 1 - rgba[4 * n + 3];
      for (let c = 0; c < 3; c++) out[4 * n + c] += through * STONE * lit;
      out[4 * n + 3] = 1;
    }

  return { width, height, rgba: out };
}

/** Voxels of a brick that hold something, from and to behind the last; all of it where nothing does. */
function heldIn({ dims: [nx, ny, nz], bytes }: PreviewVolume): readonly [Triple, Triple] {
  const from: Triple = [nx, ny, nz];
  const to: Triple = [0, 0, 0];
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) {
        if (bytes[n] === 0) continue;
        if (i < from[0]) from[0] = i;
        if (i >= to[0]) to[0] = i + 1;
        if (j < from[1]) from[1] = j;
        if (j >= to[1]) to[1] = j + 1;
        if (k < from[2]) from[2] = k;
        to[2] = k + 1;
      }

  // a voxel more on either side, into which what is there is smoothed
  return [from.map((v) => v - 1) as Triple, to.map((v) => v + 1) as Triple];
}

/**
 * Single scattering of the sun and of an even environment, stepped through the brick at its voxels.
 * @param width pixels across; the height keeps the camera's shape
 * @param limits how far each pixel sees, m, see limitsOf; null: without an end
 */
export function seeBrick(
  brick: PreviewVolume,
  look: Look,
  width: number,
  limits: Float32Array | null = null,
): Sight {
  const height = heightOf(look, width);
  const { eye, corner, across, down } = cameraRays({ ...look, camera: { ...look.camera, width, height } });
  const { dims, bytes, colour, voxelSizeM: h } = brick;
  const { toSun, sun, sky } = workLight(look);
  const light = lightSweep(brick, toSun, look.medium.density * look.medium.shadow);
  const [nx, ny, nz] = dims;
  const rgba = new Float32Array(4 * width * height);
  const perStep = Float32Array.from({ length: 256 }, (_, v) =>
    Math.exp((-look.medium.density * brick.greatest * v * STEP * h) / 255),
  );
  const g = look.medium.forward;
  const albedo = look.medium.scatter;
  const from = eye.map((v, a) => (v - brick.corner[a]) / h);
  const [low, high] = heldIn(brick);
  const way: Triple = [0, 0, 0];
  for (let y = 0, at = 0; y < height; y++)
    for (let x = 0; x < width; x++, at += 4) {
      for (let a = 0; a < 3; a++) way[a] = corner[a] + x * across[a] + y * down[a];
      const length = Math.hypot(way[0], way[1], way[2]);
      for (let a = 0; a < 3; a++) way[a] /= length;
      let near = 0;
      let far = limits ? limits[at >> 2] / h : Infinity;
      for (let a = 0; a < 3; a++) {
        const p = (Math.max(0, low[a]) - from[a]) / way[a];
        const q = (Math.min(dims[a], high[a]) - from[a]) / way[a];
        near = Math.max(near, Math.min(p, q) || 0);
        far = Math.min(far, Math.max(p, q));
      }

      if (far <= near) continue;
      // Henyey–Greenstein with its mean over all directions as 1, as the window has it
      const base = 1 + g * g - 2 * g * (way[0] * toSun[0] + way[1] * toSun[1] + way[2] * toSun[2]);
      const phase = (1 - g * g) / (base * Math.sqrt(base));
      let through = 1;
      let r = 0;
      let gr = 0;
      let b = 0;
      for (let t = near + STEP / 2; t < far && through > THROUGH; t += STEP) {
        const x = from[0] + t * way[0];
        const y = from[1] + t * way[1];
        const z = from[2] + t * way[2];
        const v = smooth(bytes, nx, ny, nz, x - 0.5, y - 0.5, z - 0.5);
        if (v < 0.5) continue;
        const i = inside(x, nx);
        const j = inside(y, ny);
        const k = inside(z, nz);
        const pass = perStep[(v + 0.5) | 0];
        const lit = light[(k * ny + j) * nx + i] / 255;
        const took = (through * (1 - pass)) / 255;
        const s = phase * lit;
        const e = 0.35 + 0.65 * lit;
        let red = 255;
        let green = 255;
        let blue = 255;
        if (colour) {
          const [cx, cy, cz] = colour.dims;
          const c = 4 * ((inside(k >> 1, cz) * cy + inside(j >> 1, cy)) * cx + inside(i >> 1, cx));
          if (colour.bytes[c + 3]) {
            red = colour.bytes[c];
            green = colour.bytes[c + 1];
            blue = colour.bytes[c + 2];
          }
        }

        r += took * albedo[0] * (sun[0] * s + sky[0] * e) * red;
        gr += took * albedo[1] * (sun[1] * s + sky[1] * e) * green;
        b += took * albedo[2] * (sun[2] * s + sky[2] * e) * blue;
        through *= pass;
      }

      rgba[at] = r;
      rgba[at + 1] = gr;
      rgba[at + 2] = b;
      rgba[at + 3] = 1 - through;
    }

  return { width, height, rgba };
}

/** The cell that a place lies in, the outermost beyond. */
const inside = (x: number, n: number): number => (x < 0 ? 0 : Math.min(n - 1, x | 0));

/** Linear between the middles of voxels, level beyond the outermost. */
function smooth(v: Uint8Array, nx: number, ny: number, nz: number, x: number, y: number, z: number): number {
  const i = inside(x, nx);
  const j = inside(y, ny);
  const k = inside(z, nz);
  const n = (k * ny + j) * nx + i;
  const di = i + 1 < nx ? 1 : 0;
  const dj = j + 1 < ny ? nx : 0;
  const dk = k + 1 < nz ? nx * ny : 0;
  const v000 = v[n];
  const v100 = v[n + di];
  const v010 = v[n + dj];
  const v110 = v[n + dj + di];
  const v001 = v[n + dk];
  const v101 = v[n + dk + di];
  const v011 = v[n + dk + dj];
  const v111 = v[n + dk + dj + di];
  if ((v000 | v100 | v010 | v110 | v001 | v101 | v011 | v111) === 0) return 0;
  const a = x > i ? x - i : 0;
  const b = y > j ? y - j : 0;
  const c = z > k ? z - k : 0;
  return trilinear(v000, v100, v010, v110, v001, v101, v011, v111, a, b, c);
}

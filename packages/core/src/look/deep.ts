// Deep pictures: colour and coverage of each pixel by depth. The medium on a ray is parted where what is let
// through bends (see the kernels' sense.ts). What each part adds to the picture is told in quick pictures by
// marches that end at these places, in true ones by where paths first meet something. So the parts, laid over
// one another, are the picture itself. They are always sharp: what is blurred stands at many depths.
import type { LookRenderer } from './renderer';
import type { PixelBox } from './rendered-frame';
import { cameraRays } from './look';
import { DEEP_ROWS, MOST_BOUNDS } from './render-layout';

/** Samples of a pixel stand one behind the other, nearest first. Colours are premultiplied by their alpha. */
export interface DeepPicture {
  readonly width: number;
  readonly height: number;
  /** Samples of each pixel. */
  readonly counts: Uint32Array;
  /** Six values a sample: red, green, blue, alpha, and where it begins and ends along the axis, m. */
  readonly samples: Float32Array;
}

/** What hides nothing and gives nothing is left out. */
const LEAST = 1e-6;
/** Where the background stands, m. */
const BEHIND = 1e6;

/**
 * Of a pixel of a band: what its part adds to red, green, blue and alpha; the one past the last: all behind.
 */
export type PartOf = (pixel: number, part: number) => readonly number[];
/** What the parts of a band add, from where its rays are parted. */
export type Parting = (band: PixelBox, rays: ReturnType<LookRenderer['partRays']>) => PartOf;

/** Puts a deep picture together, a band of rows after the other. */
export function deepPicture(renderer: LookRenderer, { from, end }: PixelBox, partsOf: Parting): DeepPicture {
  const { width, height, compiled } = renderer;
  const { corner, across, down } = cameraRays(compiled.look);
  const counts = new Uint32Array(width * height);
  const out: number[] = [];
  for (let y0 = from[1]; y0 < end[1]; y0 += DEEP_ROWS) {
    const band: PixelBox = { from: [from[0], y0], end: [end[0], Math.min(end[1], y0 + DEEP_ROWS)] };
    const rays = renderer.partRays(band);
    const partOf = partsOf(band, rays);
    for (let y = y0; y < band.end[1]; y++)
      for (let x = from[0]; x < end[0]; x++) {
        const p = (y - y0) * width + x;
        // from places on the ray to those along the axis
        const ray = corner.map((c, a) => c + x * across[a] + y * down[a]);
        const metre = compiled.medium.voxelSizeM / Math.hypot(...ray);
        const parts: number[][] = [];
        for (let n = 0; n <= rays.counts[p]; n++) {
          // a step may reach a little beyond what stands there
          const [start, until] = [n === 0 ? 0 : rays.boundOf(p, n), rays.boundOf(p, n + 1)].map((bound) =>
            Math.min(rays.limits[p], bound),
          );
          parts.push([...partOf(p, n), start * metre, Math.max(start, until) * metre]);
        }

        const stands = rays.limits[p] < 1e9 ? rays.limits[p] * metre : BEHIND;
        parts.push([...partOf(p, rays.counts[p] + 1), stands, stands]);
        counts[y * width + x] = put(parts, out);
      }
  }

  return { width, height, counts, samples: Float32Array.from(out) };
}

/** Adds what is seen of a pixel's parts, each as if nothing stood before it. @returns how many there are */
function put(parts: readonly number[][], out: number[]): number {
  let left = 1;
  let count = 0;
  for (const [r, g, b, a, start, end] of parts) {
    if (Math.abs(a) <= LEAST && Math.abs(r) + Math.abs(g) + Math.abs(b) <= LEAST) continue;
    const free = Math.max(left, LEAST);
    const alpha = Math.min(1, Math.max(0, a / free));
    out.push(r / free, g / free, b / free, alpha, start, end);
    left *= 1 - alpha;
    count++;
  }

  return count;
}

/**
 * Parts of a quick picture.
 * @param flat the sharp picture: premultiplied colours
 */
export function quickParts(renderer: LookRenderer, flat: Float32Array): Parting {
  const { width } = renderer;
  return (band, { counts, limits, boundOf }) => {
    const most = counts.reduce((a, b) => Math.max(a, b), 0);
    const first = band.from[1] * width;
    // what the medium gives up to each place, and all of it
    const upTo = Array.from({ length: most + 1 }, (_, n) =>
      renderer.marchWithin(
        band,
        limits.map((limit, p) => {
          if (n > counts[p]) return 0;
          return n === counts[p] ? limit : Math.min(limit, boundOf(p, n + 1));
        }),
      ),
    );
    return (p, n) =>
      [0, 1, 2, 3].map((c) => {
        const now = n > counts[p] ? flat[4 * (first + p) + c] : upTo[n][4 * p + c];
        return n === 0 ? now : now - upTo[n - 1][4 * p + c];
      });
  };
}

/**
 * Parts of a true picture.
 * @param trace adds the samples of a band to the sums of its parts
 * @param shadowAt coverage by shadows on what stands behind
 */
export function trueParts(
  renderer: LookRenderer,
  trace: (band: PixelBox) => void,
  samplesOf: (pixel: number) => number,
  shadowAt: (pixel: number) => number,
): Parting {
  const { width } = renderer;
  return (band, { counts }) => {
    const sums = renderer.deepSums(band);
    trace(band);
    const first = band.from[1] * width;
    return (p, n) => {
      const part = n > counts[p] ? MOST_BOUNDS : n;
      const at = (p * (MOST_BOUNDS + 1) + part) * 4;
      const scale = 2 ** -32 / Math.max(1, samplesOf(first + p));
      const own = [0, 1, 2, 3].map((c) => Number(sums[at + c]) * scale);
      if (part === MOST_BOUNDS) own[3] += shadowAt(first + p);
      return own;
    };
  };
}

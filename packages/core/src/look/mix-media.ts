// Several media that lie over one another as one: extinctions add, what is scattered and taken is weighed by
// them, and two lobes stand for all their phase functions.
import type { Triple } from '../math/vector';
import { carryOn, type FieldName } from './fields';
import type { SeenMedium } from './medium';

/** A mixture keeps eight floats a value while it is made. */
const MOST_VALUES = 2 ** 25;
const ONE = 65535;
const meanLean = ({ phase }: SeenMedium): number =>
  phase.forward + phase.backPart * (phase.backward - phase.forward);

/**
 * One medium on a lattice with the finest voxels of all, or coarser ones where that would be too many.
 * Quick pictures have one phase function for all of it; true ones follow the mixture from place to place.
 */
export function mixMedia(media: readonly SeenMedium[]): SeenMedium {
  const finest = media.reduce((a, b) => (b.voxelSizeM < a.voxelSizeM ? b : a));
  let h = finest.voxelSizeM;
  // coarser ones fade out over half a voxel beyond their boxes
  const beyond = (m: SeenMedium): number => (m.voxelSizeM > finest.voxelSizeM ? m.voxelSizeM / 2 : 0);
  const least = [0, 1, 2].map((a) => Math.min(...media.map((m) => m.corner[a] - beyond(m))));
  const most = [0, 1, 2].map((a) =>
    Math.max(...media.map((m) => m.corner[a] + m.dims[a] * m.voxelSizeM + beyond(m))),
  );
  // the finest keeps its own places
  const corner = finest.corner.map((c, a) => c - h * Math.ceil((c - least[a]) / h - 1e-6)) as Triple;
  const dimsAt = (size: number): Triple =>
    most.map((e, a) => Math.max(1, Math.ceil((e - corner[a]) / size - 1e-6))) as Triple;
  while (dimsAt(h).reduce((all, n) => all * n, 1) > MOST_VALUES) h *= 1.25;
  const dims = dimsAt(h);
  const count = dims[0] * dims[1] * dims[2];
  const sums = Array.from({ length: 8 }, () => new Float32Array(count));
  // what only some of the media carry counts as 0 in the others
  const names = [...new Set(media.flatMap(({ fields }) => [...fields.keys()]))];
  const fields = new Map(names.map((name) => [name, new Float32Array(count)]));
  for (const medium of media) add(medium, corner, h, dims, sums, fields);
  const leans = media.map(meanLean);
  const [back, ahead] = [Math.min(...leans), Math.max(...leans)];
  const isChromatic = media.some(({ taking }) => taking.isChromatic);
  const [density, red, green, blue, takesR, takesG, takesB, bent] = sums;
  const tint = new Uint16Array(4 * count);
  const takes = isChromatic ? new Uint16Array(4 * count) : null;
  const part = (v: number): number => Math.round(ONE * Math.min(1, Math.max(0, v)));
  let all = 0;
  let allBack = 0;
  for (let n = 0; n < count; n++) {
    const mu = density[n];
    if (!(mu > 0)) continue;
    tint[4 * n] = part(red[n] / mu);
    tint[4 * n + 1] = part(green[n] / mu);
    tint[4 * n + 2] = part(blue[n] / mu);
    const scattered = red[n] + green[n] + blue[n];
    const lean = scattered > 0 ? bent[n] / scattered : ahead;
    const second = ahead > back ? (ahead - lean) / (ahead - back) : 0;
    tint[4 * n + 3] = part(second);
    all += scattered;
    allBack += scattered * second;
    if (takes) {
      takes[4 * n] = part(takesR[n] / mu);
      takes[4 * n + 1] = part(takesG[n] / mu);
      takes[4 * n + 2] = part(takesB[n] / mu);
    }

    for (const field of fields.values()) field[n] /= mu;
    density[n] = mu * h;
  }

  carryOn([...fields.values()], density, dims, 1);

  const none: Triple = [0, 0, 0];
  const whole: Triple = [1, 1, 1];
  return {
    dims,
    corner,
    voxelSizeM: h,
    density,
    tint,
    takes: takes ?? tint,
    curve: null,
    sigma: 1,
    taking: {
      takes0: isChromatic ? none : whole,
      takes1: isChromatic ? whole : none,
      scatters0: none,
      scatters1: whole,
      isChromatic,
    },
    phase: { forward: ahead, backward: back, backPart: all > 0 ? allBack / all : 0 },
    fields,
  };
}

/** Adds a medium's extinction a metre, what it scatters and takes by channel, and that times its lean. */
function add(
  medium: SeenMedium,
  corner: Triple,
  h: number,
  dims: Triple,
  [sum, red, green, blue, takesR, takesG, takesB, bent]: readonly Float32Array[],
  fields: ReadonlyMap<FieldName, Float32Array>,
): void {
  const { dims: own, voxelSizeM, density, tint, curve, sigma, taking } = medium;
  const [nx, ny, nz] = own;
  const { takes0, takes1, scatters0, scatters1 } = taking;
  const lean = meanLean(medium);
  const perMetre = sigma / voxelSizeM;
  const carried = [...medium.fields].map(([name, values]) => ({ values, to: fields.get(name)! }));
  const last = curve ? curve.values.length - 1 : 0;
  const shown = (d: number): number =>
    curve ? curve.values[Math.min(last, Math.floor((d / curve.most) * last + 0.5))] : d;
  const scale = h / voxelSizeM;
  const first = corner.map((v, a) => (v - medium.corner[a]) / voxelSizeM + scale / 2 - 0.5);
  // values of the lattice whose neighbours lie in the medium
  const from = first.map((f) => Math.max(0, Math.ceil((-1 - f) / scale)));
  const to = first.map((f, a) => Math.min(dims[a] - 1, Math.floor((own[a] - f) / scale)));
  for (let k = from[2]; k <= to[2]; k++) {
    const z = first[2] + k * scale;
    const z0 = Math.floor(z);
    for (let j = from[1]; j <= to[1]; j++) {
      const y = first[1] + j * scale;
      const y0 = Math.floor(y);
      for (let i = from[0]; i <= to[0]; i++) {
        const x = first[0] + i * scale;
        const x0 = Math.floor(x);
        const at = (k * dims[1] + j) * dims[0] + i;
        for (let corner8 = 0; corner8 < 8; corner8++) {
          const p = x0 + (corner8 & 1);
          const q = y0 + ((corner8 >> 1) & 1);
          const r = z0 + (corner8 >> 2);
          if (p < 0 || q < 0 || r < 0 || p >= nx || q >= ny || r >= nz) continue;
          const weight = (1 - Math.abs(x - p)) * (1 - Math.abs(y - q)) * (1 - Math.abs(z - r));
          const cell = (r * ny + q) * nx + p;
          if (!(weight > 0) || !(density[cell] > 0)) continue;
          const mu = weight * perMetre * shown(density[cell]);
          const [cr, cg, cb] = tint
            ? [tint[4 * cell] / ONE, tint[4 * cell + 1] / ONE, tint[4 * cell + 2] / ONE]
            : [0, 0, 0];
          const sr = mu * (scatters0[0] + cr * scatters1[0]);
          const sg = mu * (scatters0[1] + cg * scatters1[1]);
          const sb = mu * (scatters0[2] + cb * scatters1[2]);
          sum[at] += mu;
          red[at] += sr;
          green[at] += sg;
          blue[at] += sb;
          takesR[at] += mu * (takes0[0] + cr * takes1[0]);
          takesG[at] += mu * (takes0[1] + cg * takes1[1]);
          takesB[at] += mu * (takes0[2] + cb * takes1[2]);
          bent[at] += lean * (sr + sg + sb);
          for (const { values, to: field } of carried) field[at] += mu * values[cell];
        }
      }
    }
  }
}

// Refine: small-scale motion and finer voxels for a finished cache, without changing what the coarse grid holds (after Kim,
// Thürey, James, Gross 2008). Fine density is carried by the coarse velocity and by curl noise that is strong where the coarse
// flow has energy at its smallest scale or is strained, and that rides on the flow by texture coordinates; two sets of them are
// renewed in turn and faded into each other (Neyret 2003). Then a smooth factor brings the means over the coarse voxels back.
//
// It works on slabs, and the frame before is the one that was written: memory is bounded by a slab and the active voxels, and a
// pass that goes on from any frame gives the same bits.
import { CURL_NOISE_RMS } from '../air/turbulence';
import { fromHalf, toHalf } from '../files/half';
import { LEAF, LEAF_VOXELS, type Leaf, type VdbGrid } from '../files/vdb/format';
import { toLeaves } from '../files/vdb/leaves';
import { MemoryPlan } from '../grid/memory';
import type { Team } from '../grid/team';
import { DocumentKind } from '../recipe/document';
import { flag, integer, number, type Part } from '../recipe/settings';
import type { Triple } from '../recipe/recipe';
import { spread } from './air';
import type { Frames } from './frames';
import { blurred } from './tools/filter';
import { boxOf, carried, CHANNELS, countOf, facesAbout, tight, type CacheVolume, type ChannelName } from './volume';

const PART: Part = {
  key: 'refine',
  title: 'Refine',
  many: false,
  keyable: false,
  sentence:
    'Voxels {times} times as fine, with whirls of {size} and smaller at {strength} of what such a flow has, {strain} more where it is strained; their pattern is renewed over {renew}, the coarse picture held to {hold}; velocity kept: {velocity}.',
  settings: [
    integer('times', 'finer', '', [2, 4], 2, 'Fine voxels to a coarse one along an edge.'),
    number(
      'strength',
      'strength',
      '%',
      [0, 500],
      100,
      'Of the speed that whirls of this size have in turbulence that goes on to small scales (Kolmogorov).',
    ),
    number('size', 'size', 'm', [0, 10], 0, 'Width of the largest whirls that are added, in the world.', {
      word: { is: 0, text: 'two voxels' },
    }),
    number('strain', 'where strained', '%', [0, 500], 50, 'How much stronger they are where the coarse flow is sheared.'),
    integer(
      'renew',
      'renewed over',
      'frames',
      [4, 200],
      24,
      'Frames after which the pattern that the flow has stretched is replaced; it is faded, so that nothing pops.',
    ),
    number('hold', 'held to', '%', [0, 100], 100, 'How much of the difference from the coarse cache is taken back in each frame.'),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another pattern.'),
    flag('velocity', 'velocity', false, 'Write the fine velocity too, for motion blur and particles: takes several times the disk.'),
  ],
};
export interface Refine {
  times: number;
  strength: number;
  size: number;
  strain: number;
  renew: number;
  hold: number;
  seed: number;
  velocity: boolean;
}
const KIND = new DocumentKind<{ refine: Refine }>('refine pass', 1, [PART]);
export const REFINE = {
  part: PART,
  /** @throws DocumentError */
  parse: (settings: unknown): Refine => KIND.parse({ refine: settings }).refine,
  start: (): Refine => KIND.defaultPart<Refine>('refine'),
};

/** Coarse voxels of clear air around the medium in which detail may go. */
const AROUND = 3;
/** Passes that bring the means back; each looks one coarse layer further. */
const PASSES = 5;
/** Bytes that the fields of a slab may take together; no slab is thinner than a leaf. */
const SLAB_BYTES = 192 * 2 ** 20;
const FLOATS = 12;
/** Empty voxels around the frame before, for its cubic look-ups. */
const MARGIN = 3;

/** A refined frame: grids to be written, and what was measured on the way. */
export interface Refined {
  readonly grids: readonly VdbGrid[];
  readonly mass: number;
  readonly greatestDensity: number;
  /** Σ |mean over a coarse voxel − what the coarse cache holds there| over the sum of what it holds. */
  readonly apart: number;
}

export class Refiner {
  private readonly h: number;
  /** The way that the texture coordinates of both sets have been carried, in the box of a frame; coarse voxels. */
  private ways: { frame: number; min: Triple; dims: Triple; sets: readonly (readonly Float32Array[])[] } | null = null;

  /**
   * @param team whose memory it may grow and use as it likes
   * @param previous the fine density of a frame as it was written; asked for the frame before the first one that is made
   */
  constructor(
    private readonly source: Frames,
    private readonly settings: Refine,
    private readonly team: Team,
    private readonly half: boolean,
    /** Voxels that are thinner are not written. */
    private readonly threshold: number,
    private readonly previous: (frame: number) => VdbGrid,
    private readonly slabBytes = SLAB_BYTES,
  ) {
    this.h = source.voxelSizeM;
  }

  /** @throws Error where the cache keeps no velocity */
  make(frame: number): Refined {
    const { source, settings, h } = this,
      coarse = source.read(frame),
      frameS = this.frameS(frame);
    if (!coarse.channels.has('velocity'))
      throw new Error('The cache keeps no velocity, so detail cannot ride on it. Bake it with velocity.');
    const box = widened(coarse),
      flow = centred(coarse, box, frameS / h);
    const sets = this.carryWays(frame, box, flow);
    const packed = pack(box, flow, strengthOf(flow, box, settings), sets);
    return this.slabs(frame, box, packed, flow, h / frameS);
  }

  /** Age of a set of coordinates, frames: set 0 is renewed with the first frame, set 1 half a period later. */
  private age(frame: number, set: number): number {
    const { renew } = this.settings,
      n = frame - this.source.first + (set === 1 ? Math.floor(renew / 2) : 0);
    return n % renew;
  }
  /** Which renewal a set is of: its pattern's own number. */
  private turn(frame: number, set: number): number {
    const { renew } = this.settings;
    return Math.floor((frame - this.source.first + (set === 1 ? Math.floor(renew / 2) : 0)) / renew);
  }

  /** Texture coordinates of a frame: those of the frame before, or walked from where they were renewed last. */
  private carryWays(frame: number, box: CacheVolume, flow: readonly Float32Array[]): readonly (readonly Float32Array[])[] {
    const { source } = this;
    if (this.ways?.frame !== frame - 1) {
      this.ways = null;
      for (let f = Math.max(source.first, frame - this.settings.renew); f < frame; f++) {
        const v = source.read(f),
          wide = widened(v);
        this.step(f, wide, centred(v, wide, this.frameS(f) / this.h));
      }
    }
    return this.step(frame, box, flow);
  }

  /** Seconds from the frame before. */
  private frameS(frame: number): number {
    const { source } = this;
    return frame > source.first ? source.timeS(frame) - source.timeS(frame - 1) : 1 / source.frameRate;
  }

  /** @param u velocity at the middles of the box's voxels, voxels a frame */
  private step(frame: number, { min, dims }: CacheVolume, u: readonly Float32Array[]): readonly (readonly Float32Array[])[] {
    const [nx, ny, nz] = dims,
      before = this.ways;
    const sets = [0, 1].map((set) => {
      const out = [0, 1, 2].map(() => new Float32Array(countOf(dims)));
      if (!before || this.age(frame, set) === 0) return out;
      const mix = new Mixer(before.dims),
        old = before.sets[set];
      for (let k = 0, n = 0; k < nz; k++)
        for (let j = 0; j < ny; j++)
          for (let i = 0; i < nx; i++, n++) {
            mix.at(min[0] + i - u[0][n] - before.min[0], min[1] + j - u[1][n] - before.min[1], min[2] + k - u[2][n] - before.min[2]);
            for (let a = 0; a < 3; a++) out[a][n] = u[a][n] + mix.of(old[a]);
          }
      return out;
    });
    this.ways = { frame, min, dims, sets };
    return sets;
  }

  private slabs(frame: number, box: CacheVolume, packed: Float32Array, flow: readonly Float32Array[], speed: number): Refined {
    const { settings, team, source } = this,
      { times } = settings,
      [cx, cy, cz] = box.dims,
      fx = cx * times,
      fy = cy * times,
      density = box.channels.get('density')![0],
      fine = box.min.map((m) => m * times) as Triple,
      hf = this.h / times;
    const fastest = greatest(flow, packed),
      reach = Math.ceil(fastest * times) + MARGIN,
      earlier = frame > source.first ? this.previous(frame - 1) : null;
    // slabs that end between leaves of the world's lattice
    const bytesAPlane = 4 * fx * fy * (2 + (settings.velocity ? 3 : 0)),
      thick = Math.max(1, Math.floor(this.slabBytes / bytesAPlane / LEAF) - Math.ceil((2 * PASSES * times + 2 * reach) / LEAF)) * LEAF;
    const octaves = octavesOf(settings, this.h),
      [first, second] = [0, 1].map((set) => Math.sin((Math.PI * this.age(frame, set)) / settings.renew)),
      [seed1, seed2] = [0, 1].map((set) => settings.seed * 1009 + this.turn(frame, set) * 64 + set * 32);
    const leaves: Leaf[] = [],
      moving: Leaf[] = [];
    let mass = 0,
      most = 0,
      apart = 0,
      held = 0;
    const low = Math.floor(fine[2] / LEAF) * LEAF,
      end = fine[2] + cz * times;
    for (let from = low; from < end; from += thick) {
      const za = Math.max(0, from - fine[2]),
        zb = Math.min(cz * times, from + thick - fine[2]);
      // with coarse layers on both sides that the passes look at
      const ka = Math.max(0, Math.floor(za / times) - PASSES),
        kb = Math.min(cz, Math.ceil(zb / times) + PASSES),
        layers = kb - ka,
        planes = layers * times;
      const memory = new MemoryPlan(),
        out = memory.bytes(4 * fx * fy * planes),
        currents = settings.velocity ? memory.bytes(12 * fx * fy * planes) : 0,
        coarseAt = memory.bytes(4 * packed.length),
        means = memory.bytes(4 * cx * cy * layers),
        wanted = memory.bytes(4 * cx * cy * layers),
        table = memory.bytes(256 * 48),
        size = [fx + 2 * MARGIN, fy + 2 * MARGIN, planes + 2 * reach] as Triple,
        prev = earlier ? memory.bytes(4 * countOf(size)) : 0;
      team.ensurePages(memory.pages);
      const view = (address: number, count: number): Float32Array => new Float32Array(team.memory.buffer, address, count);
      view(coarseAt, packed.length).set(packed);
      view(wanted, cx * cy * layers).set(density.subarray(ka * cx * cy, kb * cx * cy));
      const at: Triple = [-MARGIN, -MARGIN, ka * times - reach];
      if (earlier) unpack(earlier, at.map((a, n) => a + fine[n]) as Triple, size, view(prev, countOf(size)));
      team.solo('gradientTable', table, settings.seed, 0);
      team.run(
        ...(['refineCarry', planes, 2, coarseAt, cx, cy, cz, prev, ...at, ...size, out, currents, ka * times, planes, times] as const),
        ...([table, seed1, seed2, first, second, octaves, this.h / sizeOf(settings, this.h), ...box.min] as const),
      );
      const fineField = view(out, fx * fy * planes);
      if (!earlier) fineField.fill(0);
      for (let pass = 0; pass < PASSES; pass++) {
        team.run('refineMeans', layers, 1, out, means, cx, cy, times);
        // a first frame has nothing but what the coarse one holds
        team.run('refineHold', planes, 2, out, means, wanted, cx, cy, layers, times, earlier ? settings.hold / 100 : 1);
      }
      team.run('refineMeans', layers, 1, out, means, cx, cy, times);
      const got = view(means, cx * cy * layers);
      for (let n = (Math.ceil(za / times) - ka) * cx * cy; n < (Math.floor(zb / times) - ka) * cx * cy; n++) {
        held += density[ka * cx * cy + n];
        apart += Math.abs(got[n] - density[ka * cx * cy + n]);
      }
      // what is written, and what lies just below it, whose upper faces stand in it
      const skip = za - ka * times,
        own = fineField.slice(fx * fy * skip, fx * fy * (skip + zb - za)),
        active = above(own, this.threshold),
        dims: Triple = [fx, fy, zb - za],
        origin: Triple = [fine[0], fine[1], fine[2] + za];
      for (let n = 0; n < own.length; n++) {
        if (!active[n]) continue;
        if (this.half) own[n] = fromHalf(toHalf(own[n]));
        mass += own[n];
        if (own[n] > most) most = own[n];
      }
      leaves.push(...toLeaves([own], active, dims, origin));
      if (settings.velocity) {
        const all = facesAbout(above(fineField, this.threshold), [fx, fy, planes]).subarray(fx * fy * skip, fx * fy * (skip + zb - za)), // prettier-ignore
          faces = [0, 1, 2].map((a) => faced(view(currents + 4 * a * fx * fy * planes, fx * fy * planes), [fx, fy, planes], a, speed).subarray(fx * fy * skip, fx * fy * (skip + zb - za))); // prettier-ignore
        moving.push(...toLeaves(faces, all, dims, origin));
      }
    }
    for (const list of [leaves, moving])
      list.sort((a, b) => a.origin[0] - b.origin[0] || a.origin[1] - b.origin[1] || a.origin[2] - b.origin[2]);
    const base = { half: this.half, voxelSize: [hf, hf, hf], translation: [hf / 2, hf / 2, hf / 2], tiles: [] } as const;
    const grid = (name: ChannelName, own: readonly Leaf[]): VdbGrid => ({
      ...{
        ...base,
        name,
        kind: CHANNELS[name].parts === 3 ? 'vec3' : 'float',
        background: new Array<number>(CHANNELS[name].parts).fill(0),
      },
      ...{ metadata: CHANNELS[name].metadata, leaves: own },
    });
    const others = [...box.channels.keys()].filter((name) => name !== 'density' && name !== 'velocity');
    return {
      grids: [
        grid('density', leaves),
        ...others.map((name) => grid(name, lookedUp(box, name, leaves, hf))),
        ...(settings.velocity ? [grid('velocity', moving)] : []),
      ],
      ...{ mass: mass * hf ** 3, greatestDensity: most, apart: held > 0 ? apart / held : 0 },
    };
  }
}

const sizeOf = ({ size }: Refine, h: number): number => (size === 0 ? 2 * h : size);
/** Layers of whirls down to two fine voxels. */
const octavesOf = (settings: Refine, h: number): number =>
  Math.min(6, Math.max(1, 1 + Math.floor(Math.log2(sizeOf(settings, h) / (2 * (h / settings.times))) + 1e-6)));

/** The box of a frame's medium with room around it. */
function widened(v: CacheVolume): CacheVolume {
  const own = tight({ ...v, moving: v.active });
  return boxOf({ ...v, moving: v.active }, own.min.map((m) => m - AROUND) as Triple, own.dims.map((d) => d + 2 * AROUND) as Triple);
}

/** Velocity at the middles of a box's voxels, voxels a frame, carried on beyond the medium. */
function centred(v: CacheVolume, box: CacheVolume, scale: number): Float32Array[] {
  const { parts, min, dims } = spread(v, v.channels.get('velocity')!);
  const [nx, ny, nz] = box.dims,
    steps = [1, dims[0], dims[0] * dims[1]];
  const off = box.min.map((m, q) => m - min[q]);
  return parts.map((p, a) => {
    const out = new Float32Array(countOf(box.dims));
    for (let k = 0, n = 0; k < nz; k++)
      for (let j = 0; j < ny; j++)
        for (let i = 0; i < nx; i++, n++) {
          const x = i + off[0],
            y = j + off[1],
            z = k + off[2];
          if (x < 0 || y < 0 || z < 0 || x >= dims[0] || y >= dims[1] || z >= dims[2]) continue;
          if ((a === 0 ? x : a === 1 ? y : z) === dims[a] - 1) continue;
          const m = x + y * steps[1] + z * steps[2];
          out[n] = 0.5 * (p[m] + p[m + steps[a]]) * scale;
        }
    return out;
  });
}

/** How strong the noise is: the speed that the flow has at its smallest scale, and the shear across a voxel. */
function strengthOf(u: readonly Float32Array[], box: CacheVolume, { strength, strain }: Refine): Float32Array {
  const { dims } = box,
    [nx, ny, nz] = dims,
    steps = [1, nx, nx * ny],
    smooth = u.map((p) => blurred(p, dims, 1)),
    out = new Float32Array(countOf(dims));
  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) {
        const inside = i > 0 && j > 0 && k > 0 && i < nx - 1 && j < ny - 1 && k < nz - 1;
        if (!inside) continue;
        let fast = 0,
          sheared = 0;
        for (let a = 0; a < 3; a++) {
          fast += (u[a][n] - smooth[a][n]) ** 2;
          for (let b = 0; b < 3; b++) {
            const s = 0.25 * (u[a][n + steps[b]] - u[a][n - steps[b]] + u[b][n + steps[a]] - u[b][n - steps[a]]);
            sheared += s * s;
          }
        }
        out[n] = ((strength / 100) * (Math.sqrt(fast) + (strain / 100) * Math.sqrt(2 * sheared))) / CURL_NOISE_RMS;
      }
  return blurred(out, dims, 1);
}

/** As the kernel reads it: twelve floats a voxel. */
function pack(
  box: CacheVolume,
  u: readonly Float32Array[],
  strength: Float32Array,
  sets: readonly (readonly Float32Array[])[],
): Float32Array {
  const count = countOf(box.dims),
    out = new Float32Array(FLOATS * count),
    near = grown(box.active, box.dims, 2);
  for (let n = 0; n < count; n++) {
    const o = FLOATS * n;
    for (let a = 0; a < 3; a++) {
      out[o + a] = u[a][n];
      out[o + 4 + a] = sets[0][a][n];
      out[o + 8 + a] = sets[1][a][n];
    }
    out[o + 3] = strength[n];
    out[o + 7] = near[n];
  }
  return out;
}

/** 1 within so many voxels, along the axes in turn. */
function grown(active: Uint8Array, [nx, ny, nz]: Triple, by: number): Float32Array {
  let from = Float32Array.from(active);
  for (const [stride, length] of [[1, nx], [nx, ny], [nx * ny, nz]] as const) {
    const to = new Float32Array(from.length);
    for (let n = 0; n < from.length; n++) {
      if (from[n] === 0) continue;
      const at = Math.floor(n / stride) % length;
      for (let o = Math.max(-by, -at); o <= Math.min(by, length - 1 - at); o++) to[n + o * stride] = 1;
    }
    from = to;
  } // prettier-ignore
  return from;
}

/** The farthest that anything goes in the frame, coarse voxels along an axis: all octaves of both sets at their greatest are less than eight of the noise's mean. */
function greatest(u: readonly Float32Array[], packed: Float32Array): number {
  let fast = 0,
    noise = 0;
  for (const p of u) for (let n = 0; n < p.length; n++) fast = Math.max(fast, Math.abs(p[n]));
  for (let n = 3; n < packed.length; n += FLOATS) noise = Math.max(noise, packed[n]);
  return fast + 8 * noise;
}

/** Fills a dense box from leaves; 0 where there are none. */
function unpack(grid: VdbGrid, min: Triple, [nx, ny, nz]: Triple, out: Float32Array): void {
  out.fill(0);
  for (const { origin, values, active } of grid.leaves) {
    const at = origin.map((o, a) => o - min[a]);
    if (at[0] <= -LEAF || at[1] <= -LEAF || at[2] <= -LEAF || at[0] >= nx || at[1] >= ny || at[2] >= nz) continue;
    for (let v = 0; v < LEAF_VOXELS; v++) {
      if (!((active[v >> 3] >> (v & 7)) & 1)) continue;
      const i = at[0] + (v >> 6),
        j = at[1] + ((v >> 3) & 7),
        k = at[2] + (v & 7);
      if (i >= 0 && j >= 0 && k >= 0 && i < nx && j < ny && k < nz) out[(k * ny + j) * nx + i] = values[v];
    }
  }
}

/** Middles to lower faces, m/s. */
function faced(middles: Float32Array, dims: Triple, axis: number, speed: number): Float32Array {
  const step = [1, dims[0], dims[0] * dims[1]][axis],
    length = dims[axis],
    out = new Float32Array(middles.length);
  for (let n = 0; n < out.length; n++)
    out[n] = speed * (Math.floor(n / step) % length === 0 ? middles[n] : 0.5 * (middles[n] + middles[n - step]));
  return out;
}

/** A channel that the medium carries, at the fine voxels, linear and by mass. */
function lookedUp(box: CacheVolume, name: ChannelName, leaves: readonly Leaf[], hf: number): Leaf[] {
  const density = box.channels.get('density')![0],
    sums = carried(box, name),
    parts = sums.length,
    mix = new Mixer(box.dims),
    per = hf / box.voxelSizeM;
  return leaves.map(({ origin, active }) => {
    const values = new Float32Array(LEAF_VOXELS * parts);
    for (let v = 0; v < LEAF_VOXELS; v++) {
      if (!((active[v >> 3] >> (v & 7)) & 1)) continue;
      mix.at(
        (origin[0] + (v >> 6) + 0.5) * per - 0.5 - box.min[0],
        (origin[1] + ((v >> 3) & 7) + 0.5) * per - 0.5 - box.min[1],
        (origin[2] + (v & 7) + 0.5) * per - 0.5 - box.min[2],
      );
      const d = mix.of(density);
      if (d > 0) for (let c = 0; c < parts; c++) values[v * parts + c] = mix.of(sums[c]) / d;
    }
    return { origin, active, values };
  });
}

/** Linear look-ups of several arrays at one place, in indices of their box; 0 outside. */
class Mixer {
  private readonly at8 = new Int32Array(8);
  private readonly weight8 = new Float64Array(8);
  constructor(private readonly dims: Triple) {}

  at(x: number, y: number, z: number): void {
    const [nx, ny, nz] = this.dims,
      i = Math.floor(x),
      j = Math.floor(y),
      k = Math.floor(z);
    for (let c = 0; c < 8; c++) {
      const p = i + (c & 1),
        q = j + ((c >> 1) & 1),
        r = k + (c >> 2),
        inside = p >= 0 && q >= 0 && r >= 0 && p < nx && q < ny && r < nz;
      this.at8[c] = inside ? (r * ny + q) * nx + p : 0;
      this.weight8[c] = inside ? (c & 1 ? x - i : 1 - x + i) * (c & 2 ? y - j : 1 - y + j) * (c & 4 ? z - k : 1 - z + k) : 0;
    }
  }

  of(values: Float32Array): number {
    let sum = 0;
    for (let c = 0; c < 8; c++) sum += this.weight8[c] * values[this.at8[c]];
    return sum;
  }
}

function above(values: Float32Array, threshold: number): Uint8Array {
  const out = new Uint8Array(values.length);
  for (let n = 0; n < out.length; n++) out[n] = values[n] > threshold ? 1 : 0;
  return out;
}

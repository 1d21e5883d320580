// Refine: small-scale motion and finer voxels for a finished cache, without changing what the coarse grid
// holds (after Kim, Thürey, James, Gross 2008). Fine density is carried by the coarse velocity and by curl
// noise that is strong where the coarse flow has energy at its smallest scale or is strained, and that rides
// on the flow by texture coordinates; two sets of them are renewed in turn and faded into each other (Neyret
// 2003). Then a smooth factor brings the means over the coarse voxels back.
//
// It works on slabs, and the frame before is the one that was written: memory is bounded by a slab and the
// active voxels, and a pass that goes on from any frame gives the same bits.
import { CoreError } from '../base/error';
import { sine, cube } from '../math/exact';
import { fromHalf, toHalf } from '../math/half';
import { LEAF, type Leaf, type VdbGrid } from '../files/vdb/format';
import { toLeaves } from '../files/vdb/leaves';
import { MemoryPlan } from '../grid/memory';
import { named } from '../grid/sweep';
import type { ThreadPool } from '../grid/thread-pool';
import type { Triple } from '../math/vector';
import type { FrameSource } from '../volume/frames';
import {
  above,
  centred,
  faced,
  greatest,
  lookedUp,
  Mixer,
  pack,
  strengthOf,
  unpack,
  widened,
} from './refine-fields';
import { CHANNELS, isVector, partsOf, type ChannelName } from '../base/channels';
import { countOf, facesAbout, isCarried, type CacheVolume } from '../volume/volume';
import type { Refine } from './refine-settings';

/** Passes that bring the means back; each looks one coarse layer further. */
const PASSES = 5;
/** Bytes that the fields of a slab may take together; no slab is thinner than a leaf. */
const SLAB_BYTES = 192 * 2 ** 20;
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
  /**
   * The way that the texture coordinates of both sets have been carried, in the box of a frame; coarse
   * voxels.
   */
  private ways: {
    frame: number;
    min: Triple;
    dims: Triple;
    sets: readonly (readonly Float32Array[])[];
  } | null = null;

  /**
   * @param team whose memory it may grow and use as it likes
   * @param previous the fine density of a frame as it was written; asked for the frame before the first one
   * that is made
   */
  constructor(
    private readonly source: FrameSource,
    private readonly settings: Refine,
    private readonly threadPool: ThreadPool,
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
    const { source, settings, h } = this;
    const coarse = source.read(frame);
    const frameS = this.frameS(frame);
    if (!coarse.channels.has('velocity'))
      throw new CoreError(
        'cache',
        'The cache keeps no velocity, so detail cannot ride on it. Bake it with velocity.',
      );
    const box = widened(coarse);
    const flow = centred(coarse, box, frameS / h);
    const sets = this.carryWays(frame, box, flow);
    const packed = pack(box, flow, strengthOf(flow, box, settings), sets);
    return this.slabs(frame, box, packed, flow, h / frameS);
  }

  /**
   * Age of a set of coordinates, frames: set 0 is renewed with the first frame, set 1 half a period later.
   */
  private age(frame: number, set: number): number {
    const { renew } = this.settings;
    const n = frame - this.source.first + (set === 1 ? Math.floor(renew / 2) : 0);
    return n % renew;
  }

  /** Which renewal a set is of: its pattern's own number. */
  private turn(frame: number, set: number): number {
    const { renew } = this.settings;
    return Math.floor((frame - this.source.first + (set === 1 ? Math.floor(renew / 2) : 0)) / renew);
  }

  /**
   * Texture coordinates of a frame: those of the frame before, or walked from where they were renewed last.
   */
  private carryWays(
    frame: number,
    box: CacheVolume,
    flow: readonly Float32Array[],
  ): readonly (readonly Float32Array[])[] {
    const { source } = this;
    if (this.ways?.frame !== frame - 1) {
      this.ways = null;
      for (let f = Math.max(source.first, frame - this.settings.renew); f < frame; f++) {
        const v = source.read(f);
        const wide = widened(v);
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
  private step(
    frame: number,
    { min, dims }: CacheVolume,
    u: readonly Float32Array[],
  ): readonly (readonly Float32Array[])[] {
    const [nx, ny, nz] = dims;
    const before = this.ways;
    const sets = [0, 1].map((set) => {
      const out = [0, 1, 2].map(() => new Float32Array(countOf(dims)));
      if (!before || this.age(frame, set) === 0) return out;
      const mix = new Mixer(before.dims);
      const old = before.sets[set];
      for (let k = 0, n = 0; k < nz; k++)
        for (let j = 0; j < ny; j++)
          for (let i = 0; i < nx; i++, n++) {
            mix.at(
              min[0] + i - u[0][n] - before.min[0],
              min[1] + j - u[1][n] - before.min[1],
              min[2] + k - u[2][n] - before.min[2],
            );
            for (let a = 0; a < 3; a++) out[a][n] = u[a][n] + mix.of(old[a]);
          }

      return out;
    });
    this.ways = { frame, min, dims, sets };
    return sets;
  }

  private slabs(
    frame: number,
    box: CacheVolume,
    packed: Float32Array,
    flow: readonly Float32Array[],
    speed: number,
  ): Refined {
    const { settings, threadPool, source } = this;
    const { times } = settings;
    const [cx, cy, cz] = box.dims;
    const fx = cx * times;
    const fy = cy * times;
    const density = box.channels.get('density')![0];
    const fine = box.min.map((m) => m * times) as Triple;
    const hf = this.h / times;
    const fastest = greatest(flow, packed);
    const reach = Math.ceil(fastest * times) + MARGIN;
    const earlier = frame > source.first ? this.previous(frame - 1) : null;
    // slabs that end between leaves of the world's lattice
    const bytesAPlane = 4 * fx * fy * (2 + (settings.velocity ? 3 : 0));
    const thick =
      Math.max(
        1,
        Math.floor(this.slabBytes / bytesAPlane / LEAF) - Math.ceil((2 * PASSES * times + 2 * reach) / LEAF),
      ) * LEAF;
    const octaves = octavesOf(settings, this.h);
    const [first, second] = [0, 1].map((set) => sine((Math.PI * this.age(frame, set)) / settings.renew));
    const [seed1, seed2] = [0, 1].map((set) => settings.seed * 1009 + this.turn(frame, set) * 64 + set * 32);
    const leaves: Leaf[] = [];
    const moving: Leaf[] = [];
    let mass = 0;
    let most = 0;
    let apart = 0;
    let held = 0;
    const low = Math.floor(fine[2] / LEAF) * LEAF;
    const end = fine[2] + cz * times;
    for (let from = low; from < end; from += thick) {
      const za = Math.max(0, from - fine[2]);
      const zb = Math.min(cz * times, from + thick - fine[2]);
      // with coarse layers on both sides that the passes look at
      const ka = Math.max(0, Math.floor(za / times) - PASSES);
      const kb = Math.min(cz, Math.ceil(zb / times) + PASSES);
      const layers = kb - ka;
      const planes = layers * times;
      const memory = new MemoryPlan();
      const out = memory.bytes(4 * fx * fy * planes);
      const currents = settings.velocity ? memory.bytes(12 * fx * fy * planes) : 0;
      const coarseAt = memory.bytes(4 * packed.length);
      const means = memory.bytes(4 * cx * cy * layers);
      const wanted = memory.bytes(4 * cx * cy * layers);
      const table = memory.bytes(256 * 48);
      const size = [fx + 2 * MARGIN, fy + 2 * MARGIN, planes + 2 * reach] as Triple;
      const prev = earlier ? memory.bytes(4 * countOf(size)) : 0;
      threadPool.ensurePages(memory.pages);
      const view = (address: number, count: number): Float32Array =>
        new Float32Array(threadPool.memory.buffer, address, count);
      view(coarseAt, packed.length).set(packed);
      view(wanted, cx * cy * layers).set(density.subarray(ka * cx * cy, kb * cx * cy));
      const at: Triple = [-MARGIN, -MARGIN, ka * times - reach];
      if (earlier) unpack(earlier, at.map((a, n) => a + fine[n]) as Triple, size, view(prev, countOf(size)));
      threadPool.solo('gradientTable', { table, seed: settings.seed, turns: 0 });
      threadPool.run('refineCarry', planes, 2, {
        coarse: coarseAt,
        cx,
        cy,
        cz,
        prev,
        ...named(['px', 'py', 'pz'], at),
        ...named(['nx', 'ny', 'nz'], size),
        out,
        flow: currents,
        z0: ka * times,
        planes,
        times,
        table,
        seed1,
        seed2,
        first,
        second,
        octaves,
        per: this.h / sizeOf(settings, this.h),
        ...named(['ox', 'oy', 'oz'], box.min),
      });
      const fineField = view(out, fx * fy * planes);
      if (!earlier) fineField.fill(0);
      for (let pass = 0; pass < PASSES; pass++) {
        threadPool.run('refineMeans', layers, 1, { fine: out, means, cx, cy, times });
        // a first frame has nothing but what the coarse one holds
        threadPool.run('refineHold', planes, 2, {
          fine: out,
          means,
          wanted,
          cx,
          cy,
          layers,
          times,
          hold: earlier ? settings.hold / 100 : 1,
        });
      }

      threadPool.run('refineMeans', layers, 1, { fine: out, means, cx, cy, times });
      const got = view(means, cx * cy * layers);
      for (let n = (Math.ceil(za / times) - ka) * cx * cy; n < (Math.floor(zb / times) - ka) * cx * cy; n++) {
        held += density[ka * cx * cy + n];
        apart += Math.abs(got[n] - density[ka * cx * cy + n]);
      }

      // what is written, and what lies just below it, whose upper faces stand in it
      const skip = za - ka * times;
      const own = fineField.slice(fx * fy * skip, fx * fy * (skip + zb - za));
      const active = above(own, this.threshold);
      const dims: Triple = [fx, fy, zb - za];
      const origin: Triple = [fine[0], fine[1], fine[2] + za];
      for (let n = 0; n < own.length; n++) {
        if (!active[n]) continue;
        if (this.half) own[n] = fromHalf(toHalf(own[n]));
        mass += own[n];
        if (own[n] > most) most = own[n];
      }

      leaves.push(...toLeaves([own], active, dims, origin));
      if (settings.velocity) {
        const all = facesAbout(above(fineField, this.threshold), [fx, fy, planes]).subarray(
          fx * fy * skip,
          fx * fy * (skip + zb - za),
        );
        const faces = [0, 1, 2].map((a) =>
          faced(
            view(currents + 4 * a * fx * fy * planes, fx * fy * planes),
            [fx, fy, planes],
            a,
            speed,
          ).subarray(fx * fy * skip, fx * fy * (skip + zb - za)),
        );
        moving.push(...toLeaves(faces, all, dims, origin));
      }
    }

    for (const list of [leaves, moving])
      list.sort(
        (a, b) => a.origin[0] - b.origin[0] || a.origin[1] - b.origin[1] || a.origin[2] - b.origin[2],
      );
    const base = {
      half: this.half,
      voxelSize: [hf, hf, hf],
      translation: box.translation.map((t) => t - this.h / 2 + hf / 2) as Triple,
      tiles: [],
    } as const;
    const grid = (name: ChannelName, own: readonly Leaf[]): VdbGrid => ({
      ...base,
      name,
      kind: isVector(name) ? 'vec3' : 'float',
      background: new Array<number>(partsOf(name)).fill(0),
      metadata: CHANNELS[name].grid,
      leaves: own,
    });
    const others = [...box.channels.keys()].filter(isCarried);
    return {
      grids: [
        grid('density', leaves),
        ...others.map((name) => grid(name, lookedUp(box, name, leaves, hf))),
        ...(settings.velocity ? [grid('velocity', moving)] : []),
      ],
      mass: mass * cube(hf),
      greatestDensity: most,
      apart: held > 0 ? apart / held : 0,
    };
  }
}

const sizeOf = ({ size }: Refine, h: number): number => (size === 0 ? 2 * h : size);

/** How many times 1 can be doubled within a ratio, rounding aside. */
function doublingsIn(ratio: number): number {
  let n = 0;
  while (2 ** (n + 1) <= ratio * (1 + 1e-6)) n++;
  return n;
}

/** Layers of whirls down to two fine voxels. */
const octavesOf = (settings: Refine, h: number): number =>
  Math.min(6, Math.max(1, 1 + doublingsIn((sizeOf(settings, h) * settings.times) / (2 * h))));

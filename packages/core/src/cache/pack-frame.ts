// One frame of a run as the grids of its cache, gathered by kernels: which voxels are active, and their
// values leaf by leaf as the file wants them. Memory that is free between frames is where they work.
import { Held, Marked } from '@bramblemist/kernels/seam';
import { CHANNELS, partsOf, type ChannelName } from '../base/channels';
import { LEAF, type PackedGrid } from '../files/vdb/format';
import type { ActiveWindow } from '../grid/lattice';
import type { Field } from '../grid/memory';
import { addresses } from '../grid/sweep';
import type { Triple } from '../math/vector';
import { hasDeposit, keptChannels } from '../recipe/kept';
import type { Recipe } from '../recipe/types';
import type { Simulation } from '../run/simulation';
import { gridHead } from '../volume/volume';

const MASK_BYTES = 64;
/** Leaves that a worker takes at a time. */
const LEAVES = 16;
const HELD = {
  value: Held.VALUE,
  faces: Held.VALUE,
  amount: Held.AMOUNT,
  layer: Held.LAYER,
  way: Held.WAY,
} as const;

/** The leaves that a window touches. */
interface Blocks {
  /** How many along each axis, and where the window begins in the first. */
  readonly many: Triple;
  readonly offset: Triple;
  /** Least voxel of the first. */
  readonly first: Triple;
  readonly count: number;
}

function blocksOf(origin: readonly number[], dims: readonly number[]): Blocks {
  const first = origin.map((o) => Math.floor(o / LEAF) * LEAF) as Triple;
  const many = dims.map((n, a) => Math.ceil((origin[a] + n - first[a]) / LEAF)) as Triple;
  const offset = origin.map((o, a) => o - first[a]) as Triple;
  return { many, offset, first, count: many[0] * many[1] * many[2] };
}

/** The largest float that is no more than a number: floats are above either or neither. */
function floatBelow(value: number): number {
  const near = Math.fround(value);
  if (near <= value) return near;
  const bits = new Int32Array(Float32Array.of(near).buffer);
  bits[0] -= near > 0 ? 1 : -1;
  return new Float32Array(bits.buffer)[0];
}

/**
 * The grids of the present frame, on the cells that the medium lies on: voxels above the threshold, velocity
 * about them, other channels where they are not 0.
 */
export function packFrame(simulation: Simulation, keep = simulation.plan.recipe.keep): PackedGrid[] {
  const names = keptChannels({ ...simulation.plan.recipe, keep });
  return new FramePacker(simulation, keep).grids(names);
}

/** How many bits of a word are set. */
function ones(word: number): number {
  const pairs = word - ((word >>> 1) & 0x55555555);
  const fours = (pairs & 0x33333333) + ((pairs >>> 2) & 0x33333333);
  return Math.imul((fours + (fours >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

class FramePacker {
  private readonly window: ActiveWindow;
  private readonly blocks: Blocks;
  /** Addresses: masks of what is active, masks of a channel, its leaves, where their values begin, values. */
  private readonly active: number;
  private readonly masks: number;
  private readonly list: number;
  private readonly starts: number;
  private readonly out: number;
  /** Bytes for values. */
  private readonly room: number;

  constructor(
    private readonly simulation: Simulation,
    private readonly keep: Recipe['keep'],
  ) {
    this.window = simulation.mediumWindow;
    const { nx, ny, nz } = this.window.lattice;
    this.blocks = blocksOf(this.window.origin, [nx, ny, nz]);
    const { free } = simulation.layout.medium ?? simulation.layout;
    const { count } = this.blocks;
    this.active = free.address;
    this.masks = this.active + count * MASK_BYTES;
    this.list = this.masks + count * MASK_BYTES;
    this.starts = this.list + 4 * count;
    this.out = Math.ceil((this.starts + 4 * count) / 16) * 16;
    this.room = free.address + free.bytes - this.out;
  }

  grids(names: readonly ChannelName[]): PackedGrid[] {
    const h = this.window.voxelSizeM;
    this.mark(this.active, Marked.CELLS);
    return names.map((name) => ({
      ...gridHead(name, h, [h / 2, h / 2, h / 2], this.keep.precision),
      ...this.gather(name),
    }));
  }

  private get buffer(): ArrayBufferLike {
    return this.simulation.threadPool.memory.buffer;
  }

  /** Where the kernels find the window among the leaves. */
  private get place(): Record<'rowStride' | 'planeStride' | 'ox' | 'oy' | 'oz' | 'lx' | 'ly', number> {
    const { rowStride, planeStride } = this.window.lattice;
    const [ox, oy, oz] = this.blocks.offset;
    const [lx, ly] = this.blocks.many;
    return { rowStride, planeStride, ox, oy, oz, lx, ly };
  }

  private mark(masks: number, marked: number): void {
    const { simulation, keep, blocks } = this;
    const { nx, ny, nz } = this.window.lattice;
    const deposits = keep.deposit && hasDeposit(simulation.plan.recipe);
    simulation.threadPool.run('markLeaves', blocks.many[2], 1, {
      f: simulation.onMedium('density')[0].address,
      g: deposits ? simulation.onMedium('deposit')[0].address : 0,
      threshold: floatBelow(keep.threshold),
      ...{ marked, masks, nx, ny, nz },
      ...this.place,
    });
  }

  /** What a grid holds besides its head. */
  private gather(name: ChannelName): Pick<PackedGrid, 'origins' | 'masks' | 'starts' | 'values'> {
    const { blocks, keep } = this;
    const memory = new Uint8Array(this.buffer);
    if (name === 'velocity') this.mark(this.masks, keep.air === 'room' ? Marked.ALL : Marked.FACES);
    else memory.copyWithin(this.masks, this.active, this.active + blocks.count * MASK_BYTES);
    const fields = this.simulation.onMedium(name);
    let marks = this.marked();
    if (name !== 'density' && name !== 'velocity') {
      // voxels in which it is 0 are left out
      new Int32Array(this.buffer, this.list, marks.leaves.length).set(marks.leaves);
      this.pack(name, fields, marks.leaves.length, true);
      marks = this.marked();
    }

    const { leaves, voxels } = marks;
    const bytes = partsOf(name) * (keep.precision === 'half' ? 2 : 4);
    const starts = new Uint32Array(leaves.length + 1);
    voxels.forEach((count, n) => (starts[n + 1] = starts[n] + count * bytes));
    const values = new Uint8Array(starts[leaves.length]);
    // as many leaves at a time as there is room for
    for (let from = 0, to = 0; from < leaves.length; from = to) {
      while (to < leaves.length && starts[to + 1] - starts[from] <= this.room) to++;
      new Int32Array(this.buffer, this.list, to - from).set(leaves.subarray(from, to));
      new Uint32Array(this.buffer, this.starts, to - from).set(
        starts.subarray(from, to).map((at) => at - starts[from]),
      );
      this.pack(name, fields, to - from, false);
      values.set(new Uint8Array(this.buffer, this.out, starts[to] - starts[from]), starts[from]);
    }

    const [lx, ly] = blocks.many;
    const origins = new Int32Array(3 * leaves.length);
    const masks = new Uint8Array(MASK_BYTES * leaves.length);
    leaves.forEach((leaf, n) => {
      const at = [leaf % lx, Math.floor(leaf / lx) % ly, Math.floor(leaf / (lx * ly))];
      at.forEach((v, a) => (origins[3 * n + a] = blocks.first[a] + v * LEAF));
      masks.set(new Uint8Array(this.buffer, this.masks + leaf * MASK_BYTES, MASK_BYTES), n * MASK_BYTES);
    });
    return { origins, masks, starts, values };
  }

  /** Leaves with anything in them, by the channel's masks, and how many voxels of it. */
  private marked(): { leaves: Int32Array; voxels: Uint32Array } {
    const { count } = this.blocks;
    const words = new Int32Array(this.buffer, this.masks, (count * MASK_BYTES) / 4);
    const voxels = new Uint32Array(count);
    for (let n = 0; n < words.length; n++) if (words[n] !== 0) voxels[n >> 4] += ones(words[n]);
    return {
      leaves: Int32Array.from(voxels.keys()).filter((n) => voxels[n] > 0),
      voxels: voxels.filter((v) => v > 0),
    };
  }

  private pack(name: ChannelName, fields: readonly Field[], leaves: number, sparse: boolean): void {
    const { simulation, keep } = this;
    const [a, b, c] = addresses(fields);
    const [wx, wy, wz] = this.window.origin;
    simulation.threadPool.run('packLeaves', leaves, LEAVES, {
      ...{ a, b: b ?? 0, c: c ?? 0 },
      density: simulation.onMedium('density')[0].address,
      held: HELD[CHANNELS[name].held],
      h: this.window.voxelSizeM,
      sparse: Number(sparse),
      halves: Number(keep.precision === 'half'),
      ...{ masks: this.masks, leaves: this.list, starts: this.starts, out: this.out },
      ...{ wx, wy, wz },
      ...this.place,
    });
  }
}

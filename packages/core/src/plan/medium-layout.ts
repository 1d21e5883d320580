// Where the medium lies whose cells are finer than the air's, and what both lattices need for it.
import {
  CurrentStruct,
  LevelStruct,
  PatternStruct,
  SweepStruct,
  VelocityEmissionStruct,
} from '@bramblemist/kernels/seam';
import type { MeshShape } from '../geometry/shape';
import type { Lattice } from '../grid/lattice';
import type { Field, MemoryPlan } from '../grid/memory';
import { SLAB } from '../grid/sweep';
import type { Level } from './levels';
import type { PoolPlace } from './particle-pool';
import type { Plan } from './plan';

/**
 * What giving off, carrying and spreading the medium need of memory: on the air's cells, or on the medium's
 * own, where these are finer.
 */
export interface MediumLayout {
  /** As in plan.channels: density first. */
  readonly channels: Field[];
  spare: Field;
  /** What has to flow out of a cell, m/s over a voxel; null where nothing makes air. */
  readonly outflow: Field | null;
  /**
   * The cells' air, as a part of them, at the last substep's end and at this one's; null where no obstacle
   * moves.
   */
  rooms: [Field, Field] | null;
  /**
   * Where anything rides on the medium: what passes the faces, and the mass of cells before and after a
   * sweep.
   */
  readonly riding: { readonly passed: Field; readonly masses: readonly [Field, Field] } | null;
  /**
   * Volumes that flow through the faces, and of the cells' air after one and two sweeps, before the first and
   * after the last.
   */
  readonly flows: readonly [Field, Field, Field];
  readonly volumes: readonly [Field, Field, Field, Field];
  /** Fields that stages use in turn; nothing lives in them from one stage to the next. */
  readonly scratch: readonly [Field, Field, Field];
  /**
   * Before transport: a source's cover of the cells (the mean over a substep, the most of any moment), the
   * same as far as its place goes, and its colours.
   */
  readonly cover: {
    readonly whole: readonly [Field, Field];
    readonly weighed: readonly [Field, Field];
    readonly colours: readonly [Field, Field, Field];
  };
  /** The finest first; more than one where there is a pressure. */
  readonly levels: readonly Pick<Level, 'lattice' | 'block'>[];
  /** Eight doubles a plane. */
  readonly partials: number;
  /** One sweep of the medium, and the rows that it works in; see carry.ts of the kernels. */
  readonly sweep: number;
  readonly sweepRows: number;
  /**
   * A byte a row: whether a channel is anywhere in it, before and after a sweep in turn; a third to throw
   * away.
   */
  readonly marks: readonly number[];
  /** Blocks and lists that stages tell kernels of in turn; what a source writes, see emit.ts. */
  readonly emission: number;
  /** Corners of the path that is being written. */
  readonly corners: number;
  /** Distances of the meshes of the plan's sources, their masks (0: none), and speeds of their surfaces. */
  readonly sourceGrids: readonly number[];
  readonly sourceMasks: readonly number[];
  readonly sourceFlows: readonly number[];
  readonly pictures: readonly number[];
  readonly pools: readonly PoolPlace[];
  /** Memory in which nothing lives between frames. */
  readonly free: { readonly address: number; readonly bytes: number };
}

/** The largest of the blocks that stages write in turn; a list of eighty weights fits too. */
const SHARED_BLOCK_BYTES = Math.max(
  320,
  VelocityEmissionStruct.bytes,
  CurrentStruct.bytes,
  PatternStruct.bytes,
);
/** Rows that a sweep works in, see carry.ts of the kernels. */
const SWEEP_ROWS = 9;

/** Bytes of one of the rows that a sweep works in, spare floats on both sides included. */
export const sweepRowBytes = ({ nx }: Lattice): number => Math.ceil(nx / 16) * 64 + 128;

/** Where stages work. @param planes of the lattice, or of a larger one that shares the partial results */
export function planWork(
  memory: MemoryPlan,
  lattice: Lattice,
  planes = lattice.nz,
): Pick<MediumLayout, 'partials' | 'sweep' | 'sweepRows' | 'marks' | 'emission' | 'corners'> {
  const { ny, nz } = lattice;
  return {
    partials: memory.bytes((planes + 2) * 64),
    sweep: memory.bytes(SweepStruct.bytes),
    sweepRows: memory.bytes(Math.ceil(nz / SLAB) * SWEEP_ROWS * sweepRowBytes(lattice)),
    marks: [0, 1, 2].map(() => memory.bytes(ny * nz)),
    emission: memory.bytes(SHARED_BLOCK_BYTES),
    corners: memory.bytes(64 * 12),
  };
}

/**
 * Where the medium lies whose cells are finer than the air's. Everything but its channels serves in turn.
 * @param fine of its cells
 * @param plan what it carries
 */
export function planMedium(
  memory: MemoryPlan,
  fine: Lattice,
  plan: Plan,
  pools: MediumLayout['pools'],
  pictures: MediumLayout['pictures'],
): MediumLayout {
  const field = (): Field => memory.field(fine);
  const two = (): [Field, Field] => [field(), field()];
  const grid = (mesh: MeshShape | null): number =>
    mesh ? memory.bytes(mesh.nodes[0] * mesh.nodes[1] * mesh.nodes[2] * 4) : 0;
  const moves = plan.obstacles.some((o) => o.moves);
  const flows: MediumLayout['flows'] = [field(), field(), field()];
  const free = memory.next;
  const sweeps = two();
  const freeEnd = memory.next;
  // of the cells' air where that changes, and of a cover that counts more in some places than in others
  const ends = moves || plan.regions.length > 0 ? two() : sweeps;
  const block = memory.bytes(LevelStruct.bytes);
  return {
    channels: plan.channels.map(field),
    spare: field(),
    outflow: null,
    rooms: moves ? two() : null,
    riding: plan.channels.some((c) => c.rides) ? { passed: field(), masses: two() } : null,
    flows,
    volumes: [...sweeps, ...ends],
    scratch: [...sweeps, ends[0]],
    cover: { whole: sweeps, weighed: ends, colours: flows },
    levels: [{ lattice: fine, block }],
    ...planWork(memory, fine),
    sourceGrids: plan.sources.map((p) => grid(p.mesh)),
    sourceMasks: plan.sources.map((p) => (p.mesh?.masked ? grid(p.mesh) : 0)),
    sourceFlows: [],
    pictures,
    pools,
    free: { address: free, bytes: freeEnd - free },
  };
}

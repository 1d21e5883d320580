// Where everything of a run lies in memory, and what the kernels are told of the pressure levels.
import { coarser, finer, lattice, type Lattice } from '../grid/lattice';
import { MemoryPlan, PLAN_START, split, type Field } from '../grid/memory';
import {
  AdvectionStruct,
  CurrentStruct,
  LevelStruct,
  PatternStruct,
  SolidStruct,
  SweepStruct,
  VelocityEmissionStruct,
} from '@bramblemist/kernels/seam';
import { addresses, SLAB, sites, named } from '../grid/sweep';
import type { ThreadPool } from '../grid/thread-pool';
import { PROFILE_STEPS } from '../recipe/profile';
import { poolBytes, type PoolPlace } from './particle-pool';
import type { MeshShape } from '../geometry/shape';
import type { Triple } from '../math/vector';
import type { Plan } from './plan';

/** Fine cells to a far one along an edge: three levels of the window in one. */
const FAR_DEPTH = 2;
export const FAR_TIMES = 2 ** FAR_DEPTH;

/** The box about a window in which its pressure goes on, on cells four times as large. */
export interface FarBox {
  readonly lattice: Lattice;
  /** The far cell that the window begins in. */
  readonly at: Triple;
  readonly sides: Plan['sides'];
  /** Whether a side of the window lies inside the room: there it meets the far pressure. */
  readonly inner: readonly boolean[];
}

/** Where that box lies in memory. */
export interface FarLayout extends FarBox {
  readonly levels: readonly Level[];
  /** Split by the parity of x, as of the window. */
  readonly pressure: number;
  readonly direction: number;
}

export interface FreeMemory {
  readonly address: number;
  readonly bytes: number;
}

/** One level of the pressure hierarchy, see level.ts of the kernels. */
export interface Level {
  readonly lattice: Lattice;
  /** Open fractions of the faces along x, y, z. */
  readonly open: readonly [Field, Field, Field];
  /** The block of words that describes the level to its kernels. */
  readonly block: number;
  /** Residual, correction, and what the way down keeps for the way up: split by the parity of x. */
  readonly r: number;
  readonly e: number;
  readonly q: number;
  readonly kind: number;
  readonly coefficients: number;
  readonly ring: number;
}

/**
 * Addresses of everything; a pure function of the window and the plan, so that cost can be told before a run.
 */
export interface Layout {
  velocity: [Field, Field, Field];
  velocityNext: [Field, Field, Field];
  /** As in plan.channels: density first, temperature second. */
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
   * Pressure over a substep's length, m/s over a voxel a second between substeps, and the direction of the
   * conjugate gradients, split by the parity of x.
   */
  readonly pressure: number;
  /** What the last substep's pressure was, while the next one is found; split likewise. */
  readonly lastPressure: number;
  readonly direction: number;
  /** Displacements of a step back and ahead, in cells, at cell centres; free outside transport. */
  readonly back: readonly [Field, Field, Field];
  readonly ahead: readonly [Field, Field, Field];
  /**
   * Volumes that flow through the faces, and of the cells' air after one and two sweeps, before the first and
   * after the last; the same memory as `back`, `ahead` and `scratch`.
   */
  readonly flows: readonly [Field, Field, Field];
  readonly volumes: readonly [Field, Field, Field, Field];
  /** Of the forces, m/s² at cell centres; the same memory as `back`. */
  readonly acceleration: readonly [Field, Field, Field];
  /**
   * Fields that stages use in turn; nothing lives in them from one stage to the next. Transport: estimate,
   * bounds.
   */
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
  /** Coarse acceleration of the turbulence and of large-scale confinement. */
  readonly coarseForce: readonly [Field, Field, Field];
  readonly gradientTable: number;
  readonly levels: readonly Level[];
  /** Null where the window is the whole room. */
  readonly far: FarLayout | null;
  /** Of the medium, where its cells are finer than the air's: density, and what rides on it. */
  readonly medium: MediumLayout | null;
  /** Eight doubles a plane. */
  readonly partials: number;
  /** A row a plane for the grid transfers. */
  readonly line: number;
  /**
   * What the channel that is being carried is carried with, see advect.ts of the kernels; what a source
   * writes, see emit.ts.
   */
  readonly advection: number;
  /** One sweep of the medium, and the rows that it works in; see carry.ts of the kernels. */
  readonly sweep: number;
  readonly sweepRows: number;
  readonly emission: number;
  /** Corners of the path that is being written. */
  readonly corners: number;
  /**
   * Distances of the meshes of the plan's sources and obstacles, masks of the sources' (0: none), and its
   * pictures.
   */
  readonly sourceGrids: readonly number[];
  readonly sourceMasks: readonly number[];
  readonly obstacleGrids: readonly number[];
  /** Speeds of the surfaces of meshes that change (0: they do not). */
  readonly sourceFlows: readonly number[];
  readonly obstacleFlows: readonly number[];
  /** Of currents that follow a volume: where it is known, and its velocity (0: they do not). */
  readonly currentGrids: readonly number[];
  readonly currentWays: readonly number[];
  readonly pictures: readonly number[];
  /** As in plan.regions: how far each voxel lies in each, 0…1, and the distances of those that are meshes. */
  readonly regions: readonly Field[];
  readonly regionGrids: readonly number[];
  /** Of the version of the settings that is looked at; null without regions. */
  readonly regionWeight: Field | null;
  /** The table of the soft edge that is worked with, see regions.ts of the kernels. */
  readonly profile: number;
  /** The formula that is worked out, see formula.ts of the kernels. */
  readonly formula: {
    readonly block: number;
    readonly code: number;
    readonly registers: number;
    readonly tables: readonly number[];
  };
  readonly pools: readonly PoolPlace[];
  /** Obstacles as the kernels see them, see solids.ts. */
  readonly solids: number;
  /**
   * A byte a row: whether a channel is anywhere in it, before and after a sweep in turn; a third to throw
   * away.
   */
  readonly marks: readonly number[];
  readonly pages: number;
  /** Memory in which nothing lives between frames. */
  readonly free: FreeMemory;
  /** First byte of all this, and the one behind the last. */
  readonly start: number;
  readonly bytes: number;
}

/**
 * What giving off, carrying and spreading the medium need of a layout: of the air's cells, or of the medium's
 * own, where these are finer.
 */
export type MediumLayout = Pick<
  Layout,
  | 'channels'
  | 'spare'
  | 'outflow'
  | 'rooms'
  | 'riding'
  | 'flows'
  | 'volumes'
  | 'scratch'
  | 'cover'
  | 'partials'
  | 'sweep'
  | 'sweepRows'
  | 'marks'
  | 'emission'
  | 'corners'
  | 'sourceGrids'
  | 'sourceMasks'
  | 'sourceFlows'
  | 'pictures'
  | 'pools'
  | 'free'
> & {
  readonly levels: readonly Pick<Level, 'lattice' | 'block'>[];
};

/** The largest of the blocks that stages write in turn; a list of eighty weights fits too. */
const SHARED_BLOCK_BYTES = Math.max(
  320,
  VelocityEmissionStruct.bytes,
  CurrentStruct.bytes,
  PatternStruct.bytes,
);
const FEWEST_CELLS = 4;
/** Of a table of gradients, see noise.ts of the kernels. */
const GRADIENT_BYTES = 256 * 48;
/** Rows that a sweep works in, see carry.ts of the kernels. */
const SWEEP_ROWS = 9;
/** What the ring of planes of a sweep may take of a core's cache, bytes. */
const RING_BYTES = 850_000;

/** @param threads workers that share the sweeps of a level, each in a ring of its own */
export function planLayout(
  fine: Lattice,
  plan: Pick<
    Plan,
    | 'channels'
    | 'hasOutflow'
    | 'sources'
    | 'obstacles'
    | 'particles'
    | 'currents'
    | 'pictures'
    | 'regions'
    | 'programs'
    | 'medium'
  >,
  threads: number,
  far: FarBox | null = null,
): Layout {
  const memory = new MemoryPlan();
  const grids = ({ mesh }: { mesh: MeshShape | null }, many = 1): number =>
    mesh ? memory.bytes(mesh.nodes[0] * mesh.nodes[1] * mesh.nodes[2] * 4 * many) : 0;
  const flows = (p: { mesh: MeshShape | null }): number => (p.mesh?.moves ? grids(p, 3) : 0);
  const three = (l: Lattice): [Field, Field, Field] => [memory.field(l), memory.field(l), memory.field(l)];
  const velocity = three(fine);
  const velocityNext = three(fine);
  const channels = plan.channels.map(() => memory.field(fine));
  const spare = memory.field(fine);
  const outflow = plan.hasOutflow ? memory.field(fine) : null;
  const rooms: Layout['rooms'] = plan.obstacles.some((o) => o.moves)
    ? [memory.field(fine), memory.field(fine)]
    : null;
  const riding: Layout['riding'] = plan.channels.some((c) => c.rides)
    ? { passed: memory.field(fine), masses: [memory.field(fine), memory.field(fine)] }
    : null;
  const pressure = splitField(memory, fine);
  const lastPressure = splitField(memory, fine);
  const direction = splitField(memory, fine);
  const free = memory.next;
  const back = three(fine);
  const ahead = [0, 1, 2].map(() => memory.field(fine, split(fine).bytes)) as [Field, Field, Field];
  const scratch = three(fine);
  const freeEnd = memory.next;
  const coarseForce = three(lattice(Math.ceil(fine.nx / 2), Math.ceil(fine.ny / 2), Math.ceil(fine.nz / 2)));
  // the finest residual and work lie in fields of transport: neither needs what is around it to be 0
  const levels = planLevels(memory, fine, threads, { r: inField(ahead[0]), q: inField(ahead[1]) });
  const farLayout = far && {
    ...far,
    levels: planLevels(memory, far.lattice, threads),
    pressure: splitField(memory, far.lattice),
    direction: splitField(memory, far.lattice),
  };
  const planes = Math.max(fine.nz, far?.lattice.nz ?? 0) + 2;
  const pools = plan.particles.map(({ room }) => ({ address: memory.bytes(poolBytes(room)), room }));
  const pictures = plan.pictures.map((p) => memory.bytes(p.width * p.height * 16));

  return {
    velocity,
    velocityNext,
    channels,
    spare,
    outflow,
    rooms,
    riding,
    pressure,
    lastPressure,
    direction,
    back,
    acceleration: back,
    ahead,
    flows: back,
    volumes: [ahead[0], ahead[1], ahead[2], scratch[0]],
    scratch,
    cover: { whole: [scratch[0], scratch[1]], weighed: [back[0], back[1]], colours: ahead },
    coarseForce,
    levels,
    far: farLayout,
    gradientTable: memory.bytes(GRADIENT_BYTES),
    partials: memory.bytes(planes * 64),
    line: memory.bytes((fine.nz + 2) * (fine.rowStride + 8) * 4),
    advection: memory.bytes(AdvectionStruct.bytes),
    sweep: memory.bytes(SweepStruct.bytes),
    sweepRows: memory.bytes(Math.ceil(fine.nz / SLAB) * SWEEP_ROWS * sweepRowBytes(fine)),
    emission: memory.bytes(SHARED_BLOCK_BYTES),
    corners: memory.bytes(64 * 12),
    sourceGrids: plan.sources.map((p) => grids(p)),
    sourceMasks: plan.sources.map((p) => (p.mesh?.masked ? grids(p) : 0)),
    obstacleGrids: plan.obstacles.map((p) => grids(p)),
    sourceFlows: plan.sources.map(flows),
    obstacleFlows: plan.obstacles.map(flows),
    currentGrids: plan.currents.map((p) => grids(p)),
    currentWays: plan.currents.map((p) => grids(p, 3)),
    pictures,
    regions: plan.regions.map(() => memory.field(fine)),
    regionGrids: plan.regions.map((p) => grids(p)),
    regionWeight: plan.regions.length > 0 ? memory.field(fine) : null,
    profile: memory.bytes((PROFILE_STEPS + 1) * 4),
    formula: {
      block: memory.bytes(64),
      code: memory.bytes(plan.programs?.bytes ?? 0),
      registers: memory.bytes((plan.programs?.registerBytes ?? 0) * Math.ceil(fine.nz / SLAB)),
      tables: Array.from({ length: plan.programs?.curls ?? 0 }, () => memory.bytes(GRADIENT_BYTES)),
    },
    pools,
    medium: plan.medium && planMedium(memory, finer(fine), plan.medium, pools, pictures),
    solids: memory.bytes(Math.max(1, plan.obstacles.length) * SolidStruct.bytes),
    marks: [0, 1, 2].map(() => memory.bytes(fine.ny * fine.nz)),
    free: { address: free, bytes: freeEnd - free },
    pages: memory.pages,
    start: PLAN_START,
    bytes: memory.next,
  };
}

/**
 * Where the medium lies whose cells are finer than the air's. Everything but its channels serves in turn.
 * @param fine of its cells
 * @param plan what it carries
 */
function planMedium(
  memory: MemoryPlan,
  fine: Lattice,
  plan: Plan,
  pools: Layout['pools'],
  pictures: Layout['pictures'],
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
    partials: memory.bytes((fine.nz + 2) * 64),
    sweep: memory.bytes(SweepStruct.bytes),
    sweepRows: memory.bytes(Math.ceil(fine.nz / SLAB) * SWEEP_ROWS * sweepRowBytes(fine)),
    marks: [0, 1, 2].map(() => memory.bytes(fine.ny * fine.nz)),
    emission: memory.bytes(SHARED_BLOCK_BYTES),
    corners: memory.bytes(64 * 12),
    sourceGrids: plan.sources.map((p) => grid(p.mesh)),
    sourceMasks: plan.sources.map((p) => (p.mesh?.masked ? grid(p.mesh) : 0)),
    sourceFlows: [],
    pictures,
    pools,
    free: { address: free, bytes: freeEnd - free },
  };
}

const splitField = (memory: MemoryPlan, l: Lattice): number =>
  memory.staggered(split(l).bytes) + split(l).lead;

/** @param finest where the finest residual and work lie, if they have no places of their own */
function planLevels(
  memory: MemoryPlan,
  fine: Lattice,
  threads: number,
  finest?: { readonly r: number; readonly q: number },
): Level[] {
  const levels: Level[] = [];
  for (let l = fine; ; l = coarser(l)) {
    const first = levels.length === 0;
    levels.push({
      lattice: l,
      open: [memory.field(l), memory.field(l), memory.field(l)],
      block: memory.bytes(LevelStruct.bytes),
      r: first && finest ? finest.r : splitField(memory, l),
      e: splitField(memory, l),
      q: first && finest ? finest.q : splitField(memory, l),
      kind: memory.bytes(l.ny * l.nz * 4),
      coefficients: memory.bytes(27 * split(l).row),
      ring: memory.bytes(ringBytes(l) * (first || runsOnThreads(l) ? threads : 1)),
    });
    const enough = Math.max(l.nx, l.ny, l.nz) <= FEWEST_CELLS || Math.min(l.nx, l.ny, l.nz) <= 2;
    // the way up to the finest level is where its correction is measured, so there is always one below it
    if (enough && !first) return levels;
  }
}

/** Bytes of one of the rows that a sweep works in, spare floats on both sides included. */
export const sweepRowBytes = ({ nx }: Lattice): number => Math.ceil(nx / 16) * 64 + 128;

/** Where cell (0,0,0) of a split field is in the memory of a plain one. */
function inField(f: Field): number {
  return f.address - f.lattice.lead * 4 + split(f.lattice).lead;
}

function ringBytes(l: Lattice): number {
  const s = split(l);
  return 11 * s.plane + 4 * (s.row + 64) + 192;
}

/** Below so many cells a level is quicker on one worker than a barrier. */
export function runsOnThreads(l: Lattice): boolean {
  return l.nx * l.ny * l.nz >= 12000;
}

/** A bit for each side that is a wall. */
export const wallBits = (sides: Plan['sides']): number =>
  sides.reduce((bits, rule, side) => (rule === 'wall' ? bits | (1 << side) : bits), 0);

/** Tells the kernels of every level. @param depth of the first of them below the finest of all */
export function describeLevels(
  levels: readonly Level[],
  sides: Plan['sides'],
  memory: WebAssembly.Memory,
  depth = 0,
): void {
  levels.forEach((level, d) => {
    const { nx, ny, nz, rowStride, planeStride } = level.lattice;
    const s = split(level.lattice);
    const tiles = Math.floor((11 * s.plane) / RING_BYTES) + 1;
    const ways = sides.map((rule) => (rule === 'wall' ? 0 : openSide(d + depth)));
    LevelStruct.write(memory, level.block, {
      nx,
      ny,
      nz,
      half: s.half,
      odd: s.half + 16,
      rowBytes: s.row,
      planeBytes: s.plane,
      walls: wallBits(sides),
      ...named(['ax', 'ay', 'az'], addresses(level.open)),
      faceRowBytes: rowStride * 4,
      facePlaneBytes: planeStride * 4,
      kind: level.kind,
      coefficients: level.coefficients,
      r: level.r,
      e: level.e,
      q: level.q,
      ring: level.ring,
      ringBytes: ringBytes(level.lattice),
      tile: Math.ceil(ny / (2 * tiles)) * 2,
      ...named(['side0', 'side1', 'side2', 'side3', 'side4', 'side5'], ways),
    });
  });
}

/** The far levels likewise. */
export const describeFar = (far: FarLayout, memory: WebAssembly.Memory): void =>
  describeLevels(far.levels, far.sides, memory, FAR_DEPTH);

/**
 * The faces of the coarse levels from the finest, and the rows of every level that need them; of the finest
 * only in a box of cells.
 * @param depth as for describeLevels
 */
export function coarsenLevels(
  threadPool: ThreadPool,
  levels: readonly Level[],
  from: readonly number[],
  to: readonly number[],
  depth = 0,
): void {
  levels.forEach((level, d) => {
    const l = level.lattice;
    if (d > 0) {
      const fine = levels[d - 1].block;
      for (const axis of [0, 1, 2])
        threadPool.run('coarsenFaces', sites(l, axis)[2], SLAB, {
          fine,
          coarse: level.block,
          axis,
          ghost: openSide(d + depth) / openSide(d + depth - 1),
        });
    }

    if (d > 0) threadPool.run('classifyRows', l.nz, SLAB, { level: level.block, j0: 0, j1: l.ny });
    else
      threadPool.solo('classifyRows', { level: level.block, j0: from[1], j1: to[1], k0: from[2], k1: to[2] });
  });
}

/** The same of the far levels, all of them. */
export function coarsenFar(threadPool: ThreadPool, { levels }: FarLayout): void {
  const { nx, ny, nz } = levels[0].lattice;
  coarsenLevels(threadPool, levels, [0, 0, 0], [nx, ny, nz], FAR_DEPTH);
}

/** Coefficient of an open side at level d: p = 0 lies half a finest voxel outside it. */
function openSide(d: number): number {
  return 2 ** d / (2 ** (d - 1) + 0.5);
}

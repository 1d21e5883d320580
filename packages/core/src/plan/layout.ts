// Where everything of a run lies in memory.
import { AdvectionStruct, SolidStruct } from '@bramblemist/kernels/seam';
import { finer, lattice, type Lattice } from '../grid/lattice';
import { MemoryPlan, PLAN_START, split, type Field } from '../grid/memory';
import { SLAB } from '../grid/sweep';
import type { ThreadPool } from '../grid/thread-pool';
import type { MeshShape } from '../geometry/shape';
import type { Triple } from '../math/vector';
import { PROFILE_STEPS } from '../recipe/profile';
import { coarsenLevels, describeLevels, inField, planLevels, splitField, type Level } from './levels';
import { planMedium, planWork, type MediumLayout } from './medium-layout';
import { poolBytes } from './particle-pool';
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

/**
 * Addresses of everything; a pure function of the window and the plan, so that cost can be told before a run.
 */
export interface Layout extends MediumLayout {
  velocity: [Field, Field, Field];
  velocityNext: [Field, Field, Field];
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
  /** Of the forces, m/s² at cell centres; the same memory as `back`. */
  readonly acceleration: readonly [Field, Field, Field];
  /** Coarse acceleration of the turbulence and of large-scale confinement. */
  readonly coarseForce: readonly [Field, Field, Field];
  readonly gradientTable: number;
  readonly levels: readonly Level[];
  /** Null where the window is the whole room. */
  readonly far: FarLayout | null;
  /** Of the medium, where its cells are finer than the air's: density, and what rides on it. */
  readonly medium: MediumLayout | null;
  /** A row a plane for the grid transfers. */
  readonly line: number;
  /** What the channel that is being carried is carried with, see advect.ts of the kernels. */
  readonly advection: number;
  /** Distances of the meshes of the plan's obstacles, and speeds of the surfaces of those that change. */
  readonly obstacleGrids: readonly number[];
  readonly obstacleFlows: readonly number[];
  /** Of currents that follow a volume: where it is known, and its velocity (0: they do not). */
  readonly currentGrids: readonly number[];
  readonly currentWays: readonly number[];
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
  /** Obstacles as the kernels see them, see solids.ts. */
  readonly solids: number;
  readonly pages: number;
  /** First byte of all this, and the one behind the last. */
  readonly start: number;
  readonly bytes: number;
}

/** Of a table of gradients, see noise.ts of the kernels. */
const GRADIENT_BYTES = 256 * 48;
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
    ...planWork(memory, fine, Math.max(fine.nz, far?.lattice.nz ?? 0)),
    gradientTable: memory.bytes(GRADIENT_BYTES),
    line: memory.bytes((fine.nz + 2) * (fine.rowStride + 8) * 4),
    advection: memory.bytes(AdvectionStruct.bytes),
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
    free: { address: free, bytes: freeEnd - free },
    pages: memory.pages,
    start: PLAN_START,
    bytes: memory.next,
  };
}

/** The far levels likewise. */
export const describeFar = (far: FarLayout, memory: WebAssembly.Memory): void =>
  describeLevels(far.levels, far.sides, memory, FAR_DEPTH);

/** The same of the far levels, all of them. */
export function coarsenFar(threadPool: ThreadPool, { levels }: FarLayout): void {
  const { nx, ny, nz } = levels[0].lattice;
  coarsenLevels(threadPool, levels, [0, 0, 0], [nx, ny, nz], FAR_DEPTH);
}

// What a run keeps between stages: its fields, where they are, and what the last substep found.
import { coarser, lattice, type Lattice } from '../grid/lattice';
import { MemoryPlan, type Field } from '../grid/memory';
import type { Team } from '../grid/team';
import type { Plan } from './compile';

/** One level of the multigrid hierarchy; level 0 shares its working fields with other stages. */
export interface Level {
  readonly lattice: Lattice;
  /** Open fractions of the faces along x, y, z. */
  readonly open: readonly [Field, Field, Field];
  /** A byte a row, see multigrid.ts of the kernels. */
  readonly kind: number;
  e: Field;
  readonly r: Field;
  readonly q: Field;
}

/** Addresses of everything; a pure function of the lattice, so that cost can be told before a run. */
export interface Layout {
  velocity: [Field, Field, Field];
  velocityNext: [Field, Field, Field];
  density: Field;
  temperature: Field;
  spare: Field;
  readonly pressure: Field;
  /**
   * Six fields that stages use in turn, nothing lives in them from one stage to the next. Transport: displacement x y z,
   * estimate, bounds. Forces: acceleration x y z, vorticity. Projection: residual, correction, direction, work.
   */
  readonly scratch: readonly [Field, Field, Field, Field, Field, Field];
  /** Coarse acceleration of the turbulence. */
  readonly churn: readonly [Field, Field, Field];
  readonly gradientTable: number;
  readonly levels: readonly Level[];
  /** Eight doubles a plane. */
  readonly partials: number;
  /** A row a plane for the grid transfers. */
  readonly line: number;
  readonly pages: number;
  readonly bytes: number;
}

const FEWEST_CELLS = 4;

export function layOut(fine: Lattice): Layout {
  const memory = new MemoryPlan();
  const three = (l: Lattice): [Field, Field, Field] => [memory.field(l), memory.field(l), memory.field(l)];
  const velocity = three(fine),
    velocityNext = three(fine);
  const density = memory.field(fine),
    temperature = memory.field(fine),
    spare = memory.field(fine),
    pressure = memory.field(fine);
  const scratch = [...three(fine), ...three(fine)] as unknown as Layout['scratch'];
  const churn = three(lattice(Math.ceil(fine.nx / 2), Math.ceil(fine.ny / 2), Math.ceil(fine.nz / 2)));
  const levels: Level[] = [];
  for (let l = fine; ; l = coarser(l)) {
    const first = levels.length === 0;
    levels.push({
      lattice: l,
      open: three(l),
      kind: memory.bytes(l.ny * l.nz),
      r: first ? scratch[0] : memory.field(l),
      e: first ? scratch[1] : memory.field(l),
      q: first ? scratch[3] : memory.field(l),
    });
    if (Math.max(l.nx, l.ny, l.nz) <= FEWEST_CELLS || Math.min(l.nx, l.ny, l.nz) <= 2) break;
  }
  return {
    velocity,
    velocityNext,
    density,
    temperature,
    spare,
    pressure,
    scratch,
    churn,
    levels,
    gradientTable: memory.bytes(256 * 48),
    partials: memory.bytes((fine.nz + 2) * 64),
    line: memory.bytes((fine.nz + 2) * (fine.rowStride + 8) * 4),
    pages: memory.pages,
    bytes: memory.totalBytes,
  };
}

/** What projection reports of one substep. */
export interface Solve {
  iterations: number;
  /** Greatest divergence before, and left after, as a speed difference over one voxel, m/s. */
  before: number;
  left: number;
  met: boolean;
}

export interface StepState {
  readonly plan: Plan;
  readonly team: Team;
  readonly layout: Layout;
  /** The frame being made, the substep in it, and the simulated time at the substep's start since the first frame. */
  frame: number;
  substep: number;
  timeS: number;
  dtS: number;
  /** Greatest face velocity after the last projection, m/s. */
  topSpeed: number;
  solve: Solve;
}

/** Sums or takes the greatest of a slot of the partial results, in the order of the planes. */
export function reduce(state: StepState, planes: number, slot: number, how: 'sum' | 'max'): number {
  const parts = new Float64Array(state.team.memory.buffer, state.layout.partials, planes * 8);
  let out = how === 'sum' ? 0 : -Infinity;
  for (let k = 0; k < planes; k++) out = how === 'sum' ? out + parts[k * 8 + slot] : Math.max(out, parts[k * 8 + slot]);
  return out;
}

/** nx, ny, nz, P, PP as kernels take them. */
export function shape(l: Lattice): [number, number, number, number, number] {
  return [l.nx, l.ny, l.nz, l.rowStride, l.planeStride];
}

/** Planes that a worker takes at a time. */
export const SLAB = 4;

/** Sites of a lattice of kind axis (0 1 2 faces, 3 centres). */
export function sites(l: Lattice, axis: number): [number, number, number] {
  return [l.nx + Number(axis === 0), l.ny + Number(axis === 1), l.nz + Number(axis === 2)];
}

/** Fills the ring around a field; zeroSides: a bit for each side whose outside is empty, the others repeat the edge. */
export function fillHalo(team: Team, field: Field, axis: number, zeroSides: number): void {
  const l = field.lattice,
    [mx, my, mz] = sites(l, axis);
  const small = mx * my * mz < 20000;
  if (small) team.solo('haloXY', field.address, mx, my, l.rowStride, l.planeStride, zeroSides, 0, mz);
  else team.run('haloXY', mz, 16, field.address, mx, my, l.rowStride, l.planeStride, zeroSides);
  team.solo('haloZ', field.address, mz, l.rowStride, l.planeStride, my + 2, zeroSides);
}

/** Something went wrong inside a step: when, where, why, and what to do. */
export class StepTrouble extends Error {
  constructor(state: Pick<StepState, 'frame' | 'substep'>, what: string, cure: string) {
    super(`Frame ${state.frame}, substep ${state.substep + 1}: ${what} ${cure}`);
    this.name = 'StepTrouble';
  }
}

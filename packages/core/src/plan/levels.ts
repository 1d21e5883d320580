// The levels of the pressure's multigrid: where they lie, and what the kernels are told of them.
import { LevelStruct } from '@bramblemist/kernels/seam';
import { coarser, type Lattice } from '../grid/lattice';
import { split, type Field, type MemoryPlan } from '../grid/memory';
import { addresses, named, sites, SLAB } from '../grid/sweep';
import type { ThreadPool } from '../grid/thread-pool';
import type { Plan } from './plan';

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

const FEWEST_CELLS = 4;
/** What the ring of planes of a sweep may take of a core's cache, bytes. */
const RING_BYTES = 850_000;

export const splitField = (memory: MemoryPlan, l: Lattice): number =>
  memory.staggered(split(l).bytes) + split(l).lead;

/** @param finest where the finest residual and work lie, if they have no places of their own */
export function planLevels(
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

/** Where cell (0,0,0) of a split field is in the memory of a plain one. */
export function inField(f: Field): number {
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

/** Coefficient of an open side at level d: p = 0 lies half a finest voxel outside it. */
function openSide(d: number): number {
  return 2 ** d / (2 ** (d - 1) + 0.5);
}

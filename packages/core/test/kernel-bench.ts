// What the oracles of single kernels stand on: fields of chance with their rings, and cells to look at.
import type { SlabArguments, SlabKernelName } from '@bramblemist/kernels/seam';
import { lattice } from '@bramblemist/core/grid/lattice';
import { fieldView, MemoryPlan, type Field } from '@bramblemist/core/grid/memory';
import { extent, fillHalo } from '@bramblemist/core/grid/sweep';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { random } from './run';

/** What a field held when it was asked for, halo included. */
export type Reader = (i: number, j: number, k: number) => number;

export const L = lattice(12, 7, 6);
export const COARSE = lattice(6, 4, 3);

export type Cell = readonly [i: number, j: number, k: number];
export const CELLS: readonly Cell[] = Array.from({ length: L.nx * L.ny * L.nz }, (_, n) => [
  n % L.nx,
  Math.floor(n / L.nx) % L.ny,
  Math.floor(n / L.nx / L.ny),
]);

/** Ten fields of numbers between −1 and 1 with their rings filled, a coarse one, and places for results. */
export function bench() {
  const plan = new MemoryPlan();
  const fields = Array.from({ length: 10 }, () => plan.field(L));
  const coarse = [0, 1, 2].map(() => plan.field(COARSE));
  const partials = plan.bytes((L.nz + 2) * 64);
  const scratch = plan.bytes(65536);
  const pool = startThreadPool(plan.pages, 2);
  const next = random(7);
  for (const f of fields) {
    const view = fieldView(pool.memory, f);
    for (let n = 0; n < view.length; n++) view[n] = next() * 2 - 1;
  }

  for (const f of fields) fillHalo(pool, f, 3, 0);
  const reader = (f: Field): Reader => {
    const { lead, rowStride, planeStride } = f.lattice;
    const kept = fieldView(pool.memory, f).slice();
    return (i, j, k) => kept[lead + k * planeStride + j * rowStride + i];
  };

  return {
    fields,
    coarse,
    partials,
    scratch,
    pool,
    reader,
    run: <K extends SlabKernelName>(kernel: K, args: SlabArguments[K], planes = L.nz): void =>
      pool.run(kernel, planes, 2, args),
    at: (n: number): number => fields[n].address,
    part: (k: number, slot: number): number =>
      new Float64Array(pool.memory.buffer, partials, (L.nz + 2) * 8)[k * 8 + slot],
  };
}

export type Bench = ReturnType<typeof bench>;
export const cells = extent(L);
export const clamp01 = (v: number): number => Math.min(1, Math.max(0, v));
export const faces = (f: Reader, [i, j, k]: Cell, axis: number): [number, number] => [
  f(i, j, k),
  f(i + Number(axis === 0), j + Number(axis === 1), k + Number(axis === 2)),
];

/** The kernels' hash of a place and a time on whole numbers, written from its constants: 32 bits. */
export function hash(cell: readonly number[], time: number, seed: number): number {
  let h =
    Math.imul(cell[0], 0x8da6b343) ^
    Math.imul(cell[1], 0xd8163841) ^
    Math.imul(cell[2], 0xcb1ab31f) ^
    Math.imul(time, 0x6c8e9cf5) ^
    Math.imul(seed, 0x9e3779b9);
  h ^= h >>> 15;
  h = Math.imul(h, 0x2c1b3c6d);
  h ^= h >>> 12;
  h = Math.imul(h, 0x297a2d39);
  return (h ^ (h >>> 15)) >>> 0;
}

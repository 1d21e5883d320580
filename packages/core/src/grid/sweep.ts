// How kernels go over a field: its sites, the slabs that workers take, the ring around it.
import type { Lattice } from './lattice';
import type { Field } from './memory';
import type { ThreadPool } from './thread-pool';

/** Cells and strides of a lattice, by the names that kernels give them. */
export function extent({ nx, ny, nz, rowStride, planeStride }: Lattice): {
  nx: number;
  ny: number;
  nz: number;
  rowStride: number;
  planeStride: number;
} {
  return { nx, ny, nz, rowStride, planeStride };
}

/** Values one by one under names: the parts of a vector, the faces along x, y, z. */
export function named<const N extends readonly string[]>(
  names: N,
  values: { readonly [I in keyof N]: number } | readonly number[],
): { [K in N[number]]: number } {
  return Object.fromEntries(names.map((name, n) => [name, values[n]])) as { [K in N[number]]: number };
}

/** The box of cells that a kernel visits, from and behind the last, by the names of the blocks. */
export function boxFields([from, to]: readonly [readonly number[], readonly number[]]): {
  i0: number;
  i1: number;
  j0: number;
  j1: number;
  k0: number;
  k1: number;
} {
  return { i0: from[0], i1: to[0], j0: from[1], j1: to[1], k0: from[2], k1: to[2] };
}

/** Addresses of fields, in their order. */
export const addresses = (fields: readonly Field[]): number[] => fields.map((f) => f.address);

/** Planes that a worker takes at a time. */
export const SLAB = 4;

/**
 * Planes a worker takes of a sweep that wants long slabs: as many workers, so many slabs, each of even size.
 */
export function share(planes: number, threadPool: ThreadPool): number {
  return 2 * Math.ceil(planes / (2 * (threadPool.helpers + 1)));
}

/** Sites of a lattice of kind axis (0 1 2 faces, 3 centres). */
export function sites(l: Lattice, axis: number): [number, number, number] {
  return [l.nx + Number(axis === 0), l.ny + Number(axis === 1), l.nz + Number(axis === 2)];
}

/**
 * Fills the ring around a field; zeroSides: a bit for each side whose outside is empty, the others repeat the
 * edge.
 */
export function fillHalo(threadPool: ThreadPool, field: Field, axis: number, zeroSides: number): void {
  const [mx, my, mz] = sites(field.lattice, axis);
  const { rowStride, planeStride } = field.lattice;
  const rows = { f: field.address, mx, my, rowStride, planeStride, zeroSides };
  if (mx * my * mz < 20000) threadPool.solo('haloXY', { ...rows, k0: 0, k1: mz });
  else threadPool.run('haloXY', mz, 16, rows);
  fillHaloZ(threadPool, field, axis, zeroSides);
}

/** The planes below and above a field whose own planes have their rings. */
export function fillHaloZ(threadPool: ThreadPool, field: Field, axis: number, zeroSides: number): void {
  const [, my, mz] = sites(field.lattice, axis);
  const { rowStride, planeStride } = field.lattice;
  threadPool.solo('haloZ', {
    f: field.address,
    mz,
    rowStride,
    planeStride,
    rows: my + 2,
    zeroSides,
  });
}

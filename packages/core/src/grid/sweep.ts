// How kernels go over a field: its sites, the slabs that workers take, the ring around it.
import type { Lattice } from './lattice';
import type { Field } from './memory';
import type { Team } from './thread-pool';

/** nx, ny, nz, P, PP as kernels take them. */
export function shape(l: Lattice): [number, number, number, number, number] {
  return [l.nx, l.ny, l.nz, l.rowStride, l.planeStride];
}

/** Planes that a worker takes at a time. */
export const SLAB = 4;

/**
 * Planes a worker takes of a sweep that wants long slabs: as many workers, so many slabs, each of even size.
 */
export function share(planes: number, team: Team): number {
  return 2 * Math.ceil(planes / (2 * (team.helpers + 1)));
}

/** Sites of a lattice of kind axis (0 1 2 faces, 3 centres). */
export function sites(l: Lattice, axis: number): [number, number, number] {
  return [l.nx + Number(axis === 0), l.ny + Number(axis === 1), l.nz + Number(axis === 2)];
}

/**
 * Fills the ring around a field; zeroSides: a bit for each side whose outside is empty, the others repeat the
 * edge.
 */
export function fillHalo(team: Team, field: Field, axis: number, zeroSides: number): void {
  const l = field.lattice;
  const [mx, my, mz] = sites(l, axis);
  const small = mx * my * mz < 20000;
  if (small) team.solo('haloXY', field.address, mx, my, l.rowStride, l.planeStride, zeroSides, 0, mz);
  else team.run('haloXY', mz, 16, field.address, mx, my, l.rowStride, l.planeStride, zeroSides);
  team.solo('haloZ', field.address, mz, l.rowStride, l.planeStride, my + 2, zeroSides);
}

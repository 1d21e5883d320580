// The integer lattice that is fixed in the world, and the box of cells (the window) that a run keeps in
// memory.

/** Cells of a window and how its fields are laid out. Index order (i, j, k) = (x, y, z), x fastest, y up. */
export interface Lattice {
  readonly nx: number;
  readonly ny: number;
  readonly nz: number;
  /** Floats from row to row, and from plane to plane. */
  readonly rowStride: number;
  readonly planeStride: number;
  /** Floats of one field, halo and spare floats included. */
  readonly size: number;
  /** Floats before cell (0,0,0). */
  readonly lead: number;
}

/** Rows and planes run from −1 to n+1; four spare floats stand on both sides of a row. */
export function lattice(nx: number, ny: number, nz: number): Lattice {
  const rowStride = (Math.ceil(nx / 4) * 4 || 4) + 8;
  const planeStride = rowStride * (ny + 3);
  return {
    nx,
    ny,
    nz,
    rowStride,
    planeStride,
    size: planeStride * (nz + 3) + 16,
    lead: planeStride + rowStride + 4,
  };
}

/** The next coarser lattice: half as many cells an axis, rounded up. */
export function coarser(fine: Lattice): Lattice {
  return lattice(Math.ceil(fine.nx / 2), Math.ceil(fine.ny / 2), Math.ceil(fine.nz / 2));
}

/** A lattice with twice as many cells an axis. */
export const finer = ({ nx, ny, nz }: Lattice): Lattice => lattice(2 * nx, 2 * ny, 2 * nz);

/** A window: its lattice, the world index of its cell (0,0,0) and the edge of a voxel in metres. */
export interface ActiveWindow {
  readonly lattice: Lattice;
  readonly origin: readonly [number, number, number];
  readonly voxelSizeM: number;
}

/** The same window on cells half as large. */
export const finerWindow = ({ lattice: l, origin, voxelSizeM }: ActiveWindow): ActiveWindow => ({
  lattice: finer(l),
  origin: [2 * origin[0], 2 * origin[1], 2 * origin[2]],
  voxelSizeM: voxelSizeM / 2,
});

/**
 * The window that covers a box of the world. Whole cells; x in fours for the vector kernels, y and z in twos
 * for the first coarsening; what that adds is split over both sides.
 * @param corner least corner, metres
 * @param size edges, metres
 */
export function windowOver(
  corner: readonly number[],
  size: readonly number[],
  voxelSizeM: number,
): ActiveWindow {
  const step = [4, 2, 2];
  const cells = size.map((s, a) =>
    Math.max(8, Math.ceil(Math.round((s / voxelSizeM) * 1e4) / 1e4 / step[a]) * step[a]),
  );
  const origin = corner.map((c, a) => {
    const extra = a === 1 ? 0 : Math.floor((cells[a] - size[a] / voxelSizeM) / 2);
    return Math.round(c / voxelSizeM) - extra;
  });
  return {
    lattice: lattice(cells[0], cells[1], cells[2]),
    origin: [origin[0], origin[1], origin[2]],
    voxelSizeM,
  };
}

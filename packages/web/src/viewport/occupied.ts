// Which blocks of a brick hold medium, so that rays leap over those that hold none.

/** Voxels along an edge of a block. */
export const BLOCK = 8;

/**
 * @param bytes densities, x fastest
 * @param dims voxels along x, y, z
 * @returns blocks along x, y, z, and for each 255 where a sample in it can meet density, which reaches one
 *   voxel further than the block, and 0 where none can
 */
export function occupiedBlocks(
  bytes: Uint8Array,
  [nx, ny, nz]: readonly number[],
): { readonly dims: readonly [number, number, number]; readonly blocks: Uint8Array<ArrayBuffer> } {
  const dims = [nx, ny, nz].map((n) => Math.ceil(n / BLOCK)) as [number, number, number];
  const [bx, by, bz] = dims;
  const blocks = new Uint8Array(bx * by * bz);
  const row = new Uint8Array(bx);
  // a voxel at a block's rim also reaches into the block beside it
  const reach = (v: number, most: number): [number, number] => [
    Math.max(0, (v - 1) >> 3),
    Math.min(most - 1, (v + 1) >> 3),
  ];
  for (let z = 0; z < nz; z++)
    for (let y = 0; y < ny; y++) {
      const from = nx * (y + ny * z);
      let any = false;
      for (let x = 0; x < nx; x++)
        if (bytes[from + x] !== 0) {
          const [first, last] = reach(x, bx);
          row[first] = row[last] = 255;
          any = true;
        }

      if (!any) continue;
      const [y0, y1] = reach(y, by);
      const [z0, z1] = reach(z, bz);
      for (let w = z0; w <= z1; w++)
        for (let v = y0; v <= y1; v++) {
          const to = bx * (v + by * w);
          for (let b = 0; b < bx; b++) blocks[to + b] |= row[b];
        }

      row.fill(0);
    }

  return { dims, blocks };
}

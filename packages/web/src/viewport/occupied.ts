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
  for (let z = 0; z < nz; z++)
    for (let y = 0; y < ny; y++) {
      const from = nx * (y + ny * z);
      let any = false;
      for (let x = 0; x < nx; x++) {
        if (bytes[from + x] === 0) continue;
        any = true;
        const b = x >> 3;
        row[b] = 255;
        // a voxel at a block's rim also reaches into the block beside it
        if ((x & 7) === 0 && b > 0) row[b - 1] = 255;
        else if ((x & 7) === 7 && b < bx - 1) row[b + 1] = 255;
      }

      if (!any) continue;
      for (let w = Math.max(0, (z - 1) >> 3), w1 = Math.min(bz - 1, (z + 1) >> 3); w <= w1; w++)
        for (let v = Math.max(0, (y - 1) >> 3), v1 = Math.min(by - 1, (y + 1) >> 3); v <= v1; v++) {
          const to = bx * (v + by * w);
          for (let b = 0; b < bx; b++) blocks[to + b] |= row[b];
        }

      row.fill(0);
    }

  return { dims, blocks };
}

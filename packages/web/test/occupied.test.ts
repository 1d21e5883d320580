// Rays leap over blocks without medium: never over one that a sample could meet.
import { BLOCK, occupiedBlocks } from '../src/viewport/occupied';

const DIMS = [19, 16, 9] as const;
const at = (x: number, y: number, z: number): number => x + DIMS[0] * (y + DIMS[1] * z);

test('a block is marked where one of its voxels, or one beside them, holds density', () => {
  const bytes = new Uint8Array(DIMS[0] * DIMS[1] * DIMS[2]);
  for (const voxel of [at(0, 0, 0), at(8, 3, 3), at(17, 15, 7), at(12, 8, 8)]) {
    bytes.fill(0);
    bytes[voxel] = 1;
    const { dims, blocks } = occupiedBlocks(bytes, DIMS);
    expect(dims).toEqual([3, 2, 2]);
    for (let z = 0; z < 2; z++)
      for (let y = 0; y < 2; y++)
        for (let x = 0; x < 3; x++) {
          let met = false;
          for (let k = z * BLOCK - 1; k <= z * BLOCK + BLOCK; k++)
            for (let j = y * BLOCK - 1; j <= y * BLOCK + BLOCK; j++)
              for (let i = x * BLOCK - 1; i <= x * BLOCK + BLOCK; i++)
                if (i >= 0 && j >= 0 && k >= 0 && i < DIMS[0] && j < DIMS[1] && k < DIMS[2])
                  met ||= bytes[at(i, j, k)] !== 0;
          expect([x, y, z, blocks[x + 3 * (y + 2 * z)]]).toEqual([x, y, z, met ? 255 : 0]);
        }
  }
});

test('an empty brick has no block to look into, a full one only such', () => {
  const bytes = new Uint8Array(DIMS[0] * DIMS[1] * DIMS[2]);
  expect(occupiedBlocks(bytes, DIMS).blocks.every((b) => b === 0)).toBe(true);
  expect(occupiedBlocks(bytes.fill(3), DIMS).blocks.every((b) => b === 255)).toBe(true);
});

// One linear memory for everything a run holds: the low pages belong to the kernels and the team, fields follow.
import type { Lattice } from './lattice';

/** Where the team keeps its orders (see team.ts) and kernels their partial sums. */
export const COMMAND_BYTE = 65536;
const PLAN_START = COMMAND_BYTE + 4096;
const PAGE = 65536;
const MAX_PAGES = 65536;

/** A field: where its cell (0,0,0) is, in bytes, and its lattice. */
export interface Field {
  readonly address: number;
  readonly lattice: Lattice;
}

/** Hands out addresses; nothing is freed, a run plans once. Make it, take everything, then `pages` says how much it is. */
export class MemoryPlan {
  private next = PLAN_START;
  private count = 0;

  /** Bytes at an address that is a multiple of 64. */
  bytes(length: number): number {
    const at = this.next;
    this.next = Math.ceil((at + length) / 64) * 64;
    return at;
  }

  /** A field. Fields are staggered by some cache lines, so that equal cells of many fields do not meet in one cache set. */
  field(lattice: Lattice): Field {
    const stagger = 64 * 5 * (this.count++ % 11);
    return { address: this.bytes(lattice.size * 4 + stagger) + stagger + lattice.lead * 4, lattice };
  }

  get totalBytes(): number {
    return this.next;
  }

  /** Wasm pages, or an error where a 32-bit memory cannot hold it. */
  get pages(): number {
    const pages = Math.ceil(this.next / PAGE) + 1;
    if (pages > MAX_PAGES) {
      throw new Error(
        `This run needs ${(this.next / 2 ** 30).toFixed(1)} GiB, more than the 4 GiB that one run can hold. Use larger voxels or a smaller space.`,
      );
    }
    return pages;
  }
}

/** A field's floats as they lie in memory; copy what you keep, the view dies when the memory is freed. */
export function fieldView(memory: WebAssembly.Memory, field: Field): Float32Array {
  return new Float32Array(memory.buffer, field.address - field.lattice.lead * 4, field.lattice.size);
}

/** Copies cells (or sites: one more along an axis) into a tight array, x fastest. */
export function readField(memory: WebAssembly.Memory, field: Field, extra: readonly [number, number, number] = [0, 0, 0]): Float32Array {
  const { nx, ny, nz, rowStride, planeStride, lead } = field.lattice;
  const view = fieldView(memory, field);
  const [mx, my, mz] = [nx + extra[0], ny + extra[1], nz + extra[2]];
  const out = new Float32Array(mx * my * mz);
  for (let k = 0; k < mz; k++) {
    for (let j = 0; j < my; j++) {
      const from = lead + k * planeStride + j * rowStride;
      out.set(view.subarray(from, from + mx), (k * my + j) * mx);
    }
  }
  return out;
}

/** The reverse of readField. */
export function writeField(
  memory: WebAssembly.Memory,
  field: Field,
  values: Float32Array,
  extra: readonly [number, number, number] = [0, 0, 0],
): void {
  const { nx, ny, nz, rowStride, planeStride, lead } = field.lattice;
  const view = fieldView(memory, field);
  const [mx, my, mz] = [nx + extra[0], ny + extra[1], nz + extra[2]];
  for (let k = 0; k < mz; k++) {
    for (let j = 0; j < my; j++) {
      const from = (k * my + j) * mx;
      view.set(values.subarray(from, from + mx), lead + k * planeStride + j * rowStride);
    }
  }
}

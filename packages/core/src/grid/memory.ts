// One linear memory for everything a run holds: the low pages belong to the kernels and the thread pool,
// fields follow.
import { CoreError } from '../base/error';
import type { Lattice } from './lattice';

/** Where the thread pool keeps its orders (see team.ts) and kernels their partial sums. */
export const COMMAND_BYTE = 65536;
export const PLAN_START = COMMAND_BYTE + 4096;
const PAGE = 65536;
const MAX_PAGES = 65536;

/** A field: where its cell (0,0,0) is, in bytes, and its lattice. */
export interface Field {
  readonly address: number;
  readonly lattice: Lattice;
}

/**
 * Hands out addresses; nothing is freed, a run plans once. Make it, take everything, then `pages` says how
 * much it is.
 */
export class MemoryPlan {
  private at = PLAN_START;
  private count = 0;

  /** Bytes at an address that is a multiple of 64. */
  bytes(length: number): number {
    const { at } = this;
    this.at = Math.ceil((at + length) / 64) * 64;
    return at;
  }

  /**
   * Bytes that are staggered by some cache lines, so that equal cells of many fields do not meet in one cache
   * set.
   */
  staggered(length: number): number {
    const stagger = 64 * 5 * (this.count++ % 11);
    return this.bytes(length + stagger) + stagger;
  }

  /** @param least bytes, where the memory serves something larger in turn */
  field(lattice: Lattice, least = 0): Field {
    return { address: this.staggered(Math.max(lattice.size * 4, least)) + lattice.lead * 4, lattice };
  }

  /** The first byte that is not taken yet. */
  get next(): number {
    return this.at;
  }

  /** Wasm pages, or an error where a 32-bit memory cannot hold it. */
  get pages(): number {
    const pages = Math.ceil(this.at / PAGE) + 1;
    if (pages > MAX_PAGES) {
      throw new CoreError(
        'memory',
        `This run needs ${(this.at / 2 ** 30).toFixed(1)} GiB, more than the 4 GiB that one run can ` +
          'hold. Use larger voxels or a smaller space.',
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
export function readField(
  memory: WebAssembly.Memory,
  field: Field,
  extra: readonly [number, number, number] = [0, 0, 0],
): Float32Array {
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

/** Cells from and behind the last. */
type Box = readonly [from: readonly number[], to: readonly number[]];

/** Copies the cells of a box into a tight array, x fastest. */
export function readBox(memory: WebAssembly.Memory, field: Field, box: Box): Float32Array {
  const [wide, high, deep] = box[1].map((v, a) => v - box[0][a]);
  const out = new Float32Array(wide * high * deep);
  eachBoxRow(memory, field, box, (row, n) => out.set(row, n * wide));
  return out;
}

/** The reverse of readBox. */
export function writeBox(memory: WebAssembly.Memory, field: Field, box: Box, values: Float32Array): void {
  const wide = box[1][0] - box[0][0];
  eachBoxRow(memory, field, box, (row, n) => row.set(values.subarray(n * wide, (n + 1) * wide)));
}

function eachBoxRow(
  memory: WebAssembly.Memory,
  field: Field,
  [from, to]: Box,
  visit: (row: Float32Array, n: number) => void,
): void {
  const view = fieldView(memory, field);
  const { rowStride, planeStride, lead } = field.lattice;
  let n = 0;
  for (let k = from[2]; k < to[2]; k++)
    for (let j = from[1]; j < to[1]; j++) {
      const at = lead + k * planeStride + j * rowStride;
      visit(view.subarray(at + from[0], at + to[0]), n++);
    }
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

/**
 * A row split by the parity of x (see level.ts of the kernels): bytes of a half, a row, a plane, a field, and
 * before cell (0,0,0).
 */
export function split(l: Lattice): { half: number; row: number; plane: number; bytes: number; lead: number } {
  const half = Math.ceil(l.nx / 8) * 16;
  const row = 2 * half + 32;
  const plane = row * (l.ny + 2);
  return { half, row, plane, bytes: plane * (l.nz + 2) + 128, lead: plane + row + 32 };
}

/**
 * readField for a field that is split by the parity of x.
 * @param rim 1: with the cells around it, one more to each side; the field is of a finest level then
 */
export function readSplit(memory: WebAssembly.Memory, field: Field, rim: 0 | 1 = 0): Float32Array {
  const { nx, ny, nz } = field.lattice;
  const wide = nx + 2 * rim;
  const out = new Float32Array(wide * (ny + 2 * rim) * (nz + 2 * rim));
  eachRow(memory, field, rim, (row, odd, n) => {
    for (let i = 0; i < wide; i++)
      out[n * wide + i] = row[SPARE + ((i - rim) & 1 ? odd : 0) + ((i - rim) >> 1)];
  });
  return out;
}

/** The reverse of readSplit. */
export function writeSplit(
  memory: WebAssembly.Memory,
  field: Field,
  values: Float32Array,
  rim: 0 | 1 = 0,
): void {
  const wide = field.lattice.nx + 2 * rim;
  eachRow(memory, field, rim, (row, odd, n) => {
    for (let i = 0; i < wide; i++)
      row[SPARE + ((i - rim) & 1 ? odd : 0) + ((i - rim) >> 1)] = values[n * wide + i];
  });
}

/** Floats of the gap before a row. */
const SPARE = 4;

/** @param visit is given a row with the gap before it, and where in it its odd half begins after that */
function eachRow(
  memory: WebAssembly.Memory,
  field: Field,
  rim: number,
  visit: (row: Float32Array, odd: number, n: number) => void,
): void {
  const { ny, nz } = field.lattice;
  const s = split(field.lattice);
  let n = 0;
  for (let k = -rim; k < nz + rim; k++)
    for (let j = -rim; j < ny + rim; j++) {
      const at = field.address + k * s.plane + j * s.row - SPARE * 4;
      visit(new Float32Array(memory.buffer, at, s.row / 4), s.half / 4 + SPARE, n++);
    }
}

/** Copies values to an address; nothing where there are none. */
export function putFloats(memory: WebAssembly.Memory, address: number, values: Float32Array | null): void {
  if (values) new Float32Array(memory.buffer, address, values.length).set(values);
}

// The OpenVDB file format, version 224: constants, and grids as we hold them. Facts follow the library's
// public headers.

export const MAGIC = 0x56444220;
export const FILE_VERSION = 224;
/** Older files lay values out in other ways. */
export const OLDEST_VERSION = 222;
export const COMPRESS_ZIP = 1;
export const COMPRESS_MASK = 2;
export const COMPRESS_BLOSC = 4;
/** Edge of a leaf in voxels; of the nodes above it in children. */
export const LEAF = 8;
export const INNER = 16;
export const UPPER = 32;
export const LEAF_VOXELS = LEAF * LEAF * LEAF;
/** Voxels along the edge of an inner and an upper node. */
export const INNER_SPAN = LEAF * INNER;
export const UPPER_SPAN = INNER_SPAN * UPPER;

export type MetaValue = string | number | boolean | readonly number[];

/**
 * A block of 8³ voxels. Voxel (x, y, z) of it has the index x·64 + y·8 + z (z fastest, the file's own order).
 */
export interface Leaf {
  readonly origin: readonly [number, number, number];
  /** A bit a voxel, 64 bytes. */
  readonly active: Uint8Array;
  /** 512 values, or 512 × 3. */
  readonly values: Float32Array;
}

/** A cube of equal value. */
export interface Tile {
  readonly origin: readonly [number, number, number];
  readonly span: number;
  readonly value: readonly number[];
  readonly active: boolean;
}

export interface VdbGrid {
  readonly name: string;
  readonly kind: 'float' | 'vec3';
  readonly half: boolean;
  readonly background: readonly number[];
  /** World position of voxel (0,0,0), and the edges of a voxel, m. */
  readonly translation: readonly [number, number, number];
  readonly voxelSize: readonly [number, number, number];
  /** What its axes are that we cannot follow: turned, sheared or mirrored; undefined where straight. */
  readonly askew?: string;
  readonly metadata: Readonly<Record<string, MetaValue>>;
  readonly leaves: readonly Leaf[];
  readonly tiles: readonly Tile[];
}

/** A grid as a file wants it: active voxels alone, leaf after leaf. */
export interface PackedGrid extends Omit<VdbGrid, 'leaves' | 'tiles' | 'askew'> {
  /** Least voxels of the leaves, three numbers each. */
  readonly origins: Int32Array;
  /** 64 bytes a leaf. */
  readonly masks: Uint8Array;
  /** Where the values of each leaf begin, bytes; and the end of the last. */
  readonly starts: Uint32Array;
  /** Halves or floats, the parts of a voxel beside one another. */
  readonly values: Uint8Array;
}

/** A grid that is only named: of a type that we do not read, or not asked for. */
export interface OtherGrid {
  readonly name: string;
  readonly type: string;
}

export interface VdbFile {
  readonly grids: readonly VdbGrid[];
  readonly others: readonly OtherGrid[];
  /** What was changed on the way: numbers made narrower, values that are no numbers. */
  readonly remarks: readonly string[];
  readonly metadata: Readonly<Record<string, MetaValue>>;
}

export function components(grid: Pick<VdbGrid, 'kind'>): number {
  return grid.kind === 'vec3' ? 3 : 1;
}

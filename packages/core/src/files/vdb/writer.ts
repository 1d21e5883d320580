// Writes OpenVDB files: float and vec3 grids, half or full, active voxels only, zip, LZ4 or no packing;
// leaves of one value as tiles, and what the library says of its grids so that others know them before they
// load.
import { cube } from '../../math/exact';
import { ByteWriter } from '../bytes';
import { packBlosc } from './blosc';
import { activeBounds } from './leaves';
import { toHalves } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';
import {
  components,
  COMPRESS_BLOSC,
  COMPRESS_MASK,
  COMPRESS_ZIP,
  FILE_VERSION,
  INNER,
  INNER_SPAN,
  LEAF,
  LEAF_VOXELS,
  MAGIC,
  UPPER,
  UPPER_SPAN,
  type MetaValue,
  type PackedGrid,
  type VdbGrid,
} from './format';

/** How values are packed: zip is smaller, LZ4 (in Blosc chunks) many times quicker. */
export type Packing = 'zip' | 'lz4';

export interface WriteOptions {
  /** By zip where nothing is said. */
  readonly packing?: Packing | 'none';
  readonly zip?: ZipCodec;
  readonly metadata?: Readonly<Record<string, MetaValue>>;
  /** What every grid says besides its own. */
  readonly ofGrids?: Readonly<Record<string, MetaValue>>;
}

/** All inactive values of a node are the background: nothing but the active ones is stored. */
const ONLY_ACTIVE = 0;

/** A leaf with the bytes of its active values. */
interface RawLeaf {
  readonly origin: readonly [number, number, number];
  readonly active: Uint8Array;
  readonly raw: Uint8Array;
}
type RawGrid = Omit<VdbGrid, 'leaves' | 'tiles' | 'askew'> & { readonly leaves: readonly RawLeaf[] };

/** @returns the bytes of a file with these grids */
export const writeVdb = (
  grids: readonly Omit<VdbGrid, 'tiles' | 'askew'>[],
  options: WriteOptions = {},
): Uint8Array => writeRaw(grids.map(rawOf), options);

/** The same of grids that are packed already. */
export const writePacked = (grids: readonly PackedGrid[], options: WriteOptions = {}): Uint8Array =>
  writeRaw(grids.map(cutOf), options);

function rawOf(grid: Omit<VdbGrid, 'tiles' | 'askew'>): RawGrid {
  const n = components(grid);
  return {
    ...grid,
    leaves: grid.leaves.map(({ origin, active, values }) => {
      const kept = new Float32Array(values.length);
      let many = 0;
      for (let byte = 0; byte < active.length; byte++)
        for (let bits = active[byte]; bits; bits &= bits - 1) {
          const from = ((byte << 3) + 31 - Math.clz32(bits & -bits)) * n;
          for (let c = 0; c < n; c++) kept[many++] = values[from + c];
        }

      const raw = grid.half ? toHalves(kept.subarray(0, many)) : kept;
      return { origin, active, raw: new Uint8Array(raw.buffer, 0, many * raw.BYTES_PER_ELEMENT) };
    }),
  };
}

function cutOf({ origins, masks, starts, values, ...grid }: PackedGrid): RawGrid {
  const leaves = Array.from({ length: starts.length - 1 }, (_, n) => ({
    origin: [origins[3 * n], origins[3 * n + 1], origins[3 * n + 2]] as const,
    active: masks.subarray((n * LEAF_VOXELS) / 8, ((n + 1) * LEAF_VOXELS) / 8),
    raw: values.subarray(starts[n], starts[n + 1]),
  }));
  return { ...grid, leaves };
}

function writeRaw(grids: readonly RawGrid[], options: WriteOptions): Uint8Array {
  const out = new ByteWriter(1 << 20);
  out.i64(MAGIC);
  out.u32(FILE_VERSION);
  out.u32(10); // library whose layout this is
  out.u32(0);
  out.u8(1); // grid offsets are there
  out.ascii(fileId(grids));
  writeMetadata(out, options.metadata ?? {});
  out.i32(grids.length);
  for (const grid of grids) writeGrid(out, uniqueName(grids, grid), grid, options);
  return out.done();
}

function text(out: ByteWriter, value: string): void {
  const bytes = new TextEncoder().encode(value);
  out.u32(bytes.length);
  out.bytes(bytes);
}

/** 36 characters in the form of a UUID, from the content, so that equal runs give equal files. */
function fileId(grids: readonly RawGrid[]): string {
  let a = 0x811c9dc5;
  let b = 0x1000193;
  for (const g of grids) {
    // in the order of the file, however they were given
    for (const { raw } of [...g.leaves].sort(byPlace)) {
      for (let i = 0; i < raw.length; i += 13) a = Math.imul(a ^ raw[i], 0x01000193) >>> 0;
      b = Math.imul(b ^ a, 0x85ebca6b) >>> 0;
    }
  }

  const hex = [a, b, Math.imul(a, 0x9e3779b1) >>> 0, Math.imul(b, 0xc2b2ae35) >>> 0]
    .map((v) => v.toString(16).padStart(8, '0'))
    .join('');
  const part = (from: number, to: number): string => hex.slice(from, to);
  return [part(0, 8), part(8, 12), `4${part(13, 16)}`, `8${part(17, 20)}`, part(20, 32)].join('-');
}

function uniqueName(grids: readonly RawGrid[], grid: RawGrid): string {
  const same = grids.filter((g) => g.name === grid.name);
  return same.length > 1 ? `${grid.name}\x1e${same.indexOf(grid)}` : grid.name;
}

function writeMetadata(out: ByteWriter, metadata: Readonly<Record<string, MetaValue>>): void {
  const entries = Object.entries(metadata);
  out.u32(entries.length);
  for (const [key, value] of entries) {
    text(out, key);
    if (typeof value === 'string') {
      text(out, 'string');
      text(out, value);
    } else if (typeof value === 'boolean') {
      text(out, 'bool');
      out.u32(1);
      out.u8(value ? 1 : 0);
    } else if (typeof value === 'number') {
      const whole = Number.isInteger(value);
      text(out, whole ? 'int64' : 'double');
      out.u32(8);
      if (whole) out.i64(value);
      else out.f64(value);
    } else {
      const whole = value.every(Number.isInteger);
      text(out, `vec${value.length}${whole ? 'i' : 'd'}`);
      out.u32(value.length * (whole ? 4 : 8));
      for (const v of value) {
        if (whole) out.i32(v);
        else out.f64(v);
      }
    }
  }
}

/** What the library calls it. */
const PACKED_BY: Readonly<Record<number, string>> = {
  0: '',
  [COMPRESS_ZIP]: 'zip + ',
  [COMPRESS_BLOSC]: 'blosc + ',
};

/** What the library writes of every grid, by its names. */
function statistics(grid: RawGrid, compression: number): Record<string, MetaValue> {
  const bounds = activeBounds(grid);
  const empty = bounds === null;
  const leafBytes = LEAF_VOXELS * 4 * components(grid) + LEAF_VOXELS / 8;
  return {
    // the library's box of nothing
    file_bbox_min: empty ? [2147483647, 2147483647, 2147483647] : bounds.min,
    file_bbox_max: empty ? [-2147483648, -2147483648, -2147483648] : bounds.max,
    file_compression: PACKED_BY[compression & ~COMPRESS_MASK] + 'active values',
    file_mem_bytes: grid.leaves.length * leafBytes,
    file_voxel_count: bounds?.voxels ?? 0,
  };
}

function writeGrid(out: ByteWriter, name: string, grid: RawGrid, options: WriteOptions): void {
  text(out, name);
  text(out, `Tree_${grid.kind === 'vec3' ? 'vec3s' : 'float'}_5_4_3${grid.half ? '_HalfFloat' : ''}`);
  text(out, '');
  const offsets = out.length;
  for (let i = 0; i < 3; i++) out.i64(0);
  out.patchI64(offsets, out.length);
  const compression =
    COMPRESS_MASK | { zip: COMPRESS_ZIP, lz4: COMPRESS_BLOSC, none: 0 }[options.packing ?? 'zip'];
  out.u32(compression);
  writeMetadata(out, {
    name: grid.name,
    is_saved_as_half_float: grid.half,
    ...options.ofGrids,
    ...grid.metadata,
    ...statistics(grid, compression),
  });
  writeTransform(out, grid);
  out.i32(1); // one buffer
  const tree = treeOf(grid);
  const values = new ValueWriter(out, grid, compression, options.zip ?? pureZip);
  writeTopology(out, grid, tree, values);
  out.patchI64(offsets + 8, out.length);
  for (const upper of tree)
    for (const inner of upper.inner)
      for (const leaf of inner.leaves) {
        out.bytes(leaf.active);
        values.write(leaf.raw);
      }

  out.patchI64(offsets + 16, out.length);
}

function writeTransform(out: ByteWriter, grid: RawGrid): void {
  const s = grid.voxelSize;
  const uniform = s[0] === s[1] && s[1] === s[2];
  text(out, uniform ? 'UniformScaleTranslateMap' : 'ScaleTranslateMap');
  for (const t of grid.translation) out.f64(t);
  for (const f of [
    (v: number) => v,
    Math.abs,
    (v: number) => 1 / v,
    (v: number) => 1 / (v * v),
    (v: number) => 1 / (2 * v),
  ])
    for (const v of s) out.f64(f(v));
}

interface InnerNode {
  readonly origin: number[];
  readonly leaves: RawLeaf[];
  /** Leaves that are active as a whole and of one value: nothing but that is written. */
  readonly tiles: RawLeaf[];
}
interface UpperNode {
  readonly origin: number[];
  readonly inner: InnerNode[];
}

/** Leaves under their nodes, every list in the order of its node's bits (x, then y, then z). */
function treeOf({ leaves, half, kind }: RawGrid): UpperNode[] {
  const uppers = new Map<string, UpperNode>();
  const inners = new Map<string, InnerNode>();
  const down = (o: readonly number[], span: number): number[] => o.map((c) => Math.floor(c / span) * span);
  const bytes = components({ kind }) * (half ? 2 : 4);
  for (const leaf of [...leaves].sort(byPlace)) {
    const innerAt = down(leaf.origin, INNER_SPAN);
    const upperAt = down(leaf.origin, UPPER_SPAN);
    let inner = inners.get(innerAt.join());
    if (!inner) {
      inners.set(innerAt.join(), (inner = { origin: innerAt, leaves: [], tiles: [] }));
      let upper = uppers.get(upperAt.join());
      if (!upper) uppers.set(upperAt.join(), (upper = { origin: upperAt, inner: [] }));
      upper.inner.push(inner);
    }

    (isEven(leaf, bytes) ? inner.tiles : inner.leaves).push(leaf);
  }

  for (const u of uppers.values()) u.inner.sort(byPlace);
  return [...uppers.values()].sort(byPlace);
}

const byPlace = (a: { origin: readonly number[] }, b: { origin: readonly number[] }): number =>
  a.origin[0] - b.origin[0] || a.origin[1] - b.origin[1] || a.origin[2] - b.origin[2];

/** Whether a leaf is active everywhere and of one value, which takes so many bytes. */
function isEven({ raw }: RawLeaf, bytes: number): boolean {
  if (raw.length < LEAF_VOXELS * bytes) return false;
  for (let v = bytes; v < raw.length; v++) if (raw[v] !== raw[v - bytes]) return false;
  return true;
}

function childMask(
  node: { origin: readonly number[] },
  children: readonly { origin: readonly number[] }[],
  span: number,
  width: number,
): Uint8Array {
  const mask = new Uint8Array(cube(width) / 8);
  for (const child of children) {
    const [x, y, z] = child.origin.map((c, a) => (c - node.origin[a]) / span);
    const n = (x * width + y) * width + z;
    mask[n >> 3] |= 1 << (n & 7);
  }

  return mask;
}

function writeTopology(
  out: ByteWriter,
  grid: RawGrid,
  tree: readonly UpperNode[],
  values: ValueWriter,
): void {
  for (const b of grid.background) out.f32(b);
  out.u32(0); // root tiles
  out.u32(tree.length);
  for (const upper of tree) {
    for (const c of upper.origin) out.i32(c);
    out.bytes(childMask(upper, upper.inner, INNER_SPAN, UPPER));
    out.bytes(new Uint8Array(cube(UPPER) / 8));
    values.write(NOTHING);
    for (const inner of upper.inner) {
      out.bytes(childMask(inner, inner.leaves, LEAF, INNER));
      out.bytes(childMask(inner, inner.tiles, LEAF, INNER));
      values.write(joined(inner.tiles.map(({ raw }) => raw.subarray(0, raw.length / LEAF_VOXELS))));
      for (const leaf of inner.leaves) out.bytes(leaf.active);
    }
  }
}

const NOTHING = new Uint8Array(0);

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }

  return out;
}

class ValueWriter {
  constructor(
    private readonly out: ByteWriter,
    private readonly grid: RawGrid,
    private readonly compression: number,
    private readonly zip: ZipCodec,
  ) {}

  /** Of a node: the bytes of the values of what is active in it. */
  write(raw: Uint8Array): void {
    const { out } = this;
    out.u8(ONLY_ACTIVE);
    const { compression } = this;
    const packs = compression !== COMPRESS_MASK;
    // an empty list of full values still has its size, 0, where it would be packed; one of halves has nothing
    // at all
    if (raw.length === 0) return void (packs && !this.grid.half && out.i64(0));
    if (!packs) return out.bytes(raw);
    const packed = compression & COMPRESS_BLOSC ? packBlosc(raw) : this.zip.deflate(raw);
    if (packed && packed.length < raw.length) {
      out.i64(packed.length);
      out.bytes(packed);
    } else {
      out.i64(-raw.length);
      out.bytes(raw);
    }
  }
}

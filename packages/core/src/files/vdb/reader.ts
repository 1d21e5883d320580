// Reads OpenVDB files. Every count and size is held against what the file can hold before anything is
// allocated.
import { lengthOf, cube } from '../../math/exact';
import { ByteReader, FileError } from '../bytes';
import { fromHalf } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';
import { unpackBlosc } from './blosc';
import {
  COMPRESS_BLOSC,
  COMPRESS_MASK,
  COMPRESS_ZIP,
  FILE_VERSION,
  INNER,
  INNER_SPAN,
  LEAF,
  LEAF_VOXELS,
  MAGIC,
  OLDEST_VERSION,
  UPPER,
  UPPER_SPAN,
  type Leaf,
  type MetaValue,
  type OtherGrid,
  type Tile,
  type VdbFile,
  type VdbGrid,
} from './format';

export interface ReadOptions {
  readonly zip?: ZipCodec;
  /** Only the descriptions: grids come without leaves and tiles. */
  readonly only?: readonly string[];
}

const TREE = /^Tree_(float|vec3s)_5_4_3(_HalfFloat)?$/;

/** @throws FileError naming what is wrong and the byte */
export function readVdb(data: Uint8Array, options: ReadOptions = {}): VdbFile {
  const r = new ByteReader(data);
  if (r.size < 8 || r.u32() !== MAGIC || r.u32() !== 0) throw new FileError('This is not an OpenVDB file');
  const version = r.u32('the file version');
  if (version < OLDEST_VERSION || version > FILE_VERSION)
    throw new FileError(
      `OpenVDB file version ${version} is not supported (${OLDEST_VERSION} to ${FILE_VERSION} are)`,
    );
  r.u32('the library version');
  r.u32('the library version');
  const hasOffsets = r.u8('the offset flag') !== 0;
  r.bytes(36, 'the file id');
  const metadata = readMetadata(r);
  const count = r.i32('the number of grids');
  if (count < 0 || count > r.left / 12)
    throw new FileError(`${count} grids cannot fit in the file`, r.at - 4);
  const grids: VdbGrid[] = [];
  const others: OtherGrid[] = [];
  for (let g = 0; g < count; g++) {
    const name = r.text('a grid name').split('\x1e')[0];
    const type = r.text('a grid type');
    r.text('an instance name');
    const gridAt = r.i64('a grid offset');
    const blockAt = r.i64('a block offset');
    const end = r.i64('an end offset');
    if (Math.min(gridAt, blockAt, end) < 0)
      throw new FileError(`Grid ${name} has an offset before the start of the file`, r.at - 24);
    const match = TREE.exec(type);
    const wanted = !options.only || options.only.includes(name);
    if (match && wanted) {
      if (hasOffsets && gridAt > 0) r.jump(gridAt, `The start of grid ${name}`);
      grids.push(
        new GridReader(
          r,
          name,
          match[1] === 'vec3s' ? 'vec3' : 'float',
          match[2] !== undefined,
          options.zip ?? pureZip,
        ).read(),
      );
    } else if (!match) others.push({ name, type });
    if (hasOffsets && end > 0) {
      if (end < r.at && match && wanted) throw new FileError(`Grid ${name} runs past its stated end`, r.at);
      if (end < blockAt) throw new FileError(`Grid ${name} has offsets out of order`, r.at);
      r.jump(end, `The end of grid ${name}`);
    } else if (!match || !wanted) {
      if (g < count - 1)
        throw new FileError(
          `Grid ${name} of type ${type} cannot be passed over, since the file has no offsets`,
          r.at,
        );
    }
  }

  return { grids, others, metadata };
}

function readMetadata(r: ByteReader): Record<string, MetaValue> {
  const count = r.u32('the number of metadata');
  if (count > r.left / 12) throw new FileError(`${count} metadata cannot fit in the file`, r.at - 4);
  const out: Record<string, MetaValue> = {};
  for (let i = 0; i < count; i++) {
    const key = r.text('a metadata name');
    const type = r.text('a metadata type');
    const size = r.u32('a metadata size');
    const value = new ByteReader(r.bytes(size, `metadata ${key}`));
    if (type === 'string') out[key] = new TextDecoder().decode(value.bytes(size));
    else if (type === 'bool') out[key] = value.u8() !== 0;
    else if (type === 'int32') out[key] = value.i32();
    else if (type === 'int64') out[key] = value.i64();
    else if (type === 'float') out[key] = value.f32();
    else if (type === 'double') out[key] = value.f64();
    else if (type === 'vec3i') out[key] = [value.i32(), value.i32(), value.i32()];
    else if (type === 'vec3s') out[key] = [value.f32(), value.f32(), value.f32()];
    else if (type === 'vec3d') out[key] = [value.f64(), value.f64(), value.f64()];
  }

  return out;
}

class GridReader {
  private readonly n: number;
  private readonly leaves: { leaf: Leaf }[] = [];
  private readonly tiles: Tile[] = [];
  private compression = 0;
  private background: number[] = [];

  constructor(
    private readonly r: ByteReader,
    private readonly name: string,
    private readonly kind: 'float' | 'vec3',
    private readonly half: boolean,
    private readonly zip: ZipCodec,
  ) {
    this.n = kind === 'vec3' ? 3 : 1;
  }

  read(): VdbGrid {
    const { r, name } = this;
    this.compression = r.u32('the compression');
    if (this.compression & ~7) throw new FileError(`Grid ${name} has an unknown compression`, r.at - 4);
    const metadata = readMetadata(r);
    const { translation, voxelSize } = this.transform();
    const buffers = r.i32('the buffer count');
    if (buffers !== 1) throw new FileError(`Grid ${name} has ${buffers} buffers, 1 is expected`, r.at - 4);
    this.root();
    for (const { leaf } of this.leaves) {
      leaf.active.set(r.bytes(LEAF_VOXELS / 8, 'a leaf mask'));
      this.values(leaf.active, LEAF_VOXELS, leaf.values);
    }

    return {
      name,
      kind: this.kind,
      half: this.half,
      background: this.background,
      translation,
      voxelSize,
      metadata,
      leaves: this.leaves.map((l) => l.leaf),
      tiles: this.tiles,
    };
  }

  private transform(): { translation: [number, number, number]; voxelSize: [number, number, number] } {
    const { r } = this;
    const type = r.text('the map type');
    const three = (): [number, number, number] => [r.f64('a map'), r.f64('a map'), r.f64('a map')];
    let translation: [number, number, number] = [0, 0, 0];
    let voxelSize: [number, number, number] = [1, 1, 1];
    switch (type) {
      case 'UniformScaleMap':
      case 'ScaleMap':
      case 'UniformScaleTranslateMap':
      case 'ScaleTranslateMap':
        if (type.endsWith('TranslateMap')) translation = three();
        voxelSize = three();
        r.bytes(12 * 8, 'a map');
        break;
      case 'TranslationMap':
        translation = three();
        break;
      case 'AffineMap':
      case 'UnitaryMap': {
        const m = Array.from({ length: 16 }, () => r.f64('a map'));
        voxelSize = [0, 1, 2].map((a) => lengthOf(m[4 * a], m[4 * a + 1], m[4 * a + 2])) as [
          number,
          number,
          number,
        ];
        translation = [m[12], m[13], m[14]];
        break;
      }

      default:
        throw new FileError(
          `Grid ${this.name} has a transform of the type ${type}, which is not supported`,
          r.at,
        );
    }

    if (![...translation, ...voxelSize].every(Number.isFinite) || voxelSize.some((v) => v === 0))
      throw new FileError(`Grid ${this.name} has a transform that is not finite`, r.at);
    return { translation, voxelSize };
  }

  private value(): number[] {
    return Array.from({ length: this.n }, () => this.r.f32('a value'));
  }

  private origin(): [number, number, number] {
    return [this.r.i32('an origin'), this.r.i32('an origin'), this.r.i32('an origin')];
  }

  private root(): void {
    const { r } = this;
    this.background = this.value();
    const tiles = r.u32('the number of tiles');
    const children = r.u32('the number of children');
    if (tiles > r.left / (13 + 4 * this.n))
      throw new FileError(`${tiles} tiles cannot fit in the file`, r.at - 8);
    if (children > r.left / (cube(UPPER) / 4))
      throw new FileError(`${children} nodes cannot fit in the file`, r.at - 4);
    for (let t = 0; t < tiles; t++)
      this.tiles.push({
        origin: this.origin(),
        span: UPPER_SPAN,
        value: this.value(),
        active: r.u8('a tile state') !== 0,
      });
    for (let c = 0; c < children; c++) this.node(this.origin(), UPPER, INNER_SPAN);
  }

  /** A node of width³ children of `span` voxels: masks, tile values, then the children's topology. */
  private node(origin: readonly [number, number, number], width: number, span: number): void {
    const { r, n } = this;
    const cells = cube(width);
    const childMask = r.bytes(cells / 8, 'a child mask');
    const valueMask = r.bytes(cells / 8, 'a value mask');
    const values = new Float32Array(cells * n);
    const allBackground = this.values(valueMask, cells, values);
    for (let v = 0; v < cells; v++) {
      // most nodes hold nothing but children: pass over eight empty cells at a time
      if (allBackground && (v & 7) === 0 && childMask[v >> 3] === 0) {
        v += 7;
        continue;
      }

      const isChild = (childMask[v >> 3] >> (v & 7)) & 1;
      const active = (valueMask[v >> 3] >> (v & 7)) & 1;
      const x = Math.floor(v / (width * width));
      const y = Math.floor(v / width) % width;
      const z = v % width;
      const at: [number, number, number] = [origin[0] + x * span, origin[1] + y * span, origin[2] + z * span];
      if (isChild) {
        if (span > LEAF) this.node(at, INNER, LEAF);
        else {
          r.bytes(LEAF_VOXELS / 8, 'a leaf mask');
          // a leaf takes at least 64 + 1 bytes further on, so their number is bounded before their values are
          // allocated
          if ((this.leaves.length + 1) * 65 > r.size)
            throw new FileError('More leaves than the file can hold', r.at);
          this.leaves.push({
            leaf: {
              origin: at,
              active: new Uint8Array(LEAF_VOXELS / 8),
              values: new Float32Array(LEAF_VOXELS * n),
            },
          });
        }
      } else if (!allBackground) {
        const value = Array.from(values.subarray(v * n, v * n + n));
        if (active || value.some((x2, c) => x2 !== this.background[c]))
          this.tiles.push({ origin: at, span, value, active: !!active });
      }
    }
  }

  /**
   * Reads the values of a node into `out`: compressed, halved, and with inactive ones left out, as the codes
   * say.
   * @returns whether all are inactive and the background
   */
  private values(mask: Uint8Array, cells: number, out: Float32Array): boolean {
    const { r, n } = this;
    const ALL = 6;
    let code = ALL;
    if (this.compression & COMPRESS_MASK) {
      code = r.u8('a mask code');
      if (code > ALL) throw new FileError(`Unknown mask code ${code}`, r.at - 1);
    }

    const minus = (v: readonly number[]): number[] => v.map((x) => -x);
    let off0: readonly number[] = this.background;
    let off1: readonly number[] = code === 0 ? this.background : minus(this.background);
    if (code === 1) off0 = minus(this.background);
    if (code === 2 || code === 4 || code === 5) {
      off0 = this.value();
      if (code === 5) off1 = this.value();
    }

    let choose: Uint8Array | null = null;
    if (code === 3 || code === 4 || code === 5) choose = r.bytes(cells / 8, 'a selection mask');
    if (code === 4) off1 = this.background;
    const partial = code !== ALL;
    let count = cells;
    if (partial) {
      count = 0;
      for (const b of mask) for (let bits = b; bits; bits &= bits - 1) count++;
    }

    const data = this.data(count * n);
    const allBackground = code === 0 && count === 0;
    if (allBackground && out.length > LEAF_VOXELS * n) return true; // a node's values are not looked at then
    let at = 0;
    for (let v = 0; v < cells; v++) {
      const active = (mask[v >> 3] >> (v & 7)) & 1;
      if (!partial || active) for (let c = 0; c < n; c++) out[v * n + c] = data[at++];
      else {
        const off = choose && (choose[v >> 3] >> (v & 7)) & 1 ? off1 : off0;
        for (let c = 0; c < n; c++) out[v * n + c] = off[c];
      }
    }

    return allBackground;
  }

  private data(count: number): Float32Array {
    const { r } = this;
    const width = this.half ? 2 : 4;
    const size = count * width;
    let raw: Uint8Array;
    if (count === 0 && this.half) return new Float32Array(0); // nothing at all is written then
    if (this.compression & (COMPRESS_BLOSC | COMPRESS_ZIP)) {
      const packed = r.i64('a block size');
      if (packed <= 0) {
        if (-packed !== size)
          throw new FileError(`A block holds ${-packed} bytes where ${size} are due`, r.at - 8);
        raw = r.bytes(size, 'a block');
      } else {
        const from = r.at;
        const block = r.bytes(packed, 'a block');
        try {
          raw = this.compression & COMPRESS_BLOSC ? unpackBlosc(block, size) : this.zip.inflate(block, size);
        } catch (error) {
          throw new FileError(`A block cannot be unpacked: ${(error as Error).message}`, from);
        }
      }
    } else raw = r.bytes(size, 'values');
    const out = new Float32Array(count);
    const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
    for (let i = 0; i < count; i++)
      out[i] = this.half ? fromHalf(view.getUint16(2 * i, true)) : view.getFloat32(4 * i, true);
    return out;
  }
}

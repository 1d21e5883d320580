// One grid of an OpenVDB file: its transform, its tree and the values of its leaves.
import { lengthOf, cube } from '../../math/exact';
import { halfTable } from '../../math/half';
import { type ByteReader, FileError } from '../bytes';
import type { ZipCodec } from '../zip';
import { unpackBlosc } from './blosc';
import {
  COMPRESS_BLOSC,
  COMPRESS_MASK,
  COMPRESS_ZIP,
  INNER,
  INNER_SPAN,
  LEAF,
  LEAF_VOXELS,
  UPPER,
  UPPER_SPAN,
  type Leaf,
  type Tile,
  type VdbGrid,
} from './format';
import { readMetadata } from './metadata';

/**
 * Cubes of equal value in a file: each takes a bit or less where it is written, and a hundred bytes here.
 */
const MOST_TILES = 1_000_000;
/** Bits that are set in a byte. */
const BITS = Uint8Array.from({ length: 256 }, (_, byte) => byte.toString(2).replaceAll('0', '').length);
/** Leaves whose values lie in one piece of memory. */
const LEAVES_AT_ONCE = 256;
/** Parts of a voxel's edge by which axes may be off before they count as turned. */
const STRAIGHT = 1e-6;

export type Scalar = 'float' | 'double' | 'vec3s' | 'vec3d';
type Position = Pick<VdbGrid, 'translation' | 'voxelSize' | 'askew'>;

/** How the inactive values of a node are written. */
const enum MaskCode {
  /** All are the background. */
  background = 0,
  minusBackground = 1,
  /** All are one value that is written. */
  oneValue = 2,
  /** A mask chooses the background, and its negative where it is off. */
  choiceOfSigns = 3,
  /** … the background, and a written value where it is off. */
  choiceOfOne = 4,
  /** … two written values, the first where it is off. */
  choiceOfTwo = 5,
  /** Nothing is left out. */
  allValues = 6,
}

export class GridReader {
  private readonly n: number;
  private readonly isWide: boolean;
  /** Bytes of a number, but for one that stands by itself. */
  private readonly width: number;
  /** Origins of the leaves, in the order of the file. */
  private readonly origins: (readonly [number, number, number])[] = [];
  private readonly tiles: Tile[] = [];
  /** Active voxels that are infinite or no numbers. */
  wild = 0;
  /** Whether any value that was read last is. */
  private isWild = false;
  /** Values of the node that is read at each height, by its width. */
  private readonly ofNodes = new Map<number, Float32Array>();
  private compression = 0;
  private background: number[] = [];

  constructor(
    private readonly r: ByteReader,
    private readonly name: string,
    scalar: Scalar,
    private readonly half: boolean,
    private readonly zip: ZipCodec,
  ) {
    this.n = scalar.startsWith('vec3') ? 3 : 1;
    this.isWide = scalar === 'double' || scalar === 'vec3d';
    const full = this.isWide ? 8 : 4;
    this.width = half ? 2 : full;
  }

  /** What stands before a grid's voxels; an instance has no more than that. */
  head(): VdbGrid {
    const { r, name } = this;
    this.compression = r.u32('the compression');
    if (this.compression & ~7) throw new FileError(`Grid ${name} has an unknown compression`, r.at - 4);
    const metadata = readMetadata(r);
    return {
      name,
      kind: this.n === 3 ? 'vec3' : 'float',
      half: this.half,
      background: new Array<number>(this.n).fill(0),
      ...this.transform(),
      metadata,
      leaves: [],
      tiles: [],
    };
  }

  read(): VdbGrid {
    const { r, name } = this;
    const head = this.head();
    const buffers = r.i32('the buffer count');
    if (buffers !== 1) throw new FileError(`Grid ${name} has ${buffers} buffers, 1 is expected`, r.at - 4);
    this.root();
    for (const { value, active } of this.tiles) if (active && !value.every(Number.isFinite)) this.wild++;
    return { ...head, background: this.background, leaves: this.readLeaves(), tiles: this.tiles };
  }

  private readLeaves(): Leaf[] {
    const { r, n, origins } = this;
    const size = LEAF_VOXELS * n;
    const leaves: Leaf[] = [];
    // an allocation for each leaf would cost more than reading it
    for (let first = 0; first < origins.length; first += LEAVES_AT_ONCE) {
      const many = Math.min(LEAVES_AT_ONCE, origins.length - first);
      const masks = new Uint8Array((many * LEAF_VOXELS) / 8);
      const values = new Float32Array(many * size);
      for (let l = 0; l < many; l++) {
        const active = masks.subarray((l * LEAF_VOXELS) / 8, ((l + 1) * LEAF_VOXELS) / 8);
        const leaf = {
          origin: origins[first + l],
          active,
          values: values.subarray(l * size, (l + 1) * size),
        };
        active.set(r.bytes(LEAF_VOXELS / 8, 'a leaf mask'));
        this.isWild = false;
        this.values(active, LEAF_VOXELS, leaf.values);
        if (this.isWild) this.wild += countWild(leaf);
        leaves.push(leaf);
      }
    }

    return leaves;
  }

  private transform(): Position {
    const { r } = this;
    const type = r.text('the map type');
    const three = (): [number, number, number] => [r.f64('a map'), r.f64('a map'), r.f64('a map')];
    let translation: [number, number, number] = [0, 0, 0];
    let voxelSize: [number, number, number] = [1, 1, 1];
    let askew: string | undefined;
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
        const off = [0, 1, 2].flatMap((a) => [0, 1, 2].map((c) => (a === c ? 0 : m[4 * a + c])));
        if (off.some((v) => Math.abs(v) > STRAIGHT * Math.max(...voxelSize))) askew = 'turned or sheared';
        else if ([0, 1, 2].some((a) => m[4 * a + a] < 0)) askew = 'mirrored';
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
    if (voxelSize.some((v) => v < 0)) askew = 'mirrored';
    return { translation, voxelSize: voxelSize.map(Math.abs) as [number, number, number], askew };
  }

  /** One that stands by itself is of full width, whatever the others are. */
  private value(): number[] {
    const { r, isWide } = this;
    return Array.from({ length: this.n }, () => (isWide ? r.f64('a value') : r.f32('a value')));
  }

  private tile(tile: Tile): void {
    if (this.tiles.length >= MOST_TILES)
      throw new FileError(
        `Grid ${this.name} holds more than ${MOST_TILES / 1e6} million cubes of equal value. Fill them ` +
          'with voxels, or crop it',
        this.r.at,
      );
    this.tiles.push(tile);
  }

  private origin(): [number, number, number] {
    return [this.r.i32('an origin'), this.r.i32('an origin'), this.r.i32('an origin')];
  }

  private root(): void {
    const { r } = this;
    this.background = this.value();
    const tiles = r.u32('the number of tiles');
    const children = r.u32('the number of children');
    if (tiles > r.left / (13 + (this.isWide ? 8 : 4) * this.n))
      throw new FileError(`${tiles} tiles cannot fit in the file`, r.at - 8);
    if (children > r.left / (cube(UPPER) / 4))
      throw new FileError(`${children} nodes cannot fit in the file`, r.at - 4);
    for (let t = 0; t < tiles; t++)
      this.tile({
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
    const values = this.ofNodes.get(width) ?? new Float32Array(cells * n);
    this.ofNodes.set(width, values);
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
          r.pass(LEAF_VOXELS / 8, 'a leaf mask');
          // a leaf takes at least 64 + 1 bytes further on, so their number is bounded before their values are
          // allocated
          if ((this.origins.length + 1) * 65 > r.size)
            throw new FileError('More leaves than the file can hold', r.at);
          this.origins.push(at);
        }
      } else if (!allBackground) {
        const value = Array.from(values.subarray(v * n, v * n + n));
        if (active || value.some((x2, c) => x2 !== this.background[c]))
          this.tile({ origin: at, span, value, active: !!active });
      }
    }
  }

  /**
   * Reads the values of a node into `out`: compressed, halved, and with inactive ones left out, as the code
   * says. The code is there whether inactive values are left out or not.
   * @returns whether all are inactive and the background
   */
  private values(mask: Uint8Array, cells: number, out: Float32Array): boolean {
    const { r, n } = this;
    const code = r.u8('a mask code');
    if (code > MaskCode.allValues) throw new FileError(`Unknown mask code ${code}`, r.at - 1);
    const written =
      code === MaskCode.oneValue || code === MaskCode.choiceOfOne || code === MaskCode.choiceOfTwo;
    const one = written ? this.value() : null;
    const other = code === MaskCode.choiceOfTwo ? this.value() : this.background;
    const chooses =
      code === MaskCode.choiceOfSigns || code === MaskCode.choiceOfOne || code === MaskCode.choiceOfTwo;
    const choose = chooses ? r.bytes(cells / 8, 'a selection mask') : null;
    const partial = (this.compression & COMPRESS_MASK) !== 0 && code !== MaskCode.allValues;
    let count = cells;
    if (partial) {
      count = 0;
      for (let b = 0; b < mask.length; b++) count += BITS[mask[b]];
    }

    const raw = this.data(count * n);
    if (count === cells) {
      this.decode(raw, out);
      return false;
    }

    const allBackground = code === MaskCode.background && count === 0;
    if (allBackground && out.length > LEAF_VOXELS * n) return true; // a node's values are not looked at then
    const data = new Float32Array(count * n);
    this.decode(raw, data);
    // what inactive values are: the one, or, where a mask chooses, the other
    const minus = (): number[] => this.background.map((x) => -x);
    const off = one ?? (code === MaskCode.background ? this.background : minus());
    let at = 0;
    if (!choose && off.every((x) => x === 0)) {
      out.fill(0);
      for (let byte = 0; byte < mask.length; byte++)
        for (let bits = mask[byte]; bits; bits &= bits - 1) {
          const to = ((byte << 3) + 31 - Math.clz32(bits & -bits)) * n;
          for (let c = 0; c < n; c++) out[to + c] = data[at++];
        }

      return allBackground;
    }

    for (let v = 0; v < cells; v++) {
      const active = (mask[v >> 3] >> (v & 7)) & 1;
      if (active) for (let c = 0; c < n; c++) out[v * n + c] = data[at++];
      else {
        const value = choose && (choose[v >> 3] >> (v & 7)) & 1 ? other : off;
        for (let c = 0; c < n; c++) out[v * n + c] = value[c];
      }
    }

    return allBackground;
  }

  /** The bytes of so many values, unpacked. */
  private data(count: number): Uint8Array {
    const { r } = this;
    const size = count * this.width;
    if (count === 0 && this.half) return new Uint8Array(0); // nothing at all is written then
    if (!(this.compression & (COMPRESS_BLOSC | COMPRESS_ZIP))) return r.bytes(size, 'values');
    const packed = r.i64('a block size');
    if (packed <= 0) {
      if (-packed !== size)
        throw new FileError(`A block holds ${-packed} bytes where ${size} are due`, r.at - 8);
      return r.bytes(size, 'a block');
    }

    const from = r.at;
    const block = r.bytes(packed, 'a block');
    try {
      return this.compression & COMPRESS_BLOSC ? unpackBlosc(block, size) : this.zip.inflate(block, size);
    } catch (error) {
      throw new FileError(`A block cannot be unpacked: ${(error as Error).message}`, from);
    }
  }

  private decode(raw: Uint8Array, out: Float32Array): void {
    const { width } = this;
    // numbers lie as they do in the file, but not where memory wants them
    const from = raw.byteOffset % width === 0 ? raw : new Uint8Array(raw);
    const numbers = new { 2: Uint16Array, 4: Float32Array, 8: Float64Array }[width]!(
      from.buffer as ArrayBuffer,
      from.byteOffset,
      out.length,
    );
    // a sum of values, each with itself taken away, is 0 unless one is infinite or no number
    let rest = 0;
    if (width === 2) {
      const halves = halfTable();
      for (let i = 0; i < out.length; i++) {
        const v = halves[numbers[i]];
        out[i] = v;
        rest += v - v;
      }
    } else {
      out.set(numbers);
      for (let i = 0; i < out.length; i++) rest += out[i] - out[i];
    }

    if (rest !== 0) this.isWild = true;
  }
}

function countWild({ active, values }: Leaf): number {
  const n = values.length / LEAF_VOXELS;
  let wild = 0;
  for (let v = 0; v < LEAF_VOXELS; v++) {
    const isActive = (active[v >> 3] >> (v & 7)) & 1;
    if (isActive && !values.subarray(v * n, v * n + n).every(Number.isFinite)) wild++;
  }

  return wild;
}

// Writes OpenVDB files as other programs do, which our own writer does not: any flags, codes, maps, widths,
// versions; for tests of the reader. Zip only by way of fflate.
import { zlibSync } from 'fflate';
import { ByteWriter } from '@bramblemist/core/files/bytes';
import { toHalf } from '@bramblemist/core/math/half';

export interface ForeignLeaf {
  readonly origin: readonly [number, number, number];
  /** 512 values, the file's own order: z fastest. */
  readonly values: readonly number[];
  readonly active: (v: number) => boolean;
}

export interface Foreign {
  readonly name?: string;
  readonly type?: 'float' | 'double' | 'vec3s' | 'vec3d';
  readonly half?: boolean;
  readonly background?: number;
  readonly flags?: number;
  readonly map?: readonly [string, readonly number[]];
  readonly metadata?: readonly (readonly [string, string, Uint8Array])[];
  readonly leaves?: readonly ForeignLeaf[];
  /** Tiles of 8³ voxels, in the node of the first leaf. */
  readonly tiles?: readonly { readonly at: number; readonly value: number; readonly active: boolean }[];
  readonly rootTiles?: readonly { readonly origin: readonly number[]; readonly value: number }[];
  /** The name of the grid whose voxels it shares. */
  readonly of?: string;
}

export const numbers = (kind: 'f64' | 'f32' | 'i32', values: readonly number[]): Uint8Array => {
  const w = new ByteWriter(64);
  for (const v of values) w[kind](v);
  return w.done();
};

/** The fifteen numbers of a scale, as the library writes them. */
export const scale = (x: number, y = x, z = x): number[] =>
  [
    (v: number) => v,
    Math.abs,
    (v: number) => 1 / v,
    (v: number) => 1 / v / v,
    (v: number) => 0.5 / v,
  ].flatMap((f) => [x, y, z].map(f));

export function foreignVdb(
  grids: readonly Foreign[],
  { version = 224, offsets = true }: { version?: number; offsets?: boolean } = {},
): Uint8Array {
  const w = new ByteWriter(1 << 16);
  w.i64(0x56444220);
  w.u32(version);
  w.u32(9);
  w.u32(1);
  w.u8(offsets ? 1 : 0);
  w.ascii('00000000-0000-4000-8000-000000000000');
  w.u32(0);
  w.i32(grids.length);
  for (const grid of grids) writeGrid(w, grid, offsets);
  return w.done();
}

function text(w: ByteWriter, value: string): void {
  const bytes = new TextEncoder().encode(value);
  w.u32(bytes.length);
  w.bytes(bytes);
}

function writeGrid(w: ByteWriter, g: Foreign, offsets: boolean): void {
  const type = g.type ?? 'float';
  text(w, g.name ?? 'density');
  text(w, `Tree_${type}_5_4_3${g.half ? '_HalfFloat' : ''}`);
  text(w, g.of ?? '');
  const at = w.length;
  for (let i = 0; i < 3; i++) w.i64(0);
  const patch = (n: number): void => {
    if (offsets) w.patchI64(at + 8 * n, w.length);
  };

  patch(0);
  const flags = g.flags ?? 2;
  w.u32(flags);
  w.u32((g.metadata ?? []).length);
  for (const [key, kind, bytes] of g.metadata ?? []) {
    text(w, key);
    text(w, kind);
    w.u32(bytes.length);
    w.bytes(bytes);
  }

  const [mapType, map] = g.map ?? ['UniformScaleMap', scale(0.1)];
  text(w, mapType);
  for (const v of map) w.f64(v);
  if (g.of === undefined) writeTree(w, g, type, flags, () => patch(1));
  else patch(1);
  patch(2);
}

function writeTree(w: ByteWriter, g: Foreign, type: string, flags: number, afterTopology: () => void): void {
  const parts = type.startsWith('vec3') ? 3 : 1;
  const isWide = type === 'double' || type === 'vec3d';
  const background = g.background ?? 0;
  const alone = (v: number): void => {
    for (let c = 0; c < parts; c++) {
      if (isWide) w.f64(v);
      else w.f32(v);
    }
  };

  const packed = (values: readonly number[]): void => {
    const own = new ByteWriter(4096);
    for (const v of values)
      for (let c = 0; c < parts; c++) {
        if (g.half) own.u16(toHalf(v));
        else if (isWide) own.f64(v);
        else own.f32(v);
      }

    const raw = own.done();
    if (values.length === 0 && g.half) return;
    if (!(flags & 1)) return w.bytes(raw);
    const zipped = zlibSync(raw);
    if (zipped.length < raw.length) {
      w.i64(zipped.length);
      w.bytes(zipped);
    } else {
      w.i64(-raw.length);
      w.bytes(raw);
    }
  };

  /** As the library does: the code that leaves out the most. */
  const values = (all: readonly number[], active: (v: number) => boolean): void => {
    const off = [...new Set(all.filter((_, v) => !active(v)))];
    const mask = (is: (v: number) => boolean): Uint8Array => {
      const bits = new Uint8Array(all.length / 8);
      all.forEach((_, v) => is(v) && (bits[v >> 3] |= 1 << (v & 7)));
      return bits;
    };

    const left = all.filter((_, v) => active(v));
    const [a, b] = off;
    if (!(flags & 2) || off.length > 2) {
      w.u8(6);
      return packed(all);
    }

    if (off.length < 2) {
      const codes = new Map([
        [background, 0],
        [-background, 1],
      ]);
      const code = off.length === 0 || a === background ? 0 : (codes.get(a) ?? 2);
      w.u8(code);
      if (code === 2) alone(a);
      return packed(left);
    }

    const other = off.find((v) => v !== background)!;
    if (!off.includes(background)) {
      w.u8(5);
      alone(a);
      alone(b);
      w.bytes(mask((v) => !active(v) && all[v] === b));
    } else {
      w.u8(other === -background ? 3 : 4);
      if (other !== -background) alone(other);
      w.bytes(mask((v) => !active(v) && all[v] === background));
    }

    packed(left);
  };

  w.i32(1);
  alone(background);
  const leaves = g.leaves ?? [];
  w.u32((g.rootTiles ?? []).length);
  w.u32(leaves.length > 0 || g.tiles ? 1 : 0);
  for (const t of g.rootTiles ?? []) {
    for (const c of t.origin) w.i32(c);
    alone(t.value);
    w.u8(1);
  }

  if (leaves.length === 0 && !g.tiles) return afterTopology();
  const down = (o: readonly number[], span: number): number[] => o.map((c) => Math.floor(c / span) * span);
  const first = leaves[0]?.origin ?? [0, 0, 0];
  const upper = down(first, 4096);
  const inner = down(first, 128);
  for (const c of upper) w.i32(c);
  const bit = (at: readonly number[], from: readonly number[], span: number, width: number): number => {
    const [x, y, z] = at.map((c, a) => (c - from[a]) / span);
    return (x * width + y) * width + z;
  };

  const bits = (count: number, on: readonly number[]): Uint8Array => {
    const mask = new Uint8Array(count / 8);
    for (const n of on) mask[n >> 3] |= 1 << (n & 7);
    return mask;
  };

  w.bytes(bits(32 ** 3, [bit(inner, upper, 128, 32)]));
  w.bytes(bits(32 ** 3, []));
  values(new Array<number>(32 ** 3).fill(background), () => false);
  const tiles = g.tiles ?? [];
  const places = leaves.map((l) => bit(l.origin, inner, 8, 16));
  const order = [...leaves.keys()].sort((a, b) => places[a] - places[b]);
  w.bytes(bits(16 ** 3, places));
  w.bytes(
    bits(
      16 ** 3,
      tiles.filter((t) => t.active).map((t) => t.at),
    ),
  );
  const nodes = new Array<number>(16 ** 3).fill(background);
  for (const t of tiles) nodes[t.at] = t.value;
  values(nodes, (v) => tiles.some((t) => t.at === v && t.active));
  const masks = order.map((n) =>
    bits(
      512,
      leaves[n].values.flatMap((_, v) => (leaves[n].active(v) ? [v] : [])),
    ),
  );
  for (const mask of masks) w.bytes(mask);
  afterTopology();
  order.forEach((n, i) => {
    w.bytes(masks[i]);
    values(leaves[n].values, leaves[n].active);
  });
}

// What each operation does with a picture: settings as matrices, curves and kernels.
import { LUMINANCE } from '../math/luminance';
import { blackBody } from '../look/kelvin';
import { decodeSrgb } from '../look/picture';
import { valueAt } from '../recipe/profile';
import { throughTable, type ColourTable } from '../files/cube/cube';
import type { CompOperation } from './combine';
import type { OperationKind } from './parts/operations';
import { boxesOf, remapTables, type Address, type Pixels } from './pixels';
import { memoize } from '../base/memoize';
import { canonicalText } from '../recipe/document';

/** What an operation finds beside the picture itself. */
export interface AtHand {
  readonly pixels: Pixels;
  /** Frame pixels of the comp to pixels here: 1 at full size. */
  readonly scale: number;
  readonly frame: number;
  /** Two pictures that may be written over. */
  readonly spare: Address;
  readonly room: Address;
  /** A pass of the layer, placed as it is; null where its pictures have none. */
  readonly pass: (name: string) => Address | null;
  /** How far things are in another layer. */
  readonly depthOf: (layer: string) => Address | null;
  readonly table: (file: string) => ColourTable | null;
}

type Apply = (operation: CompOperation, picture: Address, mask: Address, at: AtHand) => void;

const IDENTITY = (v: number): number => v;
/** sRGB of any light: above 1 it goes on. */
const encodeOpen = (v: number): number => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);

const gains = ([r, g, b]: readonly number[]): number[] => [r, 0, 0, 0, 0, g, 0, 0, 0, 0, b, 0, 0, 0, 0, 1];

/** What red, green and blue give to each, for a saturation and a turn of hue that keep luminance. */
export function saturationMatrix(saturation: number, hueDegrees: number): number[] {
  const [r, g, b] = LUMINANCE;
  const a = (hueDegrees * Math.PI) / 180;
  const [c, s] = [Math.cos(a) * saturation, Math.sin(a) * saturation];
  // luminance, and two axes of colour that are turned (W3C, Filter Effects, feColorMatrix hueRotate)
  const rows = [
    [r + c * (1 - r) - s * r, g - c * g - s * g, b - c * b + s * (1 - b)],
    [r - c * r + s * 0.143, g + c * (1 - g) + s * 0.14, b - c * b - s * 0.283],
    [r - c * r - s * (1 - r), g - c * g + s * g, b + c * (1 - b) + s * b],
  ];
  return [...[0, 1, 2].flatMap((from) => [...rows.map((row) => row[from]), 0]), 0, 0, 0, 1];
}

/** Gains by which light of a temperature becomes white, luminance kept. */
export function balanceGains(kelvin: number, green: number): number[] {
  const [white, own] = [blackBody(6500), blackBody(kelvin)];
  const raw = white.map((v, c) => (v / Math.max(own[c], 1e-3)) * (c === 1 ? 2 ** green : 1));
  const kept = raw.reduce((sum, v, c) => sum + v * LUMINANCE[c], 0);
  return raw.map((v) => v / kept);
}

type Curve = (light: number) => number;

export function levelsCurve({ black, white, gamma, low, high }: CompOperation): Curve {
  const span = white - black || 1e-6;
  return (light) => {
    const t = (encodeOpen(light) - black) / span;
    return decodeSrgb(low + (high - low) * (t > 0 ? t ** (1 / gamma) : t));
  };
}

export const drawnCurve =
  ({ curve }: CompOperation): Curve =>
  (light) => {
    const v = encodeOpen(light);
    const [last] = curve.slice(-1);
    // what lies beyond the drawn ends goes straight on
    const out =
      v <= 1
        ? valueAt(curve, Math.max(0, v), true)
        : last[1] + ((v - 1) * (valueAt(curve, 1, true) - valueAt(curve, 0.98, true))) / 0.02;
    return decodeSrgb(out);
  };

const KEPT_TABLES = 32;

/** Tables of levels and curves, by all that makes them. */
const tablesOf = memoize(KEPT_TABLES, (told: string): Float32Array => {
  const o = JSON.parse(told) as CompOperation;
  const curve = o.kind === 'levels' ? levelsCurve(o) : drawnCurve(o);
  return remapTables(
    (['red', 'green', 'blue'] as const).map((c) =>
      o.channels === 'all' || o.channels === c ? curve : IDENTITY,
    ),
  );
});

const byTables: Apply = (o, picture, mask, { pixels }) => {
  const { kind, channels, curve, black, white, gamma, low, high } = o;
  const told = kind === 'levels' ? { black, white, gamma, low, high } : { curve };
  pixels.remap(picture, mask, tablesOf(canonicalText({ kind, channels, ...told })));
};

/** What becomes of a picture in another one, let in by the mask. */
function settle(picture: Address, becomes: Address, mask: Address, { pixels }: AtHand): void {
  if (mask) pixels.mix(picture, becomes, mask);
  else pixels.copy(becomes, picture);
}

/** Deviation of even grain that was softened by a Gaussian, by what its three boxes leave of a point. */
export function softenedGrain(deviation: number): number {
  if (deviation <= 0.05) return 1;
  const { radius, part } = boxesOf(deviation);
  const weight = 1 / (2 * radius + 1 + 2 * part);
  const box = Array.from(
    { length: 2 * radius + 3 },
    (_, n) => (n === 0 || n === 2 * radius + 2 ? part : 1) * weight,
  );
  const folded = (a: number[], b: number[]): number[] => {
    const out = new Array<number>(a.length + b.length - 1).fill(0);
    a.forEach((x, i) => b.forEach((y, j) => (out[i + j] += x * y)));
    return out;
  };

  // twice, along rows and along columns
  return folded(folded(box, box), box).reduce((sum, w) => sum + w * w, 0);
}

/** What is left of grain in a smaller picture, whose pixels are means of several. */
function grainLeft(deviation: number, scale: number): number {
  const own = Math.max(deviation, 0.29);
  const left = (s: number): number => own / Math.sqrt(own * own + 1 / (12 * s * s));
  return left(Math.min(1, scale)) / left(1);
}

/** What stands before and behind a table of colours, and what takes its place where it has but lines. */
function makeAround(table: ColourTable, isCoded: boolean): Around {
  const inward = isCoded ? encodeOpen : IDENTITY;
  const outward = isCoded ? decodeSrgb : IDENTITY;
  const { kind, from, to } = table;
  const line =
    (c: number): Curve =>
    (v) =>
      outward(throughTable(table, [inward(v), inward(v), inward(v)])[c]);
  const nothing = new Float32Array(0);
  if (kind === 'line') return { before: nothing, after: nothing, lines: remapTables([0, 1, 2].map(line)) };
  const within =
    (c: number): Curve =>
    (v) =>
      (inward(v) - from[c]) / (to[c] - from[c]);
  return {
    before: remapTables([0, 1, 2].map(within)),
    after: remapTables([outward, outward, outward]),
    lines: nothing,
  };
}

type Around = Record<'before' | 'after' | 'lines', Float32Array>;
const known = { srgb: new WeakMap<ColourTable, Around>(), linear: new WeakMap<ColourTable, Around>() };

function aroundTable(table: ColourTable, space: CompOperation['space']): Around {
  const found = known[space].get(table) ?? makeAround(table, space === 'srgb');
  known[space].set(table, found);
  return found;
}

function throughTableOf(o: CompOperation, picture: Address, { pixels }: AtHand, table: ColourTable): void {
  const around = aroundTable(table, o.space);
  if (table.kind === 'line') return pixels.remap(picture, 0, around.lines);
  pixels.remap(picture, 0, around.before);
  pixels.cube(picture, 0, table.values, table.size);
  pixels.remap(picture, 0, around.after);
}

const OPERATIONS: Readonly<Record<OperationKind, Apply>> = {
  exposure: (o, picture, mask, { pixels }) => {
    const gain = 2 ** o.stops;
    pixels.matrix(picture, mask, gains([gain, gain, gain]));
  },
  tint: (o, picture, mask, { pixels }) => pixels.matrix(picture, mask, gains(o.colour)),
  levels: byTables,
  curves: byTables,
  saturation: (o, picture, mask, { pixels }) =>
    pixels.matrix(picture, mask, saturationMatrix(o.saturation / 100, o.hue)),
  temperature: (o, picture, mask, { pixels }) =>
    pixels.matrix(picture, mask, gains(balanceGains(o.kelvin, o.green))),
  blur: (o, picture, mask, at) => {
    const becomes = mask ? at.spare : picture;
    at.pixels.blur(picture, becomes, at.room, o.size * at.scale);
    if (mask) settle(picture, becomes, mask, at);
  },
  smear: (o, picture, mask, at) => {
    const a = (o.angle * Math.PI) / 180;
    const long = o.length * at.scale;
    at.pixels.smear(picture, at.spare, long * Math.cos(a), long * Math.sin(a));
    settle(picture, at.spare, mask, at);
  },
  motion: (o, picture, mask, at) => {
    const vectors = at.pass('motion');
    if (vectors === null) return;
    at.pixels.blurByVectors(picture, at.spare, vectors, o.shutter / 360);
    settle(picture, at.spare, mask, at);
  },
  sharpen: (o, picture, mask, at) => {
    const { pixels, spare } = at;
    const amount = o.amount / 100;
    pixels.blur(picture, spare, at.room, o.size * at.scale);
    pixels.add(picture, spare, mask, 1 + amount, [-amount, -amount, -amount, -amount]);
  },
  glow: (o, picture, mask, at) => {
    const { pixels, spare, room } = at;
    const amount = o.amount / 100;
    pixels.bright(picture, spare, o.threshold);
    pixels.blur(spare, spare, room, o.size * at.scale);
    pixels.add(picture, spare, mask, 1, [amount, amount, amount, 0]);
  },
  grain: (o, picture, mask, at) => {
    const { pixels, spare, room } = at;
    const deviation = o.size * at.scale;
    pixels.grain(spare, o.seed * 100003 + at.frame);
    pixels.blur(spare, spare, room, deviation);
    const strength = ((o.amount / 100) * grainLeft(o.size, at.scale)) / softenedGrain(deviation);
    const [r, g, b] = o.grain.map((v) => v * strength);
    pixels.addGrain(picture, spare, mask, [r, g, b], o.dark / 100);
  },
  quiet: (o, picture, mask, at) => {
    at.pixels.quiet(picture, at.spare, mask, o.alike, Math.max(1, Math.round(o.reach * at.scale)));
    at.pixels.copy(at.spare, picture);
  },
  edges: (o, picture, mask, at) => {
    at.pixels.blur(picture, at.spare, at.room, o.size * at.scale);
    at.pixels.softenEdges(picture, at.spare, mask);
  },
  relight: (o, picture, mask, at) => {
    const light = at.pass(`lights.${o.light}`);
    if (light === null) return;
    const [r, g, b] = o.colour.map((v) => v * 2 ** o.stops - 1);
    at.pixels.add(picture, light, mask, 1, [r, g, b, 0]);
  },
  thin: (o, picture, mask, { pixels }) => pixels.thin(picture, mask, o.power / 100),
  fog: (o, picture, mask, at) => {
    const depth = o.depthOf === '' ? at.pass('depth') : at.depthOf(o.depthOf);
    if (depth !== null)
      at.pixels.fog(picture, mask, depth, { near: o.near, perMetre: o.thickness, colour: o.colour });
  },
  table: (o, picture, mask, at) => {
    const table = at.table(o.table);
    if (!table) return;
    if (!mask) return throughTableOf(o, picture, at, table);
    at.pixels.copy(picture, at.spare);
    throughTableOf(o, at.spare, at, table);
    at.pixels.mix(picture, at.spare, mask);
  },
};

/** Does an operation to a picture. @param mask where it acts; 0: everywhere */
export const applyOperation: Apply = (operation, picture, mask, at) =>
  OPERATIONS[operation.kind](operation, picture, mask, at);

/** Settings that an operation of a kind begins with, where they are others than the defaults. */
export const BEGINS: Readonly<Partial<Record<OperationKind, Partial<CompOperation>>>> = {
  grain: { amount: 100, size: 0.6 },
  glow: { size: 24, amount: 40 },
  sharpen: { size: 1.2, amount: 60 },
  thin: { power: 70 },
  fog: { colour: [0.5, 0.55, 0.6] },
  blur: { size: 3 },
  edges: { size: 3 },
};

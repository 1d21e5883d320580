// A look and a volume to flat numbers that the kernels of light read; nothing else reaches them.
import { FileError } from '../files/bytes';
import type { Triple } from '../math/vector';
import { valueAt } from '../recipe/profile';
import { directionOf, frameAbout, keySun, powerOf, skyOf, type LightPart, type Look } from './look';
import { groundAt, placeOn, type Solid } from './solids';

/** A density to be seen, and what may colour it: tight values, x fastest, and where they are. */
export interface Volume {
  readonly dims: Triple;
  readonly density: Float32Array;
  /** World position of its least corner, m. */
  readonly corner: Triple;
  readonly voxelSizeM: number;
  /** Red, green and blue that it carries, an array each. */
  readonly colour?: readonly Float32Array[];
  /** Other channels that a ramp may run over. */
  readonly channels?: Readonly<Partial<Record<'temperature' | 'age' | 'speed', Float32Array>>>;
}

/** The part of a volume that holds something, with its colours. */
export interface SeenMedium {
  readonly dims: Triple;
  readonly corner: Triple;
  readonly voxelSizeM: number;
  /** As simulated, 0 where it is clipped. */
  readonly density: Float32Array;
  /** Four 16-bit parts of one a value; null where the colour is the same everywhere. */
  readonly tint: Uint16Array | null;
  /** 1025 values over density 0…`most`; null where it is shown as it is. */
  readonly curve: { readonly values: Float32Array; readonly most: number } | null;
  /** Extinction a cell at density 1. */
  readonly sigma: number;
}

/**
 * By channel, at colour 0 and what colour 1 adds: part of the extinction that takes, and that scatters on.
 */
export interface Taking {
  readonly takes0: Triple;
  readonly takes1: Triple;
  readonly scatters0: Triple;
  readonly scatters1: Triple;
  readonly isChromatic: boolean;
}

export interface CompiledLamp {
  readonly kind: LightPart['kind'];
  readonly shadows: boolean;
  /** Place on the medium's lattice. */
  readonly place: Triple;
  readonly aim: Triple;
  readonly u: Triple;
  readonly v: Triple;
  /** Irradiance: of a sun anywhere, else at the distance of one cell. */
  readonly power: Triple;
  readonly cosineEnd: number;
  readonly cosineFull: number;
}

export interface CompiledLook {
  readonly look: Look;
  readonly medium: SeenMedium;
  readonly taking: Taking;
  readonly lamps: readonly CompiledLamp[];
  readonly sun: ReturnType<typeof keySun>;
  readonly sky: Triple;
  readonly solids: readonly Solid[];
}

const CURVE_STEPS = 1024;

/** @throws FileError where the look asks for a channel that the volume does not have */
export function compileLook(look: Look, volume: Volume, solids: readonly Solid[] = []): CompiledLook {
  const taking = takingOf(look.medium);
  const medium = seenMedium(look.medium, volume, taking.greatest);
  const key = look.lights.find((l) => l.on && l.kind === 'sun');
  return {
    look,
    medium,
    taking,
    lamps: lampsOf(look.lights, key, medium),
    sun: keySun(look),
    sky: skyOf(look),
    solids: [
      ...solids.filter((s) =>
        s.kind === 'vessel' ? look.solids.vessels === 'seen' : look.solids.seen !== 'unseen',
      ),
      ...(look.solids.ground === 'none' ? [] : [groundAt(look.solids.level)]),
    ],
  };
}

function takingOf({
  scatter,
  absorb,
  colour,
  colours,
}: Look['medium']): Taking & { readonly greatest: number } {
  const all = scatter.map((s, c) => s + absorb[c]);
  const greatest = Math.max(...all);
  const part = (v: readonly number[]): Triple => v.map((x) => (greatest > 0 ? x / greatest : 0)) as Triple;
  const none: Triple = [0, 0, 0];
  const inks = colour !== 'even' && colours === 'absorb';
  const veils = colour !== 'even' && !inks;
  return {
    greatest,
    takes0: part(all),
    takes1: inks ? part(absorb.map((a) => -a)) : none,
    scatters0: veils ? none : part(scatter),
    scatters1: veils ? part(scatter) : none,
    isChromatic: inks || all.some((v) => v !== greatest),
  };
}

/** Cuts out the box that holds something, and looks colours up. */
function seenMedium(settings: Look['medium'], volume: Volume, greatest: number): SeenMedium {
  const { dims, density, corner, voxelSizeM } = volume;
  const [nx, ny, nz] = dims;
  const least = settings.clip;
  const from = [nx, ny, nz];
  const to = [-1, -1, -1];
  for (let k = 0, row = 0; k < nz; k++)
    for (let j = 0; j < ny; j++, row += nx) {
      let first = 0;
      while (first < nx && !(density[row + first] > least)) first++;
      if (first === nx) continue;
      let last = nx - 1;
      while (!(density[row + last] > least)) last--;
      from[0] = Math.min(from[0], first);
      to[0] = Math.max(to[0], last);
      from[1] = Math.min(from[1], j);
      to[1] = Math.max(to[1], j);
      from[2] = Math.min(from[2], k);
      to[2] = Math.max(to[2], k);
    }

  if (to[0] < 0) {
    from.fill(0);
    to.fill(0);
  }

  const size = from.map((f, a) => to[a] - f + 1) as Triple;
  const own = new Float32Array(size[0] * size[1] * size[2]);
  for (let k = 0, n = 0; k < size[2]; k++)
    for (let j = 0; j < size[1]; j++, n += size[0]) {
      const row = ((k + from[2]) * ny + j + from[1]) * nx + from[0];
      own.set(density.subarray(row, row + size[0]), n);
    }

  if (least > 0) for (let n = 0; n < own.length; n++) if (own[n] <= least) own[n] = 0;
  // what is not a number would go through every sum
  for (let n = 0; n < own.length; n++) if (!(own[n] < Infinity)) own[n] = 0;
  const cut = corner.map((c, a) => c + from[a] * voxelSizeM) as Triple;
  const curve =
    settings.remap === 'drawn'
      ? {
          values: Float32Array.from(
            { length: CURVE_STEPS + 1 },
            (_, n) => settings.full * valueAt(settings.curve, n / CURVE_STEPS),
          ),
          most: settings.full,
        }
      : null;
  return {
    dims: size,
    corner: cut,
    voxelSizeM,
    density: own,
    tint: settings.colour === 'even' ? null : tintOf(settings, volume, from, size),
    curve,
    sigma: settings.density * greatest * voxelSizeM,
  };
}

function tintOf(
  settings: Look['medium'],
  volume: Volume,
  from: readonly number[],
  size: Triple,
): Uint16Array {
  const [nx, ny] = volume.dims;
  const out = new Uint16Array(4 * size[0] * size[1] * size[2]);
  const put = (n: number, c: number, v: number): void => {
    out[4 * n + c] = Math.round(65535 * Math.min(1, Math.max(0, v)));
  };

  const colourAt = colouring(settings, volume);
  for (let k = 0, n = 0; k < size[2]; k++)
    for (let j = 0; j < size[1]; j++)
      for (let i = 0; i < size[0]; i++, n++) {
        const at = ((k + from[2]) * ny + j + from[1]) * nx + i + from[0];
        for (let c = 0; c < 3; c++) put(n, c, colourAt(at, j + from[1], c));
      }

  return out;
}

/** The colour of a voxel by its place in the volume's arrays, its row and the part that is asked for. */
function colouring(
  settings: Look['medium'],
  { density, colour, channels, corner, voxelSizeM }: Volume,
): (at: number, row: number, part: number) => number {
  if (settings.colour === 'carried') {
    if (!colour)
      throw new FileError(
        'Its medium carries no colour. Keep the colour in Set up and bake again, or choose another ' +
          'colour in Light',
      );
    return (at, _, c) => colour[c][at];
  }

  const { channel, low, high, first, last } = settings;
  const span = high === low ? 1 : high - low;
  const mixed = (value: number, c: number): number => {
    const t = Math.min(1, Math.max(0, (value - low) / span));
    return first[c] + t * (last[c] - first[c]);
  };

  if (channel === 'height') return (_, row, c) => mixed(corner[1] + (row + 0.5) * voxelSizeM, c);
  const values = channel === 'density' ? density : channels?.[channel];
  if (!values)
    throw new FileError(
      `Its frames hold no ${channel}. Keep it in Set up and bake again, or let the ramp run over ` +
        'something else',
    );
  return (at, _, c) => mixed(values[at], c);
}

const IRRADIANCE = 4 * Math.PI;

/** All lamps that give light, the key sun last: quick pictures have it from its light volume. */
function lampsOf(
  lights: readonly LightPart[],
  key: LightPart | undefined,
  { corner, voxelSizeM: h }: SeenMedium,
): CompiledLamp[] {
  const on = lights.filter((l) => l.on && l !== key);
  return (key ? [...on, key] : on)
    .map((l) => lampOf(l, corner, h))
    .filter(({ power }) => power.some((p) => p > 0));
}

function lampOf(l: LightPart, corner: Triple, h: number): CompiledLamp {
  const isSun = l.kind === 'sun';
  const away = l.position.map((v, a) => l.aim[a] - v);
  const long = Math.hypot(...away);
  const points = l.kind === 'point' || long === 0;
  const aim = isSun ? directionOf(l) : ((points ? [0, -1, 0] : away.map((v) => v / long)) as Triple);
  const { right, up } = frameAbout(aim);
  const times = (v: Triple, s: number): Triple => v.map((x) => x * s) as Triple;
  const sunReach = Math.tan((l.angle * Math.PI) / 360);
  const reach = {
    sun: [sunReach, sunReach],
    rectangle: [l.width / 2 / h, l.length / 2 / h],
    disc: [l.radius / h, l.radius / h],
    spot: [l.radius / h, l.radius / h],
    point: [l.radius / h, l.radius / h],
  }[l.kind];
  const half = (l.cone * Math.PI) / 360;
  // one metre is 1 / h cells, and light falls by the square
  const scale = isSun ? IRRADIANCE : IRRADIANCE / (h * h);
  return {
    kind: l.kind,
    shadows: l.shadows,
    place: placeOn(corner, h, l.position),
    aim,
    u: times(right, reach[0]),
    v: times(up, reach[1]),
    power: powerOf(l).map((p) => p * scale) as Triple,
    cosineEnd: Math.cos(half),
    cosineFull: Math.cos(half * (1 - l.soft)),
  };
}

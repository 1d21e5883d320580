// A volume as a look shows it: the part that holds something, its extinction and its colours.
import { FileError } from '../files/bytes';
import type { Texture } from '../files/picture';
import type { Triple } from '../math/vector';
import { valueAt } from '../recipe/profile';
import type { MediumSettings } from './look';

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
  /**
   * The same for the parts that are taken, where those are others than what colours; the fourth part of
   * `tint` is that of the second lobe then. Null of a single medium.
   */
  readonly takes: Uint16Array | null;
  /** 1025 values over density 0…`most`; null where it is shown as it is. */
  readonly curve: { readonly values: Float32Array; readonly most: number } | null;
  /** Extinction a cell at density 1. */
  readonly sigma: number;
  readonly taking: Taking;
  readonly phase: Phase;
}

/** Asymmetries of two lobes, and the second one's part. */
export interface Phase {
  readonly forward: number;
  readonly backward: number;
  readonly backPart: number;
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

const CURVE_STEPS = 1024;

function takingOf({ scatter, absorb, colour, colours }: MediumSettings): {
  readonly taking: Taking;
  readonly greatest: number;
} {
  const all = scatter.map((s, c) => s + absorb[c]);
  const greatest = Math.max(...all);
  const part = (v: readonly number[]): Triple => v.map((x) => (greatest > 0 ? x / greatest : 0)) as Triple;
  const none: Triple = [0, 0, 0];
  const inks = colour !== 'even' && colours === 'absorb';
  const veils = colour !== 'even' && !inks;
  const taking = {
    takes0: part(all),
    takes1: inks ? part(absorb.map((a) => -a)) : none,
    scatters0: veils ? none : part(scatter),
    scatters1: veils ? part(scatter) : none,
    isChromatic: inks || all.some((v) => v !== greatest),
  };
  return { taking, greatest };
}

/**
 * Cuts out the box that holds something, and looks colours up.
 * @throws FileError where a channel or a picture is not there
 */
export function seenMedium(
  settings: MediumSettings,
  volume: Volume,
  pictures: ReadonlyMap<string, Texture>,
): SeenMedium {
  const { taking, greatest } = takingOf(settings);
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
    tint: settings.colour === 'even' ? null : tintOf(settings, volume, from, size, pictures),
    takes: null,
    curve,
    sigma: settings.density * greatest * voxelSizeM,
    taking,
    phase: { forward: settings.forward, backward: settings.backward, backPart: settings.backPart },
  };
}

function tintOf(
  settings: MediumSettings,
  volume: Volume,
  from: readonly number[],
  size: Triple,
  pictures: ReadonlyMap<string, Texture>,
): Uint16Array {
  const [nx, ny] = volume.dims;
  const out = new Uint16Array(4 * size[0] * size[1] * size[2]);
  const colourAt = colouring(settings, volume, pictures);
  const rgb: [number, number, number] = [0, 0, 0];
  for (let k = 0, n = 0; k < size[2]; k++)
    for (let j = 0; j < size[1]; j++)
      for (let i = 0; i < size[0]; i++, n += 4) {
        const plane = k + from[2];
        const row = j + from[1];
        colourAt((plane * ny + row) * nx + i + from[0], [i + from[0], row, plane], rgb);
        for (let c = 0; c < 3; c++) out[n + c] = Math.round(65535 * Math.min(1, Math.max(0, rgb[c])));
      }

  return out;
}

/** Puts the colour of a voxel, by its place in the volume's arrays and along its axes. */
type Colouring = (at: number, place: Triple, rgb: [number, number, number]) => void;
type Looked = MediumSettings['channel'];

function colouring(
  settings: MediumSettings,
  volume: Volume,
  pictures: ReadonlyMap<string, Texture>,
): Colouring {
  const { colour } = volume;
  if (settings.colour === 'carried') {
    if (!colour)
      throw new FileError(
        'Its medium carries no colour. Keep the colour in Set up and bake again, or choose another ' +
          'colour in Light',
      );
    return (at, _, rgb) => {
      for (let c = 0; c < 3; c++) rgb[c] = colour[c][at];
    };
  }

  const across = looked(settings.channel, settings.low, settings.high, volume);
  if (settings.colour === 'ramp') {
    const { first, last } = settings;
    return (at, place, rgb) => {
      const t = across(at, place);
      for (let c = 0; c < 3; c++) rgb[c] = first[c] + t * (last[c] - first[c]);
    };
  }

  const picture = pictures.get(settings.picture);
  if (!picture)
    throw new FileError(
      settings.picture === ''
        ? 'The medium has no picture yet that colours it. Choose one in Light, or another colour'
        : 'The picture that colours the medium is not among the look’s files',
    );
  const upward = looked(settings.upward, settings.bottom, settings.top, volume);
  const { width, height, planes } = picture;
  const gain = 2 ** settings.exposure;
  return (at, place, rgb) => {
    const x = Math.min(width - 1, Math.floor(across(at, place) * width));
    const y = Math.min(height - 1, Math.floor(upward(at, place) * height));
    const from = y * width + x;
    const grey = planes[3 * width * height + from];
    for (let c = 0; c < 3; c++)
      rgb[c] = gain * (grey + settings.saturation * (planes[c * width * height + from] - grey));
  };
}

/** Where in its range a channel lies at a voxel, 0…1. */
function looked(
  channel: Looked,
  low: number,
  high: number,
  { density, channels, corner, voxelSizeM }: Volume,
): (at: number, place: Triple) => number {
  const span = high === low ? 1 : high - low;
  const part = (value: number): number => Math.min(1, Math.max(0, (value - low) / span));
  const axis = ['x', 'height', 'z'].indexOf(channel);
  if (axis >= 0) return (_, place) => part(corner[axis] + (place[axis] + 0.5) * voxelSizeM);
  const values = channel === 'density' ? density : channels?.[channel as 'age'];
  if (!values)
    throw new FileError(
      `Its frames hold no ${channel}. Keep it in Set up and bake again, or look its colour up by ` +
        'something else',
    );
  return (at) => part(values[at]);
}

/** Channels besides density and colour that a medium's look asks for. */
export function channelsAsked({ colour, channel, upward }: MediumSettings): ReadonlySet<string> {
  const asked = { even: [], carried: [], ramp: [channel], picture: [channel, upward] }[colour];
  return new Set(asked.filter((name) => ['temperature', 'age', 'speed'].includes(name)));
}

/** Mean colour, weighed by density. */
export function meanTint(tint: Uint16Array | null, density: Float32Array): Triple {
  if (!tint) return [0, 0, 0];
  let all = 0;
  const sums: Triple = [0, 0, 0];
  for (let n = 0; n < density.length; n++) {
    const d = density[n];
    if (!(d > 0)) continue;
    all += d;
    for (let c = 0; c < 3; c++) sums[c] += d * tint[4 * n + c];
  }

  return sums.map((v) => (all > 0 ? v / all / 65535 : 0)) as Triple;
}

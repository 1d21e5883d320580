// A volume as a look shows it: the part that holds something, its extinction and its colours.
import type { Texture } from '../files/picture';
import type { Triple } from '../math/vector';
import { valueAt } from '../recipe/profile';
import { colouring, type Volume } from './colouring';
import { asksForFields, cutOut, fieldsOf, type Cut, type Fields } from './fields';
import type { Look, MediumSettings } from './look';

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
  /** What passes and blur ask for. */
  readonly fields: Fields;
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

/** The least box of a volume that holds something above a value; one voxel where nothing does. */
function boxAbove({ dims, density }: Volume, least: number): Cut {
  const [nx, ny, nz] = dims;
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

  if (to[0] < 0) return { from: [0, 0, 0], size: [1, 1, 1] };
  return { from: from as Triple, size: from.map((f, a) => to[a] - f + 1) as Triple };
}

/** Voxels that the medium may leave its box by while the shutter is open, at the most. */
const MOST_BEYOND = 16;

/** How far beyond its box the medium is carried while the shutter is open, voxels. */
function beyond({ velocity, voxelSizeM }: Volume, { camera }: Pick<Look, 'camera'>, frameS: number): number {
  if (camera.moving !== 'blurred' || !velocity) return 0;
  let most = 0;
  for (const part of velocity) for (const v of part) if (Math.abs(v) > most) most = Math.abs(v);
  return Math.min(MOST_BEYOND, Math.ceil((most * frameS * camera.shutter) / 720 / voxelSizeM));
}

/**
 * Cuts out the box that holds something, and looks colours up.
 * @param frameS simulated seconds of a frame
 * @throws FileError where a channel or a picture is not there
 */
export function seenMedium(
  settings: MediumSettings,
  volume: Volume,
  pictures: ReadonlyMap<string, Texture>,
  look: Pick<Look, 'passes' | 'camera'>,
  frameS = 0,
): SeenMedium {
  const { taking, greatest } = takingOf(settings);
  const { dims, corner, voxelSizeM } = volume;
  const least = settings.clip;
  const tight = boxAbove(volume, least);
  // fields are mixed with what lies around them
  const margin = Math.max(asksForFields(look) ? 1 : 0, beyond(volume, look, frameS));
  const cut: Cut = {
    from: tight.from.map((f) => f - margin) as Triple,
    size: tight.size.map((n) => n + 2 * margin) as Triple,
  };
  const { from, size } = cut;
  const own = cutOut(volume.density, dims, cut);
  if (least > 0) for (let n = 0; n < own.length; n++) if (own[n] <= least) own[n] = 0;
  // what is not a number would go through every sum
  for (let n = 0; n < own.length; n++) if (!(own[n] < Infinity)) own[n] = 0;
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
    corner: corner.map((c, a) => c + from[a] * voxelSizeM) as Triple,
    voxelSizeM,
    density: own,
    tint: settings.colour === 'even' ? null : tintOf(settings, volume, from, size, pictures),
    takes: null,
    curve,
    sigma: settings.density * greatest * voxelSizeM,
    taking,
    phase: { forward: settings.forward, backward: settings.backward, backPart: settings.backPart },
    fields: fieldsOf(settings, volume, pictures, look, cut, margin + 1),
  };
}

function tintOf(
  settings: MediumSettings,
  volume: Volume,
  from: readonly number[],
  size: Triple,
  pictures: ReadonlyMap<string, Texture>,
): Uint16Array {
  const { dims } = volume;
  const out = new Uint16Array(4 * size[0] * size[1] * size[2]);
  // beyond the volume it is as at its rim
  const within = (v: number, axis: number): number => Math.min(dims[axis] - 1, Math.max(0, v + from[axis]));
  const colourAt = colouring(settings, volume, pictures);
  const rgb: [number, number, number] = [0, 0, 0];
  for (let k = 0, n = 0; k < size[2]; k++)
    for (let j = 0; j < size[1]; j++)
      for (let i = 0; i < size[0]; i++, n += 4) {
        const place: Triple = [within(i, 0), within(j, 1), within(k, 2)];
        colourAt((place[2] * dims[1] + place[1]) * dims[0] + place[0], place, rgb);
        for (let c = 0; c < 3; c++) out[n + c] = Math.round(65535 * Math.min(1, Math.max(0, rgb[c])));
      }

  return out;
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

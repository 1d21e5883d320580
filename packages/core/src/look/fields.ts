// What a medium carries besides density, for passes and for blur by motion: tight values beside the density.
import { FileError } from '../files/bytes';
import type { Texture } from '../files/picture';
import type { Triple } from '../math/vector';
import { channelsAsked, colouring, type Colouring, type Volume } from './colouring';
import type { Look, MediumSettings } from './look';

/** Scalars that a medium may carry along, each a field; velocity in m/s. */
export type FieldName =
  | 'velocityX'
  | 'velocityY'
  | 'velocityZ'
  | 'temperature'
  | 'age'
  | 'colourR'
  | 'colourG'
  | 'colourB'
  | 'lookedR'
  | 'lookedG'
  | 'lookedB';

export type Fields = ReadonlyMap<FieldName, Float32Array>;

export const VELOCITY = ['velocityX', 'velocityY', 'velocityZ'] as const;
export const COLOUR = ['colourR', 'colourG', 'colourB'] as const;
export const LOOKED = ['lookedR', 'lookedG', 'lookedB'] as const;

/** Those that its passes and its blur ask for. */
function channelsOfPasses({ passes, camera }: Pick<Look, 'passes' | 'camera'>): ReadonlySet<string> {
  const asked = new Set<string>();
  if (passes.motion || camera.moving === 'blurred') asked.add('velocity');
  if (passes.colour) asked.add('colour');
  for (const name of ['temperature', 'age'] as const) if (passes[name]) asked.add(name);
  return asked;
}

/** Channels of a bake besides density that a medium of a look needs. */
export const askedOf = (medium: MediumSettings, look: Pick<Look, 'passes' | 'camera'>): ReadonlySet<string> =>
  new Set([...channelsAsked(medium), ...channelsOfPasses(look)]);

export const asksForFields = (look: Pick<Look, 'passes' | 'camera'>): boolean =>
  channelsOfPasses(look).size > 0 || look.passes.tint;

/** A box within a volume. */
export interface Cut {
  /** Its least voxel; below 0 it begins before the volume. */
  readonly from: Triple;
  readonly size: Triple;
}

/** Values of a box within a volume, 0 beyond it. */
export function cutOut(values: Float32Array, dims: Triple, { from, size }: Cut): Float32Array {
  const out = new Float32Array(size[0] * size[1] * size[2]);
  const [i0, i1] = [Math.max(0, from[0]), Math.min(dims[0], from[0] + size[0])];
  if (i1 <= i0) return out;
  for (let k = 0; k < size[2]; k++) {
    const plane = k + from[2];
    if (plane < 0 || plane >= dims[2]) continue;
    for (let j = 0; j < size[1]; j++) {
      const row = j + from[1];
      if (row < 0 || row >= dims[1]) continue;
      const at = (plane * dims[1] + row) * dims[0];
      out.set(values.subarray(at + i0, at + i1), (k * size[1] + j) * size[0] + i0 - from[0]);
    }
  }

  return out;
}

/**
 * The fields of a medium's box that a look asks for, carried on beyond the medium by some layers of voxels.
 * @throws FileError where the volume has no such channel
 */
export function fieldsOf(
  settings: MediumSettings,
  volume: Volume,
  pictures: ReadonlyMap<string, Texture>,
  look: Pick<Look, 'passes' | 'camera'>,
  cut: Cut,
  layers: number,
): Fields {
  const { passes, camera } = look;
  const found = new Map<FieldName, Float32Array>();
  const missing = (what: string, where: string): never => {
    throw new FileError(
      `Its frames hold no ${what}. Keep it in Set up and bake again, or leave ${where} out`,
    );
  };

  const take = (names: readonly FieldName[], from: readonly Float32Array[]): void =>
    names.forEach((name, n) => found.set(name, cutOut(from[n], volume.dims, cut)));
  if (passes.motion || camera.moving === 'blurred') {
    const where = passes.motion ? 'the motion pass' : 'the blur of what moves';
    take(VELOCITY, volume.velocity ?? missing('velocity', where));
  }

  if (passes.colour) take(COLOUR, volume.colour ?? missing('colour', 'its pass'));
  for (const name of ['temperature', 'age'] as const)
    if (passes[name]) take([name], [volume.channels?.[name] ?? missing(name, 'its pass')]);
  if (passes.tint && settings.colour === 'picture')
    take(LOOKED, looked(colouring({ ...settings, exposure: 0, saturation: 1 }, volume, pictures), volume));
  const density = cutOut(volume.density, volume.dims, cut);
  carryOn([...found.values()], density, cut.size, layers);
  return found;
}

function looked(colourAt: Colouring, { dims }: Volume): Float32Array[] {
  const planes = [0, 1, 2].map(() => new Float32Array(dims[0] * dims[1] * dims[2]));
  const rgb: [number, number, number] = [0, 0, 0];
  for (let k = 0, n = 0; k < dims[2]; k++)
    for (let j = 0; j < dims[1]; j++)
      for (let i = 0; i < dims[0]; i++, n++) {
        colourAt(n, [i, j, k], rgb);
        for (let c = 0; c < 3; c++) planes[c][n] = rgb[c];
      }

  return planes;
}

/** Fills layers of voxels around what holds something, each with the mean of what it touches. */
export function carryOn(
  fields: readonly Float32Array[],
  density: Float32Array,
  [nx, ny, nz]: Triple,
  layers: number,
): void {
  if (fields.length === 0) return;
  const plane = nx * ny;
  const known = Uint8Array.from(density, (d) => (d > 0 ? 1 : 0));
  let rim: number[] = [];
  const around = (n: number, each: (at: number) => void): void => {
    const i = n % nx;
    const j = Math.floor(n / nx) % ny;
    const k = Math.floor(n / plane);
    if (i > 0) each(n - 1);
    if (i < nx - 1) each(n + 1);
    if (j > 0) each(n - nx);
    if (j < ny - 1) each(n + nx);
    if (k > 0) each(n - plane);
    if (k < nz - 1) each(n + plane);
  };

  for (let n = 0; n < known.length; n++) if (known[n]) rim.push(n);
  for (let layer = 0; layer < layers; layer++) {
    const next: number[] = [];
    for (const n of rim)
      around(n, (at) => {
        if (known[at] !== 0) return;
        known[at] = 2;
        next.push(at);
      });
    for (const n of next) {
      let count = 0;
      for (const field of fields) field[n] = 0;
      around(n, (at) => {
        if (known[at] !== 1) return;
        count++;
        for (const field of fields) field[n] += field[at];
      });
      for (const field of fields) field[n] /= count;
    }

    for (const n of next) known[n] = 1;
    rim = next;
  }
}

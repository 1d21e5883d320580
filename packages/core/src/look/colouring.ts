// A volume as it comes to a look, and what colours its voxels.
import { FileError } from '../files/bytes';
import type { Texture } from '../files/picture';
import type { Triple } from '../math/vector';
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
  /** Along x, y and z in the middles of voxels, m/s. */
  readonly velocity?: readonly Float32Array[];
}

/** Puts the colour of a voxel, by its place in the volume's arrays and along its axes. */
export type Colouring = (at: number, place: Triple, rgb: [number, number, number]) => void;
type Looked = MediumSettings['channel'];

export function colouring(
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

/** Channels of a bake besides density that a medium's density and colour ask for. */
export function channelsAsked({ colour, channel, upward, deposit }: MediumSettings): ReadonlySet<string> {
  const asked = { even: [], carried: ['colour'], ramp: [channel], picture: [channel, upward] }[colour];
  const known = asked.filter((name) => ['colour', 'temperature', 'age', 'speed'].includes(name));
  return new Set(deposit ? [...known, 'deposit'] : known);
}

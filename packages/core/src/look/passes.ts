// Passes: what of a picture besides its beauty is kept, as layers with the names that files have.
import { Sense } from '@bramblemist/kernels/seam';
import type { Triple } from '../math/vector';
import type { CompiledLook } from './compile-look';
import { COLOUR, LOOKED, type FieldName } from './fields';
import { cameraRays, type Look } from './look';

/** Channels of a picture that belong together. */
export interface PictureLayer {
  /** As files call it. */
  readonly name: string;
  /** Its channels, such as R, G and B. */
  readonly channels: readonly string[];
  readonly type: 'half' | 'float';
  /** Of each pixel its channels together, top row first. */
  readonly values: Float32Array;
}

type Passes = Look['passes'];
export const RGB = ['R', 'G', 'B'] as const;

/** What is sensed along the rays by passes that are asked for, one by one. */
const SENSED = [
  'density',
  'depth',
  'position',
  'normal',
  'motion',
  'colour',
  'tint',
  'temperature',
  'age',
  'shadow',
  'matte',
] as const;

export const isSensed = (passes: Passes): boolean => SENSED.some((name) => passes[name]);

/** Fields of the medium whose means are passes. */
export function fieldsSeen({ look: { passes }, medium }: Pick<CompiledLook, 'look' | 'medium'>): FieldName[] {
  const wanted: FieldName[] = [
    ...(passes.colour ? COLOUR : []),
    ...(passes.tint ? LOOKED : []),
    ...(['temperature', 'age'] as const).filter((name) => passes[name]),
  ];
  return wanted.filter((name) => medium.fields.has(name));
}

/** Parts of a pixel that are seen less than this show nothing. */
const LEAST_SEEN = 1e-4;

/**
 * The layers that are sensed.
 * @param sensed sums of each pixel, see Sense of the kernels, and the sums of the fields that are seen
 */
export function sensedLayers(compiled: CompiledLook, sensed: Float32Array): PictureLayer[] {
  const { look, medium } = compiled;
  const { passes, camera } = look;
  const names = fieldsSeen(compiled);
  const floats = Sense.COUNT + names.length;
  const pixels = camera.width * camera.height;
  const seen = (p: number): number => sensed[p * floats + Sense.WEIGHT];
  const sum = (p: number, what: number): number => sensed[p * floats + what];
  const mean = (p: number, what: number): number => (seen(p) > LEAST_SEEN ? sum(p, what) / seen(p) : 0);
  const layer = (
    name: string,
    channels: readonly string[],
    type: 'half' | 'float',
    put: (p: number, to: Float32Array, at: number) => void,
  ): PictureLayer => {
    const values = new Float32Array(pixels * channels.length);
    for (let p = 0; p < pixels; p++) put(p, values, p * channels.length);
    return { name, channels, type, values };
  };

  const means =
    (what: readonly number[]) =>
    (p: number, to: Float32Array, at: number): void =>
      what.forEach((w, n) => (to[at + n] = mean(p, w)));
  const placeOf = (name: FieldName): number => Sense.COUNT + names.indexOf(name);
  const layers: PictureLayer[] = [];
  if (passes.density)
    layers.push(layer('density', ['Y'], 'half', (p, to, at) => (to[at] = sum(p, Sense.DENSITY))));
  if (passes.depth)
    layers.push(
      layer('depth', ['Z', 'ZMiddle', 'ZBack'], 'float', (p, to, at) => {
        to[at] = sum(p, Sense.FRONT);
        to[at + 1] = mean(p, Sense.MIDDLE);
        to[at + 2] = sum(p, Sense.BACK);
      }),
    );
  if (passes.position) {
    const { eye, corner, across, down } = cameraRays(look);
    layers.push(
      layer('position', ['X', 'Y', 'Z'], 'float', (p, to, at) => {
        const far = mean(p, Sense.MIDDLE);
        if (far === 0) return;
        const x = p % camera.width;
        const y = Math.floor(p / camera.width);
        for (let a = 0; a < 3; a++) to[at + a] = eye[a] + far * (corner[a] + x * across[a] + y * down[a]);
      }),
    );
  }

  if (passes.normal)
    layers.push(
      layer('normal', ['X', 'Y', 'Z'], 'half', (p, to, at) => {
        const n: Triple = [sum(p, Sense.NORMAL_X), sum(p, Sense.NORMAL_Y), sum(p, Sense.NORMAL_Z)];
        const size = Math.hypot(...n);
        if (seen(p) > LEAST_SEEN && size > 0) for (let a = 0; a < 3; a++) to[at + a] = n[a] / size;
      }),
    );
  if (passes.motion)
    layers.push(layer('motion', ['X', 'Y'], 'float', means([Sense.MOTION_X, Sense.MOTION_Y])));
  if (passes.colour) layers.push(layer('colour', RGB, 'half', means(COLOUR.map(placeOf))));
  if (passes.tint) {
    const { scatters0, scatters1 } = medium.taking;
    const isEven = medium.tint === null;
    const tint = [Sense.TINT_R, Sense.TINT_G, Sense.TINT_B];
    layers.push(
      layer('tint', RGB, 'half', (p, to, at) => {
        if (seen(p) <= LEAST_SEEN) return;
        for (let c = 0; c < 3; c++) to[at + c] = isEven ? scatters0[c] + scatters1[c] : mean(p, tint[c]);
      }),
    );
    if (names.includes('lookedR')) layers.push(layer('looked', RGB, 'half', means(LOOKED.map(placeOf))));
  }

  for (const name of ['temperature', 'age'] as const)
    if (passes[name]) layers.push(layer(name, ['Y'], 'float', means([placeOf(name)])));
  if (passes.shadow)
    layers.push(layer('shadow', ['Y'], 'half', (p, to, at) => (to[at] = 1 - sum(p, Sense.LIT))));
  if (passes.matte) layers.push(layer('matte', ['A'], 'half', (p, to, at) => (to[at] = sum(p, Sense.MATTE))));
  return layers;
}

/** Red, green and blue of pixels that have four values each. */
export const colourOf = (rgba: Float32Array): Float32Array =>
  Float32Array.from({ length: (rgba.length / 4) * 3 }, (_, v) => rgba[4 * Math.floor(v / 3) + (v % 3)]);

/** Two pictures of the orders of scattering. */
export const ordersOf = (single: Float32Array, multiple: Float32Array): PictureLayer[] => [
  { name: 'single', channels: RGB, type: 'half', values: single },
  { name: 'multiple', channels: RGB, type: 'half', values: multiple },
];

export const lightLayer = (name: string, values: Float32Array): PictureLayer => ({
  name: `lights.${name}`,
  channels: RGB,
  type: 'half',
  values,
});

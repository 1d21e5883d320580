// A pass as a picture: which ones a look has, what they take on disk, and how values that are no light are
// shown.
import { lightsApart } from './compile-look';
import type { Look } from './look';
import type { PictureLayer } from './passes';

type Passes = Look['passes'];
export type PassName = keyof Passes;

/** Layers of a pass and their bytes a pixel, by what the writer makes of them. */
const LAYERS: Readonly<Record<Exclude<PassName, 'lights' | 'deep'>, readonly [string, number][]>> = {
  density: [['density', 2]],
  depth: [['depth', 12]],
  orders: [
    ['single', 6],
    ['multiple', 6],
  ],
  position: [['position', 12]],
  normal: [['normal', 6]],
  motion: [['motion', 8]],
  colour: [['colour', 6]],
  tint: [['tint', 6]],
  temperature: [['temperature', 4]],
  age: [['age', 4]],
  shadow: [['shadow', 2]],
  matte: [['matte', 2]],
  noise: [
    ['samples', 4],
    ['variance', 4],
  ],
};
const BEAUTY_BYTES = 8;
/** A sample of a deep picture, and how many a pixel of a usual one has. */
const DEEP_BYTES = 16;
const DEEP_SAMPLES = 4;

/** The layers that a pass of a look has, as files call them. */
export function layersOfPass(look: Look, pass: PassName): readonly string[] {
  if (pass === 'deep') return [];
  if (pass === 'lights') return lightsApart(look, false).map(({ name }) => `lights.${name}`);
  if (pass === 'tint' && look.medium.colour === 'picture') return ['tint', 'looked'];
  return LAYERS[pass].map(([name]) => name);
}

const passesOn = (look: Look): PassName[] =>
  (Object.keys(look.passes) as PassName[]).filter((pass) => look.passes[pass]);

/** All layers of a look but the beauty. */
export const layersOf = (look: Look): readonly string[] =>
  passesOn(look).flatMap((pass) => layersOfPass(look, pass));

/** Bytes a pixel of a pass before files are packed. */
export function bytesOfPass(look: Look, pass: PassName): number {
  if (pass === 'deep') return DEEP_BYTES * DEEP_SAMPLES;
  if (pass === 'lights') return 6 * layersOfPass(look, pass).length;
  return LAYERS[pass].reduce((sum, [, bytes]) => sum + bytes, 0);
}

/** Bytes of a frame's OpenEXR files before they are packed, the beauty among them. */
export function bytesOfFrame(look: Look): number {
  const { width, height, overscan } = look.camera;
  const pixels = width * height * (1 + overscan / 50) ** 2;
  return pixels * passesOn(look).reduce((sum, pass) => sum + bytesOfPass(look, pass), BEAUTY_BYTES);
}

/** The look with only the pass that a layer is of; with none for the beauty. */
export function withPassOf(look: Look, layer: string | null): Look {
  const names = Object.keys(look.passes) as PassName[];
  const pass = names.find((name) => layer !== null && layersOfPass(look, name).includes(layer));
  const passes = Object.fromEntries(names.map((name) => [name, name === pass])) as Passes;
  return { ...look, passes };
}

/** Layers that are light, and are shown as the beauty is. */
const isLight = (name: string): boolean =>
  name.startsWith('lights.') || ['single', 'multiple', 'colour', 'tint', 'looked'].includes(name);

/**
 * A layer as a picture without clear places: light as it is; directions and motion about a middle grey; all
 * else from the least to the greatest value, places without any black.
 */
export function shownLayer({ name, channels, values }: PictureLayer): Float32Array {
  const each = channels.length;
  const rgba = new Float32Array((values.length / each) * 4);
  const about = name === 'normal' ? 1 : mostOf(values);
  const ranges = channels.map((_, c) => rangeOf(values, each, c));
  for (let p = 0; p < values.length / each; p++) {
    for (let c = 0; c < 3; c++) {
      const v = values[each * p + Math.min(c, each - 1)];
      const [least, most] = ranges[Math.min(c, each - 1)];
      if (isLight(name) || name === 'shadow' || name === 'matte') rgba[4 * p + c] = v;
      else if (name === 'normal') rgba[4 * p + c] = v === 0 ? 0 : 0.5 + v / 2;
      else if (name === 'motion') rgba[4 * p + c] = each > c ? 0.2 + (0.2 * v) / about : 0.2;
      else if (v !== 0) rgba[4 * p + c] = most > least ? 0.02 + (0.98 * (v - least)) / (most - least) : 1;
    }

    rgba[4 * p + 3] = 1;
  }

  return rgba;
}

function mostOf(values: Float32Array): number {
  let most = 1e-9;
  for (const v of values) most = Math.max(most, Math.abs(v));
  return most;
}

/** Of the values that are not 0. */
function rangeOf(values: Float32Array, each: number, c: number): [number, number] {
  let [least, most] = [Infinity, -Infinity];
  for (let n = c; n < values.length; n += each) {
    const v = values[n];
    if (v === 0) continue;
    least = Math.min(least, v);
    most = Math.max(most, v);
  }

  return [least, most];
}

// The comps of the demo's shots: the medium over its moving plate, bound to the plate's track.
import { COMBINE, frameFor, type Combine } from '../combine/combine';
import { withLayer, withMask, withOperation } from '../combine/edit';
import type { Look } from '../look/look';
import type { Recipe } from '../recipe/types';

type Layer = Parameters<typeof withLayer>[2];
type Mask = Parameters<typeof withMask>[2];
type Kind = Parameters<typeof withOperation>[3];
type Operation = NonNullable<Parameters<typeof withOperation>[4]>;

interface Sketch {
  /** Stem of its files: STEM_plate.mp4 and STEM_track.csv. */
  readonly stem: string;
  /** Top first; each with its operations. */
  readonly layers: readonly {
    readonly id: string;
    readonly given: Layer;
    readonly operations: readonly (readonly [Kind, Operation])[];
  }[];
  readonly masks?: readonly { readonly id: string; readonly given: Mask }[];
}

const BOUND = { how: 'follows', file: 'track' } as const;
const element = (given: Layer = {}): Layer => ({
  name: 'Element',
  feed: { kind: 'render' },
  bind: BOUND,
  ...given,
});

const SKETCHES: Readonly<Record<string, Sketch>> = {
  'weir-at-dawn': {
    stem: 'weir',
    layers: [
      {
        id: 'element',
        given: element({ name: 'Spill', opacity: 94 }),
        operations: [
          ['temperature', { kelvin: 6100 }],
          ['grain', { amount: 60 }],
        ],
      },
      {
        id: 'wisps',
        given: element({
          name: 'Wisps',
          meet: 'screen',
          opacity: 26,
          mask: 'leat',
          time: { start: 1, from: 25 },
          place: { x: 210, y: 96, scale: 62 },
        }),
        operations: [['blur', { size: 5 }]],
      },
      {
        id: 'haze',
        given: {
          name: 'Haze',
          feed: { kind: 'plain', colour: [0.33, 0.33, 0.35] },
          opacity: 30,
          mask: 'far',
          bind: BOUND,
        },
        operations: [],
      },
    ],
    masks: [
      {
        id: 'leat',
        given: {
          name: 'Over the leat',
          outline: [
            {
              frame: 1,
              points: [
                [-60, 40],
                [420, 60],
                [560, 190],
                [-40, 220],
              ],
            },
          ],
          outer: 110,
          bind: BOUND,
        },
      },
      {
        id: 'far',
        given: {
          name: 'Far bank',
          outline: [
            {
              frame: 1,
              points: [
                [-760, -170],
                [760, -170],
                [760, -108],
                [-760, -108],
              ],
            },
          ],
          smooth: 'straight',
          outer: 60,
          bind: BOUND,
        },
      },
    ],
  },
  'sack-drop': {
    stem: 'sack',
    layers: [
      {
        id: 'element',
        given: element({ name: 'Dust' }),
        operations: [
          ['tint', { colour: [1, 0.95, 0.86] }],
          ['grain', { amount: 80 }],
        ],
      },
      {
        id: 'hang',
        given: element({
          name: 'Hanging dust',
          meet: 'screen',
          opacity: 34,
          time: { start: 1, from: 13 },
          place: { y: -54, scale: 128 },
        }),
        operations: [['blur', { size: 16 }]],
      },
      {
        id: 'dim',
        given: {
          name: 'Dim corners',
          feed: { kind: 'plain', colour: [0.25, 0.24, 0.27] },
          meet: 'multiply',
          opacity: 60,
          mask: 'corners',
        },
        operations: [],
      },
    ],
    masks: [
      {
        id: 'corners',
        given: {
          name: 'Corners',
          outline: [
            {
              frame: 1,
              points: [
                [-430, -230],
                [430, -230],
                [430, 230],
                [-430, 230],
              ],
            },
          ],
          outer: 190,
          invert: true,
        },
      },
    ],
  },
  'ice-cellar': {
    stem: 'cellar',
    layers: [
      {
        id: 'element',
        given: element({ name: 'Vapour' }),
        operations: [
          ['exposure', { stops: -1.3 }],
          ['thin', { power: 120 }],
          ['grain', { amount: 70 }],
        ],
      },
      {
        id: 'creep',
        given: element({
          name: 'Creeping on',
          meet: 'screen',
          opacity: 30,
          time: { start: 1, from: 31 },
          place: { x: 120, y: 60, scale: 110 },
        }),
        operations: [
          ['blur', { size: 9 }],
          ['tint', { colour: [0.32, 0.37, 0.46] }],
        ],
      },
      {
        id: 'cold',
        given: {
          name: 'Cold from the hatch',
          feed: { kind: 'gradient', colour: [0.1, 0.16, 0.3], second: [0, 0, 0], turn: 30 },
          meet: 'screen',
          opacity: 26,
        },
        operations: [],
      },
    ],
  },
  quill: {
    stem: 'quill',
    layers: [
      {
        id: 'element',
        given: element({ name: 'Inks' }),
        operations: [
          ['saturation', { saturation: 115 }],
          ['grain', { amount: 30 }],
        ],
      },
      {
        id: 'soft',
        given: element({
          name: 'Behind the glass',
          opacity: 22,
          time: { start: 1, from: 9 },
          place: { x: 6, y: 3, scale: 104 },
        }),
        operations: [['blur', { size: 12 }]],
      },
      {
        id: 'lift',
        given: {
          name: 'Light from the left',
          feed: { kind: 'gradient', colour: [0.16, 0.15, 0.13], second: [0, 0, 0], turn: 0 },
          meet: 'screen',
          opacity: 40,
        },
        operations: [],
      },
    ],
  },
  'drying-kiln': {
    stem: 'kiln',
    layers: [
      {
        id: 'element',
        given: element({ name: 'Smoke' }),
        operations: [
          ['temperature', { kelvin: 7200 }],
          ['grain', { amount: 70 }],
        ],
      },
      {
        id: 'far',
        given: element({
          name: 'A kiln far off',
          opacity: 55,
          time: { start: 1, from: 37 },
          place: { x: 330, y: 96, scale: 26 },
        }),
        operations: [
          ['tint', { colour: [0.9, 0.85, 0.85] }],
          ['blur', { size: 1.5 }],
        ],
      },
      {
        id: 'dusk',
        given: {
          name: 'Dusk',
          feed: { kind: 'gradient', colour: [0.03, 0.02, 0.05], second: [0.2, 0.1, 0.04], turn: 90 },
          meet: 'screen',
          opacity: 45,
        },
        operations: [],
      },
    ],
  },
  'lantern-jetty': {
    stem: 'jetty',
    layers: [
      {
        id: 'element',
        given: element({ name: 'Mist' }),
        operations: [
          ['relight', { light: 'Lantern', stops: 0.5, colour: [1, 0.86, 0.66] }],
          ['relight', { light: 'Moon', stops: -0.4, colour: [0.86, 0.93, 1] }],
          ['grain', { amount: 70 }],
        ],
      },
      {
        id: 'drift',
        given: element({
          name: 'Nearer bank of mist',
          meet: 'screen',
          opacity: 24,
          time: { start: 1, from: 31 },
          place: { x: -120, y: 96, scale: 150 },
        }),
        operations: [['blur', { size: 11 }]],
      },
    ],
  },
};

/** The comp of an example; one without layers where it has none of its own. Files are told by their names. */
export function exampleComp(name: string, recipe: Recipe, look: Look): Combine {
  const empty = COMBINE.parse({ name: recipe.name, frame: frameFor(recipe, look) });
  const sketch = SKETCHES[name];
  if (!sketch) return empty;
  const plate: Layer = { name: 'Plate', feed: { kind: 'file', file: 'plate' } };
  const all = [...sketch.layers, { id: 'plate', given: plate, operations: [] }];
  const layered = [...all].reverse().reduce((comp, { id, given }) => withLayer(comp, id, given), empty);
  const worked = all.reduce(
    (comp, { id, operations }) =>
      operations.reduce((c, [kind, given], n) => withOperation(c, `${id}-${n + 1}`, id, kind, given), comp),
    layered,
  );
  const masked = (sketch.masks ?? []).reduce((comp, { id, given }) => withMask(comp, id, given), worked);
  return COMBINE.parse({
    ...masked,
    files: [
      { id: 'plate', name: `${sketch.stem}_plate.mp4`, kind: 'movie' },
      { id: 'track', name: `${sketch.stem}_track.csv`, kind: 'track' },
    ],
  });
}

// The channels of the medium and of the air, each described once: how a run holds it, what it is in the grids
// of a cache, and what formulas and people call it.

export interface Channel {
  /** The fields that hold it in a run, a part each. */
  readonly fields: readonly string[];
  /**
   * How they hold it: its value; what lies in a voxel, as density times voxels; an amount, which is the value
   * times density, so that it mixes by mass; the way (m) from where the air was at the start; or the speed on
   * the faces of the voxels.
   */
  readonly held: 'value' | 'layer' | 'amount' | 'way' | 'faces';
  /** By which of the half-lives it fades, and by which of the diffusivities it spreads; null: by none. */
  readonly fades: 'density' | 'temperature' | null;
  /** In the formulas' units: powers of metre, second and kelvin. */
  readonly dimension: readonly [metre: number, second: number, kelvin: number];
  /** What OpenVDB says of its grid. */
  readonly grid: Readonly<Record<string, string>>;
  /** Names of such a grid that are in use elsewhere, the surest first. */
  readonly names: readonly string[];
  readonly doc: string;
}

export const CHANNELS = {
  density: {
    fields: ['density'],
    held: 'value',
    fades: 'density',
    dimension: [0, 0, 0],
    grid: { class: 'fog volume' },
    names: ['density'],
    doc: 'How much medium there is.',
  },
  temperature: {
    fields: ['temperature'],
    held: 'value',
    fades: 'temperature',
    dimension: [0, 0, 1],
    grid: { class: 'unknown', unit: 'K' },
    names: ['temperature', 'temp', 'heat'],
    doc: 'Difference to the temperature of the air, K.',
  },
  colour: {
    fields: ['red', 'green', 'blue'],
    held: 'amount',
    fades: 'density',
    dimension: [0, 0, 0],
    grid: { class: 'unknown', vector_type: 'invariant' },
    names: ['colour', 'color', 'cd', 'albedo'],
    doc: 'Colour of the medium: red, green, blue.',
  },
  age: {
    fields: ['age'],
    held: 'amount',
    fades: 'density',
    dimension: [0, 1, 0],
    grid: { class: 'unknown', unit: 's' },
    names: ['age'],
    doc: 'Time since the medium was given off, s.',
  },
  deposit: {
    fields: ['deposit'],
    held: 'layer',
    fades: null,
    dimension: [1, 0, 0],
    grid: { class: 'unknown', unit: 'm' },
    names: ['deposit'],
    doc: 'Medium that has settled on a floor or an obstacle, density times metres of height.',
  },
  coordinates: {
    fields: ['wayX', 'wayY', 'wayZ'],
    held: 'way',
    fades: null,
    dimension: [1, 0, 0],
    grid: { class: 'unknown', vector_type: 'invariant', unit: 'm' },
    names: ['coordinates'],
    doc: 'Where the air of the voxel was at the start, m.',
  },
  velocity: {
    fields: ['velocityX', 'velocityY', 'velocityZ'],
    held: 'faces',
    fades: null,
    dimension: [1, -1, 0],
    grid: { class: 'staggered', vector_type: 'contravariant relative', unit: 'm/s' },
    names: ['velocity', 'vel', 'v'],
    doc: 'Speed of the air, m/s.',
  },
} as const satisfies Readonly<Record<string, Channel>>;

/** In the order in which a run carries them and a cache keeps them. */
export type ChannelName = keyof typeof CHANNELS;
export const CHANNEL_NAMES = Object.keys(CHANNELS) as readonly ChannelName[];

/** Any field of a run that holds a channel or a part of one. */
export type ChannelField = (typeof CHANNELS)[ChannelName]['fields'][number];
/** Those that are carried along with the air: all but its own speed. */
export type CarriedField = (typeof CHANNELS)[Exclude<ChannelName, 'velocity'>]['fields'][number];

/** Numbers a voxel. */
export const partsOf = (name: ChannelName): number => CHANNELS[name].fields.length;
/** Whether its grid holds vectors. */
export const isVector = (name: ChannelName): boolean => partsOf(name) === 3;

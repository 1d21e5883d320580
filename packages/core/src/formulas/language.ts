// The words of formulas: what they mean, in which unit, for the check, the completion and the guide.
import { CHANNELS, isVector, type ChannelName } from '../base/channels';
import { PLAIN, type Dimension } from './units';

/** When in a substep a formula is worked out. */
export type Moment = 'given' | 'pushed' | 'end';

export interface Word {
  readonly name: string;
  readonly doc: string;
}
/** Something that is read, and maybe written. */
export interface Variable extends Word {
  readonly size: 1 | 3;
  readonly unit: Dimension;
  /** At which moments it can be written. */
  readonly written: readonly Moment[];
  /** What the run must carry for it. */
  readonly keep?: keyof FormulaKeep;
}

/** Which of the channels that a run may do without it carries. */
export interface FormulaKeep {
  readonly colour: boolean;
  readonly age: boolean;
  readonly deposit: boolean;
}

const ALWAYS: readonly Moment[] = ['given', 'pushed', 'end'];
const SPEED: Dimension = [1, -1, 0];

/** A channel of the medium or the air; the more formulas say of it. */
const channel = (name: ChannelName, written: readonly Moment[], more: Partial<Variable> = {}): Variable => {
  const { dimension, doc } = CHANNELS[name];
  return { name, size: isVector(name) ? 3 : 1, unit: dimension, written, doc, ...more };
};

/** What formulas read, and at some moments write. */
export const VARIABLES: readonly Variable[] = [
  channel('density', ALWAYS),
  channel('temperature', ALWAYS),
  channel('colour', ALWAYS, { keep: 'colour' }),
  channel('age', ALWAYS, { keep: 'age' }),
  channel('deposit', [], { keep: 'deposit' }),
  channel('velocity', ['pushed'], { doc: `${CHANNELS.velocity.doc} Can be written with the forces.` }),
  {
    name: 'push',
    size: 3,
    unit: [1, -2, 0],
    written: ['pushed'],
    doc: 'Sum of the forces so far, m/s². Can be written with the forces.',
  },
];

/** Read only. */
export const GIVEN: readonly (Word & { readonly size: 1 | 3; readonly unit: Dimension })[] = [
  { name: 'position', size: 3, unit: [1, 0, 0], doc: 'Place of the voxel, m.' },
  { name: 'x', size: 1, unit: [1, 0, 0], doc: 'Place along x, m.' },
  { name: 'y', size: 1, unit: [1, 0, 0], doc: 'Height, m.' },
  { name: 'z', size: 1, unit: [1, 0, 0], doc: 'Place along z, m.' },
  { name: 'speed', size: 1, unit: SPEED, doc: 'How fast the air goes, m/s.' },
  { name: 'time', size: 1, unit: [0, 1, 0], doc: 'Simulated time since the first frame, s.' },
  { name: 'step', size: 1, unit: [0, 1, 0], doc: 'Length of the substep, s.' },
  { name: 'frame', size: 1, unit: PLAIN, doc: 'Number of the frame.' },
  { name: 'voxel', size: 1, unit: [1, 0, 0], doc: 'Edge of a voxel, m.' },
];

/** Names of numbers; those of units turn a plain number into one with a unit: 5 * K. */
export const CONSTANTS: readonly (Word & { readonly value: number; readonly unit: Dimension })[] = [
  { name: 'm', value: 1, unit: [1, 0, 0], doc: 'One metre.' },
  { name: 'cm', value: 0.01, unit: [1, 0, 0], doc: 'One centimetre.' },
  { name: 's', value: 1, unit: [0, 1, 0], doc: 'One second.' },
  { name: 'K', value: 1, unit: [0, 0, 1], doc: 'One kelvin.' },
  { name: 'pi', value: Math.PI, unit: PLAIN, doc: '3.14159…' },
];

export interface Call extends Word {
  /** As it is called, for messages and completion. */
  readonly usage: string;
  readonly least: number;
  readonly most: number;
}
export const CALLS: readonly Call[] = [
  {
    name: 'clamp',
    usage: 'clamp(a, low, high)',
    least: 3,
    most: 3,
    doc: 'a, but no less than low and no more than high.',
  },
  { name: 'mix', usage: 'mix(a, b, t)', least: 3, most: 3, doc: 'From a (t = 0) to b (t = 1).' },
  {
    name: 'smoothstep',
    usage: 'smoothstep(low, high, a)',
    least: 3,
    most: 3,
    doc: '0 below low, 1 above high, smooth between.',
  },
  { name: 'min', usage: 'min(a, b)', least: 2, most: 2, doc: 'The smaller one.' },
  { name: 'max', usage: 'max(a, b)', least: 2, most: 2, doc: 'The greater one.' },
  { name: 'abs', usage: 'abs(a)', least: 1, most: 1, doc: 'Without its sign.' },
  { name: 'sign', usage: 'sign(a)', least: 1, most: 1, doc: '−1, 0 or 1.' },
  { name: 'floor', usage: 'floor(a)', least: 1, most: 1, doc: 'The whole number below.' },
  { name: 'fract', usage: 'fract(a)', least: 1, most: 1, doc: 'What is over the whole number below.' },
  { name: 'sqrt', usage: 'sqrt(a)', least: 1, most: 1, doc: 'Square root; of what is below 0 it is 0.' },
  { name: 'pow', usage: 'pow(a, n)', least: 2, most: 2, doc: 'a to the power of n; a ** n is the same.' },
  { name: 'exp', usage: 'exp(a)', least: 1, most: 1, doc: 'e to the power of a.' },
  { name: 'log', usage: 'log(a)', least: 1, most: 1, doc: 'Natural logarithm.' },
  { name: 'sin', usage: 'sin(a)', least: 1, most: 1, doc: 'Sine; a in radians.' },
  { name: 'cos', usage: 'cos(a)', least: 1, most: 1, doc: 'Cosine; a in radians.' },
  {
    name: 'vec',
    usage: 'vec(x, y, z)',
    least: 3,
    most: 3,
    doc: 'Three numbers as one: a direction, a speed, a colour.',
  },
  { name: 'length', usage: 'length(v)', least: 1, most: 1, doc: 'Length of a vector.' },
  { name: 'normalize', usage: 'normalize(v)', least: 1, most: 1, doc: 'A vector’s direction, of length 1.' },
  { name: 'dot', usage: 'dot(v, w)', least: 2, most: 2, doc: 'Scalar product.' },
  { name: 'cross', usage: 'cross(v, w)', least: 2, most: 2, doc: 'Vector across both.' },
  {
    name: 'noise',
    usage: 'noise(place, change, seed)',
    least: 1,
    most: 3,
    doc:
      'Smooth noise, 0 to 1, a lump a metre: noise(position / 0.2) has lumps of 20 cm. change: another ' +
      'pattern for each 1 (or 1 s).',
  },
  {
    name: 'curlnoise',
    usage: 'curlnoise(place, period, seed)',
    least: 1,
    most: 3,
    doc:
      'Whirls without sources, a vector of length about 1, a whirl a metre. period: seconds in which it ' +
      'turns once; 0 stands still.',
  },
];

// Readings as curves over frames: their names, units, and those that follow from several frames.
import { square } from '../math/exact';
import type { Readings } from './readings';

export interface Read {
  readonly frame: number;
  readonly readings: Readings;
}
export interface ReadingCurve {
  readonly key: string;
  readonly label: string;
  readonly unit: string;
  readonly doc: string;
  /** A value a frame; null where it cannot be said. @param frameS simulated seconds from frame to frame */
  readonly of: (frames: readonly Read[], frameS: number) => (number | null)[];
}

const SIDES = ['left', 'right', 'floor', 'top', 'back', 'front'];
/** Frames to either side over which a front's speed is fitted: where it stands is known to a voxel only. */
const FITTED = 4;
/** Part of the mass that single precision leaves unexplained in a frame. */
const ROUNDING = 1e-5;

/**
 * How fast the medium's outermost place moves outward: the steepest straight line, by least squares over some
 * frames, through where its extent ends at each of the six sides, m/s. Negative where it draws back
 * everywhere.
 */
export function frontSpeeds(frames: readonly Read[], frameS: number): (number | null)[] {
  return frames.map(({ readings, frame }, n) => {
    if (!readings.extent) return null;
    const near = frames.slice(Math.max(0, n - FITTED), n + FITTED + 1).filter((f) => f.readings.extent);
    if (near.length < 3) return null;
    const mean = near.reduce((s, f) => s + f.frame - frame, 0) / near.length;
    const spread = near.reduce((s, f) => s + square(f.frame - frame - mean), 0);
    const slopes = [0, 1, 2, 3, 4, 5].map(
      (side) =>
        near.reduce((s, f) => s + (f.frame - frame - mean) * f.readings.extent![side], 0) / (spread * frameS),
    );
    return Math.max(...slopes.map((v, side) => (side & 1 ? v : -v)));
  });
}

/** Part of the mass that has to leave in a frame for a curve to tell of it. */
const FEW = 1e-7;

/** What has left; what is next to nothing counts as nothing. */
function leftOf(value: number | undefined, { mass }: Readings): number | null {
  if (value === undefined) return null;
  return Math.abs(value) < FEW * mass ? 0 : value;
}

type Number0 = {
  [K in keyof Readings]-?: Readings[K] extends number | undefined ? K : never;
}[keyof Readings];
const own = (key: Number0, label: string, unit: string, doc: string, per = 1): ReadingCurve => ({
  key,
  label,
  unit,
  doc,
  of: (frames) => frames.map(({ readings }) => (readings[key] === undefined ? null : readings[key] * per)),
});

/** In the order in which they are drawn. */
export const READING_CURVES: readonly ReadingCurve[] = [
  own('mass', 'mass', '', 'Density times volume, all of it.'),
  own('massGivenOff', 'given off', '', 'By sources and formulas in the frame, density times volume.'),
  own('massDeposited', 'settled', '', 'Landed on floors and obstacles in the frame, density times volume.'),
  own('massFaded', 'faded', '', 'By dissipation and formulas in the frame, density times volume.'),
  {
    key: 'massLeft',
    label: 'left',
    unit: '',
    doc: 'Through the sides in the frame, and where the window no longer reaches.',
    of: (frames) => frames.map(({ readings: r }) => leftOf(r.massLeft, r)),
  },
  ...SIDES.map((side, n): ReadingCurve => ({
    key: `left${n}`,
    label: `left, ${side}`,
    unit: '',
    doc: `Through the side at the ${side} in the frame, density times volume.`,
    of: (frames) => frames.map(({ readings: r }) => leftOf(r.massLeftSides?.[n], r)),
  })),
  {
    key: 'massMade',
    label: 'made by the method',
    unit: '',
    doc: 'What no account explains in the frame; what rounding explains counts as nothing.',
    of: (frames) =>
      frames.map(({ readings: { mass, massMade } }) => {
        if (massMade === undefined) return null;
        return Math.abs(massMade) < ROUNDING * mass ? 0 : massMade;
      }),
  },
  own('volume', 'volume', 'm³', 'Where density is above the threshold at which voxels are kept.'),
  own('riseHeight', 'rise height', 'm', 'The topmost such voxel over the floor.'),
  {
    key: 'centreHeight',
    label: 'mass centre, height',
    unit: 'm',
    doc: 'Of the middle of the medium’s mass, in the world.',
    of: (frames) => frames.map(({ readings }) => readings.centre?.[1] ?? null),
  },
  ...['x', 'y', 'z'].map((axis, n): ReadingCurve => ({
    key: `spread${n}`,
    label: `spread along ${axis}`,
    unit: 'm',
    doc: `How far the mass lies from its middle along ${axis}: its standard deviation.`,
    of: (frames) => frames.map(({ readings }) => readings.spread?.[n] ?? null),
  })),
  {
    key: 'frontSpeed',
    label: 'front speed',
    unit: 'm/s',
    doc: 'How fast the medium’s outermost place moves outward, fitted over nine frames.',
    of: frontSpeeds,
  },
  own('topSpeed', 'top speed', 'm/s', 'Of the air, anywhere.'),
  own(
    'kineticEnergy',
    'kinetic energy',
    'm⁵/s²',
    'Half of speed squared times volume; times the air’s density it is in joule.',
  ),
  own('particles', 'particles', '', 'Those that fly.'),
  ...SIDES.map((side, n): ReadingCurve => ({
    key: `contact${n}`,
    label: `contact, ${side}`,
    unit: '%',
    doc: `Part of the medium in the outermost voxels at the ${side}.`,
    of: (frames) =>
      frames.map(({ readings }) => (readings.contactSides ? 100 * readings.contactSides[n] : null)),
  })),
  own(
    'divergence',
    'divergence left',
    '1/s',
    'The greatest net outflow of a voxel, part of its volume a second.',
  ),
  own('residual', 'solver residual', 'm/s', 'What the pressure left, as a difference of speed over a voxel.'),
  own('iterations', 'solver iterations', '', 'The most in a substep.'),
  own('cfl', 'CFL', 'voxels', 'How far the fastest air goes in a substep.'),
  own('substeps', 'substeps', '', 'Of the frame.'),
  own('ms', 'time', 'ms', 'To compute the frame.'),
  own('memory', 'memory', 'MB', 'Of the fields.', 1e-6),
];

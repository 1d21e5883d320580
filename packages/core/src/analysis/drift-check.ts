// The drift check: the same shot at two sizes, held against each other curve by curve, and what of the
// smaller one may be trusted.
import { lengthOf } from '../math/exact';
import type { Read } from '../record/reading-curves';
import type { Readings } from '../record/readings';

/** What a quantity is at a frame; null where it cannot be said. */
interface Quantity {
  readonly key: string;
  /** In the middle of a sentence. */
  readonly label: string;
  readonly unit: string;
  readonly of: (r: Readings) => number | null;
  /** What a difference is a part of; without, of the finer one's own value. */
  readonly scale?: (r: Readings) => number;
}

const QUANTITIES: readonly Quantity[] = [
  { key: 'mass', label: 'mass', unit: '', of: (r) => r.mass },
  {
    key: 'centre',
    label: 'height of the mass centre',
    unit: 'm',
    of: (r) => r.centre?.[1] ?? null,
    scale: (r) => r.riseHeight,
  },
  { key: 'height', label: 'spread upward', unit: 'm', of: (r) => r.spread?.[1] ?? null },
  {
    key: 'width',
    label: 'spread sideways',
    unit: 'm',
    of: (r) => (r.spread ? lengthOf(r.spread[0], r.spread[2]) : null),
  },
  { key: 'rise', label: 'rise height', unit: 'm', of: (r) => r.riseHeight },
  { key: 'topSpeed', label: 'top speed', unit: 'm/s', of: (r) => r.topSpeed },
  { key: 'energy', label: 'kinetic energy', unit: 'm⁵/s²', of: (r) => r.kineticEnergy },
  { key: 'greatest', label: 'greatest density', unit: '', of: (r) => r.greatestDensity },
];

/** Mean deviations up to which a quantity holds, and up to which it does roughly. */
export const HOLDS = 0.04;
export const HOLDS_ROUGHLY = 0.1;

export type Trust = 'holds' | 'roughly' | 'apart';

export interface Drift {
  readonly key: string;
  readonly label: string;
  readonly unit: string;
  /** Mean deviation over the second half of the frames that both have, as a part. */
  readonly mean: number;
  /** The greatest there, and where. */
  readonly most: number;
  readonly frame: number;
  /** Whether the coarser one is above the finer one on the whole: how much, as a part. */
  readonly bias: number;
  readonly trust: Trust;
  /** Of both, frame by frame. */
  readonly coarse: readonly (number | null)[];
  readonly fine: readonly (number | null)[];
}

export interface DriftCheck {
  readonly frames: readonly number[];
  readonly drifts: readonly Drift[];
  /**
   * Frames by which the coarser medium reaches nine tenths of its height later (below 0: sooner); null where
   * it does not rise.
   */
  readonly late: number | null;
  /** What to trust, as a sentence. */
  readonly verdict: string;
}

/** Part of a quantity's greatest value below which a deviation says nothing. */
const FAINT = 0.02;

/**
 * Of the frames that both runs have.
 * @param coarseName what the coarser size is called, in the middle of a sentence
 */
export function driftCheck(coarse: readonly Read[], fine: readonly Read[], coarseName: string): DriftCheck {
  const finer = new Map(fine.map((f) => [f.frame, f.readings]));
  const pairs = coarse.flatMap(({ frame, readings }) => {
    const other = finer.get(frame);
    return other ? [{ frame, a: readings, b: other }] : [];
  });
  const half = Math.floor(pairs.length / 2);
  const drifts = QUANTITIES.flatMap((q): Drift[] => {
    const own = pairs.map(({ a }) => q.of(a));
    const other = pairs.map(({ b }) => q.of(b));
    const greatest = Math.max(0, ...other.map((v) => Math.abs(v ?? 0)));
    const apart = pairs.flatMap(({ frame, b }, n) => {
      const [x, y] = [own[n], other[n]];
      if (n < half || x === null || y === null) return [];
      const scale = q.scale ? q.scale(b) : Math.abs(y);
      return scale > FAINT * greatest ? [{ frame, by: (x - y) / scale }] : [];
    });
    if (apart.length === 0) return [];
    const mean = apart.reduce((s, d) => s + Math.abs(d.by), 0) / apart.length;
    const worst = apart.reduce((w, d) => (Math.abs(d.by) > Math.abs(w.by) ? d : w));
    return [
      {
        key: q.key,
        label: q.label,
        unit: q.unit,
        mean,
        most: Math.abs(worst.by),
        frame: worst.frame,
        bias: apart.reduce((s, d) => s + d.by, 0) / apart.length,
        trust: trustOf(mean),
        coarse: own,
        fine: other,
      },
    ];
  });
  const late = lateness(pairs);
  return { frames: pairs.map((p) => p.frame), drifts, late, verdict: verdictOf(drifts, late, coarseName) };
}

function trustOf(mean: number): Trust {
  if (mean <= HOLDS) return 'holds';
  return mean <= HOLDS_ROUGHLY ? 'roughly' : 'apart';
}

/** Parts of its greatest height at which a medium counts as risen, and as still low. */
const RISEN = 0.9;
const LOW = 0.5;

function lateness(pairs: readonly { frame: number; a: Readings; b: Readings }[]): number | null {
  const risen = (of: (p: (typeof pairs)[number]) => Readings): number | undefined => {
    const most = Math.max(0, ...pairs.map((p) => of(p).riseHeight));
    // what begins high has nothing to rise to
    if (most === 0 || of(pairs[0]).riseHeight > LOW * most) return undefined;
    return pairs.find((p) => of(p).riseHeight >= RISEN * most)!.frame;
  };

  const [own, other] = [risen((p) => p.a), risen((p) => p.b)];
  return own === undefined || other === undefined ? null : own - other;
}

const percent = (v: number): string => `${(100 * Math.abs(v)).toFixed(Math.abs(v) < 0.1 ? 1 : 0)}\u00a0%`;

/** Too high or too low, where it is so most of the time. */
function apartBy({ bias, mean }: Drift): string {
  if (Math.abs(bias) < mean / 2) return `${percent(mean)} off`;
  return `${percent(bias)} too ${bias > 0 ? 'high' : 'low'}`;
}

function listed(names: readonly string[]): string {
  if (names.length < 2) return names.join('');
  return `${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`;
}

/** Frames that nobody sees in a shot that moves. */
const ON_TIME = 2;

function verdictOf(drifts: readonly Drift[], late: number | null, coarseName: string): string {
  if (drifts.length === 0)
    return 'There is nothing to compare yet: neither run has medium in the same frames.';
  const holds = drifts.filter((d) => d.trust === 'holds').map((d) => d.label);
  const onTime = late !== null && Math.abs(late) <= ON_TIME;
  const trusted = [...holds, ...(onTime ? ['timing'] : [])];
  const rough = drifts.filter((d) => d.trust === 'roughly').map((d) => `${d.label} (${percent(d.mean)})`);
  const apart = drifts.filter((d) => d.trust === 'apart').map((d) => `${d.label} (${apartBy(d)})`);
  return [
    trusted.length > 0
      ? `At ${coarseName} size, trust ${listed(trusted)}.`
      : `At ${coarseName} size, trust nothing but the idea.`,
    ...(rough.length > 0 ? [`Roughly right: ${listed(rough)}.`] : []),
    ...(apart.length > 0 ? [`Judge at the finer size: ${listed(apart)}.`] : []),
    ...(late !== null && !onTime
      ? [`It rises ${Math.abs(late)} frames ${late > 0 ? 'later' : 'sooner'} than at the finer size.`]
      : []),
  ].join(' ');
}

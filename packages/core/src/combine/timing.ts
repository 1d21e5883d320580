// Which of a feed's frames stands at a frame of the comp.
import { valueOf } from '../recipe/keys';
import type { Combine, CompLayer } from './combine';

/** What a feed has, counted as its files are. */
export interface FeedRange {
  readonly first: number;
  readonly last: number;
  /** Frames a second. */
  readonly rate: number;
}

/** The frame that is seen, or the two that it lies between. */
export interface FeedMoment {
  readonly frame: number;
  /** The frame after it, and how far it is on the way there; the same frame and 0 where it meets one. */
  readonly next: number;
  readonly part: number;
}

/** Nearer than this to a whole frame counts as it: rates such as 30000/1001 are no finite numbers. */
const WHOLE = 1e-6;

/**
 * @param layer as it stands in the comp (its keys are looked up in the comp)
 * @returns null where nothing of it is seen
 */
export function feedMoment(
  comp: Combine,
  layer: CompLayer,
  range: FeedRange,
  frame: number,
): FeedMoment | null {
  const { time } = layer;
  const from = Math.max(range.first, Math.min(range.last, time.from));
  const to = time.to > 0 ? Math.max(from, Math.min(range.last, time.to)) : range.last;
  if (frame < time.start && time.before === 'gone') return null;
  const run = runSince(comp, layer, frame) * (range.rate / comp.frame.rate);
  // what runs back begins at its end
  const begin = speedAt(comp, layer, time.start) < 0 ? to : from;
  let at = frame < time.start ? begin : begin + run;
  const isOut = at > to + (to > from ? 1 : 0) - WHOLE || at < from - WHOLE;
  if (isOut || at > to) {
    if (time.after === 'gone' && isOut) return null;
    at = wrapped(at, from, to, time.after);
  }

  const low = Math.floor(at + WHOLE);
  const part = at - low;
  if (Math.abs(part) <= WHOLE) return { frame: low, next: low, part: 0 };
  const after = time.after === 'loop' && low + 1 > to ? from : Math.min(to, low + 1);
  if (time.between === 'nearest') {
    const nearest = part < 0.5 + WHOLE ? low : after;
    return { frame: nearest, next: nearest, part: 0 };
  }

  return { frame: low, next: after, part: low === after ? 0 : part };
}

function wrapped(at: number, from: number, to: number, after: CompLayer['time']['after']): number {
  if (after === 'hold' || after === 'gone' || to === from) return Math.min(to, Math.max(from, at));
  const mod = (v: number, n: number): number => ((v % n) + n) % n;
  if (after === 'loop') return from + mod(at - from, to - from + 1);
  const round = mod(at - from, 2 * (to - from));
  return from + Math.min(round, 2 * (to - from) - round);
}

const curveOf = (comp: Combine, { id }: CompLayer) =>
  comp.curves.find(({ path }) => path === `layers/${id}/time.speed`);

function speedAt(comp: Combine, layer: CompLayer, frame: number): number {
  const curve = curveOf(comp, layer);
  return (curve ? valueOf(curve, frame) : layer.time.speed) / 100;
}

/** Frames of the comp since its start, each counted by the speed that it has. */
function runSince(comp: Combine, layer: CompLayer, frame: number): number {
  const { start } = layer.time;
  if (!curveOf(comp, layer)) return (frame - start) * speedAt(comp, layer, start);
  let sum = 0;
  for (let f = start; f < frame; f++) sum += speedAt(comp, layer, f);
  return sum;
}

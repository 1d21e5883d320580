// The ledger of a frame: what became of the medium, in density times cells. Each account is measured where
// it arises, so that what is left over is what the method itself made or lost.
import { extent, SLAB } from '../grid/sweep';
import { reduce, type SimulationState } from './state';

export interface Ledger {
  /** What there is at the last look. */
  mass: number;
  /** By sources, and by formulas where there is more after them. */
  given: number;
  /** By dissipation, and by formulas where there is less after them. */
  faded: number;
  /** Through the sides −x +x −y +y −z +z. */
  readonly left: number[];
  /** Too thin or too far for the window as it was fitted anew. */
  trimmed: number;
  /** What there was when the frame began. */
  began: number;
}

export const emptyLedger = (): Ledger => ({
  mass: 0,
  given: 0,
  faded: 0,
  left: [0, 0, 0, 0, 0, 0],
  trimmed: 0,
  began: 0,
});

/** Σ density times the air of each cell of the window; rooms: where that air stands, 0: 1 everywhere. */
export function massOf(state: SimulationState, rooms = state.layout.rooms?.[0].address ?? 0): number {
  const { threadPool, layout, window } = state;
  const l = window.lattice;
  threadPool.run('sumCells', l.nz, SLAB, {
    f: layout.channels[0].address,
    rooms,
    ...extent(l),
    partials: layout.partials,
  });
  return reduce(state, l.nz, 0, 'sum');
}

/** A frame begins. */
export function openLedger(state: SimulationState): void {
  const mass = massOf(state);
  state.ledger = { ...emptyLedger(), mass, began: mass };
}

/** What sources or formulas have changed since the last look. */
export function bookGiven(state: SimulationState): void {
  const change = lookAgain(state);
  if (change > 0) state.ledger.given += change;
  else state.ledger.faded -= change;
}

/** What has gone through the sides, to be called before the fading of the same way is booked. */
export function bookLeft({ ledger }: SimulationState, left: number[]): void {
  left.forEach((v, side) => {
    ledger.left[side] += v;
    left[side] = 0;
  });
}

/**
 * What has faded on the way since the last look, by a gain.
 * @param rooms as for massOf, in the middle of a substep
 */
export function bookFaded(state: SimulationState, gain: number, rooms: number): void {
  lookAgain(state, rooms);
  state.ledger.faded += state.ledger.mass * (1 / gain - 1);
}

/** All that is missing since the last look has faded. */
export function bookFadedInPlaces(state: SimulationState): void {
  state.ledger.faded -= lookAgain(state);
}

/** What a window that was fitted anew has left out. */
export function bookTrimmed(state: SimulationState): void {
  state.ledger.trimmed -= lookAgain(state);
}

/** What was made or lost since the frame began that no account explains. */
export function made({ mass, began, given, faded, left, trimmed }: Ledger): number {
  return mass - began - given + faded + trimmed + left.reduce((a, v) => a + v, 0);
}

function lookAgain(state: SimulationState, rooms?: number): number {
  const before = state.ledger.mass;
  state.ledger.mass = massOf(state, rooms);
  return state.ledger.mass - before;
}

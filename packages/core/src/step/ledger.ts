// The ledger of a frame is kept here: each account is measured where it arises, so that what is left over is
// what the method itself made or lost.
import { extent, SLAB } from '../grid/sweep';
import { emptyLedger } from '../record/ledger';
import { reduce, type MediumState, type SimulationState } from './state';

/**
 * Σ density, or another channel by its number, times the air of each cell of the window, in cells of the air;
 * rooms: where that air stands, 0: 1 everywhere.
 */
export function massOf(
  state: MediumState,
  rooms = state.layout.rooms?.[0].address ?? 0,
  channel = 0,
): number {
  const { threadPool, layout, window, plan } = state;
  const l = window.lattice;
  threadPool.run('sumCells', l.nz, SLAB, {
    f: layout.channels[channel].address,
    rooms,
    ...extent(l),
    partials: layout.partials,
  });
  return reduce(state, l.nz, 0, 'sum') / plan.perCell;
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
export function bookLeft({ ledger }: MediumState, left: number[]): void {
  left.forEach((v, side) => {
    ledger.left[side] += v;
    left[side] = 0;
  });
}

/**
 * What has faded on the way since the last look, by a gain.
 * @param rooms as for massOf, in the middle of a substep
 */
export function bookFaded(state: MediumState, gain: number, rooms: number): void {
  lookAgain(state, rooms);
  state.ledger.faded += state.ledger.mass * (1 / gain - 1);
}

/** All that is missing since the last look has faded. */
export function bookFadedInPlaces(state: SimulationState): void {
  state.ledger.faded -= lookAgain(state);
}

/** What has landed since the last look, or come loose. */
export function bookDeposited(state: SimulationState): void {
  state.ledger.deposited -= lookAgain(state);
}

/** What has fallen through the sides since the last look. */
export function bookFallen(state: SimulationState, left: number[]): void {
  lookAgain(state);
  bookLeft(state, left);
}

/** What a window that was fitted anew has left out. */
export function bookTrimmed(state: SimulationState): void {
  state.ledger.trimmed -= lookAgain(state);
}

function lookAgain(state: MediumState, rooms?: number): number {
  const before = state.ledger.mass;
  state.ledger.mass = massOf(state, rooms);
  return state.ledger.mass - before;
}

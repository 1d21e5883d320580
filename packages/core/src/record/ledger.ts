// The accounts of a frame: what became of the medium, in density times cells.

export interface Ledger {
  /** What there is at the last look. */
  mass: number;
  /** By sources, and by formulas where there is more after them. */
  given: number;
  /** By dissipation, and by formulas where there is less after them. */
  faded: number;
  /** Landed, less what came loose again. */
  deposited: number;
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
  deposited: 0,
  left: [0, 0, 0, 0, 0, 0],
  trimmed: 0,
  began: 0,
});

/** What was made or lost since the frame began that no account explains. */
export function made({ mass, began, given, faded, deposited, left, trimmed }: Ledger): number {
  return mass - began - given + faded + deposited + trimmed + left.reduce((a, v) => a + v, 0);
}

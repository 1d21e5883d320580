// How the window looks at the scene: the camera, what the medium's colour tells, how carefully it is drawn.
import type { Shown } from '@bramblemist/core/analysis/flow';
import type { Triple } from '@bramblemist/core/math/vector';
import { shotStore } from './shot-store';

export interface Eye {
  readonly eye: Triple;
  readonly target: Triple;
}
export interface ViewState {
  /** Where every window looks from. */
  readonly at: Eye | null;
  /** What the medium's colour tells: light, or a channel. */
  readonly colouring: 'light' | Shown;
  /** The range of the colours; null: that of the frame. */
  readonly locked: readonly [number, number] | null;
  /** Quick: longer steps and no shadow on what stands in the domain. */
  readonly care: 'full' | 'quick';
}
export const useView = shotStore<ViewState>(
  () => ({ at: null, colouring: 'light', locked: null, care: 'full' }),
  { returns: true },
);

/** Nearer than this part of the distance to what is looked at, two places are the same. */
const SAME = 2e-3;
export function sameEye(a: Eye | null, b: Eye | null): boolean {
  if (!a || !b) return false;
  const far = Math.hypot(...a.eye.map((v, n) => v - a.target[n]));
  const apart = (p: Triple, q: Triple): number => Math.hypot(...p.map((v, n) => v - q[n]));
  return apart(a.eye, b.eye) < SAME * far && apart(a.target, b.target) < SAME * far;
}

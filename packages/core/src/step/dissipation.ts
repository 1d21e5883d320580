// Dissipation: density thins, warmth goes over to the air. By a half-life, exact for any substep, with a lean
// to thick or thin parts.
import { exponential } from '../math/exact';
import { SLAB, extent } from '../grid/sweep';
import type { Field } from '../grid/memory';
import type { MediumState } from './state';

/** 2^(−dt / half-life), exact for any split into substeps; 1 where the half-life is 0 (never). */
export function dissipationGain(dtS: number, halfLifeS: number): number {
  return halfLifeS > 0 ? exponential((-Math.LN2 * dtS) / halfLifeS) : 1;
}

/**
 * f ← f · 2^(−w · dt / half-life · lean), lean = 1 + bias (density − even) / (density + even): several of
 * them, one after the other, blend their rates by their weights w.
 */
export function dissipate(
  { state: { threadPool, window }, dtS }: { readonly state: MediumState; readonly dtS: number },
  f: Field,
  density: Field,
  halfLifeS: number,
  bias: number,
  even: number,
  weight: number,
): void {
  if (halfLifeS <= 0) return;
  const l = window.lattice;
  threadPool.run('dissipate', l.nz, SLAB, {
    f: f.address,
    density: density.address,
    weight,
    ...extent(l),
    rate: (-Math.LN2 * dtS) / halfLifeS,
    bias,
    even,
  });
}

// Which force rules: what each of them adds to the acceleration where the medium is, once a frame.
import { SLAB, named, extent } from '../grid/sweep';
import { reduce, type SimulationState } from '../step/state';
import type { ForceShares } from '../record/readings';

/**
 * Looks at the next forces that act: a witness of step/forces.ts, and what it has seen. Sums lie in
 * velocityNext, free at that stage.
 */
export function measureForces(state: SimulationState): {
  witness: (name: string) => void;
  seen: () => ForceShares;
} {
  const shares: Record<string, number> = {};
  let first = true;
  const witness = (name: string): void => {
    const { layout, threadPool, window } = state;
    const l = window.lattice;
    const fields = [...layout.acceleration, ...layout.velocityNext].map((f) => f.address);
    threadPool.run('forceShare', l.nz, SLAB, {
      ...named(['fx', 'fy', 'fz', 'px', 'py', 'pz'], fields),
      density: layout.channels[0].address,
      first: Number(first),
      ...extent(l),
      partials: layout.partials,
    });
    first = false;
    const mass = reduce(state, l.nz, 1, 'sum');
    shares[name] = mass > 0 ? Math.sqrt(reduce(state, l.nz, 0, 'sum') / mass) : 0;
  };

  return { witness, seen: () => shares };
}

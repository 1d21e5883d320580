// Dots: where a frame's particles are, for a screen, in whole numbers over the box around them.
import { poolViews } from '../plan/particle-pool';
import type { Triple } from '../math/vector';
import { stateOf, type Simulation } from '../run/simulation';

export interface ParticlePreview {
  /** Least corner and edges of the box around all of them, m. */
  readonly corner: Triple;
  readonly size: Triple;
  /** Mean radius, m. */
  readonly radius: number;
  /** x, y, z of each, 0…65535 over the box. */
  readonly places: Uint16Array;
}

const MOST = 200_000;

/** Those of all parts; of very many every so many-th; null without any. */
export function takeParticlePreview(simulation: Simulation): ParticlePreview | null {
  const state = stateOf(simulation);
  const count = state.pools.reduce((n, p) => n + p.count, 0);
  const every = Math.ceil(count / MOST);
  if (count === 0) return null;
  const wanted = state.pools.flatMap((pool, p) => {
    const v = poolViews(state.threadPool.memory, state.layout.pools[p]);
    return [{ v, count: Math.ceil(pool.count / every) }];
  });
  const least: Triple = [Infinity, Infinity, Infinity];
  const most: Triple = [-Infinity, -Infinity, -Infinity];
  let radius = 0;
  let all = 0;
  for (const { v, count: n } of wanted) {
    const axes = [v.x, v.y, v.z];
    for (let m = 0; m < n; m++) {
      for (let a = 0; a < 3; a++) {
        least[a] = Math.min(least[a], axes[a][m * every]);
        most[a] = Math.max(most[a], axes[a][m * every]);
      }

      radius += v.radius[m * every];
    }

    all += n;
  }

  const size = most.map((v, a) => Math.max(1e-6, v - least[a])) as Triple;
  const places = new Uint16Array(3 * all);
  let at = 0;
  for (const { v, count: n } of wanted) {
    const axes = [v.x, v.y, v.z];
    for (let m = 0; m < n; m++)
      for (let a = 0; a < 3; a++)
        places[at++] = Math.round(((axes[a][m * every] - least[a]) / size[a]) * 65535);
  }

  return { corner: least, size, radius: radius / all, places };
}

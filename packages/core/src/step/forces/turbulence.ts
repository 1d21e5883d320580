// Turbulence as an acceleration from curl noise (Bridson et al. 2007), in world units. It is made on a
// lattice of two voxels and brought to the cells by trilinear interpolation; octaves that such a lattice
// cannot hold are left out, so a finer grid adds layers and does not change the ones that are there.
import { fillHalo, SLAB, named, extent } from '../../grid/sweep';
import type { SimulationState } from '../state';
import type { Force } from './force';
import type { Whirls } from '../../recipe/parts/turbulence';

/** Root mean square length of the curl of our noise, measured over 10⁶ points. */
export const CURL_NOISE_RMS = 1.21;
const COARSE_CELLS_PER_FEATURE = 2;

export const turbulence: Force = {
  keys: ['turbulence'],
  isOn: (recipe) => recipe.turbulence.strength !== 0,
  add: ({ state }, recipe, weight) => addTurbulence(state, recipe.turbulence, weight),
};

export function addTurbulence(state: SimulationState, t: Omit<Whirls, 'where'>, weight: number): void {
  const { plan, threadPool, layout } = state;
  const h = plan.window.voxelSizeM;
  const coarse = layout.coarseForce[0].lattice;
  const fine = state.window.lattice;
  const target = layout.coarseForce.map((f) => f.address);
  for (const f of target)
    threadPool.run('fill', coarse.nz, SLAB, {
      f,
      ny: coarse.ny,
      rowStride: coarse.rowStride,
      planeStride: coarse.planeStride,
      nx: coarse.nx,
      value: 0,
    });

  for (let octave = 0; octave < t.octaves; octave++) {
    const size = t.size / 2 ** octave;
    if (octave > 0 && size < COARSE_CELLS_PER_FEATURE * 2 * h) break;
    const seed = t.seed * 16 + octave;
    // smaller whirls turn faster, like the eddies of a cascade: period ∝ size^(2/3), 4^(1/3) an octave
    const turns = (state.timeS / t.period) * OCTAVE_RATE[octave];
    threadPool.solo('gradientTable', { table: layout.gradientTable, seed, turns });
    const at = state.window.origin.map((o) => ((o + 1) * h) / size + 31.7 * octave);
    const amplitude = (t.strength * power(t.roughness, octave) * gainAgainstLoss(size / h)) / CURL_NOISE_RMS;
    threadPool.run('curlNoise', coarse.nz, 2, {
      ...named(['fx', 'fy', 'fz'], target),
      table: layout.gradientTable,
      seed,
      ...extent(coarse),
      x0: at[0],
      y0: at[1],
      z0: at[2],
      dx: (2 * h) / size,
      amplitude,
    });
  }

  layout.coarseForce.forEach((f, axis) => {
    fillHalo(threadPool, f, 3, 0);
    threadPool.run('addUpsampled', fine.nz, SLAB, {
      coarse: f.address,
      fine: layout.acceleration[axis].address,
      weight,
      line: layout.line,
      ...extent(fine),
      cx: coarse.nx,
      coarseRowStride: coarse.rowStride,
      coarsePlaneStride: coarse.planeStride,
    });
  });
}

/**
 * What an octave is multiplied by, so that it is as strong at the cells as it should be: interpolation
 * between cells of two voxels weakens whirls that are few voxels wide. A fit to the root mean square over
 * that of the noise itself, which is 0.636 where they are 4 voxels wide, 0.772 for 6, 0.854 for 8, 0.959 for
 * 16.
 */
export function gainAgainstLoss(voxels: number): number {
  const wide = Math.max(COARSE_CELLS_PER_FEATURE * 2, voxels);
  return 1 + 11 / (wide * wide + 3);
}

const OCTAVE_RATE = [1, 1.587, 2.52, 4, 6.35, 10.08];

/** x^n by multiplication: Math.pow may differ in its last bit between engines. */
function power(x: number, n: number): number {
  let out = 1;
  for (let i = 0; i < n; i++) out *= x;
  return out;
}

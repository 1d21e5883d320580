// Break-up of edges: fine whirls that act where the medium ends, so that a smooth puff frays into wisps.
import { fillHalo, SLAB, extent } from '../../grid/sweep';
import type { Force } from './force';
import { addTurbulence } from './turbulence';

/** Widest wisps of a grid: the lattice of whirls has two voxels a cell, and a whirl takes two of these. */
const FEWEST_VOXELS = 4;

export const edges: Force = {
  keys: ['edges'],
  isOn: (recipe) => recipe.edges.strength !== 0,
  add: ({ state }, { edges: e }, weight) => {
    const { threadPool, layout, window } = state;
    const l = window.lattice;
    const [density] = layout.channels;
    const [edge] = layout.scratch;
    const size = Math.max(e.size, FEWEST_VOXELS * window.voxelSizeM);
    fillHalo(threadPool, density, 3, 0);
    threadPool.run('edgeWeight', l.nz, SLAB, {
      density: density.address,
      out: edge.address,
      weight,
      ...extent(l),
      pairs: size / (2 * window.voxelSizeM),
    });
    addTurbulence(state, { ...e, size, octaves: 2, roughness: 0.6 }, edge.address);
  },
};

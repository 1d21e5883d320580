// Break-up of edges: fine whirls that act where the medium ends, so that a smooth puff frays into wisps.
import { fillHalo, SLAB } from '../grid/sweep';
import { FAR } from '../recipe/parts/shapes';
import { where } from '../recipe/parts/where';
import { integer, number, type Part } from '../recipe/settings';
import type { Force } from './force';
import { addTurbulence } from './turbulence';

export const EDGES: Part = {
  key: 'edges',
  title: 'Edges',
  many: false,
  keyable: true,
  placed: true,
  live: true,
  sentence: 'Edges are broken up by {strength} in wisps of {size}, another every {period}; {where}.',
  settings: [
    number(
      'strength',
      'break-up',
      'm/s²',
      [0, 1000],
      0,
      'Typical acceleration where the medium ends; 0 is none.',
    ),
    number(
      'size',
      'size',
      'm',
      [0.002, FAR],
      0.12,
      'Width of the wisps, in the world; at least four voxels.',
    ),
    number('period', 'period', 's', [0.02, 1000], 0.5, 'Time in which the pattern has turned once.'),
    integer('seed', 'seed', '', [0, 999999], 1, 'Another number, another pattern.'),
    where(),
  ],
};

/** Widest wisps of a grid: the lattice of whirls has two voxels a cell, and a whirl takes two of these. */
const FEWEST_VOXELS = 4;

export const edges: Force = {
  keys: ['edges'],
  isOn: (recipe) => recipe.edges.strength !== 0,
  add: ({ state }, { edges: e }, weight) => {
    const { team, layout, window } = state;
    const l = window.lattice;
    const [density] = layout.channels;
    const [edge] = layout.scratch;
    const size = Math.max(e.size, FEWEST_VOXELS * window.voxelSizeM);
    fillHalo(team, density, 3, 0);
    team.run(
      'edgeWeight',
      l.nz,
      SLAB,
      density.address,
      edge.address,
      weight,
      l.nx,
      l.ny,
      l.rowStride,
      l.planeStride,
      size / (2 * window.voxelSizeM),
    );
    addTurbulence(state, { ...e, size, octaves: 2, roughness: 0.6 }, edge.address);
  },
};

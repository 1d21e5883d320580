// Whole recipes that ship: the starting points of the command line and of the demo production.
import { parseRecipe, type Recipe } from './recipe';

const RAW: Record<string, object> = {
  'weir-at-dawn': {
    name: 'Weir at dawn',
    space: {
      size: [4.8, 2.0, 2.4],
      corner: [-2.4, 0, -1.2],
      voxelSize: 0.05,
      sides: { floor: 'wall', top: 'open', left: 'wall', right: 'open', back: 'wall', front: 'wall' },
      lastFrame: 120,
    },
    sources: [
      {
        id: 'lip',
        name: 'Weir lip',
        shape: 'box',
        centre: [-1.45, 1.12, 0],
        size: [1.1, 0.16, 1.9],
        density: { amount: 1.1 },
        temperature: { amount: -11 },
        until: 100000,
      },
    ],
    obstacles: [{ id: 'sill', name: 'Sill and leat', shape: 'box', centre: [-1.6, 0.5, 0], size: [1.6, 1.0, 2.6] }],
    buoyancy: { lift: 0.033, weight: 0.35 },
    wind: { speed: 0.3, heading: 0, grip: 2.5, gust: 0.4, gustLength: 1.4, seed: 7 },
    turbulence: { strength: 0.28, size: 0.55, octaves: 3, roughness: 0.6, period: 2.5, seed: 4 },
    vorticity: { strength: 0.08 },
    fading: { density: 6, temperature: 5 },
  },
  'sack-drop': {
    name: 'Sack drop',
    space: { size: [3.2, 1.6, 2.4], corner: [-1.6, 0, -1.2], voxelSize: 0.04, lastFrame: 96 },
    sources: [
      {
        ...{
          id: 'burst',
          name: 'Burst from under the sack',
          shape: 'box',
          centre: [0, 0.05, 0],
          size: [0.62, 0.08, 0.42],
          density: { amount: 60 },
        },
        ...{ temperature: { how: 'none' }, from: 13, until: 15 },
        push: { how: 'raise', mode: 'point', point: [0, -0.04, 0], speed: 4.2, spread: 30, vary: 60, lump: 0.09 },
      },
      {
        ...{ id: 'seam', name: 'Flour from the seam', shape: 'path', centre: [0, 0.42, 0], radius: 0.035, density: { amount: 9 } },
        ...{
          points: [
            [-0.28, 0, 0.1],
            [0, 0.03, 0.16],
            [0.28, 0, 0.1],
          ],
          temperature: { how: 'none' },
          from: 13,
          until: 40,
        },
        push: { how: 'blend', mode: 'along', direction: [0, 0.6, 1], speed: 0.8, spread: 35, lump: 0.06 },
      },
      {
        ...{ id: 'tails', name: 'Tails behind the crumbs', shape: 'particles', particles: 'crumbs', swell: 4.5, endAmount: 0 },
        ...{
          density: { amount: 7 },
          temperature: { how: 'none' },
          push: { how: 'blend', mode: 'motion', speed: 0.4 },
          within: 0.1,
          from: 13,
          until: 44,
        },
      },
    ],
    particles: [
      {
        ...{ id: 'crumbs', name: 'Crumbs of flour', born: 'burst', count: 420, from: 13, until: 15, shape: 'disc', centre: [0, 0.05, 0] },
        ...{ radius: 0.34, size: [0.1, 0.06, 0.1], aim: 'outward', spread: 38, speed: 2.8, vary: 60, life: 1.8, lifeVary: 40 },
        ...{ ball: 0.014, ballVary: 50, drag: 0.6, bounce: 25, seed: 4 },
      },
    ],
    patterns: [{ id: 'clumps', name: 'Clumps', source: 'burst', noise: 'billow', size: 0.12, period: 0.2, contrast: 3, seed: 5 }],
    obstacles: [
      { id: 'sack', name: 'Sack', shape: 'box', centre: [0, 1.5, 0], size: [0.6, 0.34, 0.4], turn: [0, 0, 6], stick: 0.3 },
      { id: 'plank', name: 'Loose plank', shape: 'box', centre: [0.95, 0.03, 0.2], size: [0.9, 0.06, 0.22], turn: [0, 24, 0] },
    ],
    curves: [
      {
        id: 'fall',
        path: 'obstacles/sack/centre.1',
        keys: [
          { frame: 1, value: 1.5, ease: 'slow start' },
          { frame: 13, value: 0.26, ease: 'even' },
          { frame: 15, value: 0.2, ease: 'slow end' },
          { frame: 19, value: 0.23, ease: 'smooth' },
        ],
      },
      {
        id: 'tilt',
        path: 'obstacles/sack/turn.2',
        keys: [
          { frame: 1, value: 6, ease: 'even' },
          { frame: 13, value: 0, ease: 'even' },
        ],
      },
    ],
    buoyancy: { lift: 0, weight: 0.5 },
    turbulence: { strength: 0.5, size: 0.35, octaves: 3, roughness: 0.6, period: 1.5, seed: 3 },
    vorticity: { strength: 0.15 },
    fading: { density: 5, temperature: 0 },
  },
  'ice-cellar': {
    name: 'Ice cellar',
    space: {
      ...{ size: [3.6, 2, 2], corner: [-1.8, 0, -1], voxelSize: 0.04, lastFrame: 120 },
      sides: { floor: 'wall', top: 'open', left: 'wall', right: 'open', back: 'wall', front: 'wall' },
    },
    files: [{ id: 'steps', name: 'cellar_steps.obj' }],
    sources: [
      {
        ...{
          id: 'hatch',
          name: 'Vapour at the hatch',
          shape: 'box',
          centre: [-1.5, 1.38, 0],
          size: [0.5, 0.24, 1.3],
          density: { amount: 3 },
        },
        ...{ temperature: { amount: -34 }, push: { how: 'blend', mode: 'along', direction: [1, 0, 0], speed: 0.8 } },
      },
    ],
    patterns: [{ id: 'billows', name: 'Billows', source: 'hatch', noise: 'billow', size: 0.25, period: 1.2, contrast: 2, strength: 80 }],
    obstacles: [{ id: 'stair', name: 'Hatch and three steps', shape: 'mesh', file: 'steps', centre: [0, 0, 0], stick: 0.2 }],
    buoyancy: { lift: 0.033, weight: 0.5 },
    turbulence: { strength: 0.2, size: 0.4, octaves: 3, roughness: 0.6, period: 2, seed: 9 },
    vorticity: { strength: 0.1 },
    fading: { density: 9, temperature: 14 },
    method: { density: 'kept' },
  },
  quill: {
    name: 'Quill',
    space: {
      ...{ size: [0.32, 0.4, 0.32], corner: [-0.16, 0, -0.16], voxelSize: 0.005, lastFrame: 120 },
      sides: { floor: 'wall', top: 'open', left: 'wall', right: 'wall', back: 'wall', front: 'wall' },
    },
    sources: [
      {
        ...{ id: 'dark', name: 'Dark ink', shape: 'sphere', centre: [-0.035, 0.34, 0], radius: 0.018, density: { amount: 70 }, until: 40 },
        ...{ temperature: { how: 'none' }, colour: { amount: [0.05, 0.06, 0.32] } },
        push: { how: 'raise', mode: 'along', direction: [0.12, -1, 0.05], speed: 0.16 },
      },
      {
        ...{
          id: 'red',
          name: 'Red ink',
          shape: 'sphere',
          centre: [0.04, 0.34, 0.01],
          radius: 0.015,
          density: { amount: 70 },
          from: 9,
          until: 55,
        },
        ...{ temperature: { how: 'none' }, colour: { amount: [0.55, 0.03, 0.04] } },
        push: { how: 'raise', mode: 'along', direction: [-0.15, -1, 0], speed: 0.13 },
      },
    ],
    obstacles: [
      {
        id: 'tank',
        name: 'Glass tank',
        shape: 'cylinder',
        facing: 'vessel',
        centre: [0, 0.2, 0],
        radius: 0.14,
        size: [0.28, 0.44, 0.28],
        stick: 0.4,
      },
    ],
    buoyancy: { lift: 0, weight: 0.016 },
    turbulence: { strength: 0.03, size: 0.06, octaves: 2, roughness: 0.6, period: 2, seed: 2 },
    fading: { density: 0, temperature: 0 },
    keep: { colour: true, temperature: false },
  },
  'warm-plume': {
    name: 'Warm plume',
    space: { size: [2, 3.2, 2], corner: [-1, 0, -1], voxelSize: 0.05 },
    sources: [
      {
        id: 'vent',
        name: 'Vent',
        shape: 'sphere',
        centre: [0, 0.35, 0],
        radius: 0.22,
        density: { amount: 4 },
        temperature: { amount: 40 },
      },
    ],
    buoyancy: { lift: 0.033, weight: 0.1 },
    vorticity: { strength: 0.4 },
  },
};

export const EXAMPLES: readonly string[] = Object.keys(RAW);

/** @throws Error naming the examples where there is none of that name */
export function example(name: string): Recipe {
  if (!Object.hasOwn(RAW, name)) throw new Error(`There is no example called ${name}. There are: ${EXAMPLES.join(', ')}.`);
  return parseRecipe(structuredClone(RAW[name]));
}

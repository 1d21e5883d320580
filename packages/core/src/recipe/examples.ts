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

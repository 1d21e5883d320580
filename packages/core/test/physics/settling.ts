import { terminalSpeed } from '@bramblemist/core/recipe/parts/settling';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { ALL_WALLS, fill, start, still, type Experiment, type Figure } from './kit';

/** Σ over cells of a channel, in densities times m³, and the mean height of what is there, m. */
function standing(s: Simulation, channel: 'density' | 'deposit'): { mass: number; height: number } {
  const { lattice: l, voxelSizeM: h, origin } = s.window;
  let [mass, moment] = [0, 0];
  s.read(channel).forEach((v, i) => {
    mass += v;
    moment += v * (origin[1] + (Math.floor(i / l.nx) % l.ny) + 0.5) * h;
  });
  return { mass: mass * h ** 3, height: moment / mass };
}

/** A closed domain, n voxels wide, in which medium falls; the air is left in peace. */
function domain(n: number, parts: Record<string, unknown>): Recipe {
  return still({
    space: {
      size: [1.6, 1.6, 1.6],
      corner: [-0.8, 0, -0.8],
      voxelSize: 1.6 / n,
      frameRate: 25,
      lastFrame: 1000,
      sides: ALL_WALLS,
    },
    ...parts,
  });
}

/**
 * Terminal speeds in air and water at 20 °C by the standard drag curve of a sphere (Clift, Grace, Weber
 * 1978).
 */
const SPHERES = [
  { what: 'rain drop of 1 mm in air', size: 1e-3, weight: 1000, fluid: 'air', speed: 3.9 },
  { what: 'rain drop of 0.1 mm in air', size: 1e-4, weight: 1000, fluid: 'air', speed: 0.255 },
  { what: 'quartz of 0.1 mm in water', size: 1e-4, weight: 2650, fluid: 'water', speed: 0.0078 },
  { what: 'quartz of 1 mm in water', size: 1e-3, weight: 2650, fluid: 'water', speed: 0.155 },
] as const;

export const settling: Experiment = {
  name: 'Dust settles',
  about:
    'Medium that falls does so at its speed through still air, all of it lands, and what lies under a ' +
    'shelf is what fell beside it; a lid that is drawn away lets go of what lay on it. Speeds by grain ' +
    'are held against published ones for spheres, which drops of rain and grains of sand come near.',
  run: (size, threads) => {
    const n = size === 'full' ? 64 : 32;
    const figures: Figure[] = [];
    for (const { what, size: d, weight, fluid, speed } of SPHERES)
      figures.push({
        what: `${what}: speed over the published one`,
        value: terminalSpeed(d, weight, fluid, 9.81) / speed,
        least: 0.93,
        most: 1.07,
      });

    const recipe = domain(n, { settling: { falls: 'speed', speed: 0.5 } });
    const ball = (x: number, y: number, z: number): number => Number(Math.hypot(x, y - 1.1, z) < 0.3);
    const s = start(recipe, threads);
    fill(s, 'density', ball);
    const before = standing(s, 'density');
    for (let f = 0; f < 20; f++) s.advanceFrame();
    const after = standing(s, 'density');
    figures.push({
      what: 'still air: fall of a ball of dust over what its speed says',
      value: (before.height - after.height) / (0.5 * (20 / 25)),
      least: 0.999,
      most: 1.001,
    });
    let deposited = 0;
    for (let f = 0; f < 70; f++) deposited += s.advanceFrame().readings.massDeposited!;
    const lies = standing(s, 'deposit');
    figures.push({
      what: 'all of it lies on the floor in the end',
      value: lies.mass / before.mass,
      least: 0.9999,
      most: 1.0001,
    });
    figures.push({
      what: 'what the readings say has landed, over what lies',
      value: deposited / lies.mass,
      least: 0.9999,
      most: 1.0001,
    });
    s.threadPool.close();

    const shelf = start(
      domain(n, {
        settling: { falls: 'speed', speed: 0.5 },
        keep: { colour: true },
        obstacles: [{ id: 'o', shape: 'box', centre: [0, 0.6, 0], size: [0.8, 0.1, 1.7] }],
        curves: [
          {
            id: 'c',
            path: 'obstacles/o/centre.0',
            keys: [
              { frame: 60, value: 0, ease: 'hold' },
              { frame: 61, value: -0.4, ease: 'smooth' },
              { frame: 81, value: -1.6, ease: 'smooth' },
            ],
          },
        ],
      }),
      threads,
    );
    fill(shelf, 'density', (_x, y) => Number(y > 0.8 && y < 1.2));
    const { mass } = standing(shelf, 'density');
    let made = 0;
    const go = (frames: number): void => {
      for (let f = 0; f < frames; f++) made += Math.abs(shelf.advanceFrame().readings.massMade!);
    };

    go(55);
    const above = aboveHalf(shelf);
    figures.push({
      what: 'a shelf over half of the floor holds',
      value: above / mass,
      least: 0.47,
      most: 0.53,
    });
    go(100);
    figures.push({
      what: 'on the floor once the shelf has gone, of all',
      value: standing(shelf, 'deposit').mass / mass - aboveHalf(shelf) / mass,
      least: 0.97,
      most: 1.001,
    });
    figures.push({ what: 'a shelf: mass that no account explains', value: made / mass, most: 1e-4 });
    shelf.threadPool.close();
    return { figures };
  },
};

/** What lies above the middle of the shelf, density times m³. */
function aboveHalf(s: Simulation): number {
  const { lattice: l, voxelSizeM: h } = s.window;
  let mass = 0;
  s.read('deposit').forEach((v, i) => {
    if (((Math.floor(i / l.nx) % l.ny) + 0.5) * h > 0.6) mass += v;
  });
  return mass * h ** 3;
}

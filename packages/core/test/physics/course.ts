import { start, still, greatest, type Experiment, type Figure } from './kit';
import { parseRecipe } from '../../src/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { example } from '@bramblemist/core/presets/examples';
import { driftCheck } from '@bramblemist/core/analysis/drift-check';
import type { Read } from '@bramblemist/core/record/reading-curves';
import type { Readings } from '@bramblemist/core/record/readings';
import type { Simulation } from '@bramblemist/core/run/simulation';

/** Set-ups as artists make them, at their full size: a quarter and half of it have to foretell it. */
const SET_UPS: readonly { readonly name: string; readonly recipe: Recipe }[] = [
  {
    name: 'warm plume with wind',
    recipe: parseRecipe({
      name: 'Plume',
      space: { size: [3, 3, 1.5], corner: [-0.8, 0, -0.75], voxelSize: 0.03125, lastFrame: 72 },
      sources: [
        {
          shape: 'sphere',
          centre: [0, 0.4, 0],
          radius: 0.25,
          density: { amount: 2 },
          temperature: { amount: 30 },
        },
      ],
      buoyancy: { lift: 0.033, weight: 0.1 },
      wind: { speed: 0.5, heading: 0, grip: 1.5, gust: 0.2 },
      turbulence: { strength: 0.4, size: 0.6, octaves: 2 },
      vorticity: { strength: 0.1 },
      dissipation: { density: 4, temperature: 4 },
    }),
  },
  {
    name: 'cold spill over a step',
    recipe: parseRecipe({
      name: 'Spill',
      space: {
        size: [3, 1.5, 1.5],
        corner: [-1, 0, -0.75],
        voxelSize: 0.03125,
        lastFrame: 72,
        sides: { left: 'wall', back: 'wall', front: 'wall' },
      },
      sources: [
        {
          shape: 'box',
          centre: [-0.7, 0.7, 0],
          size: [0.4, 0.3, 0.9],
          density: { amount: 1.5 },
          temperature: { amount: -20 },
        },
      ],
      obstacles: [{ id: 'step', name: 'Step', shape: 'box', centre: [-0.6, 0.25, 0], size: [1, 0.5, 2] }],
      buoyancy: { lift: 0.033, weight: 0.4 },
      turbulence: { strength: 0.15, size: 0.5, octaves: 2 },
      dissipation: { density: 8, temperature: 6 },
    }),
  },
  {
    name: 'burst of dust',
    recipe: parseRecipe({
      name: 'Burst',
      space: { size: [3, 2, 3], corner: [-1.5, 0, -1.5], voxelSize: 0.03125, lastFrame: 48 },
      sources: [
        {
          shape: 'sphere',
          centre: [0, 0.25, 0],
          radius: 0.25,
          density: { amount: 24 },
          temperature: { amount: 10 },
          expansion: 12,
          until: 5,
        },
      ],
      buoyancy: { lift: 0.033, weight: 0.3 },
      turbulence: { strength: 0.8, size: 0.5, octaves: 2 },
      dissipation: { density: 3, temperature: 2 },
    }),
  },
];

interface Course {
  /** Height below which 95 % of the mass is, width across x (rms), and the mass centre; by frames. */
  readonly height: number[];
  readonly width: number[];
  readonly centre: [number, number][];
}

function courseOf(s: Simulation, frames: number): Course {
  const course: Course = { height: [], width: [], centre: [] };
  for (let f = 0; f < frames; f++) {
    s.advanceFrame();
    const d = s.read('density');
    const { lattice: l, origin, voxelSizeM: h } = s.window;
    const rows = new Float64Array(l.ny);
    const columns = new Float64Array(l.nx);
    for (let n = 0, k = 0; k < l.nz; k++)
      for (let j = 0; j < l.ny; j++)
        for (let i = 0; i < l.nx; i++, n++) {
          rows[j] += d[n];
          columns[i] += d[n];
        }

    const mass = rows.reduce((a, b) => a + b, 0);
    const x = columns.reduce((a, v, i) => a + v * (origin[0] + i + 0.5) * h, 0) / mass;
    const y = rows.reduce((a, v, j) => a + v * (origin[1] + j + 0.5) * h, 0) / mass;
    let below = 0;
    let j = 0;
    while (below + rows[j] < 0.95 * mass) below += rows[j++];
    course.height.push((origin[1] + j + (0.95 * mass - below) / rows[j]) * h);
    course.width.push(
      Math.sqrt(columns.reduce((a, v, i) => a + v * ((origin[0] + i + 0.5) * h - x) ** 2, 0) / mass),
    );
    course.centre.push([x, y]);
  }

  return course;
}

/** The demo's shots at their working size; the cellar's steps come from a file, which none is at hand for. */
const SHOTS = ['weir-at-dawn', 'sack-drop', 'quill', 'drying-kiln', 'lantern-jetty'] as const;

/** A recipe's course at voxels four times, twice and once as large. */
function courses(recipe: Recipe, threads: number, coarsest = 1): readonly Course[] {
  return [4, 2, 1].map((times) => {
    const s = start(recipe, threads, recipe.space.voxelSize * times * coarsest);
    const course = courseOf(s, recipe.space.lastFrame);
    s.threadPool.close();
    return course;
  });
}

/** Mean deviations from the full size over the second half of the time. */
function deviations(name: string, of: readonly Course[], bands: readonly [number, number]): Figure[] {
  const full = of[2];
  const frames = full.height.length;
  const mean = (v: readonly number[]): number => {
    const late = v.slice(Math.floor(frames / 2));
    return late.reduce((a, b) => a + b, 0) / late.length;
  };

  const off = (a: readonly number[], b: readonly number[]): number =>
    mean(a.map((v, f) => Math.abs(v / b[f] - 1)));
  const tall = mean(full.height);
  return of.slice(0, 2).flatMap((c, n) => {
    const apart = c.centre.map(([x, y], f) => Math.hypot(x - full.centre[f][0], y - full.centre[f][1]));
    return [
      { what: 'height', value: off(c.height, full.height) },
      { what: 'width', value: off(c.width, full.width) },
      { what: 'mass centre', value: mean(apart.map((v) => v / tall)) },
    ].map(({ what, value }) => ({
      what: `${name}, ${['a quarter', 'half'][n]} of the size: ${what}`,
      value,
      most: bands[n],
    }));
  });
}

export const roughToFinal: Experiment = {
  name: 'Rough to final: a quarter and half of the size against the full one',
  about:
    'Three set-ups as artists make them, run at voxels four times, twice and once the final size. ' +
    'Height (95 % of the mass lies below it), width (rms) and mass centre over the second half of the ' +
    'time: the mean deviation from the full size, as part of the full size’s value (of the scene’s ' +
    'height for the centre).',
  run: (size, threads) => {
    const all = SET_UPS.map(({ name, recipe }) => ({
      name,
      recipe,
      of: courses(recipe, threads, size === 'full' ? 1 : 2),
    }));
    return {
      figures: all.flatMap(({ name, of }) =>
        deviations(name, of, size === 'full' ? [0.1, 0.04] : [0.25, 0.21]),
      ),
      charts: all.map(({ name, recipe, of }) => ({
        file: `drift-${recipe.name.toLowerCase()}`,
        title: `Height of a ${name}`,
        x: 'frame',
        y: 'height of 95 % of the mass, m',
        curves: of.map((c, n) => ({
          name: ['a quarter', 'half', 'full'][n],
          at: c.height.map((v, f): [number, number] => [f + 1, v]),
        })),
      })),
    };
  },
};

export const shots: Experiment = {
  name: 'Rough to final: the shots of the demo',
  about:
    'What the drift check says of the demo’s shots at half and a quarter of their working size: mean ' +
    'deviations over the second half of the frames. Rise heights end at whole voxels, which of thin layers ' +
    'are few. (The ice cellar’s steps come from a file; `bramblemist drift` measures it.)',
  run: (size, threads) => ({
    figures: (size === 'full' ? SHOTS : (['quill'] as const)).flatMap((name) => {
      const recipe = example(name);
      const read = (times: number): Read[] => {
        const s = start(recipe, threads, recipe.space.voxelSize * times);
        const frames = Array.from({ length: recipe.space.lastFrame }, (_, n): Read => {
          return { frame: n + 1, readings: s.advanceFrame().readings };
        });
        s.threadPool.close();
        return frames;
      };

      const [quarter, half, full] = size === 'full' ? [4, 2, 1].map(read) : [6, 4, 3].map(read);
      return [
        { at: 'a quarter', coarse: quarter, most: size === 'full' ? 0.1 : 0.2 },
        { at: 'half', coarse: half, most: size === 'full' ? 0.04 : 0.2 },
      ].flatMap(({ at, coarse, most }) =>
        driftCheck(coarse, full, at)
          .drifts.filter(({ key }) => ['mass', 'centre', 'width', 'rise'].includes(key))
          .map(({ key, label, mean }) => ({
            what: `${recipe.name}, ${at} of the size: ${label}`,
            value: mean,
            ...(key === 'rise' ? {} : { most }),
          })),
      );
    }),
  }),
};

export const sameness: Experiment = {
  name: 'Symmetry and sameness',
  about:
    'A symmetric plume stays symmetric in x and z to round-off that it makes grow. One, two and three ' +
    'threads, and a run that was broken off and gone on with, have the same bits; the browser against ' +
    'the command line is a test of the real page.',
  run: (_size, threads) => {
    const s = start(
      still({
        space: { size: [1.6, 1.6, 1.6], corner: [-0.8, 0, -0.8], voxelSize: 0.05, lastFrame: 1000 },
        sources: [{ centre: [0, 0.4, 0], radius: 0.25, density: { amount: 2 }, temperature: { amount: 40 } }],
        buoyancy: { lift: 0.033, weight: 0 },
        vorticity: { strength: 0.3 },
      }),
      threads,
    );
    for (let f = 0; f < 25; f++) s.advanceFrame();
    const d = s.read('density');
    const { nx, ny, nz } = s.window.lattice;
    s.threadPool.close();
    let odd = 0;
    for (let k = 0; k < nz; k++)
      for (let j = 0; j < ny; j++)
        for (let i = 0; i < nx; i++) {
          const here = d[(k * ny + j) * nx + i];
          odd = Math.max(
            odd,
            Math.abs(here - d[(k * ny + j) * nx + (nx - 1 - i)]),
            Math.abs(here - d[((nz - 1 - k) * ny + j) * nx + i]),
          );
        }

    const weir = example('weir-at-dawn');
    const sums = [1, 2, 3].map((t) => {
      const run = start(weir, t, 0.1);
      for (let f = 0; f < 12; f++) run.advanceFrame();
      const value = run.checksum();
      run.threadPool.close();
      return value;
    });
    return {
      figures: [
        {
          what: 'greatest odd part of a symmetric plume after 25 frames, over the greatest density',
          value: odd / greatest(d),
          most: 2e-3,
        },
        {
          what: 'different checksums of one, two and three threads, less one',
          value: new Set(sums).size - 1,
          most: 0,
        },
      ],
    };
  },
};

export const fitting: Experiment = {
  name: 'A window that fits',
  about:
    'A plume that fills about a tenth of its domain, in a window that grows with it and in the whole ' +
    'domain, in still air and in a wind: the same course, at most a fifth of the voxels, nothing cut off. ' +
    'Beyond the window the pressure goes on in a far field, and air that comes into a window that grows ' +
    'moves as air does that is pushed from far away.',
  run: (size, threads) => {
    const figures: Figure[] = [];
    for (const speed of size === 'full' ? [0, 1.5] : [0]) {
      const run = (mode: string): { voxels: number; last: Readings } => {
        const s = start(
          still({
            space: { size: [3.2, 3.2, 3.2], corner: [-1.6, 0, -1.6], voxelSize: 0.05, lastFrame: 48 },
            window: { mode, margin: 8 },
            sources: [
              { centre: [0, 0.4, 0], radius: 0.22, density: { amount: 2 }, temperature: { amount: 40 } },
            ],
            buoyancy: { lift: 0.033, weight: 0 },
            wind: { speed },
          }),
          threads,
        );
        let voxels = 0;
        let last: Readings | null = null;
        for (let f = 0; f < 40; f++) {
          last = s.advanceFrame().readings;
          const { nx, ny, nz } = s.window.lattice;
          voxels += nx * ny * nz;
        }

        s.threadPool.close();
        return { voxels, last: last! };
      };

      const [fit, whole] = [run('fit'), run('whole')];
      const where = speed > 0 ? 'in a wind' : 'in still air';
      const about = (what: string, value: number): void =>
        void figures.push({
          what: `${where}: ${what}, over that in the whole domain`,
          value,
          least: 0.99,
          most: 1.01,
        });
      figures.push({
        what: `${where}: voxels of the window, over the whole domain’s`,
        value: fit.voxels / whole.voxels,
        most: 0.2,
      });
      about('mass', fit.last.mass / whole.last.mass);
      about('rise height', fit.last.riseHeight / whole.last.riseHeight);
      about('height of the mass centre', fit.last.centre![1] / whole.last.centre![1]);
      for (const [a, axis] of ['x', 'y', 'z'].entries())
        about(`spread along ${axis}`, fit.last.spread![a] / whole.last.spread![a]);
    }

    return { figures };
  },
};

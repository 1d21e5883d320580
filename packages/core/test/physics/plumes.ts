import { fill, slope, start, still, type Chart, type Experiment, type Figure } from './kit';
import type { Simulation } from '@bramblemist/core/run/simulation';

/**
 * How wide and how high the medium is: the front, and at each height the spread across it (rms, from the
 * axis).
 */
function shapeOf(
  s: Simulation,
  threshold: number,
): { front: number; centre: number; width: number; mass: number } {
  const d = s.read('density');
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  let front = 0;
  let mass = 0;
  let height = 0;
  let spread = 0;
  for (let k = 0; k < l.nz; k++)
    for (let j = 0; j < l.ny; j++) {
      const y = (origin[1] + j + 0.5) * h;
      for (let i = 0; i < l.nx; i++) {
        const v = d[(k * l.ny + j) * l.nx + i];
        if (v > threshold) front = Math.max(front, y);
        mass += v;
        height += v * y;
        spread += v * (((origin[0] + i + 0.5) * h) ** 2 + ((origin[2] + k + 0.5) * h) ** 2);
      }
    }

  return { front, centre: height / mass, width: Math.sqrt(spread / mass), mass: mass * h ** 3 };
}

const COARSE = 1 / 16;
/** A puff is thinned out by coarser voxels. */
const LESS_COARSE = 1 / 20;
const FINE = 1 / 32;

export const puff: Experiment = {
  name: 'A puff: height with the square root of time, width with height',
  about:
    'A ball of warm medium is let go in still air. Its total buoyancy stays, so by likeness its height ' +
    'goes with t^½ and its width grows in proportion to its height (Scorer 1957; Turner 1973, ch. 6). ' +
    'Fitted after the first doubling of the height.',
  run: (size, threads) => {
    const h = size === 'full' ? FINE : LESS_COARSE;
    const s = start(
      still({
        space: { size: [2.4, 4, 2.4], corner: [-1.2, 0, -1.2], voxelSize: h, lastFrame: 1000 },
        buoyancy: { lift: 0.1, weight: 0 },
        turbulence: { strength: 0.15, size: 0.3, octaves: 2, period: 0.7 },
      }),
      threads,
    );
    const ball = (x: number, y: number, z: number): number =>
      Math.max(0, Math.min(1, (0.22 - Math.hypot(x, y - 0.35, z)) / h + 0.5));
    fill(s, 'density', ball);
    fill(s, 'temperature', (x, y, z) => 20 * ball(x, y, z));
    const rise: [number, number][] = [];
    const width: [number, number][] = [];
    for (let f = 1; f <= 110; f++) {
      s.advanceFrame();
      const { centre, width: w, front } = shapeOf(s, 0.02);
      if (front > 3.8) break;
      rise.push([f / 24, centre]);
      width.push([centre, w]);
    }

    s.threadPool.close();
    // height over the virtual origin: where the width would be 0 on the line of the later course
    const late = width.filter((p) => p[0] > 0.9);
    const spreadRate = slope(late);
    const origin = late.reduce((a, p) => a + p[0] - p[1] / spreadRate, 0) / late.length;
    const times = rise.filter((p) => p[1] > 0.9);
    // z² grows evenly in time: the exponent is taken from z over the origin against t over the time at which
    // it left
    const square = times.map(([t, z]): [number, number] => [t, (z - origin) ** 2]);
    const rate = slope(square);
    const t0 = square.reduce((a, [t, q]) => a + t - q / rate, 0) / square.length;
    const exponent = slope(times.map(([t, z]) => [Math.log(t - t0), Math.log(z - origin)]));
    return {
      figures: [
        { what: 'exponent of the height in time (½)', value: exponent, least: 0.4, most: 0.6 },
        {
          what: 'growth of the rms width with height (theory: 0.15 to 0.35, as entrainment 0.2 to 0.4)',
          value: spreadRate,
          least: 0.1,
          most: 0.4,
        },
      ],
      charts: [
        {
          file: 'puff',
          title: 'A puff',
          x: 'time, s',
          y: 'height of its centre, m',
          curves: [
            { name: 'run', at: rise },
            {
              name: '√t',
              points: true,
              at: times.filter((_, i) => i % 5 === 0).map(([t]) => [t, origin + Math.sqrt(rate * (t - t0))]),
            },
          ],
        },
      ],
    };
  },
};

export const plume: Experiment = {
  name: 'A plume over a steady source: front and width',
  about:
    'A small steady source of warmth in still air. With an even flux of buoyancy the front of the ' +
    'starting plume goes with t^¾ (Turner 1962) and its width grows in proportion to height (Morton, ' +
    'Taylor & Turner 1956).',
  run: (size, threads) => {
    const h = size === 'full' ? FINE : COARSE;
    const s = start(
      still({
        space: { size: [2.4, 4.4, 2.4], corner: [-1.2, 0, -1.2], voxelSize: h, lastFrame: 1000 },
        sources: [
          {
            shape: 'sphere',
            centre: [0, 0.25, 0],
            radius: 0.12,
            density: { amount: 6 },
            temperature: { amount: 40 },
          },
        ],
        buoyancy: { lift: 0.05, weight: 0 },
        turbulence: { strength: 0.4, size: 0.3, octaves: 2, period: 0.6 },
      }),
      threads,
    );
    const rise: [number, number][] = [];
    for (let f = 1; f <= 160; f++) {
      s.advanceFrame();
      const { front } = shapeOf(s, 0.03);
      if (front > 4.2) break;
      rise.push([f / 24, front]);
    }

    // width of the time-filled plume at each height
    const d = s.read('density');
    const l = s.window.lattice;
    const widths: [number, number][] = [];
    for (let j = Math.round(0.9 / h); j < Math.round(2.9 / h); j++) {
      let m = 0;
      let r = 0;
      let cx = 0;
      let cz = 0;
      for (let k = 0; k < l.nz; k++)
        for (let i = 0; i < l.nx; i++) {
          const v = d[(k * l.ny + j) * l.nx + i];
          m += v;
          cx += v * i;
          cz += v * k;
        }

      for (let k = 0; k < l.nz; k++)
        for (let i = 0; i < l.nx; i++)
          r += d[(k * l.ny + j) * l.nx + i] * ((i - cx / m) ** 2 + (k - cz / m) ** 2);
      widths.push([(j + 0.5) * h, Math.sqrt(r / m) * h]);
    }

    s.threadPool.close();
    const fit = rise.filter((p) => p[1] > 1 && p[1] < 3.9);
    // z^(4/3) grows evenly in time over the source's height
    const even = fit.map(([t, z]): [number, number] => [t, (z - 0.1) ** (4 / 3)]);
    const rate = slope(even);
    const t0 = even.reduce((a, [t, q]) => a + t - q / rate, 0) / even.length;
    const exponent = slope(fit.map(([t, z]) => [Math.log(t - t0), Math.log(z - 0.1)]));
    const charts: Chart[] = [
      {
        file: 'plume',
        title: 'Front of a starting plume',
        x: 'time, s',
        y: 'height, m',
        curves: [
          { name: 'run', at: rise },
          {
            name: 't^¾',
            points: true,
            at: fit.filter((_, i) => i % 6 === 0).map(([t]) => [t, 0.1 + (rate * (t - t0)) ** 0.75]),
          },
        ],
      },
      {
        file: 'plume-width',
        title: 'Width of the plume',
        x: 'height, m',
        y: 'rms radius, m',
        curves: [{ name: 'run', at: widths }],
      },
    ];
    const figures: Figure[] = [
      { what: 'exponent of the front in time (¾)', value: exponent, least: 0.62, most: 0.88 },
      {
        what: 'growth of the rms width with height (theory: about 0.1 to 0.17)',
        value: slope(widths),
        least: 0.05,
        most: 0.22,
      },
    ];
    return { figures, charts };
  },
};

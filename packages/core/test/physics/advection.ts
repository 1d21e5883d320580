import {
  carryOnly,
  fill,
  fillVelocity,
  start,
  still,
  sum,
  ALL_WALLS,
  type Chart,
  type Experiment,
  type Figure,
} from './kit';
import type { Simulation } from '@bramblemist/core/run/simulation';

const TURN_S = 4;

/**
 * A thin square domain in which the air turns as a solid body, once in TURN_S seconds, at up to two and a
 * half cells a step.
 */
export function turntable(
  n: number,
  threads: number,
  method: object,
  medium: 'air' | 'finer' = 'air',
): Simulation {
  const h = 3.2 / n;
  return start(
    still({
      space: {
        size: [3.2, 8 * h, 3.2],
        corner: [-1.6, 0, -1.6],
        voxelSize: h,
        medium,
        frameRate: n / 2,
        sides: { ...ALL_WALLS, floor: 'open', top: 'open' },
        cfl: 5,
        substepsMost: 1,
        lastFrame: 100000,
      },
      method,
    }),
    threads,
  );
}

/** What is read after one turn. */
export function stepped(s: Simulation, n: number, read: () => Float32Array): Float32Array {
  const omega = (2 * Math.PI) / TURN_S;
  fillVelocity(s, (x, _y, z) => [-omega * z, 0, omega * x]);
  for (let f = 0; f < (TURN_S * n) / 2; f++) carryOnly(s, 2 / n);
  return read();
}

/** L1 error after one turn, over the amount there was, and what became of the amount. */
function oneTurn(
  n: number,
  threads: number,
  method: object,
  shape: (x: number, y: number, z: number) => number,
): { error: number; sum: number } {
  const s = turntable(n, threads, method);
  fill(s, 'density', shape);
  const before = s.read('density');
  const after = stepped(s, n, () => s.read('density'));
  s.threadPool.close();
  return {
    error: after.reduce((e, v, i) => e + Math.abs(v - before[i]), 0) / sum(before),
    sum: sum(after) / sum(before),
  };
}

const hump = (x: number, _y: number, z: number): number => Math.exp(-((x - 0.7) ** 2 + z * z) / 0.08);
/** Zalesak's slotted disc (1979). */
export const disc = (x: number, _y: number, z: number): number =>
  Math.hypot(x, z - 0.8) < 0.48 && !(Math.abs(x) < 0.08 && z < 1.04) ? 1 : 0;

const METHODS = [
  ['softly', { density: 'soft' }],
  ['finely', { density: 'fine' }],
] as const;

export const advection: Experiment = {
  name: 'Transport: a hump and a slotted disc, once around',
  about:
    'A smooth hump and Zalesak’s slotted disc (Zalesak 1979) turn once with the air. The L1 error of ' +
    'the hump has to fall at better than second order where it is carried finely (Colella & Woodward ' +
    '1984), that of the disc to be 0.30 at most, and all of both has to be there after the turn.',
  run: (size, threads) => {
    const sizes = size === 'full' ? [32, 64, 128] : [32, 64];
    const figures: Figure[] = [];
    const curves: Chart['curves'][number][] = [];
    const errors = METHODS.map(([name, method]) => {
      const e = sizes.map((n) => oneTurn(n, threads, method, hump));
      curves.push({ name, at: sizes.map((n, i) => [n, e[i].error]) });
      return e;
    });
    const last = sizes.length - 1;
    METHODS.forEach(([name], m) => {
      const e = errors[m];
      const order = Math.log2(e[last - 1].error / e[last].error);
      figures.push({
        what: `hump, ${name}: order between ${sizes[last - 1]} and ${sizes[last]} cells`,
        value: order,
        ...(m === 1 ? { least: 2.2 } : {}),
      });
    });
    figures.push({
      what: `hump at ${sizes[last]} cells: error carried softly over finely`,
      value: errors[0][last].error / errors[1][last].error,
      least: 30,
    });
    METHODS.forEach(([name], m) =>
      figures.push({
        what: `hump at ${sizes[last]} cells, ${name}: change of the sum`,
        value: Math.abs(errors[m][last].sum - 1),
        most: 1e-6,
      }),
    );
    const n = size === 'full' ? 96 : 64;
    const discs = METHODS.map(([name, method]) => ({ name, ...oneTurn(n, threads, method, disc) }));
    discs.forEach((d, i) =>
      figures.push({
        what: `slotted disc at ${n} cells, ${d.name}: error`,
        value: d.error,
        ...(i === 1 ? { most: size === 'full' ? 0.3 : 0.42 } : {}),
      }),
    );
    figures.push({
      what: 'slotted disc: error carried softly over finely',
      value: discs[0].error / discs[1].error,
      least: 3,
    });
    return {
      figures,
      charts: [
        {
          file: 'advection',
          title: 'Error of a hump after one turn',
          x: 'cells across',
          y: 'L1 error',
          log: true,
          curves,
        },
      ],
    };
  },
};

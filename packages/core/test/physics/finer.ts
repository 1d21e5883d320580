// The medium on cells half as large as the air's: how near it comes to a run whose air is as fine.
import { writeField } from '../../src/grid/memory';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { stateOf } from '@bramblemist/core/run/simulation';
import { gatherMedium } from '@bramblemist/core/step/finer';
import { disc, stepped, turntable } from './advection';
import { ALL_WALLS, fillVelocity, start, still, sum, type Experiment, type Figure } from './kit';

/** Fills density on the cells that the medium lies on. */
function fillMedium(s: Simulation, value: (x: number, y: number, z: number) => number): void {
  const { lattice: l, origin, voxelSizeM: h } = s.mediumWindow;
  const place = (i: number, a: number): number => (origin[a] + i + 0.5) * h;
  const values = Float32Array.from({ length: l.nx * l.ny * l.nz }, (_, n) =>
    value(place(n % l.nx, 0), place(Math.floor(n / l.nx) % l.ny, 1), place(Math.floor(n / l.nx / l.ny), 2)),
  );
  writeField(s.threadPool.memory, s.onMedium('density')[0], values);
  gatherMedium(stateOf(s));
}

const seen = (s: Simulation): Float32Array => s.read('density', s.onMedium('density')[0]);

/** L1 error of the slotted disc after one turn, over the amount that there was. */
function turned(n: number, medium: 'air' | 'finer', threads: number): number {
  const s = turntable(n, threads, {}, medium);
  fillMedium(s, disc);
  const before = seen(s).slice();
  const after = stepped(s, n, () => seen(s));
  s.threadPool.close();
  return after.reduce((e, v, i) => e + Math.abs(v - before[i]), 0) / sum(before);
}

/** A column of dye in a box that eddies stir, without any force: how sharp it stays, and all of it. */
function stirred(n: number, medium: 'air' | 'finer', threads: number): { sharpness: number; made: number } {
  const s = start(
    still({
      space: {
        ...{ size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 1 / n, frameRate: 24, lastFrame: 1000 },
        ...{ medium, sides: ALL_WALLS },
      },
    }),
    threads,
  );
  const h = s.window.voxelSizeM;
  const flow = (x: number, y: number): number =>
    0.1 * Math.sin((x + 0.5) * Math.PI * 2) * Math.sin(y * Math.PI * 2) +
    0.06 * Math.sin((x + 0.5) * Math.PI) * Math.sin(y * Math.PI);
  fillMedium(s, (x, y) => (Math.abs(x) < 0.17 && y > 0.2 && y < 0.8 ? 1 : 0));
  fillVelocity(s, (x, y) => [
    (flow(x, y + h / 2) - flow(x, y - h / 2)) / h,
    -(flow(x + h / 2, y) - flow(x - h / 2, y)) / h,
    0,
  ]);
  let made = 0;
  for (let f = 0; f < 48; f++) {
    const { massMade = 0, mass = 1 } = s.advanceFrame().readings;
    made = Math.max(made, Math.abs(massMade) / mass);
  }

  const v = seen(s);
  const { nx, ny } = s.mediumWindow.lattice;
  // squares of differences to the next cell along x: twice as large where edges are twice as sharp
  const sharpness = v.reduce((sum, d, i) => ((i + 1) % nx ? sum + (v[i + 1] - d) ** 2 : sum), 0);
  s.threadPool.close();
  return { sharpness: sharpness / (nx * ny), made };
}

export const finer: Experiment = {
  name: 'Medium on cells half as large as the air’s',
  about:
    'Zalesak’s slotted disc turns once, and a column of dye is stirred by eddies for two seconds, in air ' +
    'of n and of n/2 cells, and in air of n/2 whose medium has n. The air’s flows are refined free of ' +
    'divergence (Tóth & Roe 2002). The disc has to come out as in the finer air, the dye nearly as sharp, ' +
    'and all of it.',
  run: (size, threads) => {
    const n = size === 'full' ? 96 : 48;
    const [whole, half, mixed] = [
      turned(n, 'air', threads),
      turned(n / 2, 'air', threads),
      turned(n / 2, 'finer', threads),
    ];
    const dye = [
      stirred(n, 'air', threads),
      stirred(n / 2, 'air', threads),
      stirred(n / 2, 'finer', threads),
    ];
    const figures: Figure[] = [
      { what: `disc: error in air of ${n} cells`, value: whole },
      { what: `disc: error in air of ${n / 2} cells`, value: half },
      {
        what: `disc: error with the medium finer, over that in air of ${n} cells`,
        value: mixed / whole,
        most: 1.1,
      },
      {
        what: `dye: sharpness in air of ${n / 2} cells, over that in ${n}`,
        value: dye[1].sharpness / dye[0].sharpness,
      },
      {
        what: `dye: sharpness with the medium finer, over that in air of ${n} cells`,
        value: dye[2].sharpness / dye[0].sharpness,
        least: 0.8,
        most: 1.2,
      },
      { what: 'dye: made or lost by the method, of its mass', value: dye[2].made, most: 1e-6 },
    ];
    return { figures };
  },
};

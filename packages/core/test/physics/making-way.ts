import { fill, start, still, ALL_OPEN, ALL_WALLS, type Experiment, type Figure } from './kit';
import type { Simulation } from '@bramblemist/core/run/simulation';

/** Key frames of one setting, eased. */
const keys = (path: string, at: readonly (readonly [frame: number, value: number])[]): object => ({
  id: path.replace(/\W/g, ''),
  path,
  keys: at.map(([frame, value]) => ({ frame, value, ease: 'smooth' })),
});

interface Swept {
  /** Greatest part of the mass that no account explains, over the whole run. */
  readonly made: number;
  readonly greatest: number;
  readonly topSpeed: number;
  readonly last: Simulation;
}

function sweep(
  n: number,
  threads: number,
  frames: number,
  parts: { obstacle: object; curves?: object[]; sides: object },
  density: (x: number, y: number, z: number) => number,
): Swept {
  const s = start(
    still({
      space: {
        size: [1.6, 1.6, 1.6],
        corner: [-0.8, 0, -0.8],
        voxelSize: 1.6 / n,
        frameRate: 25,
        lastFrame: 1000,
        sides: parts.sides,
      },
      obstacles: [{ id: 'o', ...parts.obstacle }],
      curves: parts.curves ?? [],
    }),
    threads,
  );
  fill(s, 'density', density);
  let first = 0;
  let left = 0;
  let [made, greatest, topSpeed] = [0, 0, 0];
  for (let f = 0; f < frames; f++) {
    const { readings: r } = s.advanceFrame();
    left += r.massLeft!;
    if (f === 0) first = r.mass + left;
    made = Math.max(made, Math.abs((r.mass + left) / first - 1));
    greatest = Math.max(greatest, r.greatestDensity);
    topSpeed = Math.max(topSpeed, r.topSpeed);
  }

  s.threadPool.close();
  return { made, greatest, topSpeed, last: s };
}

const TO_AND_FRO = keys('obstacles/o/centre.0', [
  [1, -0.5],
  [21, 0.5],
  [41, -0.5],
]);
/** The fastest that such a ball goes: three halves of its mean speed. */
const BALL_SPEED = (1.5 * 1) / (20 / 25);

export const makingWay: Experiment = {
  name: 'Moving obstacles make the medium way',
  about:
    'What moves through a medium pushes it aside and lets it close behind: all of it is there ' +
    'afterwards, nowhere twice as thick as before, and the air is nowhere much faster than what drives ' +
    'it. A ball goes to and fro through a column and through an even medium, a plate thinner than a ' +
    'voxel sweeps, one turns, and a piston presses a pocket and draws back.',
  run: (size, threads) => {
    const n = size === 'full' ? 48 : 24;
    const figures: Figure[] = [];
    const report = (
      what: string,
      { made, greatest, topSpeed }: Swept,
      most: number,
      speed?: number,
    ): void => {
      figures.push({ what: `${what}: mass that no account explains`, value: made, most: 1e-4 });
      figures.push({ what: `${what}: greatest density (1 before)`, value: greatest, most });
      if (speed)
        figures.push({ what: `${what}: fastest air over the obstacle`, value: topSpeed / speed, most: 3 });
    };

    const ball = { shape: 'sphere', centre: [-0.5, 0.8, 0], radius: 0.2 };
    const column = (x: number, _y: number, z: number): number => Number(Math.hypot(x, z) < 0.35);
    const outside = (x: number, y: number, z: number): number =>
      Number(Math.hypot(x + 0.5, y - 0.8, z) > 0.25);
    const swept = { obstacle: ball, curves: [TO_AND_FRO], sides: ALL_WALLS };
    report('ball through a column', sweep(n, threads, 44, swept, column), 1.3, BALL_SPEED);
    report(
      'ball in an even medium',
      sweep(n, threads, 44, { ...swept, sides: ALL_OPEN }, outside),
      1.3,
      BALL_SPEED,
    );
    const thin = { shape: 'box', centre: [-0.5, 0.8, 0], size: [0.02, 0.8, 0.8] };
    report('thin plate', sweep(n, threads, 44, { ...swept, obstacle: thin }, column), 1.3);
    const turning = { shape: 'box', centre: [0, 0.8, 0], size: [0.04, 0.8, 0.8], motion: 'moves', spin: 90 };
    const still1 = (x: number): number => Number(Math.abs(x) > 0.08);
    report('turning plate', sweep(n, threads, 30, { obstacle: turning, sides: ALL_WALLS }, still1), 1.4);
    const piston = { shape: 'box', centre: [-0.2, 0.8, 0], size: [0.3, 1.8, 1.8] };
    const pressing = keys('obstacles/o/centre.0', [
      [1, -0.2],
      [21, 0.5],
      [41, -0.2],
    ]);
    const pocket = sweep(
      n,
      threads,
      44,
      { obstacle: piston, curves: [pressing], sides: { ...ALL_WALLS, left: 'open' } },
      (x) => Number(x > 0),
    );
    figures.push({ what: 'piston: mass that no account explains', value: pocket.made, most: 1e-4 });
    // 0.65 m of it are pressed into 0.15
    figures.push({ what: 'piston: greatest density', value: pocket.greatest, least: 3, most: 12 });
    return { figures };
  },
};

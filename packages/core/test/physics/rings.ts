import { ALL_OPEN, fill, fillVelocity, start, still, type Chart, type Experiment, type Figure } from './kit';
import type { ChannelField } from '@bramblemist/core/base/channels';
import type { Simulation } from '@bramblemist/core/run/simulation';

type Place = readonly [x: number, y: number, z: number];

/** Radius, thickness and circulation of a ring; how far the two are apart at the start, in SI units. */
const RADIUS = 0.34;
const CORE = 0.06;
const CIRCULATION = 1;
const APART = 0.16;
/** Points of a ring that its velocity is summed over. */
const POINTS = 48;

/**
 * Velocity of a ring about the y axis at a height, by Biot and Savart with a core of Rosenhead and Moore:
 * upward inside.
 */
function ringVelocity(height: number): (x: number, y: number, z: number) => Place {
  const points = Array.from({ length: POINTS }, (_, n) => {
    const angle = (2 * Math.PI * n) / POINTS;
    return [Math.cos(angle), Math.sin(angle)] as const;
  });
  const per = (CIRCULATION * RADIUS * 2 * Math.PI) / POINTS / (4 * Math.PI);
  return (x, y, z) => {
    let [u, v, w] = [0, 0, 0];
    for (const [c, s] of points) {
      const [rx, ry, rz] = [x - RADIUS * c, y - height, z - RADIUS * s];
      const k = per / (rx * rx + ry * ry + rz * rz + CORE * CORE) ** 1.5;
      // along the ring: (−s, 0, c), turned so that the air inside goes up
      u += k * ry * c;
      v += k * (-rx * c - rz * s);
      w += k * ry * s;
    }

    return [u, v, w];
  };
}

/** Mean height of an amount, m. */
function heightOf(s: Simulation, channel: ChannelField): number {
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  let [mass, moment] = [0, 0];
  s.read(channel).forEach((v, i) => {
    mass += v;
    moment += v * (origin[1] + (Math.floor(i / l.nx) % l.ny) + 0.5) * h;
  });
  return moment / mass;
}

/** Part of the radius that the rings have to be apart for a passage to count. */
const CLEAR = 0.1;

export const rings: Experiment = {
  name: 'Two vortex rings on one axis',
  about:
    'Two equal rings one behind the other: the hind one is drawn in, becomes narrower and faster, slips ' +
    'through the fore one and becomes the fore one, again and again, until what is lost of their whirls ' +
    'lets them merge (Helmholtz 1858). Counted is how often one is through the other, by the mean ' +
    'heights of what was laid into their cores, which are three voxels thick, in rings half a radius ' +
    'apart; without viscosity, in air that goes against them so that they stay where they are.',
  run: (size, threads) => {
    const n = size === 'full' ? 64 : 24;
    const h = 1.28 / n;
    const frameRate = Math.round(2 / h);
    const seconds = size === 'full' ? 1.2 : 0.6;
    const s = start(
      still({
        space: {
          size: [1.28, 2.56, 1.28],
          corner: [-0.64, -1.28, -0.64],
          voxelSize: h,
          frameRate,
          lastFrame: 100000,
          sides: ALL_OPEN,
          cfl: 1,
          substepsMost: 8,
        },
        keep: { colour: true },
        method: { trace: 'third' },
      }),
      threads,
    );
    const [low, high] = [-APART / 2, APART / 2].map((at) => ringVelocity(at));
    // as fast as the pair goes on its own: that of a ring, and what each gives the other
    const alone =
      (CIRCULATION / (4 * Math.PI * RADIUS)) * (Math.log((8 * RADIUS) / CORE) - 0.5) +
      (CIRCULATION * RADIUS ** 2) / (2 * (RADIUS ** 2 + APART ** 2) ** 1.5) / 2;
    fillVelocity(s, (x, y, z) => {
      const [a, b] = [low(x, y, z), high(x, y, z)];
      return [a[0] + b[0], a[1] + b[1] - alone, a[2] + b[2]];
    });
    const core =
      (at: number) =>
      (x: number, y: number, z: number): number =>
        Math.exp(-((Math.hypot(x, z) - RADIUS) ** 2 + (y - at) ** 2) / CORE ** 2);
    const [lower, upper] = [core(-APART / 2), core(APART / 2)];
    fill(s, 'density', (x, y, z) => lower(x, y, z) + upper(x, y, z));
    fill(s, 'red', lower);
    fill(s, 'blue', upper);
    let [passages, ahead] = [0, -1];
    const curve: [number, number][] = [];
    for (let f = 1; f <= seconds * frameRate; f++) {
      s.advanceFrame();
      const apart = (heightOf(s, 'red') - heightOf(s, 'blue')) / RADIUS;
      if (f % 4 === 0) curve.push([f / frameRate, apart]);
      if (Math.abs(apart) < CLEAR || Math.sign(apart) === ahead) continue;
      ahead = Math.sign(apart);
      passages++;
    }

    s.threadPool.close();
    const figures: Figure[] = [
      {
        what: `passages in ${seconds} s at ${n} × ${2 * n} × ${n} cells`,
        value: passages,
        least: size === 'full' ? 3 : 1,
      },
    ];
    const charts: Chart[] = [
      {
        file: 'rings',
        title: 'Two vortex rings: how far one is above the other',
        x: 'time, s',
        y: 'of the radius',
        curves: [{ name: 'lower at the start, over the upper', at: curve }],
      },
    ];
    return { figures, charts };
  },
};

// Particles of a file picked by speed, height, crowding and age; and that large files are read column by
// column.
import {
  BOUNDS,
  bounded,
  histogramOf,
  measureOf,
  filterParticles,
} from '@bramblemist/core/assets/filter-particles';
import { readPlyCloud } from '@bramblemist/core/files/ply/ply';
import { writePlyCloud } from '@bramblemist/core/files/ply/writer';
import type { MovedPoints } from '@bramblemist/core/assets/timed-point-clouds';
import { example, triesOf } from '@bramblemist/core/presets/examples';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { ParticlesPart } from '@bramblemist/core/recipe/types';
import { random } from './run';

const ANY = RECIPE.defaultPart<ParticlesPart>('particles').pick;

function cloud(count: number, seed = 1): MovedPoints {
  const next = random(seed);
  const many = (n: number, scale: number): Float32Array =>
    Float32Array.from({ length: n }, () => (next() - 0.5) * scale);
  const positions = many(3 * count, 2);
  return {
    count,
    positions,
    earlier: positions.map((v, n) => v - (n % 3 === 0 ? 0.1 : 0)),
    velocities: many(3 * count, 4),
    radii: many(count, 1),
    ages: many(count, 3),
    ids: Float64Array.from({ length: count }, (_, n) => 100 + n),
  };
}

const take = (flown: MovedPoints, pick: Partial<typeof ANY>): MovedPoints =>
  filterParticles(flown, { name: 'Spray', pick: { ...ANY, ...pick } }, 0.1);

test('bounds at their ends bound nothing, and nothing is copied then', () => {
  const all = cloud(50);
  expect(take(all, {})).toBe(all);
  for (const by of ['speed', 'height', 'crowding', 'age'] as const) expect(bounded(ANY, by)).toBe(false);
  expect(bounded({ ...ANY, slowest: 0.1 }, 'speed')).toBe(true);
  expect(Object.values(BOUNDS).flatMap((b) => [ANY[b.low], ANY[b.high]])).toEqual(
    Object.values(BOUNDS).flatMap((b) => [...b.none]),
  );
});
test(
  'what is taken lies within the bounds, with all that belongs to ' + 'it, and nothing else is left out',
  () => {
    const all = cloud(400);
    const some = take(all, { slowest: 1, fastest: 2.4, lowest: -0.3 });
    const fits = (f: MovedPoints, n: number): boolean => {
      const speed = Math.hypot(...f.velocities!.subarray(3 * n, 3 * n + 3));
      return speed >= 1 && speed <= 2.4 && f.positions[3 * n + 1] >= -0.3;
    };

    const wanted = Array.from({ length: 400 }, (_, n) => n).filter((n) => fits(all, n));
    expect([...(some.ids as Float64Array)]).toEqual(wanted.map((n) => 100 + n));
    for (let m = 0; m < some.count; m++) {
      expect(fits(some, m)).toBe(true);
      expect(some.radii![m]).toBe(all.radii![wanted[m]]);
      expect(some.earlier[3 * m]).toBe(all.earlier[3 * wanted[m]]);
    }
  },
);
test('speed comes from the way where the file has no velocities', () => {
  const all = { ...cloud(20), velocities: null };
  measureOf(all, 'speed', 1, 0.1)!.forEach((v) => expect(v).toBeCloseTo(1, 4));
});
test('crowding counts the others within the distance, as the slow way does', () => {
  const all = cloud(300, 5);
  const near = 0.2;
  const counted = measureOf(all, 'crowding', near, 0.1)!;
  for (let n = 0; n < 300; n += 7) {
    let slow = 0;
    for (let m = 0; m < 300; m++)
      if (
        m !== n &&
        Math.hypot(...[0, 1, 2].map((a) => all.positions[3 * n + a] - all.positions[3 * m + a])) <= near
      )
        slow++;
    expect(counted[n]).toBe(slow);
  }
});
test('age is asked of the file, and told where it has none', () => {
  expect(take(cloud(100), { oldest: 0.5 }).ages!.every((a) => a <= 0.5)).toBe(true);
  expect(() => take({ ...cloud(5), ages: null }, { youngest: 1 })).toThrow(
    /Spray picks particles by their age[^]*no column age/,
  );
});
test('a histogram holds everything once', () => {
  const h = histogramOf(measureOf(cloud(500), 'height', 1, 1)!)!;
  expect(h.counts.reduce((a, b) => a + b, 0)).toBe(500);
  expect(h.from).toBeLessThan(h.to);
  expect(histogramOf(new Float32Array(0))).toBeNull();
  expect(histogramOf(new Float32Array(9).fill(2))!.counts[0]).toBe(9);
});
test('a large binary file is read by the columns that are looked for', () => {
  const count = 20_000;
  const next = random(3);
  const column = (): Float32Array => Float32Array.from({ length: count }, () => next());
  const columns = new Map<string, Float32Array | Uint32Array>(
    ['a', 'x', 'b', 'y', 'z', 'vx', 'vy', 'vz', 'age'].map((n) => [n, column()]),
  );
  columns.set(
    'id',
    Uint32Array.from({ length: count }, (_, n) => n),
  );
  const c = readPlyCloud(writePlyCloud(columns));
  expect([c.count, c.radii]).toEqual([count, null]);
  for (const n of [0, 777, count - 1]) {
    expect([...c.positions.subarray(3 * n, 3 * n + 3)]).toEqual(
      ['x', 'y', 'z'].map((k) => columns.get(k)![n]),
    );
    expect([c.ages![n], c.ids![n]]).toEqual([columns.get('age')![n], n]);
  }
});
test('the weir has a try in which its spray turns to mist, beside the one that stays last', () => {
  const tries = triesOf('weir-at-dawn');
  expect(tries.map((t) => t.ofFirst)).toEqual([false, true]);
  expect(tries[0].recipe.particles[0]).toMatchObject({
    born: 'file',
    sequence: 'spray',
    pick: { slowest: 0.8 },
  });
  expect(tries[0].recipe.sources.at(-1)).toMatchObject({ shape: 'particles', particles: 'drops' });
  expect(tries[1].recipe.particles).toEqual(example('weir-at-dawn').particles);
});

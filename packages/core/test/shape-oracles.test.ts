// Kernels that ask shapes where they are (regions, sources, obstacles, currents) and what lies beside walls,
// against the same written plainly.
import {
  CombineMode,
  CurrentKind,
  CurrentStruct,
  MediumEmissionStruct,
  NoiseKind,
  ParticleArray,
  ParticleSourceStruct,
  PatternStruct,
  RegionStruct,
  SolidStruct,
  SourceShapeStruct,
  VelocityEmissionStruct,
  VelocityMode,
  type CurrentFields,
  type MediumEmissionFields,
  type PatternFields,
  type ShapeFields,
  type SolidFields,
  type VelocityEmissionFields,
} from '@bramblemist/kernels/seam';
import { KIND } from '@bramblemist/core/geometry/shape';
import { lattice, type Lattice } from '@bramblemist/core/grid/lattice';
import {
  fieldView,
  putFloats,
  readField,
  readSplit,
  writeField,
  writeSplit,
  type Field,
} from '@bramblemist/core/grid/memory';
import { addresses, boxFields, fillHalo, named, sites } from '@bramblemist/core/grid/sweep';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { compile } from '@bramblemist/core/plan/compile';
import { planLayout, type Layout } from '@bramblemist/core/plan/layout';
import { coarsenLevels, describeLevels } from '@bramblemist/core/plan/levels';
import {
  bench,
  CELLS,
  cells,
  clamp01,
  faces,
  hash,
  L,
  type Bench,
  type Cell,
  type Reader,
} from './kernel-bench';
import { random, recipeOf } from './run';

type Place = readonly [number, number, number];
const mapAxes = (of: (axis: number) => number): Place => [of(0), of(1), of(2)];
const ALL = boxFields([
  [0, 0, 0],
  [L.nx, L.ny, L.nz],
]);
const STRIDES = { rowStride: L.rowStride, planeStride: L.planeStride };
const middleOf = (c: Cell): Place => mapAxes((a) => c[a] + 0.5);
const dot = (a: Place, b: Place): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** A box that is turned about y and then x, and a ball, in the middle of the window. */
const [s, t] = [Math.sin(0.5), Math.cos(0.5)];
const TURNED = [
  [t, 0, -s],
  [s * s, t, s * t],
  [s * t, -s, t * t],
] as const;
const UPRIGHT = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
] as const;

interface Solid {
  readonly kind: number;
  readonly centre: Place;
  readonly half: Place;
  readonly toOwn: readonly (readonly [number, number, number])[];
}

const BALL: Solid = { kind: KIND.sphere, centre: [6.2, 3.4, 2.9], half: [2.3, 2.3, 2.3], toOwn: UPRIGHT };
const BOX: Solid = { kind: KIND.box, centre: [5.7, 3.6, 3.1], half: [2.6, 1.4, 1.7], toOwn: TURNED };

const shapeOf = ({ kind, centre, half, toOwn }: Solid): ShapeFields => ({
  kind,
  ...named(['cx', 'cy', 'cz'], centre),
  ...named(['hx', 'hy', 'hz'], half),
  ...named(['a00', 'a01', 'a02', 'a10', 'a11', 'a12', 'a20', 'a21', 'a22'], toOwn.flat()),
  grow: 0,
  facing: 1,
  grid: 0,
  ...named(['gnx', 'gny', 'gnz', 'gx', 'gy', 'gz'], [0, 0, 0, 0, 0, 0]),
  perCell: 1,
  points: 0,
  count: 0,
  flow: 0,
});

const ownPlace = ({ centre, toOwn }: Solid, place: Place): Place =>
  mapAxes((a) =>
    dot(
      toOwn[a],
      mapAxes((n) => place[n] - centre[n]),
    ),
  );

function distanceTo(solid: Solid, place: Place): number {
  const own = ownPlace(solid, place);
  if (solid.kind === KIND.sphere) return Math.hypot(...own) - solid.half[0];
  const q = mapAxes((a) => Math.abs(own[a]) - solid.half[a]);
  return Math.hypot(...q.map((v) => Math.max(0, v))) + Math.min(0, Math.max(...q));
}

/** Part of a box of space in which something holds, by points. */
function partOf(from: Place, size: Place, holds: (place: Place) => boolean, per = 8): number {
  const n = mapAxes((a) => (size[a] === 0 ? 1 : per));
  let count = 0;
  for (let c = 0; c < n[2]; c++)
    for (let b = 0; b < n[1]; b++)
      for (let a = 0; a < n[0]; a++)
        count += Number(holds(mapAxes((x) => from[x] + (size[x] * ([a, b, c][x] + 0.5)) / n[x])));
  return count / (n[0] * n[1] * n[2]);
}

describe.each([
  ['a ball', BALL],
  ['a turned box', BOX],
])('%s', (_, solid) => {
  test('weightByShape: 1 inside, falling over the soft edge', () => {
    const b = bench();
    const table = b.scratch + 4096;
    putFloats(
      b.pool.memory,
      table,
      Float32Array.from({ length: 65 }, (__, n) => n / 64),
    );
    RegionStruct.write(b.pool.memory, b.scratch, { ...shapeOf(solid), out: b.at(0), table, soft: 1.6 });
    b.run('weightByShape', { block: b.scratch, ...cells });
    const weight = b.reader(b.fields[0]);
    for (const c of CELLS)
      expect(weight(...c)).toBeCloseTo(clamp01(1 - distanceTo(solid, middleOf(c)) / 1.6), 4);
    b.pool.close();
  });

  test('rasterizeShape: what it covers of each voxel, as a mean over moments and the most of any', () => {
    const b = bench();
    for (const n of [0, 1]) fieldView(b.pool.memory, b.fields[n]).fill(0);
    const later: Solid = { ...solid, centre: mapAxes((a) => solid.centre[a] + (a === 0 ? 1.5 : 0)) };
    for (const one of [solid, later]) {
      SourceShapeStruct.write(b.pool.memory, b.scratch, {
        ...shapeOf(one),
        ...ALL,
        mean: b.at(0),
        most: b.at(1),
        weight: 0.5,
        layer: 0,
        mask: 0,
        least: 0,
        soft: 0,
      });
      b.run('rasterizeShape', { source: b.scratch, ...STRIDES });
    }

    const [mean, most] = [0, 1].map((n) => b.reader(b.fields[n]));
    for (const c of CELLS) {
      const parts = [solid, later].map((one) => partOf(c, [1, 1, 1], (p) => distanceTo(one, p) < 0));
      expect(Math.abs(mean(...c) - (parts[0] + parts[1]) / 2)).toBeLessThan(0.04);
      expect(Math.abs(most(...c) - Math.max(...parts))).toBeLessThan(0.05);
    }

    b.pool.close();
  });
});

describe('currents', () => {
  const reach = (c: Cell): number => {
    const at = clamp01(1 - distanceTo(BALL, middleOf(c)) / 1.4);
    return at * at * (3 - 2 * at);
  };

  const way: Place = [0.6, 0, 0.8];
  const h = 0.05;
  test.each<[keyof typeof CurrentKind, (from: Place) => Place]>([
    ['JET', () => mapAxes((a) => 2 * way[a])],
    ['SPIN', (p) => [2 * h * -way[2] * p[1], 2 * h * (way[2] * p[0] - way[0] * p[2]), 2 * h * way[0] * p[1]]],
    ['STILL', () => [0, 0, 0]],
    ['SHEAR', (p) => mapAxes((a) => 2 * p[1] * h * way[a])],
  ])('%s draws the air to its speed', (kind, wanted) => {
    const b = bench();
    const before = b.fields.map(b.reader);
    const fields: CurrentFields = {
      ...shapeOf(BALL),
      ...ALL,
      ...named(['fx', 'fy', 'fz', 'u', 'v', 'w'], [0, 1, 2, 3, 4, 5].map(b.at)),
      does: CurrentKind[kind],
      strength: 2,
      ...named(['dx', 'dy', 'dz'], way),
      pull: 0,
      spin: 0,
      mouth: 0,
      grip: 0.7,
      soft: 1.4,
      h,
      weight: b.at(6),
      ways: 0,
    };
    CurrentStruct.write(b.pool.memory, b.scratch, fields);
    b.run('applyCurrent', { block: b.scratch, ...STRIDES });
    for (const axis of [0, 1, 2]) {
      const after = b.reader(b.fields[axis]);
      for (const c of CELLS) {
        const from = mapAxes((a) => c[a] + 0.5 - BALL.centre[a]);
        const air = (faces(before[3 + axis], c, axis)[0] + faces(before[3 + axis], c, axis)[1]) / 2;
        const counts = Math.max(0, reach(c) * before[6](...c));
        const push = counts * 0.7 * (wanted(from)[axis] - air);
        expect(after(...c)).toBeCloseTo(before[axis](...c) + push, 4);
      }
    }

    b.pool.close();
  });
});

describe('emission', () => {
  const medium = (b: Bench, how: Partial<MediumEmissionFields>): void => {
    MediumEmissionStruct.write(b.pool.memory, b.scratch, {
      ...named(
        ['mean', 'most', 'density', 'red', 'green', 'blue', 'age', 'outflow'],
        [0, 1, 2, 3, 4, 5, 6, 7].map(b.at),
      ),
      ...named(['cr', 'cg', 'cb'], [0, 0, 0]),
      densityHow: CombineMode.NONE,
      colourHow: CombineMode.NONE,
      ageHow: CombineMode.NONE,
      densityAmount: 2,
      ...named(['r', 'g', 'b'], [0.2, 0.5, 0.9]),
      ageAmount: 3,
      push: 0.4,
      dt: 0.1,
      draw: 0.25,
      ...ALL,
      ...how,
    });
    b.run('emitMedium', { gift: b.scratch, ...STRIDES });
  };

  test.each([
    ['ADD', (now: number, mean: number) => now + mean * 2 * 0.1],
    ['RAISE', (now: number, _: number, most: number) => Math.max(now, 2 * most)],
    ['REPLACE', (now: number, _: number, most: number) => now + most * (2 - now)],
    ['BLEND', (now: number, mean: number) => now + 0.25 * mean * (2 - now)],
  ] as const)(
    'emitMedium, %s: what is new has its colour, what goes takes its share along',
    (how, wanted) => {
      const b = bench();
      const [mean, most, density, red, , , age, outflow] = b.fields.map(b.reader);
      medium(b, { densityHow: CombineMode[how], colourHow: CombineMode.ADD });
      const after = b.fields.map(b.reader);
      for (const c of CELLS) {
        const covered = mean(...c) > 0;
        const was = density(...c);
        const now = covered ? Math.max(0, wanted(was, mean(...c), Math.min(1, most(...c)))) : was;
        const kept = covered && was > 0 && now < was ? now / was : 1;
        const fresh = covered ? Math.max(0, now - was) : 0;
        expect(after[2](...c)).toBeCloseTo(now, 5);
        expect(after[3](...c)).toBeCloseTo(red(...c) * kept + 0.2 * fresh, 4);
        expect(after[6](...c)).toBeCloseTo(age(...c) * kept, 4);
        expect(after[7](...c)).toBeCloseTo(outflow(...c) + (covered ? 0.4 * mean(...c) : 0), 5);
      }

      b.pool.close();
    },
  );

  test('emitMedium, colour and age that are drawn to: as amounts of the density that is there', () => {
    const b = bench();
    const [mean, , density, red, , , age] = b.fields.map(b.reader);
    medium(b, { colourHow: CombineMode.BLEND, ageHow: CombineMode.BLEND });
    const after = b.fields.map(b.reader);
    for (const c of CELLS) {
      const part = mean(...c) > 0 ? 0.25 * mean(...c) : 0;
      const toward = (now: number, amount: number): number => now + part * (density(...c) * amount - now);
      expect(after[3](...c)).toBeCloseTo(toward(red(...c), 0.2), 5);
      expect(after[6](...c)).toBeCloseTo(toward(age(...c), 3), 5);
    }

    b.pool.close();
  });

  test.each<[keyof typeof VelocityMode, (place: Place) => Place]>([
    ['ALONG', () => [0.6, 0, 0.8]],
    ['POINT', (p) => unit(mapAxes((a) => p[a] - [1, 2, 3][a]))],
    ['MOTION', (p) => turned(mapAxes((a) => p[a] - BALL.centre[a]))],
    [
      'NORMAL',
      (p) => {
        const beside = (a: number, by: number): Place => mapAxes((n) => p[n] + (n === a ? by : 0));
        return unit(mapAxes((a) => distanceTo(BALL, beside(a, 0.5)) - distanceTo(BALL, beside(a, -0.5))));
      },
    ],
  ])('emitVelocity, %s: set on the faces between covered cells', (mode, wanted) => {
    const b = bench();
    const [mean, most, ...air] = b.fields.map(b.reader);
    const fields: VelocityEmissionFields = {
      ...shapeOf(BALL),
      ...ALL,
      ...named(['mean', 'most', 'u', 'v', 'w'], [0, 1, 2, 3, 4].map(b.at)),
      ...named(['su', 'sv', 'sw'], [0, 0, 0]),
      mode: VelocityMode[mode],
      cloud: 0,
      how: CombineMode.REPLACE,
      speed: 1.5,
      ...named(['dx', 'dy', 'dz'], [0.6, 0, 0.8]),
      ...named(['px', 'py', 'pz'], [1, 2, 3]),
      ...named(['vx', 'vy', 'vz'], [0.1, 0.2, 0.3]),
      ...named(['wx', 'wy', 'wz'], [0, 0.5, 0]),
      aside: 0,
      vary: 0,
      lumps: 1,
      moment: 0,
      seed: 1,
      ...named(['originX', 'originY', 'originZ'], [0, 0, 0]),
      dt: 0.1,
      draw: 0.25,
    };
    VelocityEmissionStruct.write(b.pool.memory, b.scratch, fields);
    b.run('emitVelocity', { push: b.scratch, ...STRIDES });
    for (const axis of [0, 1, 2]) {
      const after = b.reader(b.fields[2 + axis]);
      for (const c of CELLS.filter((one) => one[axis] > 0)) {
        const before = c.map((v, a) => v - Number(a === axis)) as unknown as Cell;
        const over = (f: Reader): number => (f(...c) + f(...before)) / 2;
        const now = air[axis](...c);
        const place = mapAxes((a) => c[a] + (a === axis ? 0 : 0.5));
        const to = over(mean) > 0 ? now + Math.min(1, over(most)) * (1.5 * wanted(place)[axis] - now) : now;
        expect(after(...c)).toBeCloseTo(to, 3);
      }
    }

    b.pool.close();
  });

  const unit = (v: Place): Place => mapAxes((a) => v[a] / Math.hypot(...v));
  const turned = (p: Place): Place => [0.1 + 0.5 * p[2], 0.2, 0.3 - 0.5 * p[0]];
});

describe('patterns', () => {
  const chance = (cell: readonly number[], time: number, seed: number): number =>
    (hash(cell, time, seed) >>> 8) / 2 ** 24;

  const fade = (v: number): number => v * v * v * (v * (v * 6 - 15) + 10);
  const valueAt = (place: Place, moment: number, seed: number): number => {
    const cell = place.map(Math.floor);
    const time = Math.floor(moment);
    const at = (when: number): number => {
      let sum = 0;
      for (let n = 0; n < 8; n++) {
        const corner = [n & 1, (n >> 1) & 1, n >> 2];
        const part = place.map((v, a) => (corner[a] ? fade(v - cell[a]) : 1 - fade(v - cell[a])));
        const value = chance(
          cell.map((v, a) => v + corner[a]),
          when,
          seed,
        );
        sum += part[0] * part[1] * part[2] * value;
      }

      return sum;
    };

    return at(time) + fade(moment - time) * (at(time + 1) - at(time));
  };

  const cellularAt = (place: Place, moment: number, seed: number): number => {
    const cell = place.map(Math.floor);
    const time = Math.floor(moment);
    let least = Infinity;
    for (let n = 0; n < 27; n++) {
      const there = cell.map((v, a) => v - 1 + (Math.floor(n / 3 ** a) % 3));
      const point = there.map((v, a) => {
        const [p, q] = [chance(there, time, seed + a), chance(there, time + 1, seed + a)];
        return v + p + fade(moment - time) * (q - p);
      });
      least = Math.min(least, Math.hypot(...point.map((v, a) => v - place[a])));
    }

    return Math.max(0, 1 - least);
  };

  const billowAt = (place: Place, moment: number, seed: number): number =>
    [0, 1, 2, 3].reduce((sum, o) => {
      const scaled = mapAxes((a) => place[a] * 2 ** o);
      return sum + (2 ** -o / 1.875) * Math.abs(2 * valueAt(scaled, moment, seed + 31 * o) - 1);
    }, 0);

  const LUMPS = 0.37;
  test.each<[keyof typeof NoiseKind, (own: Place, picture: Float32Array) => number]>([
    [
      'VALUE',
      (own) =>
        valueAt(
          mapAxes((a) => own[a] * LUMPS),
          2.3,
          4,
        ),
    ],
    [
      'CELLULAR',
      (own) =>
        cellularAt(
          mapAxes((a) => own[a] * LUMPS),
          2.3,
          4,
        ),
    ],
    [
      'BILLOW',
      (own) =>
        billowAt(
          mapAxes((a) => own[a] * LUMPS),
          2.3,
          4,
        ),
    ],
    [
      'PICTURE',
      (own, picture) => {
        // brightness is the fourth plane; from above, x to the right, z toward the bottom row
        const x = Math.min(3, Math.max(0, (own[0] / 14 + 0.5) * 4 - 0.5));
        const y = Math.min(2, Math.max(0, (0.5 - own[2] / 9) * 3 - 0.5));
        const at = (i: number, j: number): number => picture[36 + Math.min(2, j) * 4 + Math.min(3, i)];
        const [i, j] = [Math.floor(x), Math.floor(y)];
        const low = at(i, j) + (x - i) * (at(i + 1, j) - at(i, j));
        const high = at(i, j + 1) + (x - i) * (at(i + 1, j + 1) - at(i, j + 1));
        return low + (y - j) * (high - low);
      },
    ],
  ])('applyPattern, %s: multiplies a cover, in the shape’s own axes', (noise, wanted) => {
    const b = bench();
    const [mean, most] = b.fields.map(b.reader);
    const picture = Float32Array.from({ length: 48 }, random(21));
    putFloats(b.pool.memory, b.scratch + 4096, picture);
    const fields: PatternFields = {
      ...shapeOf(BOX),
      ...ALL,
      mean: b.at(0),
      most: b.at(1),
      noise: NoiseKind[noise],
      lumps: LUMPS,
      moment: 2.3,
      seed: 4,
      low: 0.1,
      high: 0.9,
      contrast: 1.4,
      strength: 0.6,
      picture: b.scratch + 4096,
      width: 4,
      height: 3,
      across: 14,
      up: 9,
      ...named(['cr', 'cg', 'cb'], [0, 0, 0]),
    };
    PatternStruct.write(b.pool.memory, b.scratch, fields);
    b.run('applyPattern', { layer: b.scratch, ...STRIDES });
    const after = [0, 1].map((n) => b.reader(b.fields[n]));
    for (const c of CELLS) {
      const value = (wanted(ownPlace(BOX, middleOf(c)), picture) - 0.1) / 0.8;
      const by = mean(...c) > 0 ? 1 + 0.6 * (clamp01((value - 0.5) * 1.4 + 0.5) - 1) : 1;
      expect(after[0](...c)).toBeCloseTo(mean(...c) * by, 3);
      expect(after[1](...c)).toBeCloseTo(most(...c) * by, 3);
    }

    b.pool.close();
  });
});

describe('particles', () => {
  const STRIDE = 4 * 16;
  /** A pool of so many at places with radii, in cells, that stand still. */
  const pool = (b: Bench, balls: readonly (readonly [...Place, number])[]): void => {
    const put = (array: number, values: number[]): void =>
      putFloats(b.pool.memory, b.scratch + array * STRIDE, Float32Array.from(values));
    for (const a of [0, 1, 2]) {
      put(
        ParticleArray.X + a,
        balls.map((one) => one[a]),
      );
      put(
        ParticleArray.WAS_X + a,
        balls.map((one) => one[a]),
      );
      put(
        ParticleArray.VX + a,
        balls.map(() => a + 1),
      );
    }

    put(
      ParticleArray.RADIUS,
      balls.map((one) => one[3]),
    );
    put(
      ParticleArray.LIFE,
      balls.map(() => 0),
    );
  };

  test('rasterizeParticles: a ball covers what lies in it, a thin one the eight voxels around it', () => {
    const b = bench();
    const balls = [
      [4.3, 3.2, 2.9, 2.2],
      [10.2, 5.1, 4.4, 0.4],
    ] as const;
    pool(b, balls);
    for (const n of [0, 1, 2, 3, 4]) fieldView(b.pool.memory, b.fields[n]).fill(0);
    ParticleSourceStruct.write(b.pool.memory, b.scratch + 32768, {
      pool: b.scratch,
      stride: STRIDE,
      count: 2,
      perM: 1,
      ...named(['originX', 'originY', 'originZ'], [0, 0, 0]),
      swell: 1,
      endSize: 1,
      endAmount: 1,
      ...named(['mean', 'most', 'su', 'sv', 'sw'], [0, 1, 2, 3, 4].map(b.at)),
      ...cells,
      nz: L.nz,
    });
    b.run('rasterizeParticles', { cloud: b.scratch + 32768 });
    const [mean, most, su] = b.fields.map(b.reader);
    const [ball, point] = balls;
    const volume = (4 / 3) * Math.PI * point[3] ** 3;
    for (const c of CELLS) {
      const inBall = partOf(c, [1, 1, 1], (p) => Math.hypot(...p.map((v, a) => v - ball[a])) < ball[3]);
      const share = mapAxes((a) => Math.max(0, 1 - Math.abs(c[a] + 0.5 - point[a])));
      const wanted = inBall + volume * share[0] * share[1] * share[2];
      expect(Math.abs(mean(...c) - wanted)).toBeLessThan(0.09);
      expect(most(...c)).toBeCloseTo(Math.min(1, mean(...c)), 5);
      expect(su(...c)).toBeCloseTo(mean(...c), 5);
    }

    const total = CELLS.reduce((sum, c) => sum + mean(...c), 0);
    expect(total).toBeCloseTo((4 / 3) * Math.PI * 2.2 ** 3 + volume, 0);
    b.pool.close();
  });

  test('compactParticles keeps those that live, in their order', () => {
    const b = bench();
    const put = (array: number, values: number[]): void =>
      putFloats(b.pool.memory, b.scratch + array * STRIDE, Float32Array.from(values));
    put(ParticleArray.ID, [1, 2, 3, 4, 5]);
    put(ParticleArray.LIFE, [2, 2, 0, 2, 2]);
    put(ParticleArray.AGE, [1, 2, 9, 3, 0.5]);
    expect(b.pool.solo('compactParticles', { pool: b.scratch, stride: STRIDE, count: 5 })).toBe(3);
    const ids = new Float32Array(b.pool.memory.buffer, b.scratch + ParticleArray.ID * STRIDE, 3);
    expect([...ids]).toEqual([1, 3, 5]);
    b.pool.close();
  });
});

describe('beside walls', () => {
  const l = lattice(16, 10, 12);
  const solid: Solid = { ...BOX, centre: [7.3, 4.6, 5.2], half: [3.1, 2.2, 2.6] };
  const every = (lat: Lattice, axis: number): Cell[] => {
    const m = sites(lat, axis);
    return Array.from({ length: m[0] * m[1] * m[2] }, (_, n) => [
      n % m[0],
      Math.floor(n / m[0]) % m[1],
      Math.floor(n / m[0] / m[1]),
    ]);
  };

  /** A window with a floor and a turned box in it that moves and turns, as the step lays it out. */
  function scene() {
    const layout = planLayout(l, compile(recipeOf()).plan, 1);
    const threadPool = startThreadPool(layout.pages, 1);
    describeLevels(layout.levels, ['open', 'open', 'wall', 'open', 'wall', 'open'], threadPool.memory);
    const level = layout.levels[0].block;
    const fields: SolidFields = {
      ...shapeOf(solid),
      ...boxFields([
        [0, 0, 0],
        [l.nx, l.ny, l.nz],
      ]),
      ...named(['vx', 'vy', 'vz'], [0.5, -0.2, 0.1]),
      ...named(['wx', 'wy', 'wz'], [0.05, 0.1, -0.02]),
      stick: 0.3,
    };
    SolidStruct.write(threadPool.memory, layout.advection, fields);
    threadPool.solo('resetFaces', { level, i0: 0, i1: l.nx, j0: 0, j1: l.ny, k0: 0, k1: l.nz + 1 });
    const plain = layout.levels[0].open.map((f) => readerOf(threadPool, f));
    threadPool.solo('cutFaces', { level, solid: layout.advection, k0: 0, k1: l.nz + 1 });
    const open = layout.levels[0].open.map((f) => readerOf(threadPool, f));
    coarsenLevels(threadPool, layout.levels, [0, 0, 0], [l.nx, l.ny, l.nz]);
    for (const one of layout.levels) threadPool.solo('fillCoefficients', { level: one.block });
    return { layout, threadPool, level, plain, open };
  }

  const readerOf = (threadPool: ThreadPool, f: Field): Reader => {
    const { lead, rowStride, planeStride } = f.lattice;
    const kept = fieldView(threadPool.memory, f).slice();
    return (i, j, k) => kept[lead + k * planeStride + j * rowStride + i];
  };

  const randomVelocity = (threadPool: ThreadPool, layout: Layout): Reader[] => {
    const next = random(17);
    return layout.velocity.map((f, axis) => {
      const m = sites(l, axis);
      const walls = ([, j, k]: Cell): boolean => (axis === 1 && j === 0) || (axis === 2 && k === 0);
      const values = Float32Array.from(every(l, axis), (c) => (walls(c) ? 0 : next() * 2 - 1));
      writeField(threadPool.memory, f, values, [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz]);
      return readerOf(threadPool, f);
    });
  };

  const onFace = (c: Cell, axis: number): Place => mapAxes((a) => c[a] + (a === axis ? 0 : 0.5));
  const speedAt = (p: Place): Place => {
    const [x, y, z] = mapAxes((a) => p[a] - solid.centre[a]);
    return [0.5 + 0.1 * z + 0.02 * y, -0.2 - 0.02 * x - 0.05 * z, 0.1 + 0.05 * y - 0.1 * x];
  };

  const step = (c: Cell, axis: number, by: number): Cell =>
    c.map((v, a) => v + (a === axis ? by : 0)) as unknown as Cell;
  const openness = (open: Reader[], c: Cell): number =>
    [0, 1, 2].reduce((sum, a) => sum + open[a](...c) + open[a](...step(c, a, 1)), 0);
  const cellsOf = every(l, 3);

  /** Open part of a face whose surface is bilinear between its corners, softened over a quarter of it. */
  const openPart = (c: Cell, axis: number): number => {
    const [x, y] = [0, 1, 2].filter((a) => a !== axis);
    const corner = (n: number): number =>
      distanceTo(
        solid,
        mapAxes((a) => c[a] + (a === x ? n & 1 : 0) + (a === y ? n >> 1 : 0)),
      );
    const [d0, d1, d2, d3] = [0, 1, 2, 3].map(corner);
    const middle = distanceTo(solid, onFace(c, axis));
    if (middle > 0.75 || Math.min(d0, d1, d2, d3) >= 0) return 1;
    if (middle < -0.75 || Math.max(d0, d1, d2, d3) <= 0) return 0;
    let sum = 0;
    for (let n = 0; n < 16; n++) {
      const [a, b] = [((n & 3) + 0.5) / 4, ((n >> 2) + 0.5) / 4];
      const there = (d0 * (1 - a) + d1 * a) * (1 - b) + (d2 * (1 - a) + d3 * a) * b;
      sum += clamp01(4 * there + 0.5) / 16;
    }

    return sum < 0.05 ? 0 : sum;
  };

  test('resetFaces opens all but walls; cutFaces takes what the box covers of each face', () => {
    const { plain, open, threadPool } = scene();
    for (const axis of [0, 1, 2]) {
      for (const c of every(l, axis)) {
        const closed = (axis === 1 && c[1] === 0) || (axis === 2 && c[2] === 0);
        expect(plain[axis](...c)).toBe(closed ? 0 : 1);
        expect(open[axis](...c)).toBeCloseTo(closed ? 0 : openPart(c, axis), 3);
      }
    }

    threadPool.close();
  });

  test('solidFlow: what the box drives out of the cells it cuts', () => {
    const { layout, threadPool, level, open, plain } = scene();
    const into = layout.channels[0];
    fieldView(threadPool.memory, into).fill(0);
    threadPool.solo('solidFlow', {
      level,
      solid: layout.advection,
      outflow: into.address,
      k0: 0,
      k1: l.nz,
    });
    const made = readerOf(threadPool, into);
    for (const c of cellsOf) {
      const cut = Math.abs(distanceTo(solid, middleOf(c))) <= 1.5 && openness(open, c) > 0;
      let out = 0;
      for (const axis of cut ? [0, 1, 2] : [])
        for (const side of [0, 1]) {
          const face = step(c, axis, side);
          if (plain[axis](...face) === 0) continue;
          const closed = 1 - open[axis](...face);
          out += (side ? closed : -closed) * speedAt(onFace(face, axis))[axis];
        }

      expect(made(...c)).toBeCloseTo(-out, 4);
    }

    threadPool.close();
  });

  /** The part of each cell that the box covers, by its eighths. */
  const coveredPart = (c: Cell): number => {
    const middle = distanceTo(solid, middleOf(c));
    if (Math.abs(middle) > 1) return Number(middle < 0);
    return [0, 1, 2, 3, 4, 5, 6, 7].reduce((part, q) => {
      const p = mapAxes((a) => c[a] + ((q >> a) & 1 ? 0.75 : 0.25));
      return part + clamp01(0.5 - 2 * distanceTo(solid, p)) / 8;
    }, 0);
  };

  const widest = (open: Reader[], c: Cell): number =>
    Math.max(...[0, 1, 2].flatMap((a) => [open[a](...c), open[a](...step(c, a, 1))]));
  const putCells = (threadPool: ThreadPool, f: Field, value: (c: Cell) => number): void =>
    writeField(threadPool.memory, f, Float32Array.from(cellsOf, value));

  test('coverRooms and boundRooms: the air that the box leaves to cells, hardly any to shut ones', () => {
    const { layout, threadPool, level, open } = scene();
    const [f] = layout.channels;
    putCells(threadPool, f, () => 1);
    threadPool.solo('coverRooms', { level, solid: layout.advection, rooms: f.address, k0: 0, k1: l.nz });
    const left = readerOf(threadPool, f);
    threadPool.solo('boundRooms', { level, rooms: f.address, k0: 0, k1: l.nz });
    const bounded = readerOf(threadPool, f);
    for (const c of cellsOf) {
      expect(left(...c)).toBeCloseTo(1 - coveredPart(c), 4);
      const shut = openness(open, c) === 0;
      expect(bounded(...c)).toBeCloseTo(shut ? 0.02 : Math.max(0.06 * widest(open, c), left(...c)), 4);
    }

    threadPool.close();
  });

  test('settleRooms: the air changes by what the surfaces drive, and a little toward the shape', () => {
    const { layout, threadPool, level, open } = scene();
    const [rooms, outflow] = layout.channels;
    const roomsTo = layout.spare;
    const next = random(5);
    const before = cellsOf.map(() => next());
    const shape = cellsOf.map((_, n) => (n % 3 ? before[n] + 0.4 * (next() - 0.5) : before[n]));
    const driven = cellsOf.map((_, n) => (n % 2 ? next() - 0.5 : 0));
    const at = (c: Cell): number => (c[2] * l.ny + c[1]) * l.nx + c[0];
    putCells(threadPool, rooms, (c) => before[at(c)]);
    putCells(threadPool, roomsTo, (c) => shape[at(c)]);
    putCells(threadPool, outflow, (c) => driven[at(c)]);
    const kappa = 0.7;
    threadPool.solo('settleRooms', {
      level,
      rooms: rooms.address,
      roomsTo: roomsTo.address,
      outflow: outflow.address,
      kappa,
      k0: 0,
      k1: l.nz,
    });
    const [after, out] = [readerOf(threadPool, roomsTo), readerOf(threadPool, outflow)];
    for (const c of cellsOf) {
      const n = at(c);
      const wide = openness(open, c);
      const slack = 0.04 * wide;
      const change = Math.min(
        Math.max(before[n] - shape[n], kappa * driven[n] - slack),
        kappa * driven[n] + slack,
      );
      const still = before[n] === shape[n] && driven[n] === 0;
      const wanted = Math.max(before[n] - change, 0.06 * widest(open, c));
      if (still || wide === 0) expect(after(...c)).toBeCloseTo(shape[n], 5);
      else expect(after(...c)).toBeCloseTo(wanted, 5);
      if (wide > 0 && !still) expect(kappa * out(...c)).toBeCloseTo(before[n] - wanted, 5);
      if (wide === 0) expect(out(...c)).toBeCloseTo(still ? driven[n] : 0, 5);
    }

    threadPool.close();
  });

  test('handOver: cells that are shut give what they hold and their air to the nearest open ones', () => {
    const { layout, threadPool, level, open } = scene();
    const [rooms, roomsTo] = [layout.spare, layout.scratch[0]];
    const fields = layout.channels.slice(0, 2);
    const next = random(6);
    const values = fields.map(() => cellsOf.map(() => next()));
    const air = cellsOf.map(() => 0.1 + next());
    const at = (c: Cell): number => (c[2] * l.ny + c[1]) * l.nx + c[0];
    fields.forEach((f, n) => putCells(threadPool, f, (c) => values[n][at(c)]));
    putCells(threadPool, rooms, (c) => air[at(c)]);
    const shut = (c: Cell): boolean => openness(open, c) === 0;
    putCells(threadPool, roomsTo, (c) => (shut(c) ? 0.02 : 0.5));
    new Int32Array(threadPool.memory.buffer, layout.emission, 3).set([2, ...addresses(fields)]);
    const [i0, j0, from] = [0, 0, 0];
    threadPool.solo('handOver', {
      level,
      list: layout.emission,
      rooms: rooms.address,
      roomsTo: roomsTo.address,
      ...{ i0, j0, from, i1: l.nx, j1: l.ny, to: l.nz },
    });

    // the same, cell after cell
    const mass = values.map((v) => v.map((x, n) => x * air[n]));
    const held = [...air];
    for (const c of cellsOf.filter(shut)) {
      const far = (o: Cell): number => Math.max(...o.map((v, a) => Math.abs(v - c[a])));
      const beside = (o: Cell): boolean => o.reduce((sum, v, a) => sum + Math.abs(v - c[a]), 0) === 1;
      const free = cellsOf.filter((o) => !shut(o));
      const close = Math.min(...free.map(far));
      const near = free.some(beside) ? free.filter(beside) : free.filter((o) => far(o) === close);
      for (const o of near) {
        mass.forEach((m) => (m[at(o)] += m[at(c)] / near.length));
        held[at(o)] += (air[at(c)] - 0.02) / near.length;
      }

      mass.forEach((m) => (m[at(c)] = 0));
      held[at(c)] = 0.02;
    }

    const [gotRooms, ...got] = [rooms, ...fields].map((f) => readerOf(threadPool, f));
    for (const c of cellsOf) {
      expect(gotRooms(...c)).toBeCloseTo(held[at(c)], 3);
      got.forEach((f, n) => expect(f(...c)).toBeCloseTo(mass[n][at(c)] / held[at(c)], 3));
    }

    threadPool.close();
  });

  test('shareSlivers: cells with hardly any air are as one with a neighbour', () => {
    const { layout, threadPool, level, open } = scene();
    const rooms = layout.spare;
    const [f] = layout.channels;
    const next = random(8);
    const values = cellsOf.map(() => next());
    const shut = (c: Cell): boolean => openness(open, c) === 0;
    const at = (c: Cell): number => (c[2] * l.ny + c[1]) * l.nx + c[0];
    // few and far between, so that none shares twice
    const small = (c: Cell): boolean => !shut(c) && c.every((v, a) => v % 4 === (a === 1 ? 2 : 1));
    putCells(threadPool, f, (c) => values[at(c)]);
    putCells(threadPool, rooms, (c) => (small(c) ? 0.1 : 0.9));
    new Int32Array(threadPool.memory.buffer, layout.emission, 2).set([1, f.address]);
    const [i0, j0, from] = [0, 0, 0];
    threadPool.solo('shareSlivers', {
      level,
      list: layout.emission,
      rooms: rooms.address,
      ...{ i0, j0, from, i1: l.nx, j1: l.ny, to: l.nz },
    });
    const got = readerOf(threadPool, f);
    const wanted = [...values];
    expect(cellsOf.filter(small).length).toBeGreaterThan(5);
    for (const c of cellsOf.filter(small)) {
      const ways = [0, 1, 2].flatMap((a) =>
        [-1, 1].flatMap((by) => {
          const o = step(c, a, by);
          const inside = o[a] >= 0 && o[a] < [l.nx, l.ny, l.nz][a];
          return inside ? [{ o, opening: open[a](...(by < 0 ? c : o)) }] : [];
        }),
      );
      const { o } = ways.reduce((best, way) => (way.opening > best.opening ? way : best));
      const mean = (0.1 * values[at(c)] + 0.9 * values[at(o)]) / 1;
      wanted[at(c)] = mean;
      wanted[at(o)] = mean;
    }

    for (const c of cellsOf) expect(got(...c)).toBeCloseTo(wanted[at(c)], 4);
    threadPool.close();
  });

  test('settleDebts: what a cell owes is paid by what stands behind its open faces, by mass', () => {
    const { layout, threadPool, level, open } = scene();
    const rooms = layout.spare;
    const fields = layout.channels.slice(0, 2);
    const next = random(9);
    const at = (c: Cell): number => (c[2] * l.ny + c[1]) * l.nx + c[0];
    // few and far between, so that none pays twice; one owes more than there is
    const owes = (c: Cell): boolean => openness(open, c) > 0 && c.every((v) => v % 4 === 1);
    const debt = (c: Cell): number => (c[0] === 5 ? -50 : -0.2);
    const density = cellsOf.map((c) => (owes(c) ? debt(c) : 0.1 + next()));
    const rides = density.map((v) => 0.7 * v);
    const air = cellsOf.map(() => 0.3 + next());
    [density, rides].forEach((v, n) => putCells(threadPool, fields[n], (c) => v[at(c)]));
    putCells(threadPool, rooms, (c) => air[at(c)]);
    new Int32Array(threadPool.memory.buffer, layout.emission, 3).set([2, ...addresses(fields)]);
    threadPool.solo('settleDebts', { level, list: layout.emission, rooms: rooms.address });
    const got = fields.map((f) => readerOf(threadPool, f));
    const wanted = [[...density], [...rides]];
    for (const c of cellsOf.filter(owes)) {
      const beside = [0, 1, 2].flatMap((a) =>
        [-1, 1].flatMap((by) => {
          const o = step(c, a, by);
          const inside = o[a] >= 0 && o[a] < [l.nx, l.ny, l.nz][a];
          return inside && open[a](...(by < 0 ? c : o)) > 0 ? [at(o)] : [];
        }),
      );
      const held = beside.reduce((sum, n) => sum + density[n] * air[n], 0);
      const owed = -debt(c) * air[at(c)];
      if (held < owed) continue;
      for (const v of wanted) {
        v[at(c)] = 0;
        for (const n of beside) v[n] *= 1 - owed / held;
      }
    }

    expect(wanted[0]).not.toEqual(density);
    expect(wanted[0].some((v) => v < -1)).toBe(true);
    for (const c of cellsOf) got.forEach((f, n) => expect(f(...c)).toBeCloseTo(wanted[n][at(c)], 4));
    threadPool.close();
  });

  test('coverFaces: the box’s speed on its surface, behind it as far as it sticks', () => {
    const { layout, threadPool, level, open, plain } = scene();
    const before = randomVelocity(threadPool, layout);
    threadPool.solo('coverFaces', {
      level,
      solid: layout.advection,
      ...named(['u', 'v', 'w'], addresses(layout.velocity)),
      k0: 0,
      k1: l.nz,
    });
    for (const axis of [0, 1, 2]) {
      const after = readerOf(threadPool, layout.velocity[axis]);
      for (const c of cellsOf.filter((one) => one[axis] > 0)) {
        const now = before[axis](...c);
        const covered = open[axis](...c) === 0 && plain[axis](...c) > 0;
        const surface = openness(open, c) > 0 || openness(open, step(c, axis, -1)) > 0;
        const own = speedAt(onFace(c, axis))[axis];
        const to = surface ? own : now + 0.3 * (own - now);
        expect(after(...c)).toBeCloseTo(covered ? to : now, 4);
      }
    }

    threadPool.close();
  });

  test('clearSolids empties cells without an open face', () => {
    const { layout, threadPool, level, open } = scene();
    const f = layout.channels[0];
    writeField(threadPool.memory, f, new Float32Array(l.nx * l.ny * l.nz).fill(2));
    threadPool.solo('clearSolids', { level, f: f.address, k0: 0, k1: l.nz });
    const left = readField(threadPool.memory, f);
    const inside = cellsOf.filter((c) => openness(open, c) === 0);
    expect(inside.length).toBeGreaterThan(20);
    cellsOf.forEach((c, n) => expect(left[n]).toBe(openness(open, c) > 0 ? 2 : 0));
    threadPool.close();
  });

  test('extrapolate: faces deep in the box take the mean of their open neighbours', () => {
    const { layout, threadPool, level, open } = scene();
    const before = randomVelocity(threadPool, layout);
    for (const axis of [0, 1, 2]) {
      threadPool.solo('extrapolate', {
        level,
        vel: layout.velocity[axis].address,
        axis,
        k0: 0,
        k1: l.nz,
      });
      const after = readerOf(threadPool, layout.velocity[axis]);
      for (const c of cellsOf.filter((one) => one[axis] > 0)) {
        const deep = openness(open, c) === 0 && openness(open, step(c, axis, -1)) === 0;
        const beside = [0, 1, 2]
          .flatMap((a) => [step(c, a, -1), step(c, a, 1)])
          .filter((p) => p.every((v, a) => v >= 0 && v < [l.nx, l.ny, l.nz][a]) && open[axis](...p) > 0);
        const mean = beside.reduce((sum, p) => sum + before[axis](...p), 0) / Math.max(1, beside.length);
        expect(after(...c)).toBeCloseTo(deep ? mean : before[axis](...c), 4);
      }
    }

    threadPool.close();
  });

  test('coarsenFaces and classifyRows: means of four fine faces; rows that differ from plain air', () => {
    const { layout, threadPool, open } = scene();
    const [fine, coarse] = layout.levels;
    const half = coarse.lattice;
    for (const axis of [0, 1, 2]) {
      const made = readerOf(threadPool, coarse.open[axis]);
      const last = [half.nx, half.ny, half.nz][axis];
      // an open side grows by what half a finest cell is of half a coarse one
      const ghost = made(...(mapAxes((a) => (a === axis ? last : 0)) as unknown as Cell));
      for (const c of every(half, axis)) {
        const across = [0, 1, 2].filter((a) => a !== axis);
        let sum = 0;
        for (let n = 0; n < 4; n++) {
          const at = mapAxes(
            (a) => 2 * c[a] + (a === across[0] ? n & 1 : 0) + (a === across[1] ? n >> 1 : 0),
          );
          if (at.every((v, a) => v < sites(l, axis)[a])) sum += open[axis](...(at as unknown as Cell));
        }

        const rim = c[axis] === 0 || c[axis] === last;
        expect(made(...c)).toBeCloseTo((sum / 4) * (rim ? ghost : 1), 4);
      }
    }

    const kinds = new Uint32Array(threadPool.memory.buffer, fine.kind, l.ny * l.nz);
    // floor and back are walls, all else is air
    const sides = (c: Cell, a: number): [number, number] => [c[a] === 0 && a > 0 ? 0 : 1, 1];
    for (let n = 0; n < kinds.length; n++) {
      const row = Array.from({ length: l.nx }, (_, i): Cell => [i, n % l.ny, Math.floor(n / l.ny)]);
      const odd = row.filter((c) =>
        [0, 1, 2].some(
          (a) => open[a](...c) !== sides(c, a)[0] || open[a](...step(c, a, 1)) !== sides(c, a)[1],
        ),
      );
      const from = odd.length ? Math.min(...odd.map((c) => c[0] >> 3)) : 0;
      const to = odd.length ? Math.max(...odd.map((c) => (c[0] >> 3) + 1)) : 0;
      expect([kinds[n] & 255, kinds[n] >> 8]).toEqual([from, to]);
    }

    threadPool.close();
  });

  test('applyForces: open faces take the mean of the cells beside them, closed ones stand still', () => {
    const { layout, threadPool, level, open } = scene();
    const air = randomVelocity(threadPool, layout);
    const next = random(29);
    const pushes = layout.acceleration.map((f) => {
      writeField(
        threadPool.memory,
        f,
        Float32Array.from(cellsOf, () => next() * 2 - 1),
      );
      fillHalo(threadPool, f, 3, 0);
      return readerOf(threadPool, f);
    });
    threadPool.solo('applyForces', {
      level,
      ...named(['u', 'v', 'w'], addresses(layout.velocity)),
      ...named(['fx', 'fy', 'fz'], addresses(layout.acceleration)),
      dt: 0.2,
      k0: 0,
      k1: l.nz + 1,
    });
    for (const axis of [0, 1, 2]) {
      const after = readerOf(threadPool, layout.velocity[axis]);
      for (const c of every(l, axis)) {
        const push = 0.1 * (pushes[axis](...c) + pushes[axis](...step(c, axis, -1)));
        expect(after(...c)).toBeCloseTo(open[axis](...c) > 0 ? air[axis](...c) + push : 0, 5);
      }
    }

    threadPool.close();
  });

  test('rightHandSide, sumResidual, removeMean and subtractGradient: a pressure’s way in and out', () => {
    const { layout, threadPool, level, open } = scene();
    const air = randomVelocity(threadPool, layout);
    const next = random(23);
    const size = l.nx * l.ny * l.nz;
    const lives = cellsOf.map((c) => openness(open, c) > 1e-6);
    const p = Float32Array.from({ length: size }, (_, n) => (lives[n] ? next() : 0));
    const out = Float32Array.from({ length: size }, next);
    writeSplit(threadPool.memory, { address: layout.pressure, lattice: l }, p);
    const given = layout.channels[0];
    writeField(threadPool.memory, given, out);
    const slab = l.nz + 1;
    const { partials, pressure } = layout;
    const velocity = named(['u', 'v', 'w'], addresses(layout.velocity));
    const range = { k0: 0, k1: l.nz };
    const part = (k: number, slot: number): number =>
      new Float64Array(threadPool.memory.buffer, partials, (l.nz + 1) * 8)[8 * k + slot];
    const inBox = (c: Cell): boolean => c.every((v, a) => v >= 0 && v < [l.nx, l.ny, l.nz][a]);
    const pressureAt = (c: Cell): number => (inBox(c) ? p[(c[2] * l.ny + c[1]) * l.nx + c[0]] : 0);

    threadPool.solo('rightHandSide', {
      level,
      ...velocity,
      outflow: given.address,
      p: pressure,
      partials,
      slab,
      ...range,
    });
    const r = { address: layout.levels[0].r, lattice: l };
    const wanted = cellsOf.map((c, n) => {
      if (!lives[n]) return 0;
      let sum = out[n];
      for (const axis of [0, 1, 2]) {
        const ahead = step(c, axis, 1);
        sum += open[axis](...c) * air[axis](...c) - open[axis](...ahead) * air[axis](...ahead);
        sum += open[axis](...c) * (pressureAt(step(c, axis, -1)) - pressureAt(c));
        sum += open[axis](...ahead) * (pressureAt(ahead) - pressureAt(c));
      }

      return sum;
    });
    readSplit(threadPool.memory, r).forEach((v, n) => expect(v).toBeCloseTo(wanted[n], 4));

    threadPool.solo('sumResidual', { level, partials, ...range });
    for (let k = 0; k < l.nz; k++) {
      const plane = cellsOf
        .map((c, n) => (c[2] === k && lives[n] ? wanted[n] : null))
        .filter((v) => v !== null);
      expect(part(k, 0)).toBeCloseTo(
        plane.reduce((sum, v) => sum + v, 0),
        3,
      );
      expect(part(k, 1)).toBe(plane.length);
    }

    threadPool.solo('removeMean', { level, mean: 0.25, ...range });
    readSplit(threadPool.memory, r).forEach((v, n) =>
      expect(v).toBeCloseTo(wanted[n] - (lives[n] ? 0.25 : 0), 4),
    );

    threadPool.solo('subtractGradient', {
      level,
      ...velocity,
      p: pressure,
      partials,
      slab,
      k0: 0,
      k1: l.nz + 1,
    });
    for (const axis of [0, 1, 2]) {
      const after = readerOf(threadPool, layout.velocity[axis]);
      for (const c of every(l, axis)) {
        const slope = open[axis](...c) > 0 ? pressureAt(c) - pressureAt(step(c, axis, -1)) : 0;
        expect(after(...c)).toBeCloseTo(air[axis](...c) - slope, 4);
      }

      const top = Math.max(...every(l, axis).map((c) => Math.abs(after(...c))));
      expect(Math.max(...Array.from({ length: l.nz + 1 }, (_, k) => part(k, axis)))).toBeCloseTo(top, 5);
    }

    expect(Array.from({ length: l.nz + 1 }, (_, k) => part(k, 3))).toEqual(new Array(l.nz + 1).fill(0));
    threadPool.close();
  });
});

// Readings against fields that are known, and the curves that are drawn of them.
import { READING_CURVES, frontSpeeds } from '@bramblemist/core/record/reading-curves';
import type { Readings } from '@bramblemist/core/record/readings';
import { fill } from './physics/kit';
import { ALL_OPEN, recipeOf, simulate } from './run';

const frame = (recipe: object, set: (x: number, y: number, z: number) => number): Readings => {
  const s = simulate(recipeOf(recipe as Record<string, unknown>));
  fill(s, 'density', set);
  return s.advanceFrame().readings;
};

const within = (v: number, low: number, high: number): boolean => v > low && v < high;

test('the extent is the box of what is above the threshold, in metres of the world', () => {
  const { extent, riseHeight, volume, mass } = frame({}, (x, y, z) =>
    within(x, -0.2, 0.3) && within(y, 0.4, 1) && within(z, 0, 0.1) ? 2 : 0,
  );
  for (const [n, v] of [-0.2, 0.3, 0.4, 1, 0, 0.1].entries()) expect(extent![n]).toBeCloseTo(v, 6);
  expect(riseHeight).toBeCloseTo(1, 6);
  expect(volume).toBeCloseTo(0.5 * 0.6 * 0.1, 6);
  expect(mass).toBeCloseTo(2 * 0.5 * 0.6 * 0.1, 6);
});
test('the middle of the mass and its spread, in metres of the world', () => {
  const { centre, spread } = frame({}, (x, y, z) =>
    within(x, -0.2, 0.3) && within(y, 0.4, 1) && within(z, 0, 0.1) ? 2 : 0,
  );
  for (const [n, v] of [0.05, 0.7, 0.05].entries()) expect(centre![n]).toBeCloseTo(v, 6);
  // of n even cells in a row: √((n² − 1) / 12)
  for (const [n, cells] of [5, 6, 1].entries())
    expect(spread![n]).toBeCloseTo(0.1 * Math.sqrt((cells ** 2 - 1) / 12), 5);
});
test('frames of a start delay stay empty, and obstacles are where they belong after it', () => {
  const parts = {
    sources: [{ id: 's', centre: [0, 0.5, 0], radius: 0.2 }],
    obstacles: [{ id: 'o', shape: 'box', centre: [0, 1.2, 0], size: [0.3, 0.3, 0.3], spin: 30 }],
    buoyancy: { lift: 0.033, weight: 0 },
  };
  const late = simulate(recipeOf({ ...parts, space: { delay: 3 } }));
  const frames = Array.from({ length: 6 }, () => late.advanceFrame().readings);
  expect(frames.map((r) => r.substeps === 0)).toEqual([true, true, true, false, false, false]);
  expect(frames.map((r) => r.mass > 0)).toEqual([false, false, false, true, true, true]);
  expect(frames[2].topSpeed).toBe(0);
  // all the same as where the run begins later
  const later = simulate(recipeOf({ ...parts, space: { firstFrame: 4 }, obstacles: [] }));
  const alone = simulate(recipeOf({ ...parts, space: { delay: 3 }, obstacles: [] }));
  for (let f = 0; f < 5; f++) later.advanceFrame();
  for (let f = 0; f < 8; f++) alone.advanceFrame();
  expect(alone.checksum()).toBe(later.checksum());
  for (const s of [late, later, alone]) s.threadPool.close();
});
test('without any medium there is no extent', () => {
  expect(frame({}, () => 0).extent).toBeNull();
});
test('contact is told side by side', () => {
  // the floor's row of cells holds a quarter of it, the right one's column an eighth
  const r = frame({}, (x, y) => (x > 0 && y < 0.4 ? 1 : 0));
  expect(r.contactSides![2]).toBeCloseTo(1 / 4, 5);
  expect(r.contactSides![1]).toBeCloseTo(1 / 8, 5);
  expect(r.contactSides![0]).toBe(0);
  expect(r.contactSides![3]).toBe(0);
  expect(r.contactSides![4]).toBeCloseTo(1 / 16, 5);
});
describe('the ledger', () => {
  const source = { id: 's', centre: [-0.3, 0.5, 0], radius: 0.2, density: { amount: 3 }, until: 6 };
  const run = (parts: Record<string, unknown>, frames: number): Readings[] => {
    const s = simulate(recipeOf({ space: { sides: ALL_OPEN }, sources: [source], ...parts }));
    const all = Array.from({ length: frames }, () => s.advanceFrame().readings);
    s.threadPool.close();
    return all;
  };

  test.each<[string, Record<string, unknown>]>([
    ['wind through open sides', { wind: { speed: 3, grip: 0.05 } }],
    ['fading everywhere', { dissipation: { density: 0.5 } }],
    ['fading thin parts first', { dissipation: { density: 0.5, bias: -0.5, even: 0.5 } }],
    ['carried softly', { method: { density: 'soft' }, wind: { speed: 3, grip: 0.05 } }],
    ['with colour and age', { keep: { colour: true, age: true } }],
    ['a window that fits', { window: { mode: 'fit', margin: 2 }, wind: { speed: 1, grip: 0.1 } }],
    ['a formula that takes', { formulas: [{ id: 'f', text: 'density = density * 0.9', when: 'end' }] }],
    [
      'an obstacle that sweeps through it',
      { obstacles: [{ centre: [0.5, 0.5, 0], radius: 0.3, motion: 'moves', velocity: [-1.5, 0, 0] }] },
    ],
  ])('%s: what is there is what was given less what has faded and left', (_, parts) => {
    let before = 0;
    for (const [n, r] of run(parts, 14).entries()) {
      const { mass, massGivenOff = 0, massFaded = 0, massLeft = 0, massMade = 1 } = r;
      expect(mass).toBeCloseTo(before + massGivenOff - massFaded - massLeft + massMade, 9);
      expect(Math.abs(massMade)).toBeLessThan(1e-5 * mass);
      if (n < 6) expect(massGivenOff).toBeGreaterThan(0);
      else expect(massGivenOff).toBe(0);
      expect(massLeft).toBeGreaterThan(-1e-9);
      before = mass;
    }
  });

  test('its accounts: a source’s amount, a half-life, the side with the wind', () => {
    const [first] = run({}, 1);
    // 3 a second for a frame of 1/25 s, over a ball
    const ball = (4 / 3) * Math.PI * 0.2 ** 3;
    expect(first.massGivenOff! / ((3 / 25) * ball)).toBeCloseTo(1, 1);
    const fading = run({ dissipation: { density: 0.5 } }, 10)[9];
    const kept = 2 ** (-1 / 25 / 0.5);
    expect(fading.massFaded! / (fading.massFaded! + fading.mass)).toBeCloseTo(1 - kept, 4);
    const blown = run({ wind: { speed: 4, grip: 0.02 } }, 30);
    const sides = [0, 1, 2, 3, 4, 5].map((side) => blown.reduce((sum, r) => sum + r.massLeftSides![side], 0));
    const left = blown.reduce((sum, r) => sum + r.massLeft!, 0);
    expect(sides[1]).toBeGreaterThan(0.5 * left);
    expect(sides[0]).toBeLessThan(0.01 * left);
    expect(sides.reduce((a, b) => a + b, 0)).toBeCloseTo(left, 9);
  });
});

const course = (at: (frame: number) => number): { frame: number; readings: Readings }[] =>
  Array.from({ length: 20 }, (_, n) => ({
    frame: n + 1,
    readings: { extent: [-at(n + 1), 0.5, 0, 1, -0.5, 0.5] } as unknown as Readings,
  }));
describe('front speed', () => {
  test('is that of the side which goes outward the fastest', () => {
    for (const v of frontSpeeds(
      course((f) => 0.02 * f),
      1 / 25,
    ))
      expect(v).toBeCloseTo(0.5, 6);
  });
  test('is steady though the front stands on whole voxels', () => {
    for (const v of frontSpeeds(
      course((f) => Math.round(0.3 * f) * 0.1),
      1 / 25,
    ).slice(4, -4))
      expect(Math.abs(v! - 0.75)).toBeLessThan(0.15);
  });
  test('is 0 where nothing moves, and nothing where nothing is', () => {
    expect(
      frontSpeeds(
        course(() => 1),
        0.04,
      )[9],
    ).toBeCloseTo(0, 9);
    const none = course(() => 1).map((f) => ({ ...f, readings: { extent: null } as unknown as Readings }));
    expect(frontSpeeds(none, 0.04)).toEqual(none.map(() => null));
  });
});
test('every curve has a name of its own, a unit or none, and a value or nothing for each frame', () => {
  const s = simulate(recipeOf({}));
  const frames = [1, 2, 3].map(() => {
    const { frame, readings } = s.advanceFrame();
    return { frame, readings };
  });
  expect(new Set(READING_CURVES.map((c) => c.key)).size).toBe(READING_CURVES.length);
  for (const c of READING_CURVES) {
    const values = c.of(frames, 0.04);
    expect(values).toHaveLength(3);
    for (const v of values) expect(v === null || Number.isFinite(v)).toBe(true);
    expect(c.doc.length).toBeGreaterThan(8);
  }

  // frames of earlier programs have fewer readings
  const old = [{ frame: 1, readings: { mass: 1 } as unknown as Readings }];
  for (const c of READING_CURVES) expect(c.of(old, 0.04)).toHaveLength(1);
});

// How different pictures look: hand-made cases whose order everyone sees.
import { differenceOf, type ColourPicture } from '@bramblemist/core/look/difference';
import { LOOK } from '@bramblemist/core/look/look';
import { plume } from '@bramblemist/core/look/plume';
import { savingsFor } from '@bramblemist/core/look/savings';
import { setAt } from '@bramblemist/core/recipe/paths';
import { SUN } from './rendered';

const W = 72;
const H = 40;
const made = (colour: (x: number, y: number) => readonly number[]): ColourPicture => ({
  width: W,
  height: H,
  rgba: Float32Array.from({ length: W * H * 4 }, (_, n) => {
    const p = n >> 2;
    return n % 4 === 3 ? 1 : colour(p % W, Math.floor(p / W))[n % 4];
  }),
});
const grey = (v: number): ColourPicture => made(() => [v, v, v]);
const mean = (a: ColourPicture, b: ColourPicture): number => differenceOf(a, b).mean;

test('the same pictures do not differ, and both ways they differ alike', () => {
  const one = made((x, y) => [x / W, y / H, 0.2]);
  const other = made((x, y) => [y / H, x / W, 0.4]);
  expect(mean(one, one)).toBe(0);
  expect(mean(one, other)).toBeCloseTo(mean(other, one), 6);
});

test('black and white, and the strongest colours, are as different as can be', () => {
  expect(mean(grey(0), grey(1))).toBeGreaterThan(0.9);
  expect(
    mean(
      made(() => [0, 1, 0]),
      made(() => [0, 0, 1]),
    ),
  ).toBeCloseTo(1, 2);
});

test('more is more', () => {
  const steps = [0.205, 0.22, 0.3, 0.5].map((v) => mean(grey(0.2), grey(v)));
  for (let n = 1; n < steps.length; n++) expect(steps[n]).toBeGreaterThan(steps[n - 1]);
  expect(steps[0]).toBeLessThan(0.05);
});

test('what is too fine for the eye counts for less than what is not', () => {
  const checker = (size: number): ColourPicture =>
    made((x, y) => {
      const v = (Math.floor(x / size) + Math.floor(y / size)) % 2 ? 0.3 : 0.1;
      return [v, v, v];
    });
  expect(mean(grey(0.2), checker(1))).toBeLessThan(0.6 * mean(grey(0.2), checker(12)));
});

test('an edge that only one has counts where it stands', () => {
  const edge = made((x) => (x < W / 2 ? [0.2, 0.2, 0.2] : [0.35, 0.35, 0.35]));
  const soft = made((x) => {
    const v = 0.2 + 0.15 * Math.min(1, Math.max(0, (x - W / 2 + 15) / 30));
    return [v, v, v];
  });
  const { map } = differenceOf(edge, soft);
  const at = (x: number): number => map[20 * W + x];
  expect(at(35)).toBeGreaterThan(3 * at(2));
  expect(at(2)).toBeLessThan(0.02);
});

test('pictures of two sizes are refused', () => {
  expect(() => differenceOf(grey(0), { ...grey(0), width: W / 2, height: 2 * H })).toThrow(/size/);
});

describe('savings of a look', () => {
  const lights = [SUN, { ...SUN, id: 'f', name: 'Fill' }];
  test.each([
    { mode: 'true', samples: 64, bounces: 8 },
    { mode: 'quick', octaves: 4 },
  ])('are settings that the look may have ($mode)', (quality) => {
    const look = LOOK.parse({ lights, quality, camera: { moving: 'blurred' } });
    const all = savingsFor(look, plume(24));
    expect(all.length).toBeGreaterThanOrEqual(6);
    expect(new Set(all.map(({ name }) => name)).size).toBe(all.length);
    expect(all.map(({ name }) => name)).toEqual(
      expect.arrayContaining(['Single scattering', 'Half the size', 'Without Fill', '8 moments']),
    );
    for (const { changes } of all) {
      const changed = changes.reduce((l, { path, value }) => setAt(l, path, value), look);
      expect(LOOK.parse(changed)).not.toEqual(look);
    }
  });
  test('clip so little of the mass', () => {
    const volume = plume(32);
    const { changes } = savingsFor(LOOK.parse({}), volume).find(({ name }) => name.startsWith('Clip'))!;
    const clip = changes[0].value as number;
    const all = volume.density.reduce((a, d) => a + d, 0);
    const clipped = volume.density.reduce((a, d) => a + (d <= clip ? d : 0), 0);
    expect(clipped / all).toBeGreaterThan(0.01);
    expect(clipped / all).toBeLessThan(0.03);
  });
});

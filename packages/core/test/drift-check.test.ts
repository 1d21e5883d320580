// Sizes of a shot, and what the drift check says of two runs that are known.
import { driftCheck } from '@bramblemist/core/analysis/drift-check';
import { sizeOf, voxelSizeAt } from '@bramblemist/core/recipe/sizes';
import type { Read } from '@bramblemist/core/record/reading-curves';
import type { Readings } from '@bramblemist/core/record/readings';
import { recipeOf } from './run';

test('sizes are multiples of the working voxel, live is what a page can play', () => {
  const wide = recipeOf({ space: { size: [6.4, 3.2, 3.2], voxelSize: 0.02, rough: 4, final: 0.5 } });
  expect(voxelSizeAt(wide, 'working')).toBe(0.02);
  expect(voxelSizeAt(wide, 'rough')).toBeCloseTo(0.08, 9);
  expect(voxelSizeAt(wide, 'final')).toBeCloseTo(0.01, 9);
  expect(voxelSizeAt(wide, 'live')).toBeCloseTo(0.1, 9);
  expect(sizeOf(wide, 0.08)).toBe('rough');
  expect(sizeOf(wide, 0.05)).toBeNull();
  // never finer than working
  const small = recipeOf();
  expect(voxelSizeAt(small, 'live')).toBe(small.space.voxelSize);
  expect(sizeOf(small, small.space.voxelSize)).toBe('working');
});

/** A column that rises over 40 frames; factors make another run of it. */
function column({ mass = 1, wide = 1, delay = 0 }): Read[] {
  return Array.from({ length: 60 }, (_, n) => {
    const up = Math.min(1, Math.max(0, (n - delay) / 40));
    const readings = {
      mass: mass * (n + 1),
      riseHeight: 2 * up,
      centre: [0, up, 0],
      spread: [0.3 * wide, 0.5 * up + 0.1, 0.3 * wide],
      topSpeed: 1.5,
      kineticEnergy: 0.2,
      greatestDensity: 1,
    } as unknown as Readings;
    return { frame: n + 1, readings };
  });
}

test('equal runs may be trusted in all', () => {
  const { drifts, late, verdict, frames } = driftCheck(column({}), column({}), 'rough');
  expect(frames).toHaveLength(60);
  expect(drifts).toHaveLength(8);
  expect(drifts.every((d) => d.mean === 0 && d.trust === 'holds')).toBe(true);
  expect(late).toBe(0);
  expect(verdict).toMatch(/^At rough size, trust mass, .* and timing\.$/);
});

test('what is apart is named, with how much and which way', () => {
  const check = driftCheck(column({ mass: 1.06, wide: 0.7 }), column({}), 'rough');
  const by = (key: string) => check.drifts.find((d) => d.key === key)!;
  expect(by('mass').mean).toBeCloseTo(0.06, 6);
  expect(by('mass').trust).toBe('roughly');
  expect(by('width').bias).toBeCloseTo(-0.3, 6);
  expect(by('width').trust).toBe('apart');
  expect(check.verdict).toContain('Roughly right: mass (6.0\u00a0%).');
  expect(check.verdict).toContain('Judge at the finer size: spread sideways (30\u00a0% too low).');
});

test('a run that comes late says by how many frames', () => {
  const check = driftCheck(column({ delay: 5 }), column({}), 'live');
  expect(check.late).toBe(5);
  expect(check.verdict).toContain('It rises 5 frames later than at the finer size.');
  expect(check.verdict).not.toContain('timing');
});

test('what swings about is off, and what begins high has no time of rising', () => {
  const swinging = column({}).map(({ frame, readings }) => ({
    frame,
    readings: { ...readings, topSpeed: frame % 2 ? 1.8 : 1.2, riseHeight: 1.9 },
  }));
  const high = column({}).map((f) => ({ ...f, readings: { ...f.readings, riseHeight: 2 } }));
  const check = driftCheck(swinging, high, 'rough');
  expect(check.verdict).toContain('top speed (20\u00a0% off)');
  expect(check.late).toBeNull();
  expect(check.verdict).not.toMatch(/sooner|later|timing/);
});

test('only frames that both have count, and readings of earlier programs are passed over', () => {
  const old = column({}).map(({ frame, readings }) => ({
    frame,
    readings: { ...readings, centre: undefined, spread: undefined },
  }));
  const check = driftCheck(old.slice(0, 20), column({}).slice(5), 'rough');
  expect(check.frames).toEqual(Array.from({ length: 15 }, (_, n) => n + 6));
  expect(check.drifts.map((d) => d.key)).not.toContain('width');
  expect(driftCheck([], column({}), 'rough').verdict).toContain('nothing to compare');
});

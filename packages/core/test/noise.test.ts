// Samples where they help, and noise taken out: targets are met, means stay, detail is kept.
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { plume } from '@bramblemist/core/look/plume';
import { renderWith, type Rendered } from '@bramblemist/core/look/render';
import { pure, SUN, WHITE } from './rendered';

const camera = { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 96, height: 72 };
const VOLUME = plume(48);
const lookOf = (quality: object, more: object = {}): Look =>
  LOOK.parse({
    camera,
    medium: pure(10, 0.95, 0.4),
    lights: [{ ...SUN, heading: 150, height: 25 }],
    sky: { ...WHITE, stops: -3 },
    quality: { mode: 'true', bounces: 6, denoise: 'never', ...quality },
    ...more,
  });
const made = (look: Look): Rendered => renderWith(startThreadPool, VOLUME, look, { threads: 2 });
const luminance = (rgba: Float32Array): Float64Array =>
  Float64Array.from(
    { length: rgba.length / 4 },
    (_, p) => 0.2126 * rgba[4 * p] + 0.7152 * rgba[4 * p + 1] + 0.0722 * rgba[4 * p + 2],
  );
const rms = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  Math.sqrt(Array.from(a).reduce((sum, v, n) => sum + (v - b[n]) ** 2, 0) / a.length);

// other draws than those of the pictures that are held against it
const EXACT = luminance(made(lookOf({ samples: 1024, seed: 99 })).rgba);

describe('samples by noise', () => {
  test('reach the target, told and measured', () => {
    for (const noise of [0.06, 0.03]) {
      const { reached, rgba } = made(lookOf({ until: 'noise', noise, samples: 4096 }));
      expect(reached!.noise / noise).toBeGreaterThan(0.8);
      expect(reached!.noise).toBeLessThanOrEqual(noise);
      expect(rms(luminance(rgba), EXACT) / noise).toBeGreaterThan(0.8);
      expect(rms(luminance(rgba), EXACT) / noise).toBeLessThan(1.2);
    }
  });
  test('need fewer than even ones do', () => {
    // a ground with little noise, and a medium with much
    const far = { ...camera, eye: [4.5, 2.2, 11], width: 192, height: 128 };
    const uneven = { camera: far, solids: { ground: 'seen' } };
    const { reached } = made(lookOf({ until: 'noise', noise: 0.006, samples: 4096 }, uneven));
    const even = made(lookOf({ samples: Math.round(reached!.samples) }, uneven));
    expect(even.reached!.noise).toBeGreaterThan(1.1 * reached!.noise);
  });
  test('keep the mean', () => {
    const means = Array.from({ length: 64 }, (_, seed) => {
      const { rgba } = made(
        lookOf(
          { until: 'noise', noise: 0.06, samples: 256, seed },
          { camera: { ...camera, width: 48, height: 36 } },
        ),
      );
      return luminance(rgba).reduce((a, b) => a + b, 0) / (48 * 36);
    });
    const small = { camera: { ...camera, width: 48, height: 36 } };
    const exact = made(lookOf({ samples: 2048, seed: 99 }, small));
    const wanted = luminance(exact.rgba).reduce((a, b) => a + b, 0) / (48 * 36);
    const mean = means.reduce((a, b) => a + b, 0) / 64;
    const own = Math.sqrt(means.reduce((a, m) => a + (m - mean) ** 2, 0) / 63 / 64);
    const error = Math.hypot(own, exact.reached!.noise / Math.sqrt(48 * 36));
    expect(Math.abs(mean - wanted)).toBeLessThan(3 * error);
  });
  test('end at the most that is allowed', () => {
    const { reached } = made(lookOf({ until: 'noise', noise: 0.0001, samples: 20 }));
    expect(reached!.samples).toBe(20);
  });
});

describe('noise taken out', () => {
  const raw = luminance(made(lookOf({ samples: 16 })).rgba);
  const clean = luminance(made(lookOf({ samples: 16, denoise: 'always' })).rgba);
  test('leaves a third of the error at 16 samples, or less', () => {
    expect(rms(raw, EXACT) / rms(clean, EXACT)).toBeGreaterThan(3);
  });
  test('keeps the detail of the medium', () => {
    // differences between neighbours two pixels apart, where the medium stands
    const slopes = (v: Float64Array): number[] => {
      const out: number[] = [];
      for (let y = 2; y < 70; y++)
        for (let x = 2; x < 94; x++) {
          const p = y * 96 + x;
          if (EXACT[p] > 0.02) out.push(v[p] - v[p - 2], v[p] - v[p - 192]);
        }

      return out;
    };

    const exact = slopes(EXACT);
    const own = slopes(clean);
    const dot = own.reduce((sum, v, n) => sum + v * exact[n], 0);
    const sizes = [own, exact].map((v) => Math.sqrt(v.reduce((sum, x) => sum + x * x, 0)));
    expect(dot / sizes[0] / sizes[1]).toBeGreaterThan(0.97);
    expect(sizes[0] / sizes[1]).toBeGreaterThan(0.9);
  });
  test('keeps the mean, and lights are the beauty together', () => {
    const sum = (v: Float64Array): number => v.reduce((a, b) => a + b, 0);
    expect(Math.abs(sum(clean) / sum(raw) - 1)).toBeLessThan(0.01);
    const { rgba, layers } = made(
      lookOf({ samples: 8, denoise: 'always' }, { passes: { lights: true, orders: true } }),
    );
    const named = (head: string): Float32Array[] =>
      layers.filter(({ name }) => name.startsWith(head)).map(({ values }) => values);
    for (const parts of [named('lights.'), [...named('single'), ...named('multiple')]])
      for (let n = 0; n < parts[0].length; n++) {
        const all = parts.reduce((a, values) => a + values[n], 0);
        expect(Math.abs(all - rgba[4 * Math.floor(n / 3) + (n % 3)])).toBeLessThan(1e-5);
      }
  });
});

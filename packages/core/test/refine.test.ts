// The refine pass: what it must not change, what it must add, and that it follows the flow.
import type { FrameSource } from '@bramblemist/core/volume/frames';
import { previewVolumeOfGrids } from '@bramblemist/core/volume/preview-volume';
import { REFINE, type Refine } from '@bramblemist/core/cache/refine-settings';
import { Refiner, type Refined } from '@bramblemist/core/cache/refine';
import { resampled } from '@bramblemist/core/volume/tools/resample';
import { facesAbout, trilinearSampler, volumeFrom, type CacheVolume } from '@bramblemist/core/volume/volume';
import type { VdbGrid } from '@bramblemist/core/files/vdb/format';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import type { Triple } from '@bramblemist/core/math/vector';

const H = 0.1;
const RATE = 24;
/** Coarse voxels that everything drifts in a frame: one fine voxel at twice the fineness. */
const DRIFT = 0.5;
const WAVE = (2 * Math.PI) / (4 * H);

/**
 * A soft puff in air that drifts along x with whirls of four voxels that drift with it: seen from the drift,
 * nothing changes.
 */
function puff(frame: number): CacheVolume {
  const min: Triple = [-8 + Math.floor(DRIFT * frame), -8, -8];
  const dims: Triple = [18, 16, 16];
  const v = { frame, voxelSizeM: H, translation: [H / 2, H / 2, H / 2] as Triple, min, dims };
  const off = DRIFT * frame * H;
  const fill = (axis: number, f: (x: number, y: number, z: number) => number): Float32Array =>
    Float32Array.from({ length: 18 * 256 }, (_, n) => {
      const [x, y, z] = [n % 18, Math.floor(n / 18) % 16, Math.floor(n / 288)].map(
        (c, a) => v.translation[a] + (min[a] + c - (a === axis ? 0.5 : 0)) * H,
      );
      return f(x - off, y, z);
    });
  const density = fill(-1, (x, y, z) => Math.max(0, 1 - (Math.hypot(x, y, z) / 0.6) ** 2));
  const active = Uint8Array.from(density, (d) => Number(d > 0));
  const u = 0.25;
  return {
    ...v,
    active,
    moving: facesAbout(active, dims),
    channels: new Map([
      ['density', [density]],
      ['colour', [fill(-1, () => 0.75), fill(-1, () => 0.5), fill(-1, () => 0.25)]],
      [
        'velocity',
        [
          fill(0, (x, y) => DRIFT * H * RATE + u * Math.sin(WAVE * y) * Math.cos(WAVE * x)),
          fill(1, (x, y) => -u * Math.sin(WAVE * x) * Math.cos(WAVE * y)),
          fill(2, () => 0),
        ],
      ],
    ]),
  };
}

const source: FrameSource = {
  first: 1,
  last: 20,
  frameRate: RATE,
  voxelSizeM: H,
  floorM: -1,
  domain: { least: [-1, -1, -1], most: [2, 1, 1] },
  timeS: (f) => f / RATE,
  read: puff,
};
interface Run {
  made: Map<number, Refined>;
  grid(frame: number): VdbGrid;
}

function refine(
  settings: Partial<Refine>,
  {
    from = 1,
    to = 8,
    threads = 1,
    before = undefined as Run | undefined,
    slab = undefined as number | undefined,
    half = true,
  } = {},
): Run {
  const made = new Map<number, Refined>();
  const threadPool = startThreadPool(8, threads);
  const grid = (f: number): VdbGrid => (made.get(f) ?? before?.made.get(f))!.grids[0];
  const refiner = new Refiner(
    source,
    REFINE.parse({ ...REFINE.start(), ...settings }),
    threadPool,
    half,
    1e-4,
    grid,
    slab,
  );
  for (let f = from; f <= to; f++) made.set(f, refiner.make(f));
  threadPool.close();
  return { made, grid };
}

const fileOf = (r: Run, f: number): Buffer => Buffer.from(writeVdb(r.made.get(f)!.grids));
const dense = (r: Run, f: number): CacheVolume => volumeFrom({ grids: r.made.get(f)!.grids, others: [] }, f);

describe('the coarse picture stays', () => {
  test.each([2, 3, 4])('at %d times: means over the coarse voxels, and mass', (times) => {
    const r = refine({ times, strength: 200 }, { to: 4 });
    for (const [f, { apart, mass }] of r.made) {
      const coarse =
        puff(f)
          .channels.get('density')![0]
          .reduce((a, b) => a + b, 0) *
        H ** 3;
      expect(apart).toBeLessThan(0.03);
      expect(mass / coarse).toBeCloseTo(1, 1);
    }

    // held against the coarse cache by another way than the pass itself: resampled back
    const back = resampled(dense(r, 4), H);
    const was = puff(4);
    const read = trilinearSampler(back, back.channels.get('density')![0]);
    let apart = 0;
    let all = 0;
    was.channels.get('density')![0].forEach((d, n) => {
      const [x, y, z] = [n % 18, Math.floor(n / 18) % 16, Math.floor(n / 288)].map(
        (c, a) => H / 2 + (was.min[a] + c) * H,
      );
      apart += Math.abs(read(x, y, z) - d);
      all += d;
    });
    expect(apart / all).toBeLessThan(0.03);
  });
  test('what the medium carries stays too, and velocity comes where it is asked for', () => {
    const { grids } = refine({ velocity: true }, { to: 3 }).made.get(3)!;
    const v = volumeFrom(readVdb(writeVdb(grids)), 3);
    expect(grids.map((g) => g.name)).toEqual(['density', 'colour', 'velocity']);
    expect(v.voxelSizeM).toBeCloseTo(H / 2, 9);
    const n = v.active.findIndex((a, m) => a === 1 && v.channels.get('density')![0][m] > 0.3);
    expect(v.channels.get('colour')!.map((c) => c[n])).toEqual([0.75, 0.5, 0.25]);
    const fast = v.channels.get('velocity')![0].filter((_, m) => v.active[m]);
    expect(fast.reduce((a, b) => a + b, 0) / fast.length).toBeCloseTo(DRIFT * H * RATE, 1);
  });
});

describe('what is added', () => {
  /** Power of density along x by wave number, over rows through the middle; n fine voxels. */
  const power = (v: CacheVolume, n = 32): number[] => {
    const read = trilinearSampler(v, v.channels.get('density')![0]);
    const out = new Array<number>(n / 2).fill(0);
    const x0 = DRIFT * v.frame * H - (n / 2) * (H / 2);
    for (let row = 0; row < 40; row++) {
      const [y, z] = [(row % 8) * 0.05 - 0.2, Math.floor(row / 8) * 0.08 - 0.16];
      const values = Array.from({ length: n }, (_, i) => read(x0 + (i + 0.5) * (H / 2), y, z));
      for (let k = 0; k < n / 2; k++) {
        let re = 0;
        let im = 0;
        values.forEach((d, i) => {
          re += d * Math.cos((2 * Math.PI * k * i) / n);
          im += d * Math.sin((2 * Math.PI * k * i) / n);
        });
        out[k] += re * re + im * im;
      }
    }

    return out;
  };

  test('the spectrum gains the band that the coarse grid cannot hold, and keeps what it holds', () => {
    const [with_, without] = [refine({ strength: 300 }, { to: 6 }), refine({ strength: 0 }, { to: 6 })].map(
      (r) => power(dense(r, 6)),
    );
    const band = (p: number[], from: number, to: number): number =>
      p.slice(from, to).reduce((a, b) => a + b, 0);
    expect(band(with_, 9, 15) / band(without, 9, 15)).toBeGreaterThan(2.5);
    expect(band(with_, 0, 4) / band(without, 0, 4)).toBeCloseTo(1, 1);
  });
  test('more where the flow is strained', () => {
    const parts = [0, 300].map((strain): number =>
      power(dense(refine({ strength: 60, strain }, { to: 5 }), 5))
        .slice(9)
        .reduce((a, b) => a + b, 0),
    );
    expect(parts[1]).toBeGreaterThan(1.5 * parts[0]);
  });
  test('detail goes with the flow and does not pop, over renewals of its pattern too', () => {
    const r = refine({ strength: 150, renew: 6 }, { to: 14 });
    /** Detail over the coarse picture at places that go along with the drift. */
    const detail = (f: number, along: number): number[] => {
      const v = dense(r, f);
      const read = trilinearSampler(v, v.channels.get('density')![0]);
      const mean = resampled(v, H);
      const smooth = trilinearSampler(mean, mean.channels.get('density')![0]);
      const out: number[] = [];
      for (let k = -4; k <= 4; k++)
        for (let j = -4; j <= 4; j++)
          for (let i = -4; i <= 4; i++) {
            const p = [
              (i + 0.5) * (H / 2) + DRIFT * along * H,
              (j + 0.5) * (H / 2),
              (k + 0.5) * (H / 2),
            ] as const;
            out.push(read(...p) - smooth(...p));
          }

      return out;
    };

    const like = (a: number[], b: number[]): number => {
      const dot = (p: number[], q: number[]): number => p.reduce((s, x, n) => s + x * q[n], 0);
      return dot(a, b) / Math.sqrt(dot(a, a) * dot(b, b));
    };

    // two frames on the drift is a whole coarse voxel, so that both see the coarse grid alike
    const following = [4, 6, 8, 10, 12].map((f) => like(detail(f, f), detail(f + 2, f + 2)));
    const staying = [4, 6, 8, 10, 12].map((f) => like(detail(f, f), detail(f + 2, f)));
    expect(Math.min(...following)).toBeGreaterThan(0.6);
    following.forEach((x, n) => expect(x).toBeGreaterThan(staying[n] + 0.2));
  });
});

describe('bit for bit', () => {
  const whole = refine({ times: 3, renew: 4 }, { to: 5 });
  test('with two threads, and in thin slabs', () => {
    const two = refine({ times: 3, renew: 4 }, { to: 5, threads: 2 });
    const thin = refine({ times: 3, renew: 4 }, { to: 5, slab: 1 });
    for (const f of [1, 3, 5]) {
      expect(fileOf(two, f).equals(fileOf(whole, f))).toBe(true);
      expect(fileOf(thin, f).equals(fileOf(whole, f))).toBe(true);
    }
  });
  test('going on from any frame', () => {
    for (const from of [2, 5]) {
      const later = refine({ times: 3, renew: 4 }, { to: 5, from, before: whole });
      expect(fileOf(later, 5).equals(fileOf(whole, 5))).toBe(true);
    }
  });
  test('another seed is another pattern', () => {
    expect(fileOf(refine({ times: 3, renew: 4, seed: 2 }, { to: 5 }), 5).equals(fileOf(whole, 5))).toBe(
      false,
    );
  });
});

test('its preview holds its mass and colour', () => {
  const { grids, mass } = refine({}, { to: 2 }).made.get(2)!;
  const brick = previewVolumeOfGrids(grids, 2, 20);
  expect(
    ((brick.bytes.reduce((a, b) => a + b, 0) / 255) * brick.greatest * brick.voxelSizeM ** 3) / mass,
  ).toBeCloseTo(1, 1);
  expect([...brick.colour!.bytes.slice(-1)]).toBeDefined();
  const full = brick.colour!.bytes.findIndex((x, n) => n % 4 === 3 && x === 255);
  expect([...brick.colour!.bytes.slice(full - 3, full)]).toEqual([191, 128, 64]);
});

test('a cache without velocity says so', () => {
  const bare = {
    ...source,
    read: (f: number) => ({
      ...puff(f),
      channels: new Map([...puff(f).channels].filter(([n]) => n === 'density')),
    }),
  };
  const threadPool = startThreadPool(8, 1);
  expect(() => new Refiner(bare, REFINE.start(), threadPool, true, 1e-4, () => null!).make(1)).toThrow(
    /no velocity/,
  );
  threadPool.close();
});

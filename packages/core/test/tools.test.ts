// Volumes of a cache and the tools that work on them, against media that are known.
import { CHANNEL_NAMES, type ChannelName } from '@bramblemist/core/base/channels';
import {
  cropToBox,
  facesAbout,
  gridsOf,
  trilinearSampler,
  measureVolume,
  seenDensity,
  cropToActive,
  volumeFrom,
  withActive,
  type CacheVolume,
} from '@bramblemist/core/volume/volume';
import { previewOf } from '@bramblemist/core/cache/preview';
import type { FrameSource } from '@bramblemist/core/volume/frames';
import { applySteps, parseStep, TOOLS } from '@bramblemist/core/volume/tools/tools';
import type { Surroundings } from '@bramblemist/core/volume/tools/tool';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { writeVdb } from '@bramblemist/core/files/vdb/writer';
import { DocumentError } from '@bramblemist/core/recipe/document';
import type { Triple } from '@bramblemist/core/math/vector';

const H = 0.1;

/** A round puff about a middle that drifts along x at `speed`, with everything that a cache may keep. */
function puff(
  frame: number,
  { middle = [0, 1, 0] as Triple, radius = 0.55, speed = 1, h = H, channels = CHANNEL_NAMES } = {},
): CacheVolume {
  const min: Triple = [-8, 2, -7];
  const dims: Triple = [24, 16, 14];
  const count = dims[0] * dims[1] * dims[2];
  const v = { frame, voxelSizeM: h, translation: [h / 2, h / 2, h / 2] as Triple, min, dims };
  const at = (n: number, a: number): number =>
    v.translation[a] + (min[a] + [n % 24, Math.floor(n / 24) % 16, Math.floor(n / 384)][a]) * h;
  const fill = (f: (x: number, y: number, z: number) => number): Float32Array =>
    Float32Array.from({ length: count }, (_, n) => f(at(n, 0), at(n, 1), at(n, 2)));
  const density = fill((x, y, z) =>
    Math.max(0, 1 - Math.hypot(x - middle[0], y - middle[1], z - middle[2]) / radius),
  );
  const active = Uint8Array.from(density, (d) => Number(d > 0));
  const moving = facesAbout(active, dims);
  const all: Record<ChannelName, Float32Array[]> = {
    density: [density],
    temperature: [fill((_x, y) => 20 * y)],
    colour: [fill(() => 0.9), fill(() => 0.5), fill(() => 0.1)],
    age: [fill((x) => 2 + x)],
    deposit: [fill((_x, y) => 0.02 * Number(y < 0.6))],
    coordinates: [fill((x) => x), fill((_x, y) => y), fill((_x, _y, z) => z)],
    velocity: [fill(() => speed), fill(() => 0), fill(() => 0)],
  };
  return withActive({ ...v, active, moving, channels: new Map(channels.map((c) => [c, all[c]])) }, active);
}

const frames = (make: (f: number) => CacheVolume, first = 1, last = 5): FrameSource => ({
  first,
  last,
  frameRate: 10,
  voxelSizeM: H,
  floorM: 0,
  domain: { least: [-1, 0, -1], most: [2, 2, 1] },
  timeS: (f) => f / 10,
  read(f) {
    if (f < first || f > last) throw new Error(`no frame ${f}`);
    return make(f);
  },
});
/** Drifts a voxel a frame: 1 m/s at 10 frames a second. */
const drifting = frames((f) => puff(f, { middle: [0.1 * f, 1, 0] }));
const AROUND: Surroundings = {
  other: (name) =>
    name === 'second'
      ? frames((f) => puff(f, { middle: [0.05, 1, 0], h: 0.05, radius: 0.3 }))
      : (() => {
          throw new Error('none');
        })(),
  solid: (_id, timeS) => (at) => at[0] - timeS,
};
const done = (tool: string, settings: object, of = drifting): FrameSource =>
  applySteps(of, [parseStep(tool, settings)], AROUND);
const mass = (v: CacheVolume): number => measureVolume(v, 0, 0).mass!;
const middleX = (v: CacheVolume): number => {
  const d = v.channels.get('density')![0];
  let sum = 0;
  let all = 0;
  d.forEach((x, n) => {
    sum += x * (v.translation[0] + (v.min[0] + (n % v.dims[0])) * v.voxelSizeM);
    all += x;
  });
  return sum / all;
};

describe('a volume', () => {
  test('is the same after the way through a file, with what it is tight around', () => {
    const v = puff(3);
    const back = volumeFrom(readVdb(writeVdb(gridsOf(v, 'float'))), 3);
    const own = cropToActive(v);
    expect([back.min, back.dims, back.voxelSizeM]).toEqual([own.min, own.dims, H]);
    expect(back.active).toEqual(own.active);
    expect(back.moving).toEqual(own.moving);
    for (const [name, parts] of own.channels) expect(back.channels.get(name)).toEqual(parts);
  });
  test('an empty one too', () => {
    const none = withActive(puff(1), new Uint8Array(24 * 16 * 14));
    const back = volumeFrom(readVdb(writeVdb(gridsOf(none, 'half'))), 1);
    expect(mass(back)).toBe(0);
    expect([...back.channels.keys()]).toEqual([...none.channels.keys()]);
  });
  test.each([
    ['no density', () => gridsOf(puff(1), 'half').slice(1), /no float grid called density/],
    [
      'grids of other sizes',
      () =>
        gridsOf(puff(1), 'half').map((g, n) => (n === 1 ? { ...g, voxelSize: [0.2, 0.2, 0.2] as const } : g)),
      /different lattices/,
    ],
    [
      'a temperature of three',
      () =>
        gridsOf(puff(1), 'half')
          .map((g) => (g.name === 'colour' ? { ...g, name: 'temperature' } : g))
          .filter((_g, n) => n !== 1),
      /of another type/,
    ],
  ])('is refused with %s', (_name, grids, says) => {
    expect(() => volumeFrom(readVdb(writeVdb(grids())), 1)).toThrow(says);
  });
  test('another box holds the same where they overlap', () => {
    const v = puff(1);
    const part = cropToBox(v, [-3, 0, -2], [6, 12, 5]);
    const read = trilinearSampler(v, v.channels.get('density')![0]);
    const again = trilinearSampler(part, part.channels.get('density')![0]);
    for (const p of [
      [-0.2, 0.9, 0],
      [0.15, 1.1, -0.1],
    ] as Triple[])
      expect(again(...p)).toBeCloseTo(read(...p), 6);
    expect(again(0.6, 1, 0)).toBe(0);
  });
  test('is looked up exactly where it is linear, faces half a voxel lower', () => {
    const v = puff(1, { radius: 5 });
    expect(trilinearSampler(v, v.channels.get('age')![0])(0.137, 1.01, 0.04)).toBeCloseTo(2.137, 5);
    expect(trilinearSampler(v, v.channels.get('coordinates')![0], 0)(0.137, 1.01, 0.04)).toBeCloseTo(
      0.137 + H / 2,
      5,
    );
  });
  test('its preview holds its mass, what has settled too, and colour', () => {
    const v = cropToActive(puff(1));
    const { brick, glimpse } = previewOf(v);
    const sum = (brick.bytes.reduce((a, b) => a + b, 0) / 255) * brick.greatest * brick.voxelSizeM ** 3;
    const seen = seenDensity(v).reduce((a, b) => a + b, 0) * H ** 3;
    expect(seen).toBeGreaterThan(1.02 * mass(v));
    expect(sum / seen).toBeCloseTo(1, 2);
    const full = brick.colour!.bytes.findIndex((x, n) => n % 4 === 3 && x === 255);
    expect([...brick.colour!.bytes.slice(full - 3, full)]).toEqual([229, 128, 26]);
    expect(glimpse!.values[0 + Math.floor(glimpse!.dims[0] / 2)]).toBeLessThanOrEqual(1);
  });
});

describe('trim and retime', () => {
  test('trim keeps what lies between, under new numbers, at the same times', () => {
    const f = done('trim', { from: 2, until: 4, as: 11 });
    expect([f.first, f.last, f.timeS(11)]).toEqual([11, 13, 0.2]);
    expect(middleX(f.read(12))).toBeCloseTo(0.3, 5);
    expect(f.read(12).frame).toBe(12);
    expect(() => done('trim', { from: 8 })).toThrow(/frames 1 to 5/);
  });
  test(
    'slower along the motion: frames between stand between, in one ' +
      'piece, and velocity is of the new time',
    () => {
      const f = done('retime', { speed: 50 });
      expect([f.first, f.last]).toEqual([1, 9]);
      expect(f.timeS(4)).toBeCloseTo(0.25, 9);
      for (const n of [1, 2, 4, 9]) expect(middleX(f.read(n))).toBeCloseTo(0.1 + 0.05 * (n - 1), 2);
      const between = f.read(4);
      const mixed = done('retime', { speed: 50, between: 'mixed' }).read(4);
      expect(mass(between) / mass(puff(1))).toBeCloseTo(1, 1);
      // carried to the moment, the peak is nearly as sharp as it was (a linear look-up takes a little); mixed
      // it is not sharper
      const peak = (v: CacheVolume): number => measureVolume(v, 0, 0).greatestDensity!;
      expect(peak(between)).toBeGreaterThanOrEqual(peak(mixed));
      expect(between.channels.get('velocity')![0].reduce((a, b) => Math.max(a, b))).toBeCloseTo(0.5, 2);
      const age = between.channels.get('age')![0][between.active.indexOf(1)];
      expect(age).toBeGreaterThan(1.6);
    },
  );
  test('faster skips, and a cache without velocity is told so', () => {
    const f = done('retime', { speed: 200 });
    expect([f.first, f.last]).toEqual([1, 3]);
    expect(middleX(f.read(3))).toBeCloseTo(0.5, 5);
    const bare = frames((n) => puff(n, { channels: ['density'] }));
    expect(() => done('retime', { speed: 70 }, bare).read(2)).toThrow(/no velocity/);
    expect(mass(done('retime', { speed: 70, between: 'mixed' }, bare).read(2))).toBeGreaterThan(0);
  });
});

describe('crop and mask', () => {
  test('a crop keeps its box and nothing else', () => {
    const v = done('crop', { least: [-0.2, 0, -5], most: [0.3, 1.05, 5] }).read(1);
    const e = measureVolume(v, 0, 0).extent!;
    expect(e[0]).toBeGreaterThanOrEqual(-0.2 - 1e-9);
    expect(e[1]).toBeLessThanOrEqual(0.3 + 1e-9);
    expect(e[3]).toBeLessThanOrEqual(1.1);
    expect(() => done('crop', { least: [1, 0, 0], most: [0, 1, 1] })).toThrow(/empty/);
    expect(mass(done('crop', { least: [50, 0, 0], most: [60, 1, 1] }).read(1))).toBe(0);
  });
  test('a mask follows its obstacle in time, hard or soft', () => {
    const out = done('mask', { side: 'outside' });
    const inn = done('mask', { side: 'inside' });
    // the wall stands at x = time; the puff is about the same place
    expect(measureVolume(out.read(3), 0, 0).extent![0]).toBeCloseTo(0.3, 5);
    expect(measureVolume(inn.read(3), 0, 0).extent![1]).toBeCloseTo(0.3, 5);
    expect(mass(out.read(3)) + mass(inn.read(3))).toBeCloseTo(mass(puff(3, { middle: [0.3, 1, 0] })), 5);
    const soft = done('mask', { side: 'outside', soft: 0.4 }).read(3);
    const density = soft.channels.get('density')![0];
    expect(trilinearSampler(soft, density)(0.25, 1.05, 0.05)).toBeCloseTo(
      trilinearSampler(
        puff(3, { middle: [0.3, 1, 0] }),
        puff(3, { middle: [0.3, 1, 0] }).channels.get('density')![0],
      )(0.25, 1.05, 0.05) * 0.375,
      3,
    );
  });
});

describe('filters', () => {
  test('smooth keeps mass and lowers the peak; sharpen lifts it again', () => {
    const smooth = done('smooth', { radius: 0.1 }).read(1);
    const sharp = done('sharpen', { radius: 0.1, amount: 100 }).read(1);
    expect(mass(smooth) / mass(puff(1))).toBeCloseTo(1, 2);
    const peak = (v: CacheVolume): number => measureVolume(v, 0, 0).greatestDensity!;
    expect(peak(smooth)).toBeLessThan(0.9 * peak(drifting.read(1)));
    expect(peak(sharp)).toBeGreaterThan(1.05 * peak(drifting.read(1)));
  });
  test('smoothing what the medium carries does not fade it at the edge', () => {
    const v = done('smooth', { channel: 'colour', radius: 0.15 }).read(1);
    const red = v.channels.get('colour')![0];
    v.active.forEach((a, n) => expect(red[n]).toBeCloseTo(a ? 0.9 : 0, 4));
    expect(() =>
      done(
        'smooth',
        { channel: 'age' },
        frames((n) => puff(n, { channels: ['density'] })),
      ).read(1),
    ).toThrow(/does not keep age/);
  });
});

describe('levels, merge, resample', () => {
  test('levels lay one range onto another, within it by a power', () => {
    const v = done('levels', { low: 0, high: 0.5, lowTo: 0, highTo: 2, bend: 2, beyond: 'cut' }).read(1);
    const was = drifting.read(1).channels.get('density')![0];
    const own = cropToBox(v, drifting.read(1).min, drifting.read(1).dims).channels.get('density')![0];
    was.forEach((x, n) => expect(own[n]).toBeCloseTo(x >= 0.5 ? 2 : 2 * (x / 0.5) ** 2, 4));
    const slow = done('levels', { channel: 'velocity', high: 1, highTo: 0.25 }).read(1);
    expect(slow.channels.get('velocity')![0][slow.active.indexOf(1)]).toBeCloseTo(0.25, 6);
    expect(() => done('levels', { low: 1, high: 1 })).toThrow(/no width/);
  });
  test('a merge brings the other one’s mass and colour onto this lattice', () => {
    const second = AROUND.other('second').read(1);
    const v = done('merge', { with: 'second' }).read(1);
    expect(v.voxelSizeM).toBe(H);
    expect((mass(v) - mass(drifting.read(1))) / mass(second)).toBeCloseTo(1, 0);
    expect(v.channels.get('colour')![0][v.active.indexOf(1)]).toBeCloseTo(0.9, 3);
    expect(mass(done('merge', { with: 'second', how: 'most' }).read(1))).toBeLessThan(mass(v));
    expect(() => done('merge', { with: 'third' })).toThrow(/none/);
  });
  test.each([50, 150, 200, 370])('resampling to %d %% keeps mass, place and what is carried', (times) => {
    const was = drifting.read(2);
    const v = done('resample', { times }).read(2);
    expect(v.voxelSizeM).toBeCloseTo((H * times) / 100, 9);
    expect(mass(v) / mass(was)).toBeCloseTo(1, times < 100 ? 1 : 5);
    expect(middleX(v)).toBeCloseTo(middleX(was), times > 200 || times < 100 ? 2 : 3);
    expect(v.channels.get('colour')![1][v.active.indexOf(1)]).toBeCloseTo(0.5, 4);
  });
});

describe('steps', () => {
  test('are done in turn', () => {
    const f = applySteps(
      drifting,
      [
        parseStep('trim', { from: 2 }),
        parseStep('levels', { highTo: 3 }),
        parseStep('crop', { least: [0, 0, -9], most: [9, 9, 9] }),
      ],
      AROUND,
    );
    expect(f.first).toBe(2);
    const e = measureVolume(f.read(2), 0, 0);
    expect(e.extent![0]).toBeGreaterThanOrEqual(0);
    expect(e.greatestDensity).toBeCloseTo(3 * measureVolume(drifting.read(2), 0, 0).greatestDensity!, 4);
  });
  test('wrong settings are named by their place', () => {
    expect(() => parseStep('smoothe', {})).toThrow(/There are: trim/);
    expect(() => parseStep('smooth', { radius: -1 })).toThrow(DocumentError);
    expect(() => parseStep('smooth', { radius: -1 })).toThrow(/smooth.radius: must be at least/);
    expect(() => parseStep('smooth', { radios: 1 })).toThrow(/radios/);
  });
  test('every tool says in a sentence what it does, with all of its settings', () => {
    for (const { part } of TOOLS)
      for (const s of part.settings) expect(part.sentence).toContain(`{${s.path}}`);
  });
});

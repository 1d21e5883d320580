// Particles through a cache: against flows whose ways are known, and the files that they are written to.
import type { ChannelName } from '@bramblemist/core/base/channels';
import { facesAbout, type CacheVolume } from '@bramblemist/core/volume/volume';
import type { FrameSource } from '@bramblemist/core/volume/frames';
import { readCsvCloud, writeCsvCloud } from '@bramblemist/core/files/csv/particles';
import { hasFaces, readPlyCloud } from '@bramblemist/core/files/ply/ply';
import { writePlyCloud, writePlyLines } from '@bramblemist/core/files/ply/writer';
import {
  advectParticles,
  type AdvectedFrame,
  type SeedPlaces,
} from '@bramblemist/core/analysis/advect-particles';
import { PARTICLE_ADVECTION } from '@bramblemist/core/analysis/particle-settings';
import type { Triple } from '@bramblemist/core/math/vector';

const H = 0.1;
const N = 24;
type Flow = (x: number, y: number, z: number, t: number) => Triple;

/** A ball of medium in a cube of air about the origin; velocity in the medium alone, or everywhere. */
function still(flow: Flow, t: number, frame: number, everywhere = true, radius = 0.5): CacheVolume {
  const min: Triple = [-N / 2, -N / 2, -N / 2];
  const dims: Triple = [N, N, N];
  const v = { frame, voxelSizeM: H, translation: [H / 2, H / 2, H / 2] as Triple, min, dims };
  const place = (n: number, axis: number): Triple =>
    [n % N, Math.floor(n / N) % N, Math.floor(n / (N * N))].map(
      (c, a) => v.translation[a] + (min[a] + c - (a === axis ? 0.5 : 0)) * H,
    ) as Triple;
  const fill = (axis: number, f: (p: Triple) => number): Float32Array =>
    Float32Array.from({ length: N ** 3 }, (_, n) => f(place(n, axis)));
  const density = fill(-1, (p) => Number(Math.hypot(...p) < radius));
  const active = Uint8Array.from(density);
  const channels = new Map<ChannelName, Float32Array[]>([
    ['density', [density]],
    ['temperature', [fill(-1, (p) => 10 * p[0])]],
    ['colour', [fill(-1, () => 0.25), fill(-1, () => 0.5), fill(-1, () => 1)]],
    ['velocity', [0, 1, 2].map((a) => fill(a, (p) => flow(...p, t)[a]))],
  ]);
  return {
    ...v,
    active,
    moving: everywhere ? new Uint8Array(N ** 3).fill(1) : facesAbout(active, dims),
    channels,
  };
}

const cache = (flow: Flow, { last = 9, frameRate = 8, everywhere = true } = {}): FrameSource => ({
  first: 1,
  last,
  frameRate,
  voxelSizeM: H,
  floorM: 0,
  domain: { least: [-1, -1, -1], most: [1, 1, 1] },
  timeS: (f) => (f - 1) / frameRate,
  read: (f) => still(flow, (f - 1) / frameRate, f, everywhere),
});
const NOWHERE: SeedPlaces = { sources: () => ({ shapes: [], cellM: 1 }) };
const all = (frames: FrameSource, settings: object, places = NOWHERE): AdvectedFrame[] => [
  ...advectParticles(
    frames,
    PARTICLE_ADVECTION.parse({ ...PARTICLE_ADVECTION.start(), ...settings }),
    places,
  ),
];
const at = (d: AdvectedFrame, n: number): Triple =>
  ['x', 'y', 'z'].map((c) => d.columns.get(c)![n]) as Triple;
const far = (a: Triple, b: Triple): number => Math.hypot(...a.map((v, c) => v - b[c]));
const BALL = { seeds: 'shape', shape: 'sphere', centre: [0.2, 0, 0], radius: 0.3, count: 60 };
/** One turn a second about y. */
const VORTEX: Flow = (x, _y, z) => [2 * Math.PI * z, 0, -2 * Math.PI * x];

describe('through a steady vortex', () => {
  const miss = (substeps: number): number => {
    const turned = all(cache(VORTEX), { ...BALL, substeps });
    const d = turned.map((t) => [0, 1, 2].map((n) => at(t, n)));
    return Math.max(...d[0].map((p, n) => far(p, d[8][n])));
  };

  test('a turn ends where it began, with an error of fourth order in the step', () => {
    const [coarse, fine] = [1, 2].map(miss);
    expect(coarse).toBeLessThan(0.01);
    expect(Math.log2(coarse / fine)).toBeGreaterThan(3.6);
  });
  test('radius and height stay, and velocity is that of the place', () => {
    const [first, , , later] = all(cache(VORTEX), { ...BALL, substeps: 4 });
    for (let n = 0; n < 60; n++) {
      const [p, q] = [at(first, n), at(later, n)];
      expect(Math.hypot(q[0], q[2])).toBeCloseTo(Math.hypot(p[0], p[2]), 4);
      expect(q[1]).toBeCloseTo(p[1], 6);
      expect(Math.hypot(later.columns.get('vx')![n], later.columns.get('vz')![n])).toBeCloseTo(
        2 * Math.PI * Math.hypot(q[0], q[2]),
        0,
      );
    }
  });
  test('back from the end of a way forward comes to its start', () => {
    const forward = all(cache(VORTEX, { last: 4 }), { ...BALL, substeps: 4 });
    const back = all(cache(VORTEX, { last: 4 }), { ...BALL, substeps: 4, way: 'backward' });
    expect(back.map((d) => d.frame)).toEqual([4, 3, 2, 1]);
    // the same seeds: where forward ends after an angle, back ends after the opposite one
    const [p, q] = [at(forward[3], 5), at(back[3], 5)];
    const start = at(forward[0], 5);
    expect(far(p, start)).toBeCloseTo(far(q, start), 4);
    expect(p[2]).toBeCloseTo(-q[2] + 2 * start[2] * Math.cos((3 / 8) * 2 * Math.PI), 3);
  });
});

describe('in time', () => {
  test('a wind that grows evenly carries by ½ a t²', () => {
    const d = all(
      cache((_x, _y, _z, t) => [0.8 * t, 0, 0]),
      { ...BALL, substeps: 1 },
    );
    expect(at(d[8], 3)[0] - at(d[0], 3)[0]).toBeCloseTo(0.4, 4);
    expect(d[8].columns.get('age')![3]).toBeCloseTo(1, 5);
  });
  test('a stream is born evenly, and each keeps its number', () => {
    const d = all(
      cache(() => [0, 0.1, 0]),
      { ...BALL, born: 'stream', from: 2, until: 5 },
    );
    expect(d.map((x) => x.count)).toEqual([0, 15, 30, 45, 60, 60, 60, 60, 60]);
    expect([...d[8].columns.get('id')!]).toEqual(Array.from({ length: 60 }, (_, n) => n));
    expect(() =>
      all(
        cache(() => [0, 0, 0]),
        { ...BALL, born: 'stream', from: 40, until: 50 },
      ),
    ).toThrow(/outside of the cache/);
  });
});

describe('where velocity ends', () => {
  const out = (leaving: 'coast' | 'end'): AdvectedFrame[] =>
    all(
      cache(() => [2, 0, 0], { everywhere: false }),
      { ...BALL, leaving },
    );
  test('they end or go on as they were', () => {
    expect(out('end')[8].count).toBe(0);
    const d = out('coast');
    expect(d[8].count).toBe(60);
    expect(at(d[8], 7)[0] - at(d[0], 7)[0]).toBeCloseTo(2, 4);
  });
  test('a few voxels beyond the medium the air still goes with it', () => {
    const d = all(
      cache(() => [0.1, 0, 0], { everywhere: false }),
      { ...BALL, centre: [0, 0.52, 0], radius: 0.05, leaving: 'end' },
    );
    expect(d[2].count).toBe(60);
    expect(d[2].columns.get('vx')![0]).toBeCloseTo(0.1, 4);
  });
  test('a cache without velocity, and one without medium, say so', () => {
    const bare = cache(() => [0, 0, 0]);
    const without = {
      ...bare,
      read: (f: number) => ({
        ...bare.read(f),
        channels: new Map([...bare.read(f).channels].filter(([n]) => n !== 'velocity')),
      }),
    };
    expect(() => all(without, BALL)).toThrow(/no velocity/);
    const empty = {
      ...bare,
      read: (f: number) => ({
        ...bare.read(f),
        channels: new Map(bare.read(f).channels).set('density', [new Float32Array(N ** 3)]),
      }),
    };
    expect(() => all(empty, { seeds: 'density' })).toThrow(/no medium/);
    expect(() => all(bare, { seeds: 'source' })).toThrow(/no source/);
  });
});

describe('seeds, and what they carry', () => {
  test('in the medium, evenly by its density', () => {
    const [d] = all(
      cache(() => [0, 0, 0]),
      { seeds: 'density', count: 4000 },
    );
    let inside = 0;
    const sum: Triple = [0, 0, 0];
    for (let n = 0; n < d.count; n++) {
      const p = at(d, n);
      p.forEach((v, c) => (sum[c] += v / d.count));
      if (Math.hypot(...p) < 0.25) inside++;
    }

    expect(Math.hypot(...sum)).toBeLessThan(0.03);
    expect(inside / d.count).toBeCloseTo(0.125, 1);
  });
  test('temperature and colour of the place', () => {
    const [d] = all(
      cache(() => [0, 0, 0]),
      { ...BALL, radius: 0.15, temperature: true, colour: true, density: true },
    );
    for (let n = 0; n < 20; n++) expect(d.columns.get('temperature')![n]).toBeCloseTo(10 * at(d, n)[0], 3);
    expect(['red', 'green', 'blue', 'density'].map((c) => d.columns.get(c)![0])).toEqual([0.25, 0.5, 1, 1]);
  });
  test('the same seed gives the same places, whatever their number', () => {
    const [few] = all(cache(VORTEX), { ...BALL, count: 10 });
    const [many] = all(cache(VORTEX), { ...BALL, count: 300 });
    const [others] = all(cache(VORTEX), { ...BALL, seed: 2 });
    expect(at(few, 9)).toEqual(at(many, 9));
    expect(at(few, 9)).not.toEqual(at(others, 9));
  });
  test('trails hold the last places, oldest first', () => {
    const d = all(
      cache(() => [0.2, 0, 0]),
      { ...BALL, trail: true, length: 3 },
    );
    expect(d[0].trails!.lengths[0]).toBe(1);
    const { places, lengths } = d[5].trails!;
    expect([...lengths]).toEqual(new Array(60).fill(3));
    const xs = [0, 1, 2].map((n) => places[3 * n]);
    expect(xs[1] - xs[0]).toBeCloseTo(0.025, 5);
    expect(xs[2]).toBeCloseTo(at(d[5], 0)[0], 6);
    expect(() => all(cache(VORTEX), { count: 5_000_000, trail: true, length: 100 })).toThrow(/shorter/);
  });
});

describe('files', () => {
  const columns = all(cache(VORTEX), { ...BALL, density: true })[3].columns;
  test('PLY gives the same floats back', () => {
    const cloud = readPlyCloud(writePlyCloud(columns));
    expect(cloud.count).toBe(60);
    for (let n = 0; n < 60; n++) {
      expect([...cloud.positions.subarray(3 * n, 3 * n + 3)]).toEqual(
        ['x', 'y', 'z'].map((c) => columns.get(c)![n]),
      );
      expect(cloud.velocities![3 * n]).toBe(columns.get('vx')![n]);
      expect(cloud.ids![n]).toBe(columns.get('id')![n]);
    }
  });
  test('CSV does too', () => {
    const cloud = readCsvCloud(new TextEncoder().encode(writeCsvCloud(columns)));
    for (let n = 0; n < 60; n++)
      expect([...cloud.positions.subarray(3 * n, 3 * n + 3)]).toEqual(
        ['x', 'y', 'z'].map((c) => columns.get(c)![n]),
      );
  });
  test('trails are lines: vertices and edges', () => {
    const bytes = writePlyLines(Float32Array.from([0, 0, 0, 1, 0, 0, 2, 0, 0, 5, 5, 5, 6, 5, 5]), [3, 2]);
    const text = new TextDecoder('latin1').decode(bytes);
    expect(text).toMatch(/element vertex 5\n[^]*element edge 3\n/);
    expect(hasFaces(bytes)).toBe(false);
    const body = new DataView(bytes.buffer, text.indexOf('end_header\n') + 11);
    expect([0, 1, 2, 3, 4, 5].map((n) => body.getInt32(60 + 4 * n, true))).toEqual([0, 1, 1, 2, 3, 4]);
  });
});

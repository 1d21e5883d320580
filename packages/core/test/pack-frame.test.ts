// Frames of a run gathered by kernels into a cache's grids, against the same made plainly from dense volumes;
// and the thread that writes them.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { packFrame } from '@bramblemist/core/cache/pack-frame';
import { writePacked, writeVdb } from '@bramblemist/core/files/vdb/writer';
import { writeField } from '@bramblemist/core/grid/memory';
import { bake } from '@bramblemist/core/io/node/bake';
import { FrameWriter } from '@bramblemist/core/io/node/frame-writer';
import { sha256 } from '@bramblemist/core/io/node/files';
import { halfTable } from '@bramblemist/core/math/half';
import { gridsFrom, random, recipeOf, simulate, PUFF } from './run';

const ALL = { colour: true, age: true, coordinates: true };
const LIVELY = {
  sources: [{ ...PUFF, colour: { amount: [1, 0.5, 0] } }],
  buoyancy: { lift: 0.05, weight: 0.2 },
  settling: { falls: 'speed', speed: 0.6, lands: 'lies' },
};

describe.each(['half', 'float'])('as %s floats', (precision) => {
  test.each([
    ['the whole domain, off the leaves', {}, { corner: [-0.83, 0, -0.77] }],
    ['a window that fits', { window: { mode: 'fit', margin: 4 } }, {}],
    ['a medium that is finer', {}, { medium: 'finer' }],
  ])('%s: the same file to the last bit', (_, parts, space) => {
    for (const air of ['medium', 'room']) {
      const s = simulate(recipeOf({ ...LIVELY, ...parts, space, keep: { ...ALL, precision, air } }), 2);
      for (let f = 0; f < 6; f++) s.advanceFrame();
      const before = s.checksum();
      expect(Buffer.compare(writePacked(packFrame(s)), writeVdb(gridsFrom(s)))).toBe(0);
      // the run does not notice
      expect(s.checksum()).toBe(before);
      s.threadPool.close();
    }
  });
});

test('halves are rounded as everywhere else, from the least to what is too large', () => {
  const s = simulate(recipeOf({ keep: { precision: 'half', threshold: 0 } }));
  const halves = halfTable();
  const next = random(8);
  // numbers between neighbouring halves, midpoints among them; and some that halves do not reach
  const values = Float32Array.from({ length: 16 ** 3 }, (_, n) => {
    const at = 1 + Math.floor(next() * 31741);
    const [low, high] = [halves[at], halves[at + 1]];
    if (n % 50 === 0) return [1e-9, 70000, 65519, 65520, 2e-8][(n / 50) % 5];
    return Number.isFinite(high) ? low + (high - low) * (n % 3 === 0 ? 0.5 : next()) : low;
  });
  writeField(s.threadPool.memory, s.field('density'), values);
  expect(Buffer.compare(writePacked(packFrame(s)), writeVdb(gridsFrom(s)))).toBe(0);
});

test('more leaves than there is room for at once are gathered in turns', () => {
  const s = simulate(recipeOf({ sources: [PUFF], keep: { ...ALL, precision: 'float', air: 'room' } }));
  for (let f = 0; f < 3; f++) s.advanceFrame();
  const wanted = writeVdb(gridsFrom(s));
  const { free } = s.layout;
  // masks, lists, and five leaves of vectors
  Object.assign(free, { bytes: 2 * 64 * 8 + 2 * 4 * 8 + 5 * 512 * 12 + 16 });
  expect(Buffer.compare(writePacked(packFrame(s)), wanted)).toBe(0);
});

describe('the thread that writes', () => {
  let folder: string;
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'bm-'))));
  afterEach(() => rmSync(folder, { recursive: true }));

  const order = (path: string) =>
    ({ kind: 'frame', path, grids: [], options: {}, preview: null, frame: 1 }) as const;

  test('answers in order, with what stands on disk', () => {
    const writer = new FrameWriter({ folder, frames: { first: 1, last: 1 } });
    const told: string[] = [];
    for (const name of ['a', 'b', 'c'])
      writer.frame(order(join(folder, name)), (file) => {
        const bytes = readFileSync(join(folder, name));
        expect(file).toEqual({ kind: 'frame', bytes: bytes.length, sha256: sha256(bytes) });
        told.push(name);
      });
    // no more than two wait
    expect(told.length).toBeGreaterThanOrEqual(1);
    writer.settle();
    expect(told).toEqual(['a', 'b', 'c']);
    writer.close();
  });

  test('what goes wrong there goes wrong here, and nothing is waited for any more', () => {
    const writer = new FrameWriter({ folder, frames: { first: 1, last: 1 } });
    writer.frame(order('/dev/null/nowhere'), () => undefined);
    expect(() => writer.settle()).toThrow(/nowhere|ENOTDIR|EEXIST/);
    writer.settle();
    writer.close();
  });

  test('a bake tells of each frame once it is whole, and what the time went into', () => {
    const frames: number[] = [];
    let times = { solverSeconds: 0, waitedSeconds: -1 };
    const began = performance.now();
    const { complete } = bake(recipeOf({ ...LIVELY, space: { lastFrame: 6 } }), {
      folder,
      threads: 1,
      bricks: true,
      onFrame: ({ frame, file, bytes, sha256: digest }) => {
        const data = readFileSync(join(folder, file));
        expect([data.length, sha256(data)]).toEqual([bytes, digest]);
        frames.push(frame);
      },
      onTimes: (t) => (times = t),
    });
    expect(complete).toBe(true);
    expect(frames).toEqual([1, 2, 3, 4, 5, 6]);
    expect(times.solverSeconds).toBeGreaterThan(0);
    expect(times.solverSeconds + times.waitedSeconds).toBeLessThan((performance.now() - began) / 1000);
  });
});

// Kernels that go over windows of a picture, and the one that carries a medium along, against the same
// written plainly.
import { MediumStruct } from '@bramblemist/kernels/seam';
import { putFloats } from '@bramblemist/core/grid/memory';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { random } from './run';

const WIDTH = 22;
const HEIGHT = 13;
const COUNT = WIDTH * HEIGHT;
const FIRST = 131072;

let pool: ThreadPool;
beforeAll(() => (pool = startThreadPool(8, 2)));
afterAll(() => pool.close());

/** Where the nth plane of doubles stands, and what it holds. */
const at = (n: number): number => FIRST + n * COUNT * 8;
const plane = (n: number): Float64Array => new Float64Array(pool.memory.buffer, at(n), COUNT);

function filled(n: number, scale = 1): number[] {
  const next = random(n + 7);
  const values = Array.from({ length: COUNT }, () => scale * (next() - 0.3));
  plane(n).set(values);
  return values;
}

/** Mean over the square about each value that lies in the picture. */
const squares = (values: readonly number[], radius: number): number[] =>
  values.map((_, n) => {
    const [x, y] = [n % WIDTH, Math.floor(n / WIDTH)];
    const inside = values.filter(
      (__, m) => Math.abs((m % WIDTH) - x) <= radius && Math.abs(Math.floor(m / WIDTH) - y) <= radius,
    );
    return inside.reduce((a, b) => a + b, 0) / inside.length;
  });
const alike = (got: ArrayLike<number>, wanted: readonly number[]): void =>
  wanted.forEach((v, n) => expect(Math.abs(got[n] - v)).toBeLessThan(1e-9 * Math.max(1, Math.abs(v))));

function mean(from: number, by: number, to: number, radius: number): void {
  const rows = { from: at(from), by: by < 0 ? 0 : at(by), to: at(9), width: WIDTH, radius };
  pool.run('meanOfRows', HEIGHT, 2, rows);
  const columns = { from: at(9), to: at(to), width: WIDTH, height: HEIGHT, radius };
  pool.run('meanOfColumns', Math.ceil(WIDTH / 16), 1, columns);
}

test.each([1, 3, 30])('means over squares of values and of products (radius %d)', (radius) => {
  const [a, b] = [filled(0), filled(1)];
  mean(0, -1, 2, radius);
  alike(plane(2), squares(a, radius));
  mean(0, 1, 2, radius);
  alike(
    plane(2),
    squares(
      a.map((v, n) => v * b[n]),
      radius,
    ),
  );
});

test('slopes of a window are those of the least squares', () => {
  // what is fitted is a plane over both guides: slopes and rest are known everywhere
  const [g, h] = [filled(1), filled(2)];
  plane(0).set(g.map((v, n) => 0.7 * v - 1.3 * h[n] + 0.25));
  const radius = 3;
  mean(0, -1, 3, radius);
  [
    [1, -1, 4],
    [2, -1, 5],
    [1, 1, 6],
    [1, 2, 7],
    [2, 2, 8],
    [1, 0, 10],
    [2, 0, 11],
  ].forEach(([from, by, to]) => mean(from, by, to, radius));
  const [p, gm, hm, gg, gh, hh, gp, hp] = [3, 4, 5, 6, 7, 8, 10, 11].map(at);
  pool.run('slopesOfWindows', HEIGHT, 2, { p, g: gm, h: hm, gg, gh, hh, gp, hp, width: WIDTH });
  for (let n = 0; n < COUNT; n++) {
    expect(plane(10)[n]).toBeCloseTo(0.7, 2);
    expect(plane(11)[n]).toBeCloseTo(-1.3, 2);
    expect(plane(3)[n]).toBeCloseTo(0.25, 2);
  }
});

test('planes are added, and what stands out from the noise is kept', () => {
  const [rest, along, across, first, second] = [0, 1, 2, 3, 4].map((n) => filled(n));
  pool.run('addPlanes', HEIGHT, 2, {
    ...{ rest: at(0), along: at(1), across: at(2), first: at(3), second: at(4) },
    width: WIDTH,
  });
  alike(
    plane(0),
    rest.map((v, n) => v + along[n] * first[n] + across[n] * second[n]),
  );
  pool.run('takeDifference', HEIGHT, 2, { fit: at(1), now: at(2), change: at(5), width: WIDTH });
  const change = along.map((v, n) => v - across[n]);
  alike(plane(5), change);
  const off = filled(6).map(Math.abs);
  const noise = filled(7).map(Math.abs);
  plane(6).set(off);
  plane(7).set(noise);
  const planes = { now: at(2), change: at(5), off: at(6), noise: at(7) };
  pool.run('keepDifference', HEIGHT, 2, { ...planes, scale: 0.5, width: WIDTH });
  alike(
    plane(2),
    across.map((v, n) => v + Math.max(0, off[n] > 0 ? 1 - (0.5 * noise[n]) / off[n] : 0) * change[n]),
  );
});

test('a medium is carried along its velocity, its colours with it', () => {
  const [nx, ny, nz] = [9, 6, 5];
  const row = 16;
  const plane3 = row * (ny + 2);
  const size = plane3 * (nz + 2);
  const next = random(3);
  const field = (value: () => number): Float32Array => {
    const values = new Float32Array(size);
    for (let k = 1; k <= nz; k++)
      for (let j = 1; j <= ny; j++) for (let i = 1; i <= nx; i++) values[k * plane3 + j * row + i] = value();
    return values;
  };

  const place = (n: number): number => FIRST + n * (size * 4 + 256);
  const still = field(next);
  const velocity = [0, 1, 2].map(() => field(() => 3 * (next() - 0.5)));
  [still, ...velocity].forEach((values, n) => putFloats(pool.memory, place(n), values));
  putFloats(pool.memory, place(4), new Float32Array(size));
  const tint = Uint16Array.from({ length: 4 * size }, () => Math.floor(65536 * next()));
  new Uint16Array(pool.memory.buffer, place(6), tint.length).set(tint);
  MediumStruct.write(pool.memory, 120000, {
    ...{ nx, ny, nz, row, plane: plane3, extinction: place(4), light: 0, tint: 0, takes: 0 },
    ...{ needed: 0, held: 0, blocks: 0, blocksX: 0, blocksY: 0, blocksZ: 0 },
  });
  const frames = 0.7;
  const go = { medium: 120000, velocityX: place(1), velocityY: place(2), velocityZ: place(3), frames };
  pool.run('carryAlong', nz, 2, { ...go, from: place(0), to: place(4) });
  pool.run('carryTint', nz, 2, { ...go, from: place(6), to: place(8) });
  const got = new Float32Array(pool.memory.buffer, place(4), size);
  const gotTint = new Uint16Array(pool.memory.buffer, place(8), 4 * size);
  for (let k = 1; k <= nz; k++)
    for (let j = 1; j <= ny; j++)
      for (let i = 1; i <= nx; i++) {
        const cell = k * plane3 + j * row + i;
        const from = [i, j, k].map((v, a) =>
          Math.min([nx, ny, nz][a] + 0.999, Math.max(0, v - frames * velocity[a][cell])),
        );
        const mixed = (value: (n: number) => number): number => {
          let sum = 0;
          for (let corner = 0; corner < 8; corner++) {
            const at8 = from.map((v, a) => Math.floor(v) + ((corner >> a) & 1));
            const weight = at8.reduce((w, v, a) => w * (1 - Math.abs(from[a] - v)), 1);
            sum += weight * value(at8[2] * plane3 + at8[1] * row + at8[0]);
          }

          return sum;
        };

        expect(Math.abs(got[cell] - mixed((n) => still[n]))).toBeLessThan(1e-5);
        expect(Math.abs(gotTint[4 * cell + 2] - mixed((n) => tint[4 * n + 2]))).toBeLessThan(3);
      }
});

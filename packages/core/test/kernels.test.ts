// The kernels against slow, obvious versions of themselves.
import { lattice, coarser, type Lattice } from '@bramblemist/core/grid/lattice';
import { fieldView, MemoryPlan, readField, writeField, type Field } from '@bramblemist/core/grid/memory';
import type { Team } from '@bramblemist/core/grid/team';
import { startTeam } from '@bramblemist/core/io/node/team';
import { fillHalo, shape, sites } from '@bramblemist/core/step/state';
import { random } from './run';

function setUp(l: Lattice, count: number, coarse = 0): { team: Team; fields: Field[]; below: Field[]; kind: number; line: number } {
  const plan = new MemoryPlan();
  const fields = Array.from({ length: count }, () => plan.field(l)),
    below = Array.from({ length: coarse }, () => plan.field(coarser(l)));
  const kind = plan.bytes(l.ny * l.nz),
    line = plan.bytes((l.nz + 2) * (l.rowStride + 8) * 4);
  return { team: startTeam(plan.pages, 1), fields, below, kind, line };
}
function fillRandom(team: Team, f: Field, seed: number, axis = 3, scale = 1): Float32Array {
  const next = random(seed),
    [mx, my, mz] = sites(f.lattice, axis),
    l = f.lattice;
  const values = Float32Array.from({ length: mx * my * mz }, () => (next() * 2 - 1) * scale);
  writeField(team.memory, f, values, [mx - l.nx, my - l.ny, mz - l.nz]);
  return values;
}
const dotOf = (a: Float32Array, b: Float32Array): number => a.reduce((s, v, n) => s + v * b[n], 0);

test('a look-up with bounds is trilinear, clamped to the halo, and bounded by its eight values', () => {
  const l = lattice(12, 10, 8),
    { team, fields } = setUp(l, 7),
    [f, hat, lo, hi, dx, dy, dz] = fields;
  for (const axis of [3, 0, 1, 2]) {
    fillRandom(team, f, 1 + axis, axis);
    fillHalo(team, f, axis, axis === 3 ? 8 : 0);
    const d = [dx, dy, dz].map((x, n) => fillRandom(team, x, 20 + n, 3, 3.4));
    for (const x of [dx, dy, dz]) fillHalo(team, x, 3, 0);
    const [mx, my, mz] = sites(l, axis);
    team.solo('advectBack', ...[f, hat, lo, hi, dx, dy, dz].map((x) => x.address), ...shape(l), axis, 0, mz);
    const view = fieldView(team.memory, f),
      at = (i: number, j: number, k: number): number => view[l.lead + k * l.planeStride + j * l.rowStride + i];
    const extra: [number, number, number] = [mx - l.nx, my - l.ny, mz - l.nz];
    const got = readField(team.memory, hat, extra),
      least = readField(team.memory, lo, extra),
      most = readField(team.memory, hi, extra);
    const cell = (v: Float32Array, i: number, j: number, k: number): number =>
      v[(Math.min(Math.max(k, 0), l.nz - 1) * l.ny + Math.min(Math.max(j, 0), l.ny - 1)) * l.nx + Math.min(Math.max(i, 0), l.nx - 1)];
    for (let k = 0; k < mz; k++)
      for (let j = 0; j < my; j++)
        for (let i = 0; i < mx; i++) {
          const before = [i - Number(axis === 0), j - Number(axis === 1), k - Number(axis === 2)] as const;
          const p = [i, j, k].map((c, a) => {
            const move = 0.5 * (cell(d[a], i, j, k) + cell(d[a], ...before)),
              n = [l.nx, l.ny, l.nz][a];
            return Math.min(Math.max(c + move, axis === a ? 0 : -1), n);
          });
          const b = p.map(Math.floor),
            t = p.map((v, a) => v - b[a]);
          let value = 0;
          const eight: number[] = [];
          for (let c = 0; c < 8; c++) {
            const o = [c & 1, (c >> 1) & 1, c >> 2],
              v = at(b[0] + o[0], b[1] + o[1], b[2] + o[2]);
            eight.push(v);
            value += v * o.reduce((w, s, a) => w * (s ? t[a] : 1 - t[a]), 1);
          }
          const n = (k * my + j) * mx + i;
          // right at a cell's border rounding may choose either side; the value is continuous, the bounds are not
          expect(Math.abs(got[n] - value)).toBeLessThan(2e-5);
          if (t.every((x) => x > 1e-4 && x < 1 - 1e-4)) {
            expect(least[n]).toBe(Math.min(...eight));
            expect(most[n]).toBe(Math.max(...eight));
          }
        }
  }
});

describe('multigrid', () => {
  /** A window with walls, an open top and some half-closed faces inside. */
  function holed(l: Lattice): ReturnType<typeof setUp> & { open: Field[] } {
    const kit = setUp(l, 8, 2),
      open = kit.fields.slice(0, 3),
      next = random(8);
    open.forEach((f, axis) => {
      const [mx, my, mz] = sites(l, axis),
        v = new Float32Array(mx * my * mz).fill(1);
      for (let n = 0; n < v.length; n++) {
        const p = [n % mx, Math.floor(n / mx) % my, Math.floor(n / mx / my)],
          end = [mx, my, mz][axis] - 1;
        if (p[axis] === 0 || (p[axis] === end && axis !== 1)) v[n] = 0;
        else if (p.every((c) => c >= 5 && c <= 7)) v[n] = next() < 0.5 ? 0 : next();
      }
      writeField(kit.team.memory, f, v, [mx - l.nx, my - l.ny, mz - l.nz]);
    });
    kit.team.solo('classifyRows', ...open.map((f) => f.address), kit.kind, l.nx, l.ny, l.rowStride, l.planeStride, 0, l.nz);
    return { ...kit, open };
  }
  function slowOperator(l: Lattice, open: Float32Array[], e: Float32Array): { le: Float32Array; diagonal: Float32Array } {
    const le = new Float32Array(e.length),
      diagonal = new Float32Array(e.length),
      n = [l.nx, l.ny, l.nz];
    const at = (p: number[]): number => (p.every((c, a) => c >= 0 && c < n[a]) ? e[(p[2] * l.ny + p[1]) * l.nx + p[0]] : 0);
    for (let c = 0; c < e.length; c++) {
      const p = [c % l.nx, Math.floor(c / l.nx) % l.ny, Math.floor(c / l.nx / l.ny)];
      for (let axis = 0; axis < 3; axis++) {
        const m = sites(l, axis);
        for (const side of [0, 1]) {
          const q = p.slice(),
            face = p.slice();
          q[axis] += side ? 1 : -1;
          face[axis] += side;
          const a = open[axis][(face[2] * m[1] + face[1]) * m[0] + face[0]];
          diagonal[c] += a;
          le[c] += a * (e[c] - at(q));
        }
      }
    }
    return { le, diagonal };
  }
  test('the residual and one red-black sweep agree with the plain operator', () => {
    const l = lattice(16, 10, 12),
      { team, open, fields, kind } = holed(l),
      [, , , e, r, q] = fields;
    const ev = fillRandom(team, e, 31),
      rv = fillRandom(team, r, 32);
    const faces = open.map((f, axis) => {
      const m = sites(l, axis);
      return readField(team.memory, f, [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz]);
    });
    const args = [...open.map((f) => f.address), kind, l.nx, l.ny, l.rowStride, l.planeStride];
    team.solo('residual', e.address, r.address, q.address, ...args, 0, l.nz);
    const { le, diagonal } = slowOperator(l, faces, ev),
      got = readField(team.memory, q);
    for (let c = 0; c < ev.length; c++) expect(Math.abs(got[c] - (diagonal[c] > 0 ? rv[c] - le[c] : 0))).toBeLessThan(1e-5);

    // in slabs of 4, as workers would take them
    for (let k = 0; k < l.nz; k += 4) team.solo('relaxPair', e.address, r.address, ...args, 0, 0, k, Math.min(k + 4, l.nz));
    for (let k = 0; k < l.nz; k += 4) team.solo('relaxEdges', e.address, r.address, ...args, 0, k, Math.min(k + 4, l.nz));
    const slow = ev.slice();
    for (const colour of [0, 1]) {
      const now = slowOperator(l, faces, slow);
      for (let c = 0; c < slow.length; c++) {
        const parity = ((c % l.nx) + (Math.floor(c / l.nx) % l.ny) + Math.floor(c / l.nx / l.ny) + colour) & 1;
        if (parity === 0 && now.diagonal[c] > 1e-6) slow[c] += (rv[c] - now.le[c]) / now.diagonal[c];
        else if (parity === 0) slow[c] = 0;
      }
    }
    const swept = readField(team.memory, e);
    for (let c = 0; c < slow.length; c++) expect(Math.abs(swept[c] - slow[c])).toBeLessThan(3e-5);
  });
  test.each([
    [16, 8, 12],
    [24, 14, 10],
  ])('restriction is the transpose of interpolation, times four (%d × %d × %d)', (nx, ny, nz) => {
    const l = lattice(nx, ny, nz),
      c = coarser(l),
      { team, fields, below, line } = setUp(l, 5, 2),
      [ax, ay, az, fine, q] = fields,
      [e, b] = below;
    for (const f of [ax, ay, az]) fillRandom(team, f, 1).fill(1);
    const qv = fillRandom(team, q, 51),
      ev = fillRandom(team, e, 52);
    fillHalo(team, q, 3, 0);
    fillHalo(team, e, 3, 0);
    team.solo('restrict', q.address, b.address, line, l.rowStride, l.planeStride, l.nx, c.nx, c.ny, c.rowStride, c.planeStride, 0, c.nz);
    team.solo(
      'prolong',
      e.address,
      fine.address,
      line,
      ax.address,
      ay.address,
      az.address,
      0,
      1,
      l.nx,
      l.ny,
      l.rowStride,
      l.planeStride,
      c.nx,
      c.rowStride,
      c.planeStride,
      0,
      l.nz,
    );
    // <R q, e> · 8/4 = <q, P e>, eight fine cells to a coarse one
    expect(dotOf(readField(team.memory, b), ev) * 2).toBeCloseTo(dotOf(qv, readField(team.memory, fine)), 2);
  });
});

test('our sine and exponential are those of mathematics', () => {
  const { team } = setUp(lattice(4, 2, 2), 1);
  for (let x = -20; x <= 20; x += 0.37) {
    expect(team.solo('sine', x)).toBeCloseTo(Math.sin(x), 14);
    expect(team.solo('exponential', x / 4) / Math.exp(x / 4)).toBeCloseTo(1, 14);
  }
});

test('an unknown kernel and too many arguments are refused', () => {
  const { team } = setUp(lattice(4, 2, 2), 1);
  expect(() => team.run('nothing', 1, 1)).toThrow(/No kernel is called nothing/);
  expect(() => team.run('fill', 1, 1, ...new Array<number>(40).fill(0))).toThrow(/too many/);
});

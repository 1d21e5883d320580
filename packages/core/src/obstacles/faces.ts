// Obstacles as open fractions of cell faces, from signed distances at the corners (Batty, Bertails, Bridson 2007).
import { fieldView, type Field } from '../grid/memory';
import { openSide, SLAB, sites, type Layout } from '../step/state';
import type { Team } from '../grid/team';
import type { CellShape, Plan } from '../step/compile';

/** Distance to the surface in cells, negative inside. */
export function signedDistance(s: CellShape, x: number, y: number, z: number): number {
  const p = [x - s.centre[0], y - s.centre[1], z - s.centre[2]];
  if (s.kind === 'sphere') return Math.sqrt(p[0] * p[0] + p[1] * p[1] + p[2] * p[2]) - s.half[0];
  const q = p.map((v, a) => Math.abs(v) - s.half[a]);
  const out = q.map((v) => Math.max(v, 0));
  return Math.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2]) + Math.min(Math.max(q[0], q[1], q[2]), 0);
}

/** Faces less open than this are closed: slivers would spoil the solver's condition for nothing that can be seen. */
const SLIVER = 0.05;

/** Part of a unit square outside, from the distances at its corners, by sampling the bilinear surface between them. */
function openPart(a: number, b: number, c: number, d: number): number {
  // closed first: a face that lies in the surface itself must not let anything through
  if (a <= 0 && b <= 0 && c <= 0 && d <= 0) return 0;
  if (a >= 0 && b >= 0 && c >= 0 && d >= 0) return 1;
  let sum = 0;
  const n = 4;
  for (let q = 0; q < n; q++) {
    for (let p = 0; p < n; p++) {
      const s = (p + 0.5) / n,
        t = (q + 0.5) / n;
      const phi = (a * (1 - s) + b * s) * (1 - t) + (c * (1 - s) + d * s) * t;
      sum += Math.min(1, Math.max(0, phi * n + 0.5));
    }
  }
  const part = sum / (n * n);
  return part < SLIVER ? 0 : part > 1 - 1e-4 ? 1 : part;
}

/** Writes the open fractions of the finest level: window sides first, then each obstacle within its bounds. */
export function writeFaces(plan: Plan, layout: Layout, memory: WebAssembly.Memory): void {
  const fields = layout.levels[0].open,
    l = fields[0].lattice;
  fields.forEach((field, axis) => {
    const view = fieldView(memory, field),
      [mx, my, mz] = sites(l, axis),
      m = [mx, my, mz];
    for (let k = 0; k < mz; k++) {
      for (let j = 0; j < my; j++) {
        const from = l.lead + k * l.planeStride + j * l.rowStride;
        view.fill(1, from, from + mx);
        const at = [0, j, k];
        if (axis === 0) {
          if (plan.sides[0] === 'wall') view[from] = 0;
          if (plan.sides[1] === 'wall') view[from + mx - 1] = 0;
        } else if (
          (at[axis] === 0 && plan.sides[2 * axis] === 'wall') ||
          (at[axis] === m[axis] - 1 && plan.sides[2 * axis + 1] === 'wall')
        ) {
          view.fill(0, from, from + mx);
        }
      }
    }
  });
  for (const shape of plan.obstacles) fields.forEach((field, axis) => cutFaces(fieldView(memory, field), field, axis, shape));
}

function cutFaces(view: Float32Array, field: Field, axis: number, s: CellShape): void {
  const l = field.lattice,
    m = sites(l, axis);
  const from = s.centre.map((c, a) => Math.max(0, Math.floor(c - s.half[a]) - 1));
  const to = s.centre.map((c, a) => Math.min(m[a], Math.ceil(c + s.half[a]) + 2));
  const [b, c] = [0, 1, 2].filter((a) => a !== axis);
  for (let k = from[2]; k < to[2]; k++) {
    for (let j = from[1]; j < to[1]; j++) {
      for (let i = from[0]; i < to[0]; i++) {
        const at = [i, j, k];
        const corner = (p: number, q: number): number => {
          const x = at.slice();
          x[b] += p;
          x[c] += q;
          return signedDistance(s, x[0], x[1], x[2]);
        };
        const here = l.lead + k * l.planeStride + j * l.rowStride + i;
        view[here] = Math.min(view[here], openPart(corner(0, 0), corner(1, 0), corner(0, 1), corner(1, 1)));
      }
    }
  }
}

/** The faces of the coarse levels from the finest, and the rows of every level that need them. */
export function coarsenFaces(team: Team, layout: Layout): void {
  layout.levels.forEach((level, d) => {
    const l = level.lattice;
    if (d > 0) {
      const fine = layout.levels[d - 1].block;
      for (const axis of [0, 1, 2])
        team.run('coarsenFaces', sites(l, axis)[2], SLAB, fine, level.block, axis, openSide(d) / openSide(d - 1));
    }
    team.solo('fillCoefficients', level.block);
    team.run('classifyRows', l.nz, SLAB, level.block, 0, l.ny);
  });
}

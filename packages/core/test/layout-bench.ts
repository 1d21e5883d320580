// What kernels of the medium's transport are tested on: a small window as a run lays it out, and fields that
// are filled by cell.
import { lattice } from '@bramblemist/core/grid/lattice';
import { writeField, type Field } from '@bramblemist/core/grid/memory';
import { sites } from '@bramblemist/core/grid/sweep';
import type { ThreadPool } from '@bramblemist/core/grid/thread-pool';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { compile } from '@bramblemist/core/plan/compile';
import { planLayout, type Layout } from '@bramblemist/core/plan/layout';
import { describeLevels } from '@bramblemist/core/plan/levels';
import { recipeOf } from './run';

export const l = lattice(12, 9, 11);
export const N = [l.nx, l.ny, l.nz];
export type Cell = [number, number, number];

const NOTHING = compile(recipeOf()).plan;

/** A window whose faces are all open but for walls at its sides where `sides` says so. */
export function kit(walls: boolean): { threadPool: ThreadPool; layout: Layout } {
  const layout = planLayout(l, NOTHING, 1);
  const threadPool = startThreadPool(layout.pages, 1);
  const rule = walls ? 'wall' : 'open';
  describeLevels(layout.levels, [rule, rule, rule, rule, rule, rule], threadPool.memory);
  layout.levels[0].open.forEach((f, axis) =>
    put(threadPool, f, axis, (p) => (walls && (p[axis] === 0 || p[axis] === N[axis]) ? 0 : 1)),
  );
  return { threadPool, layout };
}

export function put(
  threadPool: ThreadPool,
  f: Field,
  axis: number,
  value: (p: Cell) => number,
): Float32Array {
  const m = sites(l, axis);
  const values = Float32Array.from({ length: m[0] * m[1] * m[2] }, (_, n) =>
    value([n % m[0], Math.floor(n / m[0]) % m[1], Math.floor(n / m[0] / m[1])]),
  );
  writeField(threadPool.memory, f, values, [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz]);
  return values;
}

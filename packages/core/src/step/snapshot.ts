// What a run carries from one substep to the next: taken out of memory, and laid into it for another window,
// cell for cell.
import { finer, type Lattice, type ActiveWindow } from '../grid/lattice';
import { readField, readSplit, writeField, writeSplit, putFloats } from '../grid/memory';
import { sites } from '../grid/sweep';
import { writeFaces } from './cut-cells';
import type { Triple } from '../math/vector';
import { EMPTY_POOL, putPool, takePool, type PoolContents } from '../plan/particle-pool';
import type { Plan, SideRules } from '../plan/plan';
import { farBoxOf } from './far-field';
import { followMedium } from './finer';
import { describeFar, planLayout, type Layout } from '../plan/layout';
import { describeLevels } from '../plan/levels';
import type { SimulationState } from './state';

/** Everything that a run carries from one substep to the next, as tight arrays. */
export interface FieldSnapshot {
  readonly window: ActiveWindow;
  readonly velocity: readonly Float32Array[];
  readonly channels: readonly Float32Array[];
  /** With the cells around the window, where the far pressure stands. */
  readonly pressure: Float32Array;
  /** On the medium's own cells, as in plan.medium.channels; null where those are the air's. */
  readonly medium: readonly Float32Array[] | null;
  /** The air of the cells; null where no obstacle moves. */
  readonly rooms: Float32Array | null;
  /** As in plan.particles. */
  readonly pools: readonly PoolContents[];
}

export function takeSnapshot(state: SimulationState): FieldSnapshot {
  const { layout, threadPool, window } = state;
  return {
    window,
    velocity: layout.velocity.map((f, axis) => readField(threadPool.memory, f, extra(window.lattice, axis))),
    channels: layout.channels.map((f) => readField(threadPool.memory, f)),
    medium: layout.medium && layout.medium.channels.map((f) => readField(threadPool.memory, f)),
    pressure: readSplit(threadPool.memory, { address: layout.pressure, lattice: window.lattice }, 1),
    rooms: layout.rooms && readField(threadPool.memory, layout.rooms[0]),
    pools: layout.pools.map((place, n) => takePool(threadPool.memory, place, state.pools[n])),
  };
}

/** Lays memory out for a window and writes contents into it, cell for cell of the world's lattice. */
export function restoreSnapshot(
  state: SimulationState,
  domain: ActiveWindow,
  window: ActiveWindow,
  contents: FieldSnapshot | null,
  timeS: number,
): void {
  const { plan, threadPool } = state;
  const l = window.lattice;
  const before = state.layout;
  const layout = planLayout(l, plan, threadPool.helpers + 1, farBoxOf(plan, domain, window));
  threadPool.ensurePages(layout.pages);
  if (before)
    new Uint8Array(
      threadPool.memory.buffer,
      layout.start,
      Math.max(before.bytes, layout.bytes) - layout.start,
    ).fill(0);
  state.layout = layout;
  state.window = window;
  state.sides = sidesOf(plan, domain, window);
  describeLevels(layout.levels, state.sides, threadPool.memory);
  if (layout.far) describeFar(layout.far, threadPool.memory);
  writeGiven(plan, layout, threadPool.memory);
  writeFaces(state, timeS);
  const pools = layout.pools.map((_, n) => contents?.pools[n] ?? EMPTY_POOL);
  state.pools = pools.map(({ count, born, owed }) => ({ count, born, owed }));
  if (!contents) return;
  pools.forEach((pool, n) => putPool(threadPool.memory, layout.pools[n], pool));
  const from = contents.window;
  const shift = window.origin.map((o, a) => o - from.origin[a]) as Triple;
  layout.velocity.forEach((f, axis) => {
    const values = fadingOut(contents.velocity[axis], sites(from.lattice, axis), sites(l, axis), shift);
    writeField(threadPool.memory, f, values, extra(l, axis));
  });
  const [a, b] = [sites(from.lattice, 3), sites(l, 3)];
  contents.channels.forEach((v, n) =>
    writeField(threadPool.memory, layout.channels[n], moved(v, a, b, shift, false)),
  );
  const { medium } = layout;
  if (medium && !contents.medium) followMedium(state);
  if (medium && contents.medium) {
    const [fine, fineTo] = [sites(finer(from.lattice), 3), sites(finer(l), 3)];
    const twice = shift.map((v) => 2 * v) as Triple;
    contents.medium.forEach((v, n) =>
      writeField(threadPool.memory, medium.channels[n], moved(v, fine, fineTo, twice, false)),
    );
  }

  const pressure = moved(contents.pressure, withRim(a), withRim(b), shift, true);
  clearRim(pressure, b, layout.far?.inner ?? []);
  writeSplit(threadPool.memory, { address: layout.pressure, lattice: l }, pressure, 1);
  if (layout.rooms && contents.rooms) {
    // cells that are new have the air that obstacles leave to them
    const shape = readField(threadPool.memory, layout.rooms[0]);
    writeField(threadPool.memory, layout.rooms[0], moved(contents.rooms, a, b, shift, false, shape));
  }
}

/**
 * Pictures, and the distances and masks of meshes that stay as they are; the others are written at each
 * moment.
 */
function writeGiven(plan: Plan, layout: Layout, memory: WebAssembly.Memory): void {
  const put = (address: number, values: Float32Array | null): void => putFloats(memory, address, values);
  const putSources = (sources: Plan['sources'], to: Pick<Layout, 'sourceGrids' | 'sourceMasks'>): void =>
    sources.forEach(({ mesh }, n) => {
      if (!mesh || mesh.moves) return;
      const { grid, mask } = mesh.at(0);
      put(to.sourceGrids[n], grid.distances);
      put(to.sourceMasks[n], mask);
    });
  putSources(plan.sources, layout);
  if (plan.medium && layout.medium) putSources(plan.medium.sources, layout.medium);
  plan.obstacles.forEach(
    ({ mesh }, n) => mesh && !mesh.moves && put(layout.obstacleGrids[n], mesh.at(0).grid.distances),
  );
  plan.pictures.forEach((p, n) => put(layout.pictures[n], p.planes));
}

function extra(l: Lattice, axis: number): Triple {
  const m = sites(l, axis);
  return [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz];
}

/**
 * Values of a lattice on another one that starts `shift` cells on; outside what `out` holds, or the nearest
 * value (open air goes on).
 */
function moved(
  values: Float32Array,
  a: Triple,
  b: Triple,
  shift: Triple,
  goesOn: boolean,
  out: Float32Array = new Float32Array(b[0] * b[1] * b[2]),
): Float32Array {
  for (let k = 0; k < b[2]; k++) {
    let z = k + shift[2];
    if (z < 0 || z >= a[2]) {
      if (!goesOn) continue;
      z = clamp(z, 0, a[2] - 1);
    }

    for (let j = 0; j < b[1]; j++) {
      let y = j + shift[1];
      if (y < 0 || y >= a[1]) {
        if (!goesOn) continue;
        y = clamp(y, 0, a[1] - 1);
      }

      const from = (z * a[1] + y) * a[0];
      const to = (k * b[1] + j) * b[0];
      const i0 = clamp(-shift[0], 0, b[0]);
      const i1 = clamp(a[0] - shift[0], i0, b[0]);
      if (i1 > i0) out.set(values.subarray(from + i0 + shift[0], from + i1 + shift[0]), to + i0);
      if (!goesOn) continue;
      for (let i = 0; i < i0; i++) out[to + i] = values[from];
      for (let i = i1; i < b[0]; i++) out[to + i] = values[from + a[0] - 1];
    }
  }

  return out;
}

/** Cells over which it is seen how a velocity fades outward. */
const FADES_OVER = 4;

/**
 * Velocities of a lattice on another one that starts `shift` cells on. Outside they go on as they ended, axis
 * after axis, and fade as they did over the last cells: air that is pushed from far away does so by its
 * distance, while a wind, which is the same everywhere, does not fade.
 */
function fadingOut(values: Float32Array, a: Triple, b: Triple, shift: Triple): Float32Array {
  const out = moved(values, a, b, shift, false);
  const stride = [1, b[0], b[0] * b[1]];
  // sites that are known, by axis: all of those of the axes before
  const known = [0, 1, 2].map((n) => [Math.max(0, -shift[n]), Math.min(b[n], a[n] - shift[n])]);
  for (let axis = 0; axis < 3; axis++) {
    const [first, end] = known[axis];
    const [p, q] = [0, 1, 2].filter((n) => n !== axis);
    for (let m = known[q][0]; m < known[q][1]; m++)
      for (let n = known[p][0]; n < known[p][1]; n++) {
        const line = n * stride[p] + m * stride[q];
        fade(out, line + first * stride[axis], -stride[axis], first, end - first);
        fade(out, line + (end - 1) * stride[axis], stride[axis], b[axis] - end, end - first);
      }

    known[axis] = [0, b[axis]];
  }

  return out;
}

/** Goes on from the last value of a line for so many sites. @param there sites of it that are known */
function fade(out: Float32Array, at: number, step: number, many: number, there: number): void {
  const edge = out[at];
  const inward = out[at - step * Math.min(FADES_OVER, there - 1)];
  const ratio = edge / inward;
  const each = ratio > 0 && ratio < 1 ? Math.sqrt(Math.sqrt(ratio)) : 1;
  let value = edge;
  for (let n = 1; n <= many; n++) {
    value *= each;
    out[at + n * step] = value;
  }
}

const withRim = (n: Triple): Triple => [n[0] + 2, n[1] + 2, n[2] + 2];

/** Beyond a side where no far pressure is met there is none. */
function clearRim(values: Float32Array, n: Triple, inner: readonly boolean[]): void {
  const [wide, high] = withRim(n);
  for (let k = 0, at = 0; k < n[2] + 2; k++)
    for (let j = 0; j < high; j++)
      for (let i = 0; i < wide; i++, at++) {
        const outside = [i === 0, i === wide - 1, j === 0, j === high - 1, k === 0, k === n[2] + 1];
        if (outside.some((out, side) => out && !inner[side])) values[at] = 0;
      }
}

/** A side of the window that is not one of the domain's is open. */
function sidesOf(plan: Plan, domain: ActiveWindow, window: ActiveWindow): SideRules {
  const dims = (w: ActiveWindow): Triple => [w.lattice.nx, w.lattice.ny, w.lattice.nz];
  return plan.sides.map((rule, side) => {
    const a = side >> 1;
    const edge = (w: ActiveWindow): number => w.origin[a] + (side & 1 ? dims(w)[a] : 0);
    return edge(window) === edge(domain) ? rule : 'open';
  }) as unknown as SideRules;
}

export function clamp(x: number, least: number, most: number): number {
  return Math.min(most, Math.max(least, x));
}

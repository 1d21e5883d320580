// The window: the part of the room that is in memory. It grows and shrinks with the medium and travels with an obstacle, by
// whole cells of the world's lattice, so nothing is ever resampled.
import { lattice, type Lattice, type Window } from '../grid/lattice';
import { readField, readSplit, writeField, writeSplit } from '../grid/memory';
import { writeFaces } from '../obstacles/faces';
import { poseOf } from '../obstacles/pose';
import type { Triple } from '../recipe/recipe';
import type { Plan, Sides } from './compile';
import { describeLevels, layOut, sites, SLAB, type StepState } from './state';

/** Window edges lie on multiples of these many cells from the room's least corner. */
const BLOCK: Triple = [8, 4, 4];
/** A window is given up for a smaller one that has at most this part of its cells: each change costs a copy. */
const WORTH_SHRINKING = 0.75;

/** The room at a moment: where its obstacle has taken it. */
export function roomAt(plan: Plan, timeS: number): Window {
  const { window, guide } = plan;
  if (!guide) return window;
  const { centre } = poseOf(guide, timeS);
  const origin = window.origin.map((o, a) => o + Math.round((centre[a] - guide.centre[a]) / window.voxelSizeM)) as Triple;
  return { ...window, origin };
}

/** A side of the window that is not one of the room's is open. */
export function sidesOf(plan: Plan, room: Window, window: Window): Sides {
  const dims = (w: Window): Triple => [w.lattice.nx, w.lattice.ny, w.lattice.nz];
  return plan.sides.map((rule, side) => {
    const a = side >> 1,
      edge = (w: Window): number => w.origin[a] + (side & 1 ? dims(w)[a] : 0);
    return edge(window) === edge(room) ? rule : 'open';
  }) as unknown as Sides;
}

type CellBox = readonly [from: Triple, to: Triple];

/** The smallest allowed window in the room around a box of cells of the world's lattice. */
function around(room: Window, [from, to]: CellBox, margin: number): Window {
  const n: Triple = [room.lattice.nx, room.lattice.ny, room.lattice.nz];
  const lo = from.map((v, a) => clamp(Math.floor((v - margin - room.origin[a]) / BLOCK[a]) * BLOCK[a], 0, n[a] - BLOCK[a])),
    hi = to.map((v, a) => clamp(Math.ceil((v + margin - room.origin[a]) / BLOCK[a]) * BLOCK[a], Math.min(n[a], lo[a] + 8), n[a]));
  const start = lo.map((v, a) => Math.max(0, Math.min(v, hi[a] - 8)));
  return {
    lattice: lattice(hi[0] - start[0], hi[1] - start[1], hi[2] - start[2]),
    origin: start.map((v, a) => v + room.origin[a]) as Triple,
    voxelSizeM: room.voxelSizeM,
  };
}

function clamp(x: number, least: number, most: number): number {
  return Math.min(most, Math.max(least, x));
}

/** Cells of the sources that give something off in a frame; null without any. */
function sourceCells(plan: Plan, frame: number): CellBox | null {
  return plan.sources
    .filter((s) => frame >= s.from && frame <= s.until)
    .map(({ shape: s }): CellBox => [
      s.centre.map((c, a) => Math.floor(c - s.half[a])) as Triple,
      s.centre.map((c, a) => Math.ceil(c + s.half[a])) as Triple,
    ])
    .reduce<CellBox | null>(both, null);
}

function both(a: CellBox | null, b: CellBox | null): CellBox | null {
  if (!a || !b) return a ?? b;
  return [a[0].map((v, n) => Math.min(v, b[0][n])) as Triple, a[1].map((v, n) => Math.max(v, b[1][n])) as Triple];
}

/** The window that a run starts with. */
export function firstWindow(plan: Plan): Window {
  const { window: rule, space } = plan.recipe,
    room = roomAt(plan, (plan.frames.first - space.firstFrame) * plan.frameS);
  if (rule.mode === 'whole') return room;
  const cells = sourceCells(plan, plan.frames.first);
  const middle = room.origin.map((o, a) => o + ([room.lattice.nx, room.lattice.ny, room.lattice.nz][a] >> 1)) as Triple;
  return around(room, cells ?? [middle, middle], rule.margin);
}

/** Where the medium is, in cells of the world's lattice. */
function mediumCells(state: StepState): CellBox | null {
  const { team, layout, window, plan } = state,
    l = window.lattice,
    { address } = layout.channels[0];
  team.run('findBounds', l.nz, SLAB, address, l.nx, l.ny, l.rowStride, l.planeStride, plan.recipe.window.threshold, layout.partials);
  const parts = new Float64Array(team.memory.buffer, layout.partials, l.nz * 8);
  let box: CellBox | null = null;
  for (let k = 0; k < l.nz; k++) {
    const [count, i0, i1, j0, j1] = parts.subarray(k * 8, k * 8 + 5);
    if (count > 0)
      box = both(box, [
        [i0, j0, k],
        [i1 + 1, j1 + 1, k + 1],
      ]);
  }
  return box && [box[0].map((v, a) => v + window.origin[a]) as Triple, box[1].map((v, a) => v + window.origin[a]) as Triple];
}

/** Moves, grows or shrinks the window where that is due; called after each substep, for the time of its end. */
export function fitWindow(state: StepState, timeS: number): void {
  const { plan, window } = state,
    rule = plan.recipe.window,
    room = roomAt(plan, timeS);
  let wanted: Window;
  if (rule.mode === 'whole') wanted = room;
  else {
    const cells = both(mediumCells(state), sourceCells(plan, state.frame));
    if (!cells) return;
    const least = around(room, cells, Math.ceil(rule.margin / 2)),
      best = around(room, cells, rule.margin);
    const grown = around(room, both(cellsOf(window), cells)!, 0);
    const mayShrink = state.frame >= rule.shrinkFrom;
    if (!contains(window, least)) wanted = mayShrink ? best : union(room, best, grown);
    else if (mayShrink && volume(best) <= WORTH_SHRINKING * volume(window)) wanted = best;
    else if (!contains(room, window)) wanted = best;
    else wanted = window;
  }
  const same = wanted.origin.every((o, a) => o === window.origin[a]) && volume(wanted) === volume(window) && contains(wanted, window);
  if (!same) setWindow(state, room, wanted, timeS);
}

function cellsOf(w: Window): CellBox {
  const n = [w.lattice.nx, w.lattice.ny, w.lattice.nz];
  return [w.origin as Triple, w.origin.map((o, a) => o + n[a]) as Triple];
}
function contains(outer: Window, inner: Window): boolean {
  const [a, b] = [cellsOf(outer), cellsOf(inner)];
  return [0, 1, 2].every((n) => a[0][n] <= b[0][n] && a[1][n] >= b[1][n]);
}
function union(room: Window, a: Window, b: Window): Window {
  return around(room, both(cellsOf(a), cellsOf(b))!, 0);
}
function volume(w: Window): number {
  return w.lattice.nx * w.lattice.ny * w.lattice.nz;
}

/** Everything that a run carries from one substep to the next, as tight arrays. */
export interface Contents {
  readonly window: Window;
  readonly velocity: readonly Float32Array[];
  readonly channels: readonly Float32Array[];
  readonly pressure: Float32Array;
}

export function takeContents(state: StepState): Contents {
  const { layout, team, window } = state;
  return {
    window,
    velocity: layout.velocity.map((f, axis) => readField(team.memory, f, extra(window.lattice, axis))),
    channels: layout.channels.map((f) => readField(team.memory, f)),
    pressure: readSplit(team.memory, { address: layout.pressure, lattice: window.lattice }),
  };
}

/** Lays memory out for a window and writes contents into it, cell for cell of the world's lattice. */
export function setContents(state: StepState, room: Window, window: Window, contents: Contents | null, timeS: number): void {
  const { plan, team } = state,
    l = window.lattice,
    before = state.layout;
  const layout = layOut(l, plan, team.helpers + 1);
  team.ensurePages(layout.pages);
  if (before) new Uint8Array(team.memory.buffer, layout.start, Math.max(before.bytes, layout.bytes) - layout.start).fill(0);
  state.layout = layout;
  state.window = window;
  state.sides = sidesOf(plan, room, window);
  describeLevels(layout, state.sides, team.memory);
  writeFaces(state, timeS);
  if (!contents) return;
  const from = contents.window,
    shift = window.origin.map((o, a) => o - from.origin[a]) as Triple;
  layout.velocity.forEach((f, axis) => {
    const values = moved(contents.velocity[axis], sites(from.lattice, axis), sites(l, axis), shift, true);
    writeField(team.memory, f, values, extra(l, axis));
  });
  const [a, b] = [sites(from.lattice, 3), sites(l, 3)];
  contents.channels.forEach((v, n) => writeField(team.memory, layout.channels[n], moved(v, a, b, shift, false)));
  writeSplit(team.memory, { address: layout.pressure, lattice: l }, moved(contents.pressure, a, b, shift, false));
}

function setWindow(state: StepState, room: Window, window: Window, timeS: number): void {
  setContents(state, room, window, takeContents(state), timeS);
}

function extra(l: Lattice, axis: number): Triple {
  const m = sites(l, axis);
  return [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz];
}

/** Values of a lattice on another one that starts `shift` cells on; outside 0, or the nearest value (open air goes on). */
function moved(values: Float32Array, a: Triple, b: Triple, shift: Triple, goesOn: boolean): Float32Array {
  const out = new Float32Array(b[0] * b[1] * b[2]);
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
      const from = (z * a[1] + y) * a[0],
        to = (k * b[1] + j) * b[0];
      const i0 = clamp(-shift[0], 0, b[0]),
        i1 = clamp(a[0] - shift[0], i0, b[0]);
      if (i1 > i0) out.set(values.subarray(from + i0 + shift[0], from + i1 + shift[0]), to + i0);
      if (!goesOn) continue;
      for (let i = 0; i < i0; i++) out[to + i] = values[from];
      for (let i = i1; i < b[0]; i++) out[to + i] = values[from + a[0] - 1];
    }
  }
  return out;
}

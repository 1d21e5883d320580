// Seeing how the air is moved, before it is run or beside the run: forces as arrows, regions as weights, and
// slices through either, through noise and through what a formula does. On grids of their own, rough ones or
// thin slabs, that stand at a frame of the run by what a glimpse kept of it; without one in still, empty air.
import type { CarriedField } from '../base/channels';
import { distanceTo } from '../geometry/shape';
import { coarseFlowAt, COARSE_FLOW_CHANNELS, type CoarseFlow } from '../volume/coarse-flow';
import { readField, type Field } from '../grid/memory';
import { sites } from '../grid/sweep';
import type { Recipe } from '../recipe/types';
import type { Triple } from '../math/vector';
import type { Plan } from '../plan/plan';
import type { FieldSnapshot } from '../step/snapshot';
import { formulas } from '../step/formulas';
import { gather } from '../step/forces/forces';
import { regions } from '../step/regions';
import { stateOf, type Simulation } from '../run/simulation';
import { shapeAt } from '../plan/placement';
import { channelField } from '../step/state';

/** Everywhere that an arrow stands, and what each force pushes with there. */
export interface Arrows {
  /** x, y, z of each, m. */
  readonly places: Float32Array;
  readonly spacingM: number;
  /** By force (`wind`, `currents/ID`, …), m/s²; all of them together under `all`. */
  readonly pushes: Readonly<Record<string, Float32Array>>;
}
/** Values over a plane across an axis. */
export interface Slice {
  readonly axis: 0 | 1 | 2;
  readonly atM: number;
  /** Cells along the two other axes in their order, the first fastest. */
  readonly dims: readonly [number, number];
  readonly corner: readonly [number, number];
  readonly cellM: number;
  readonly values: Float32Array;
  readonly unit: string;
}
/** A number from 0 to 1 for each cell of a box, as a byte. */
export interface Veil {
  readonly dims: Triple;
  readonly corner: Triple;
  readonly cellM: number;
  readonly bytes: Uint8Array;
}

/** Voxels of a recipe's rough grid and of its slices, along the longest edge. */
export const ROUGH = 32;
export const SLICED = 96;
const ARROWS = 12;
const SLAB_CELLS = 8;

export const longestEdge = ({ space }: Recipe): number => Math.max(...space.size);

/** The recipe of a thin slab around a plane; its voxels are those of `SLICED`. */
export function slabOf(recipe: Recipe, axis: 0 | 1 | 2, atM: number): Recipe {
  const thick = (SLAB_CELLS * longestEdge(recipe)) / SLICED;
  const put = (v: Triple, value: number): Triple => v.map((x, a) => (a === axis ? value : x)) as Triple;
  const { space } = recipe;
  return {
    ...recipe,
    space: {
      ...space,
      size: put(space.size, thick),
      corner: put(space.corner, atM - thick / 2),
      sides: { floor: 'open', top: 'open', left: 'open', right: 'open', back: 'open', front: 'open' },
    },
    window: { ...recipe.window, mode: 'whole', travel: '' },
    // what flies there is not asked for
    particles: [],
    sources: recipe.sources.filter((s) => s.shape !== 'particles'),
  };
}

/** The contents of a plan's domain at a glimpsed frame; what was not glimpsed is 0. */
export function contentsFrom(plan: Plan, glimpse: CoarseFlow | null): FieldSnapshot {
  const { lattice: l, origin, voxelSizeM: h } = plan.window;
  const laid = (axis: number, channel: number): Float32Array => {
    const [mx, my, mz] = sites(l, axis);
    const out = new Float32Array(mx * my * mz);
    const place = (n: number, a: number): number => (origin[a] + n + (a === axis ? 0 : 0.5)) * h;
    if (glimpse && channel >= 0)
      for (let k = 0, n = 0; k < mz; k++)
        for (let j = 0; j < my; j++)
          for (let i = 0; i < mx; i++)
            out[n++] = coarseFlowAt(glimpse, channel, place(i, 0), place(j, 1), place(k, 2));
    return out;
  };

  return {
    window: plan.window,
    velocity: [0, 1, 2].map((a) => laid(a, a)),
    channels: plan.channels.map(({ name }) => laid(3, COARSE_FLOW_CHANNELS.indexOf(name as 'density'))),
    pressure: new Float32Array((l.nx + 2) * (l.ny + 2) * (l.nz + 2)),
    medium: null,
    rooms: null,
    pools: [],
  };
}

/** What each force pushes with. @param s standing at the frame */
export function seeForces(s: Simulation): Arrows {
  const state = stateOf(s);
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  const every = Math.max(1, Math.round(Math.max(l.nx, l.ny, l.nz) / ARROWS));
  const at: [number, Triple][] = [];
  for (let k = every >> 1; k < l.nz; k += every)
    for (let j = every >> 1; j < l.ny; j += every)
      for (let i = every >> 1; i < l.nx; i += every) at.push([(k * l.ny + j) * l.nx + i, [i, j, k]]);
  const sampled = (): Float32Array => {
    const fields = state.layout.acceleration.map((f) => readField(s.threadPool.memory, f));
    return Float32Array.from(at.flatMap(([n]) => fields.map((f) => f[n])));
  };

  const pushes: Record<string, Float32Array> = {};
  let sum = new Float32Array(at.length * 3);
  regions(state);
  gather(state, state.dtS, (name) => {
    const now = sampled();
    pushes[name] = now.map((v, n) => v - sum[n]);
    sum = now as Float32Array<ArrayBuffer>;
  });
  return {
    places: Float32Array.from(at.flatMap(([, c]) => c.map((v, a) => (v + 0.5 + origin[a]) * h))),
    spacingM: every * h,
    pushes: { ...pushes, all: sum },
  };
}

/**
 * How far each cell lies in a region; null where the run does not know it (it is off, or nothing is limited
 * to it).
 */
export function seeRegion(s: Simulation, id: string): Veil | null {
  const n = s.plan.regions.findIndex((r) => r.part.id === id);
  if (n < 0) return null;
  regions(stateOf(s));
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  const weights = readField(s.threadPool.memory, s.layout.regions[n]);
  return {
    dims: [l.nx, l.ny, l.nz],
    corner: origin.map((o) => o * h) as Triple,
    cellM: h,
    bytes: Uint8Array.from(weights, (w) => Math.round(Math.min(1, Math.max(0, w)) * 255)),
  };
}

/** The plane of a slab's run that lies nearest to a place. */
function planeOf(
  s: Simulation,
  axis: 0 | 1 | 2,
  atM: number,
  valueAt: (cell: number) => number,
  unit: string,
): Slice {
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  const n: Triple = [l.nx, l.ny, l.nz];
  const [a, b] = ([0, 1, 2] as const).filter((x) => x !== axis);
  const fixed = Math.min(n[axis] - 1, Math.max(0, Math.floor(atM / h - origin[axis])));
  const values = new Float32Array(n[a] * n[b]);
  const cell: Triple = [0, 0, 0];
  cell[axis] = fixed;
  for (let q = 0, m = 0; q < n[b]; q++)
    for (let p = 0; p < n[a]; p++) {
      cell[a] = p;
      cell[b] = q;
      values[m++] = valueAt((cell[2] * l.ny + cell[1]) * l.nx + cell[0]);
    }

  return {
    axis,
    atM: (fixed + 0.5 + origin[axis]) * h,
    dims: [n[a], n[b]],
    corner: [origin[a] * h, origin[b] * h],
    cellM: h,
    values,
    unit,
  };
}

/** How hard a force pushes over a plane, m/s². @param s a run of the slab; name as in Arrows */
export function sliceForce(s: Simulation, axis: 0 | 1 | 2, atM: number, name: string): Slice {
  const state = stateOf(s);
  const read = (): Float32Array[] => state.layout.acceleration.map((f) => readField(s.threadPool.memory, f));
  let before = read().map((f) => f.fill(0));
  let wanted: Float32Array[] | null = name === 'all' ? null : before;
  regions(state);
  gather(state, state.dtS, (told) => {
    const now = read();
    if (told === name) wanted = now.map((f, a) => f.map((v, n) => v - before[a][n]));
    before = now;
  });
  const shown = wanted ?? before;
  return planeOf(s, axis, atM, (n) => Math.hypot(shown[0][n], shown[1][n], shown[2][n]), 'm/s²');
}

/**
 * What the first channel that a formula writes is before and after it. @param s a run of the slab, with this
 * one formula alone
 */
export function sliceFormula(
  s: Simulation,
  axis: 0 | 1 | 2,
  atM: number,
): { channel: string; before: Slice; after: Slice } {
  const state = stateOf(s);
  const [{ part, program }] = s.plan.formulas;
  const written = program.instructions.flatMap((i) => (i.field && i.field !== 'result' ? [i.field] : []));
  const pushes = written.some((f) => f.startsWith('push'));
  const channel = pushes ? 'push' : written[0];
  const fields = (): readonly Field[] =>
    pushes ? state.layout.acceleration : [channelField(state, channel as CarriedField)!];
  const look = (): Slice => {
    const values = fields().map((f) => readField(s.threadPool.memory, f));
    return planeOf(
      s,
      axis,
      atM,
      (n) => (pushes ? Math.hypot(...values.map((v) => v[n])) : values[0][n]),
      UNITS[channel] ?? '',
    );
  };

  regions(state);
  if (pushes) {
    // the forces without the formula, then with it
    const { formulas: own } = state.plan;
    state.plan = { ...state.plan, formulas: [] };
    gather(state, state.dtS);
    const before = look();
    state.plan = { ...state.plan, formulas: own };
    formulas(state, 'pushed');
    return { channel, before, after: look() };
  }

  const before = look();
  formulas(state, part.when);
  return { channel, before, after: look() };
}

const UNITS: Readonly<Record<string, string>> = { push: 'm/s²', temperature: 'K', age: 's' };

/** The recipe with one formula alone, which acts whenever it is looked at. */
export function withFormulaAlone(recipe: Recipe, index: number, text: string): Recipe {
  return { ...recipe, formulas: [{ ...recipe.formulas[index], on: true, text, from: 0, until: 100000 }] };
}

/** How far it is to the nearest obstacle over a plane across an axis, m; negative inside of one. */
export function sliceDistance(plan: Plan, axis: 0 | 1 | 2, atM: number, frame: number): Slice {
  const { origin, voxelSizeM: h, lattice: l } = plan.window;
  const n = [l.nx, l.ny, l.nz];
  const [a, b] = ([0, 1, 2] as const).filter((x) => x !== axis);
  const timeS = (frame - plan.recipe.space.firstFrame + 1) * plan.frameS;
  const shapes = plan.obstacles.map((o) => shapeAt(plan, 'obstacles', o, timeS, true));
  const values = new Float32Array(n[a] * n[b]);
  const place: [number, number, number] = [0, 0, 0];
  place[axis] = atM / h;
  for (let q = 0, at = 0; q < n[b]; q++)
    for (let p = 0; p < n[a]; p++) {
      place[a] = origin[a] + p + 0.5;
      place[b] = origin[b] + q + 0.5;
      values[at++] = h * shapes.reduce((least, s) => Math.min(least, distanceTo(s, place)), Infinity);
    }

  return {
    axis,
    atM,
    dims: [n[a], n[b]],
    corner: [origin[a] * h, origin[b] * h],
    cellM: h,
    values,
    unit: 'm',
  };
}

// The window: the part of the domain that is in memory. It grows and shrinks with the medium and travels with
// an obstacle, by whole cells of the world's lattice, so nothing is ever resampled.
import { lattice, type ActiveWindow } from '../grid/lattice';
import type { Field } from '../grid/memory';
import { SLAB, extent } from '../grid/sweep';
import { poseIn } from '../geometry/pose';
import { boundsOf, type CellShape } from '../geometry/shape';
import { boundsOfPool } from '../plan/particle-pool';
import type { Triple } from '../math/vector';
import type { Plan } from '../plan/plan';
import { poseAt, shapeAt } from '../plan/placement';
import { bookTrimmed } from './ledger';
import { clamp, restoreSnapshot, takeSnapshot } from './snapshot';
import { channelField, type SimulationState } from './state';

/** Window edges lie on multiples of these many cells from the domain's least corner. */
const BLOCK: Triple = [8, 4, 4];
/**
 * A window is given up for a smaller one that has at most this part of its cells: each change costs a copy.
 */
const WORTH_SHRINKING = 0.75;

/** The domain at a moment: where what it travels with has taken it. */
export function domainAt(plan: Plan, timeS: number): ActiveWindow {
  const { window, guide } = plan;
  if (!guide) return window;
  const centreAt = (t: number): Triple => poseIn(plan.at(t), plan.at(t)[guide.list][guide.index], t).centre;
  const [now, start] = [centreAt(timeS), centreAt(0)];
  const origin = window.origin.map(
    (o, a) => o + Math.round((now[a] - start[a]) / window.voxelSizeM),
  ) as Triple;
  return { ...window, origin };
}

type CellBox = readonly [from: Triple, to: Triple];

/** The smallest allowed window in the domain around a box of cells of the world's lattice. */
function around(domain: ActiveWindow, [from, to]: CellBox, margin: number): ActiveWindow {
  const n: Triple = [domain.lattice.nx, domain.lattice.ny, domain.lattice.nz];
  const lo = from.map((v, a) =>
    clamp(Math.floor((v - margin - domain.origin[a]) / BLOCK[a]) * BLOCK[a], 0, n[a] - BLOCK[a]),
  );
  const hi = to.map((v, a) =>
    clamp(Math.ceil((v + margin - domain.origin[a]) / BLOCK[a]) * BLOCK[a], Math.min(n[a], lo[a] + 8), n[a]),
  );
  const start = lo.map((v, a) => Math.max(0, Math.min(v, hi[a] - 8)));
  return {
    lattice: lattice(hi[0] - start[0], hi[1] - start[1], hi[2] - start[2]),
    origin: start.map((v, a) => v + domain.origin[a]) as Triple,
    voxelSizeM: domain.voxelSizeM,
  };
}

/** Cells of the domain that a shape may touch. */
function cellsOfShape({ origin, lattice: l }: ActiveWindow, shape: CellShape): CellBox {
  const [from, to] = boundsOf(shape, origin, [l.nx, l.ny, l.nz], 0);
  return [from.map((v, a) => v + origin[a]) as Triple, to.map((v, a) => v + origin[a]) as Triple];
}

/** Cells of the sources that give something off in a frame; null without any. */
function sourceCells(plan: Plan, domain: ActiveWindow, frame: number): CellBox | null {
  const endS = (frame - plan.recipe.space.firstFrame + 1) * plan.frameS;
  return plan.sources
    .filter(({ part }) => part.shape !== 'particles' && frame >= part.from && frame <= part.until)
    .flatMap((s) =>
      [endS - plan.frameS, endS].map((t) => cellsOfShape(domain, shapeAt(plan, 'sources', s, t))),
    )
    .reduce<CellBox | null>(both, null);
}

/** Cells of the particles that give something off: before a run where they are born, in it where they are. */
function cloudCells(
  plan: Plan,
  domain: ActiveWindow,
  frame: number,
  state?: SimulationState,
): CellBox | null {
  const h = domain.voxelSizeM;
  return plan.sources
    .filter(({ part }) => part.shape === 'particles' && frame <= part.until)
    .map(({ part }): CellBox | null => {
      const n = plan.particles.findIndex((p) => p.part.id === part.particles);
      if (n < 0) return null;
      const bounds =
        state &&
        boundsOfPool(state.threadPool.memory, state.layout.pools[n], state.pools[n].count, part.swell);
      if (bounds)
        return [
          bounds[0].map((v) => Math.floor(v / h)) as Triple,
          bounds[1].map((v) => Math.ceil(v / h)) as Triple,
        ];
      const planned = plan.particles[n];
      if (planned.part.born === 'children' || planned.part.born === 'file') return null;
      return cellsOfShape(domain, shapeAt(plan, 'particles', planned, 0));
    })
    .reduce<CellBox | null>(both, null);
}

/**
 * Cells of the obstacles that move in a frame and come near a box, vessels aside: the air that one pushes
 * goes at an eighth of its speed half its length away from it (potential flow about a sphere, (R / r)³), and
 * at less beyond.
 */
function pusherCells(plan: Plan, domain: ActiveWindow, endS: number, near: CellBox | null): CellBox | null {
  if (!near) return null;
  return plan.obstacles
    .filter((o) => {
      const { velocity, turning } = poseAt(plan, 'obstacles', o, endS, plan.frameS);
      return o.mesh?.moves || [...velocity, ...turning].some((v) => v !== 0);
    })
    .map((o) => shapeAt(plan, 'obstacles', o, endS))
    .filter((shape) => shape.reach && shape.facing > 0)
    .map((shape) => cellsOfShape(domain, shape))
    .filter(([from, to]) => {
      const length = to.map((v, a) => v - from[a]);
      const reach = Math.max(...length) / 2;
      const isNear = (a: number): boolean => from[a] - reach < near[1][a] && to[a] + reach > near[0][a];
      return Math.min(...length) > 0 && [0, 1, 2].every(isNear);
    })
    .reduce<CellBox | null>(both, null);
}

function both(a: CellBox | null, b: CellBox | null): CellBox | null {
  if (!a || !b) return a ?? b;
  return [
    a[0].map((v, n) => Math.min(v, b[0][n])) as Triple,
    a[1].map((v, n) => Math.max(v, b[1][n])) as Triple,
  ];
}

/** The window that a run starts with. */
export function firstWindow(plan: Plan): ActiveWindow {
  const { window: rule, space } = plan.recipe;
  const { first } = plan.frames;
  const startS = (first - space.firstFrame) * plan.frameS;
  const domain = domainAt(plan, startS);
  if (rule.mode === 'whole') return domain;
  const given = both(sourceCells(plan, domain, first), cloudCells(plan, domain, first));
  const cells = both(given, pusherCells(plan, domain, startS + plan.frameS, given));
  const middle = domain.origin.map(
    (o, a) => o + ([domain.lattice.nx, domain.lattice.ny, domain.lattice.nz][a] >> 1),
  ) as Triple;
  return around(domain, cells ?? [middle, middle], rule.margin);
}

/** Where density lies above a threshold, in cells of the world's lattice. */
export const boxOfMedium = (state: SimulationState, threshold: number): CellBox | null =>
  boxOf(state, state.layout.channels[0], threshold);

function boxOf(state: SimulationState, { address }: Field, threshold: number): CellBox | null {
  const { threadPool, layout, window } = state;
  const l = window.lattice;
  threadPool.run('findBounds', l.nz, SLAB, {
    f: address,
    ...extent(l),
    threshold,
    partials: layout.partials,
  });
  const parts = new Float64Array(threadPool.memory.buffer, layout.partials, l.nz * 8);
  let box: CellBox | null = null;
  for (let k = 0; k < l.nz; k++) {
    const [count, i0, i1, j0, j1] = parts.subarray(k * 8, k * 8 + 5);
    if (count > 0)
      box = both(box, [
        [i0, j0, k],
        [i1 + 1, j1 + 1, k + 1],
      ]);
  }

  return (
    box && [
      box[0].map((v, a) => v + window.origin[a]) as Triple,
      box[1].map((v, a) => v + window.origin[a]) as Triple,
    ]
  );
}

/**
 * Moves, grows or shrinks the window where that is due; called after each substep, for the time of its end.
 */
export function fitWindow(state: SimulationState, timeS: number): void {
  const { plan, window } = state;
  const rule = plan.recipe.window;
  const domain = domainAt(plan, timeS);
  let wanted: ActiveWindow;
  if (rule.mode === 'whole') wanted = domain;
  else {
    const deposit = channelField(state, 'deposit');
    const medium = [
      deposit && boxOf(state, deposit, rule.threshold),
      sourceCells(plan, domain, state.frame),
      cloudCells(plan, domain, state.frame, state),
    ].reduce(both, boxOfMedium(state, rule.threshold));
    if (!medium) return;
    const cells = both(medium, pusherCells(plan, domain, timeS, medium))!;
    const least = around(domain, cells, Math.ceil(rule.margin / 2));
    const best = around(domain, cells, rule.margin);
    const grown = around(domain, both(cellsOf(window), cells)!, 0);
    const mayShrink = state.frame >= rule.shrinkFrom;
    if (!contains(window, least)) wanted = mayShrink ? best : union(domain, best, grown);
    else if (mayShrink && volume(best) <= WORTH_SHRINKING * volume(window)) wanted = best;
    else if (!contains(domain, window)) wanted = best;
    else wanted = window;
  }

  const same =
    wanted.origin.every((o, a) => o === window.origin[a]) &&
    volume(wanted) === volume(window) &&
    contains(wanted, window);
  if (!same) setWindow(state, domain, wanted, timeS);
}

function cellsOf(w: ActiveWindow): CellBox {
  const n = [w.lattice.nx, w.lattice.ny, w.lattice.nz];
  return [w.origin as Triple, w.origin.map((o, a) => o + n[a]) as Triple];
}

function contains(outer: ActiveWindow, inner: ActiveWindow): boolean {
  const [a, b] = [cellsOf(outer), cellsOf(inner)];
  return [0, 1, 2].every((n) => a[0][n] <= b[0][n] && a[1][n] >= b[1][n]);
}

function union(domain: ActiveWindow, a: ActiveWindow, b: ActiveWindow): ActiveWindow {
  return around(domain, both(cellsOf(a), cellsOf(b))!, 0);
}

function volume(w: ActiveWindow): number {
  return w.lattice.nx * w.lattice.ny * w.lattice.nz;
}

function setWindow(state: SimulationState, domain: ActiveWindow, window: ActiveWindow, timeS: number): void {
  restoreSnapshot(state, domain, window, takeSnapshot(state), timeS);
  bookTrimmed(state);
}

// Incidents: what a frame shows that an artist would want to know, by stated rules, with the change that
// would cure it.
import { cube } from '../math/exact';
import { SLAB, extent } from '../grid/sweep';
import { distanceTo } from '../geometry/shape';
import type { Recipe, SourcePart } from '../recipe/types';
import type { Triple } from '../math/vector';
import type { Plan, PlannedShape } from '../plan/plan';
import { shapeAt } from '../plan/placement';
import { reduce, type SimulationState, raiseIncident } from '../step/state';
import { moreSubsteps, type Fix, type Incident } from '../record/incident';
import { domainAt } from '../step/window';
import type { Readings } from '../record/readings';

/** Part of all medium that the outermost cells of an open side hold where it is cut off there. */
const CUT_OFF = 0.002;
/** Part of the mass that rounding explains in a frame, with much room. */
const KEPT = 0.001;
/** Share of the pushes above which turbulence rules, once the shot has begun to move. */
const RULES = 0.65;
const BEGUN_AFTER = 6;
/** Part by which a domain is enlarged. */
const LARGER = 0.25;

const SIDES = ['left', 'right', 'floor', 'top', 'back', 'front'] as const;
const tidy = (v: number): number => Number(v.toPrecision(4));

/** Looks a finished frame over. */
export function checkFrame(state: SimulationState, readings: Readings): void {
  const { plan, frame } = state;
  cutOff(state, readings);
  const sources = plan.sources.map((s) => s.part);
  const begin = Math.max(
    plan.recipe.space.firstFrame,
    Math.min(...sources.filter((s) => s.density.how !== 'none').map((s) => s.from)),
  );
  if (readings.mass === 0 && frame === begin + 1)
    raiseIncident(state, {
      kind: 'nothing',
      what: 'Nothing has been given off, though a source has begun.',
      cure: 'Ask “Why do I see nothing?”: it names the first link that is missing.',
    });
  unexplained(state, readings);
  stirred(state, readings);
}

/** Medium that no account of the frame explains, sources or not. */
function unexplained(state: SimulationState, { mass, massGivenOff = 0, massMade = 0 }: Readings): void {
  const part = massMade / Math.max(mass, massGivenOff);
  if (!(Math.abs(part) > KEPT)) return;
  raiseIncident(state, {
    kind: 'mass',
    what:
      `${(100 * Math.abs(part)).toFixed(1)} % of the medium was ${part > 0 ? 'made' : 'lost'} in this ` +
      'frame by the method itself: the air is stirred faster than it can be followed.',
    cure: 'Raise the least substeps, or use smaller voxels.',
    fix: { label: 'more substeps', settings: moreSubsteps(state.plan.recipe) },
  });
}

/** Medium at an open side of the domain: what goes on beyond it is not there. */
function cutOff(state: SimulationState, readings: Readings): void {
  const { plan, threadPool, layout, window, timeS, dtS } = state;
  const l = window.lattice;
  if (readings.mass === 0 || readings.contact < CUT_OFF) return;
  threadPool.run('boundarySums', l.nz, SLAB, {
    f: layout.channels[0].address,
    ...extent(l),
    partials: layout.partials,
  });
  const h = window.voxelSizeM;
  const domain = domainAt(plan, timeS + dtS);
  const n = [l.nx, l.ny, l.nz];
  const whole = [domain.lattice.nx, domain.lattice.ny, domain.lattice.nz];
  const parts = SIDES.map((_, side) => {
    const a = side >> 1;
    const edge =
      side & 1
        ? window.origin[a] + n[a] === domain.origin[a] + whole[a]
        : window.origin[a] === domain.origin[a];
    return plan.sides[side] === 'open' && edge
      ? (reduce(state, l.nz, side, 'sum') * cube(h)) / readings.mass
      : 0;
  });
  const worst = parts.indexOf(Math.max(...parts));
  if (parts[worst] < CUT_OFF) return;
  const axis = worst >> 1;
  const { size, corner } = plan.recipe.space;
  const by = tidy(size[axis] * LARGER);
  const name = SIDES[worst] === 'floor' || SIDES[worst] === 'top' ? SIDES[worst] : `${SIDES[worst]} side`;
  const place = window.origin.map((o, x) => (o + n[x] / 2) * h) as Triple;
  place[axis] = (domain.origin[axis] + (worst & 1 ? whole[axis] : 0)) * h;
  const settings: [string, number][] = [[`space.size.${axis}`, tidy(size[axis] + by)]];
  if (!(worst & 1)) settings.push([`space.corner.${axis}`, tidy(corner[axis] - by)]);
  raiseIncident(state, {
    kind: 'cut off',
    what: `The medium has reached the ${name}, which is open: what goes out is gone.`,
    cure: `Make the domain ${by} m larger there, or make that side a wall. If it may leave, all is well.`,
    placeM: place,
    fix: { label: `domain ${by} m larger at the ${name}`, settings },
  });
}

/** Turbulence that pushes harder than all that drives the flow: it boils on the spot. */
function stirred(state: SimulationState, { forces = {} }: Readings): void {
  const { recipe } = state.plan;
  const all = Object.values(forces).reduce((a, v) => a + v, 0);
  const own = (forces.turbulence ?? 0) + (forces.edges ?? 0);
  if (state.frame < recipe.space.firstFrame + BEGUN_AFTER || all === 0 || own < RULES * all || own === all)
    return;
  const keyed = recipe.curves.some((c) => c.path === 'turbulence/strength');
  // down to as much as all others together
  const strength = tidy(recipe.turbulence.strength * Math.min(1, (all - own) / own));
  const fix: Fix | undefined =
    keyed || !(forces.turbulence > 0)
      ? undefined
      : { label: `turbulence ${strength} m/s²`, settings: [['turbulence.strength', strength]] };
  raiseIncident(state, {
    kind: 'stirred',
    what:
      `Turbulence makes up ${Math.round((100 * own) / all)} % of all that pushes the medium: it boils on ` +
      'the spot rather than riding on a flow.',
    cure: 'Lower its strength, or give it more to ride on: warmth, wind, a current.',
    ...(fix ? { fix } : {}),
  });
}

/** One entry a kind, in their order: where it was first noticed, and in how many frames. */
export function firstOfEach(incidents: readonly Incident[]): { first: Incident; count: number }[] {
  return [...new Set(incidents.map((n) => n.kind))].map((kind) => {
    const same = incidents.filter((n) => n.kind === kind);
    return { first: same[0], count: same.length };
  });
}

/** Where a source lies as it begins: outside the domain, inside of an obstacle, or where it can give off. */
export function lies(
  plan: Plan,
  source: PlannedShape<SourcePart>,
): { where: 'outside' } | { where: 'buried'; in: string } | { where: 'free' } {
  const { window, recipe, frameS } = plan;
  const { lattice: l, origin } = window;
  const timeS = (Math.max(source.part.from, recipe.space.firstFrame) - recipe.space.firstFrame) * frameS;
  const shape = shapeAt(plan, 'sources', source, timeS, true);
  const reach = shape.reach ? Math.max(...shape.reach.flat().map(Math.abs)) : Math.max(l.nx, l.ny, l.nz);
  const solids = plan.obstacles.map((o) => ({
    name: o.part.name,
    shape: shapeAt(plan, 'obstacles', o, timeS, true),
  }));
  const n = [l.nx, l.ny, l.nz];
  const tries = 14;
  const covered = new Map<string, number>();
  let inDomain = 0;
  let all = 0;
  // places spread over the box around it
  for (let k = 0; k < tries; k++)
    for (let j = 0; j < tries; j++)
      for (let i = 0; i < tries; i++) {
        const p = [i, j, k].map((c, a) => shape.centre[a] + (((c + 0.5) / tries) * 2 - 1) * reach);
        if (distanceTo(shape, p) > 0.5) continue;
        all++;
        if (p.some((v, a) => v < origin[a] || v > origin[a] + n[a])) continue;
        inDomain++;
        const solid = solids.find((s) => distanceTo(s.shape, p) < 0);
        if (solid) covered.set(solid.name, (covered.get(solid.name) ?? 0) + 1);
      }

  if (all === 0) return { where: 'free' }; // too thin for the places that were tried
  if (inDomain === 0) return { where: 'outside' };
  const [most] = [...covered].sort((a, b) => b[1] - a[1]);
  return most && [...covered.values()].reduce((a, v) => a + v, 0) >= 0.98 * inDomain
    ? { where: 'buried', in: most[0] }
    : { where: 'free' };
}

/** Tells of a source that begins where it can give nothing off; called in the first substep of a frame. */
export function checkSource(state: SimulationState, source: PlannedShape<SourcePart>): void {
  const { plan, frame } = state;
  const { part } = source;
  if (frame !== Math.max(part.from, plan.recipe.space.firstFrame) || part.shape === 'particles') return;
  const found = lies(plan, source);
  if (found.where === 'outside')
    raiseIncident(state, {
      kind: 'outside',
      what: `${part.name} lies outside of the domain, so it gives nothing off.`,
      cure: 'Move it into the domain, or make the domain larger.',
      placeM: part.centre,
      ...(source.moves
        ? {}
        : { fix: { label: `${part.name} into the domain`, settings: intoDomain(plan.recipe, source) } }),
    });
  if (found.where === 'buried')
    raiseIncident(state, {
      kind: 'buried',
      what: `${part.name} lies inside ${found.in}, where nothing can be given off.`,
      cure: 'Move one of them, or make the source larger than the obstacle.',
      placeM: part.centre,
    });
}

export function intoDomain({ space }: Recipe, { index, part }: PlannedShape<SourcePart>): [string, number][] {
  return part.centre.flatMap((c, a): [string, number][] => {
    const inside = Math.min(
      space.corner[a] + 0.9 * space.size[a],
      Math.max(space.corner[a] + 0.1 * space.size[a], c),
    );
    return inside === c ? [] : [[`sources.${index}.centre.${a}`, tidy(inside)]];
  });
}

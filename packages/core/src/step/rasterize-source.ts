// What a source covers of the voxels in a substep: its shape at moments close enough for a trail without
// gaps, times its patterns.
import { norm } from '../math/exact';
import { placeShape } from './place-shape';
import { NoiseKind, ParticleSourceStruct, PatternStruct, SourceShapeStruct } from '@bramblemist/kernels/seam';
import type { Pose } from '../geometry/pose';
import { boundsOf, cellShape, KIND, type CellShape } from '../geometry/shape';
import { putFloats, readBox, writeBox, type Field } from '../grid/memory';
import { addresses, share as sharePlanes, SLAB, boxFields, named } from '../grid/sweep';
import { boundsOfPool, poolViews, type PoolPlace } from '../plan/particle-pool';
import type { PatternPart, SourcePart } from '../recipe/types';
import type { Triple } from '../math/vector';
import type { PlannedShape } from '../plan/plan';
import { poseAt } from '../plan/placement';
import { type Fix, moreSubsteps } from '../record/incident';
import { type MediumState, raiseIncident } from './state';

export interface Coverage {
  /** The source with its keys as they are in this substep. */
  readonly part: SourcePart;
  /** Cells of the window, from and behind the last. */
  readonly box: readonly [Triple, Triple];
  readonly shape: CellShape;
  readonly pose: Pose;
  /**
   * Addresses of three fields of cover times speed, m/s, where the parts of the shape go each their own way;
   * or null.
   */
  readonly speeds: readonly [number, number, number] | null;
  /** Part of the substep in which it gives off, times what its shape asks for. */
  readonly gain: number;
  /**
   * Addresses of the fields: the mean over the substep, and the most of any moment; colours of a picture or
   * null.
   */
  readonly mean: number;
  readonly most: number;
  readonly colours: readonly [number, number, number] | null;
}

/** Moments of a substep at the most. */
const MOST_STOPS = 64;

/**
 * Writes a source's cover into fields that nothing lives in; null where it gives nothing off now.
 * @param speeds three fields for the speeds of its parts; null where nobody asks for them
 */
export function rasterizeSource(
  state: MediumState,
  source: PlannedShape<SourcePart>,
  speeds: readonly Field[] | null,
): Coverage | null {
  const { plan, threadPool, layout, window } = state;
  const { nx, ny, nz, rowStride: P, planeStride: PP } = window.lattice;
  const endS = state.timeS + state.dtS;
  const n = plan.sources.indexOf(source);
  const part = plan.at(state.timeS + state.dtS / 2).sources[source.index];
  const share = activeShare(state, part);
  if (share === 0) return null;
  if (part.shape === 'particles') return coverCloud(state, part, share, speeds);
  const placed = (timeS: number): { pose: Pose; shape: CellShape; timeS: number } => {
    const pose = poseAt(plan, 'sources', source, timeS, timeS === endS ? state.dtS : 0);
    return { pose, shape: cellShape(part, pose, window.voxelSizeM, source.mesh?.outline ?? null), timeS };
  };

  const end = placed(endS);
  const layer =
    part.fill === 'surface' && FILLABLE.includes(part.shape) ? part.layer / 2 / window.voxelSizeM : 0;
  const stops = source.moves
    ? stopsOf(placed(state.timeS).shape, end.shape, layer, source.mesh?.wayBetween(state.timeS, endS) ?? 0)
    : 1;
  if (stops === MOST_STOPS)
    raiseIncident(state, {
      kind: 'puffs',
      what:
        `${part.name} goes so far in a substep that it is looked at ${MOST_STOPS} times and still leaves ` +
        'gaps: puffs in a row.',
      cure: 'Raise the least substeps, or make it slower or larger.',
      fix: { label: 'more substeps', settings: moreSubsteps(plan.recipe) },
    });
  const moments = Array.from({ length: stops }, (_, s) =>
    stops === 1 && !source.moves ? end : placed(state.timeS + ((s + 0.5) / stops) * state.dtS),
  );
  const boxes = moments.map((m) => boundsOf(m.shape, window.origin, [nx, ny, nz], 1 + Math.ceil(layer)));
  const box = [
    boxes.reduce((m, [from]) => m.map((v, a) => Math.min(v, from[a])) as Triple, [nx, ny, nz] as Triple),
    boxes.reduce((m, [, to]) => m.map((v, a) => Math.max(v, to[a])) as Triple, [0, 0, 0] as Triple),
  ] as const;
  if (box[0].some((v, a) => v >= box[1][a])) return null;
  const [mean, most] = addresses(layout.cover.whole);
  const rasterize = (): void => {
    clear(state, mean, box, 0);
    clear(state, most, box, 0);
    moments.forEach((moment, s) => rasterizeMoment(moment, boxes[s], 1 / stops));
  };

  const rasterizeMoment = (
    { shape, timeS }: { shape: CellShape; timeS: number },
    [from, to]: Coverage['box'],
    weight: number,
  ): void => {
    if (source.mesh?.moves) {
      putFloats(threadPool.memory, layout.sourceGrids[n], source.mesh.at(timeS).grid.distances);
      putFloats(threadPool.memory, layout.sourceMasks[n], source.mesh.at(timeS).mask);
    }

    SourceShapeStruct.write(threadPool.memory, layout.emission, {
      ...placeShape(state, shape, layout.sourceGrids[n]),
      mean,
      most,
      weight,
      layer,
      mask: layout.sourceMasks[n],
      least: part.threshold,
      soft: part.softness,
      ...boxFields([from, to]),
    });
    threadPool.run('rasterizeShape', nz, SLAB, { source: layout.emission, rowStride: P, planeStride: PP });
  };

  if (source.moves) rasterize();
  else {
    const { threshold, softness } = part;
    const looks = JSON.stringify([{ ...end.shape, grid: null }, layer, threshold, softness]);
    keptCover(state, n, looks, box, rasterize);
  }

  const colours = layPatterns(state, part, end.shape, box, mean, most);
  if (speeds && source.mesh?.moves && part.push.how !== 'none') {
    const { grid, flow } = source.mesh.at(endS, state.dtS);
    putFloats(threadPool.memory, layout.sourceGrids[n], grid.distances);
    putFloats(threadPool.memory, layout.sourceFlows[n], flow);
  }

  return { part, box, ...end, speeds: null, gain: share * end.shape.gain, mean, most, colours };
}

/** Larger covers are made anew each time: what is kept is not in the memory that a run says it takes. */
const MOST_KEPT = 2 ** 21;

/**
 * Covers by a source that stays as it is: made once for a place and a look, and laid again in every other
 * substep. At one moment, the mean and the most are the same.
 */
function keptCover(
  state: MediumState,
  n: number,
  looks: string,
  box: Coverage['box'],
  rasterize: () => void,
): void {
  const { layout, covers, threadPool, plan } = state;
  const [mean, most] = layout.cover.whole;
  const key = `${plan.perCell} ${n}`;
  const kept = covers.get(key);
  if (kept?.layout === layout && kept.looks === looks) {
    for (const f of [mean, most]) writeBox(threadPool.memory, f, box, kept.values);
    return;
  }

  rasterize();
  covers.delete(key);
  if (box[0].reduce((many, from, a) => many * (box[1][a] - from), 1) > MOST_KEPT) return;
  covers.set(key, { layout, looks, values: readBox(threadPool.memory, mean, box) });
}

const STILL: Pose = {
  centre: [0, 0, 0],
  toOwn: [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ],
  velocity: [0, 0, 0],
  turning: [0, 0, 0],
};

/** Particles as a source: each a ball along its way. */
function coverCloud(
  state: MediumState,
  part: SourcePart,
  share: number,
  given: readonly Field[] | null,
): Coverage | null {
  const { plan, threadPool, layout, window } = state;
  const { nx, ny, nz, rowStride, planeStride } = window.lattice;
  const h = window.voxelSizeM;
  const n = plan.particles.findIndex((p) => p.part.id === part.particles);
  if (n < 0) {
    raiseIncident(state, {
      kind: 'unbound',
      what: `${part.name} has no particles that carry it.`,
      cure: 'Choose particles that are on, or another shape.',
    });
    return null;
  }

  const place = layout.pools[n];
  const bounds = boundsOfPool(threadPool.memory, place, state.pools[n].count, part.swell);
  if (!bounds) return null;
  const cells = [nx, ny, nz];
  const edge = (v: number, a: number): number => Math.min(cells[a], Math.max(0, v - window.origin[a]));
  const box = [
    bounds[0].map((v, a) => edge(Math.floor(v / h) - 2, a)) as Triple,
    bounds[1].map((v, a) => edge(Math.ceil(v / h) + 2, a)) as Triple,
  ] as const;
  if (box[0].some((v, a) => v >= box[1][a])) return null;
  const [mean, most] = addresses(layout.cover.whole);
  const ownWay = part.push.how !== 'none' && part.push.mode === 'motion';
  const speeds = ownWay && given ? (addresses(given) as [number, number, number]) : null;
  for (const f of [mean, most, ...(speeds ?? [])]) clear(state, f, box, 0);
  if (state.substep === 0) look(state, part, place, state.pools[n].count);
  const flown = plan.at(state.timeS + state.dtS / 2).particles[plan.particles[n].index];
  ParticleSourceStruct.write(threadPool.memory, layout.emission, {
    pool: place.address,
    stride: place.room * 4,
    count: state.pools[n].count,
    perM: 1 / h,
    ...named(['originX', 'originY', 'originZ'], window.origin),
    swell: part.swell,
    endSize: flown.endSize / 100,
    endAmount: part.endAmount / 100,
    mean,
    most,
    ...named(['su', 'sv', 'sw'], speeds ?? [0, 0, 0]),
    nx,
    ny,
    nz,
    rowStride,
    planeStride,
  });
  // every worker looks at all particles, so the slabs are as large as may be
  threadPool.run('rasterizeParticles', nz, sharePlanes(nz, threadPool), { cloud: layout.emission });
  const shape = cellShape(part, STILL, h, null);
  return {
    part,
    box,
    shape,
    pose: STILL,
    speeds,
    gain: share,
    mean,
    most,
    colours: layPatterns(state, part, shape, box, mean, most),
  };
}

/** Of a sample that is asked for its nearest neighbour. */
const ASKED = 8;

/** Tells where particles are thinner than a voxel, or stand too far apart to make one medium. */
function look(state: MediumState, part: SourcePart, place: PoolPlace, count: number): void {
  const { x, y, z, radius } = poolViews(state.threadPool.memory, place);
  const h = state.window.voxelSizeM;
  const asked = Array.from({ length: Math.min(ASKED, count) }, (_, n) =>
    Math.floor(((n + 0.5) * count) / Math.min(ASKED, count)),
  );
  const middle = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1];
  const r = middle(asked.map((n) => radius[n])) * part.swell;
  const size = (m: number): string => `${Number(m.toPrecision(2))} m`;
  if (2 * r < h)
    raiseIncident(state, {
      kind: 'thin',
      what:
        `${part.name}: its particles are ${size(2 * r)} across, thinner than a voxel of ${size(h)}; they ` +
        'give off as much, over a whole voxel.',
      cure: `Let them swell ${Math.ceil(h / (2 * r))} times, or use smaller voxels.`,
      fix: swollen(state, part, Math.ceil(h / (2 * r))),
    });
  const nearest = asked.map((n) => {
    let least = Infinity;
    for (let m = 0; m < count; m++) {
      const dx = x[m] - x[n];
      const dy = y[m] - y[n];
      const dz = z[m] - z[n];
      const d2 = dx * dx + dy * dy + dz * dz;
      if (d2 < least && m !== n) least = d2;
    }

    return Math.sqrt(least);
  });
  const apart = middle(nearest);
  if (Number.isFinite(apart) && apart > 2 * Math.max(r, h / 2))
    raiseIncident(state, {
      kind: 'apart',
      what:
        `${part.name}: its particles stand ${size(apart)} apart and are ${size(2 * r)} across: single ` +
        'puffs, not one cloud.',
      cure: `If one cloud is wanted: more particles, or let them swell ${Math.ceil(apart / (2 * r))} times.`,
      fix: swollen(state, part, Math.ceil(apart / (2 * r))),
    });
}

function swollen({ plan }: MediumState, part: SourcePart, times: number): Fix {
  const index = plan.recipe.sources.findIndex((s) => s.id === part.id);
  return {
    label: `${part.name} swollen ${times} times`,
    settings: [[`sources.${index}.swell`, Number((part.swell * times).toPrecision(3))]],
  };
}

const FILLABLE: readonly string[] = ['sphere', 'box', 'cylinder', 'mesh'];

function clear(
  { threadPool, window }: MediumState,
  field: number,
  [from, to]: Coverage['box'],
  value: number,
): void {
  const { nz, rowStride, planeStride } = window.lattice;
  threadPool.run('fillBox', nz, SLAB, {
    f: field,
    value,
    i0: from[0],
    i1: to[0],
    j0: from[1],
    j1: to[1],
    from: from[2],
    to: to[2],
    rowStride,
    planeStride,
  });
}

/** Part of the substep in which a source is on: by its frames and bursts. */
function activeShare(state: MediumState, part: SourcePart): number {
  const { timeS, dtS, plan, frame } = state;
  if (frame < part.from || frame > part.until) return 0;
  if (part.timing === 'steady') return 1;
  const startS = (part.from - plan.recipe.space.firstFrame) * plan.frameS;
  const length = Math.min(part.burstLength, part.burstEvery);
  // time on since the start, up to a moment
  const on = (t: number): number => {
    const rounds = Math.floor((t - startS) / part.burstEvery);
    return rounds * length + Math.min(length, t - startS - rounds * part.burstEvery);
  };

  const share = (on(timeS + dtS) - on(timeS)) / dtS;
  return share < 1e-9 ? 0 : Math.min(1, share);
}

/**
 * So many moments that each is at most the shape's least half width, and no less than half a cell, from the
 * next one.
 */
function stopsOf(a: CellShape, b: CellShape, layer: number, ownWay: number): number {
  const width = b.reach ? Math.min(...b.reach[1].map((v, n) => (v - b.reach![0][n]) / 2)) : Infinity;
  const size = b.reach ? Math.max(...b.reach.flat().map(Math.abs)) : 0;
  const turn = Math.max(...a.toOwn.map((r, m) => norm(r.map((v, n) => v - b.toOwn[m][n]))));
  const way = norm(a.centre.map((c, n) => c - b.centre[n])) + turn * size + ownWay;
  return Math.min(
    MOST_STOPS,
    Math.max(1, Math.ceil(way / Math.max(0.5, layer > 0 ? Math.min(layer, width) : width))),
  );
}

const NOISE = {
  value: NoiseKind.VALUE,
  cellular: NoiseKind.CELLULAR,
  billow: NoiseKind.BILLOW,
  picture: NoiseKind.PICTURE,
} as const;

/**
 * Multiplies the cover by the source's patterns, one after the other; a picture's colours go into fields of
 * their own.
 */
function layPatterns(
  state: MediumState,
  part: SourcePart,
  shape: CellShape,
  box: Coverage['box'],
  mean: number,
  most: number,
): Coverage['colours'] {
  const { plan, threadPool, layout, window } = state;
  const { nz, rowStride, planeStride } = window.lattice;
  const h = window.voxelSizeM;
  const now = plan.at(state.timeS + state.dtS / 2);
  const colours = addresses(layout.cover.colours) as [number, number, number];
  let coloured = false;
  now.patterns.forEach((p: PatternPart, index) => {
    if (!p.on || p.source !== part.id) return;
    const at = plan.pictures.findIndex((x) => x.pattern === index);
    const picture = at < 0 ? null : plan.pictures[at];
    const dyes = picture !== null && p.use === 'colour';
    if (dyes && !coloured) colours.forEach((f, c) => clear(state, f, box, part.colour.amount[c]));
    coloured ||= dyes;
    PatternStruct.write(threadPool.memory, layout.emission, {
      ...placeShape(state, { ...shape, kind: KIND.sphere }, 0),
      mean,
      most,
      noise: NOISE[p.noise],
      lumps: h / p.size,
      moment: state.timeS / p.period,
      seed: p.seed,
      low: p.low,
      high: p.high,
      contrast: p.contrast,
      strength: p.strength / 100,
      picture: picture ? layout.pictures[at] : 0,
      width: picture?.width ?? 1,
      height: picture?.height ?? 1,
      across: p.across / h,
      up: picture ? (p.across / h) * (picture.height / picture.width) : 1,
      ...named(['cr', 'cg', 'cb'], dyes ? colours : [0, 0, 0]),
      ...boxFields(box),
    });
    threadPool.run('applyPattern', nz, SLAB, { layer: layout.emission, rowStride, planeStride });
  });
  return coloured ? colours : null;
}

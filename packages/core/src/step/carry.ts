// The medium is carried along by the air, by mass, and fades on the way: finite volumes, axis after axis; see
// carry.ts of the kernels.
import { SweepStruct } from '@bramblemist/kernels/seam';
import { addresses, extent, named, share, SLAB } from '../grid/sweep';
import type { Field } from '../grid/memory';
import { sweepRowBytes } from '../plan/medium-layout';
import { settleDebts, shareSlivers } from './cut-cells';
import { dissipate, dissipationGain } from './dissipation';
import { bookFaded, bookFadedInPlaces, bookLeft } from './ledger';
import { eachRegionVariant } from './region-variants';
import { followMedium, gatherMedium, mediumOf, refineFlows, refineRooms, weightOnMedium } from './finer';
import { greatestOf, isMass, reduce, type MediumState, type SimulationState } from './state';

/** By how much of a cell's volume the flows along one axis may change it in one go. */
const MOST_TURNED = 0.95;
/** Beyond so many goes the air is out of hand, and the run says so. */
const MOST_GOES = 64;
/**
 * Part of the greatest density below which a voxel has no say in what rides on the medium; and at the least.
 */
const THIN = 1e-4;
const LEAST_DENSITY = 1e-12;
/** Cells that a parabola looks at to each side. */
const PARABOLA = 3;

/** One go: sweep after sweep. */
export interface Way {
  /** Axes in the order in which they are swept. */
  readonly order: readonly number[];
  /** What each sweep goes by. */
  readonly measures: readonly Measure[];
  /** Cells along each axis that flows reach, and as many more as a parabola looks at. */
  readonly reach: readonly number[];
  /** Sides past which there is nothing. */
  readonly emptySides: number;
}

/** What a sweep goes by: volumes for the medium, its mass for what rides on it. */
export interface Measure {
  readonly flow: number;
  readonly before: number;
  readonly after: number;
}

/** All that is carried by mass, over dtS, by the velocity of the last projection. */
export function carryMedium(state: SimulationState, dtS: number): void {
  const { plan, layout } = state;
  const { dissipation } = plan.at(state.timeS + state.dtS / 2);
  // where it fades everywhere alike, and nothing rides on it, it does so on the way
  const alike =
    dissipation.bias === 0 &&
    dissipation.where === '' &&
    !plan.channels.some((c) => c.rides) &&
    !plan.changes.some((c) => c.key === 'dissipation');
  const gainOver = (goS: number, of: 'density' | 'temperature'): number =>
    alike ? dissipationGain(goS, dissipation[of]) : 1;
  const left = [0, 0, 0, 0, 0, 0];
  const medium = mediumOf(state);
  const carryDensity = (way: Way, goS: number): void => {
    const gain = gainOver(goS, 'density');
    carryMass(medium, way, gain, left);
    bookLeft(medium, left);
    bookFaded(medium, gain, medium.layout.rooms ? medium.layout.volumes[3].address : 0);
  };

  eachGo(
    state,
    dtS,
    (goS) => findFlows(state, goS),
    (way, goS) => {
      if (!layout.medium) carryDensity(way, goS);
      plan.channels.forEach(({ fades, rides }, n) => {
        if (n > 0 && fades && !rides) carryAlone(state, way, n, gainOver(goS, fades));
      });
    },
  );
  if (layout.medium) {
    refineRooms(state);
    const flows = (goS: number): number => {
      findFlows(state, goS);
      return refineFlows(state, roomsOf(medium));
    };

    eachGo(medium, dtS, flows, carryDensity);
    gatherMedium(state);
  }

  if (layout.rooms) {
    layout.rooms.reverse();
    shareSlivers(state);
    settleDebts(state);
    followMedium(state);
  }

  if (!alike) {
    fadeInPlaces(state, dtS);
    bookFadedInPlaces(state);
  }

  const age = medium.plan.channels.findIndex((c) => c.name === 'age');
  if (age < 0) return;
  // what there is grows older
  medium.threadPool.run('addScaled', medium.window.lattice.nz, SLAB, {
    f: medium.layout.channels[age].address,
    g: medium.layout.channels[0].address,
    ...extent(medium.window.lattice),
    gain: dtS,
  });
  gatherMedium(state);
}

/**
 * Carries over a time in as many goes as the flows ask for.
 * @param flows finds the volumes through the faces over a time, and by how much they turn a cell at most
 */
function eachGo(
  state: MediumState,
  dtS: number,
  flows: (goS: number) => number,
  visit: (way: Way, goS: number) => void,
): void {
  const { window, topSpeeds } = state;
  const goes = Math.min(MOST_GOES, Math.max(1, Math.ceil(flows(dtS) / MOST_TURNED)));
  if (goes > 1) flows(dtS / goes);
  const cells = dtS / goes / window.voxelSizeM;
  // the order of the axes turns round, so that none is favoured
  const order = (state.substep + state.frame) % 2 === 0 ? [0, 1, 2] : [2, 1, 0];
  const fastest = topSpeeds.map((speed) => {
    const across = topSpeeds.reduce((sum, v) => sum + v, 0) - speed;
    // flows on finer cells lean on those across
    return (state.plan.perCell === 1 ? speed : speed + across / 4) * cells;
  });
  const way = wayAlong(state, fastest, order, volumesOf(state, order));
  for (let go = 0; go < goes; go++) {
    findVolumes(state, order[0], go / goes, (go + 1) / goes);
    visit(way, dtS / goes);
  }
}

/** @param reached cells along each axis that the fastest flow crosses in a go */
export function wayAlong(
  { sides }: MediumState,
  reached: readonly number[],
  order: readonly number[],
  measures: readonly Measure[],
): Way {
  return {
    order,
    measures,
    reach: reached.map((v) => Math.ceil(v) + PARABOLA),
    emptySides: sides.reduce((bits, rule, side) => (rule === 'open' ? bits | (1 << side) : bits), 0),
  };
}

/** Volumes through the faces over a time; returns by how much they turn a cell at most. */
function findFlows(state: SimulationState, dtS: number): number {
  const { threadPool, layout, window } = state;
  const { nz } = window.lattice;
  threadPool.run('volumeFlows', nz, SLAB, {
    level: layout.levels[0].block,
    ...named(['u', 'v', 'w'], addresses(layout.velocity)),
    ...named(['x', 'y', 'z'], addresses(layout.flows)),
    ...roomsOf(state),
    kappa: dtS / window.voxelSizeM,
    partials: layout.partials,
  });
  return reduce(state, nz, 0, 'max');
}

/** The cells' air at both ends of the time; 0: all of them, as no obstacle moves. */
function roomsOf({ layout: { rooms } }: MediumState): { rooms: number; roomsTo: number } {
  return { rooms: rooms?.[0].address ?? 0, roomsTo: rooms?.[1].address ?? 0 };
}

/** Of the cells' air in a go that takes up a part of the time. */
function findVolumes(state: MediumState, first: number, began: number, ends: number): void {
  const { threadPool, layout, window } = state;
  const [afterFirst, afterSecond, atStart, atEnd] = addresses(layout.volumes);
  const { nx, ny, nz, rowStride, planeStride } = window.lattice;
  threadPool.run('cellVolumes', nz, SLAB, {
    ...named(['x', 'y', 'z'], addresses(layout.flows)),
    first,
    ...roomsOf(state),
    began,
    ends,
    afterFirst,
    afterSecond,
    atStart,
    atEnd,
    nx,
    ny,
    rowStride,
    planeStride,
  });
}

/** Volumes by which the three sweeps of a go go. */
function volumesOf({ layout }: MediumState, order: readonly number[]): Measure[] {
  const [afterFirst, afterSecond, atStart, atEnd] = addresses(layout.volumes);
  const changes = layout.rooms !== null;
  const volumes = [changes ? atStart : 0, afterFirst, afterSecond, changes ? atEnd : 0];
  return order.map((axis, turn) => ({
    flow: layout.flows[axis].address,
    before: volumes[turn],
    after: volumes[turn + 1],
  }));
}

/** Temperature in one go: by itself, as the air's warmth. */
function carryAlone(state: MediumState, way: Way, n: number, gain: number): void {
  markRows(state, n);
  const last = way.order.length - 1;
  way.measures.forEach((volumes, turn) =>
    sweep(state, way, turn, n, volumes, { gain: turn === last ? gain : 1 }),
  );
}

/**
 * Density in one go, and what rides on it; they are amounts, density times a value, before and after, and
 * that value in between.
 * @param left is given what leaves through each side, cells times what is in them
 */
export function carryMass(state: MediumState, way: Way, gain: number, left: number[]): void {
  const { threadPool, layout, plan, window } = state;
  const l = window.lattice;
  const riders = plan.channels.flatMap(({ rides }, n) => (rides ? [n] : []));
  const over = (kernel: 'multiplyCells' | 'divideCells', f: Field, g: number, out = f): void =>
    threadPool.run(kernel, l.nz, SLAB, { f: f.address, g, out: out.address, ...extent(l) });
  const ranges = riders.map((n) => {
    over('divideCells', layout.channels[n], layout.channels[0].address);
    return rangeOf(state, n);
  });
  markRows(state, 0);
  const masses = layout.riding ? [...layout.riding.masses] : [];
  if (layout.riding) over('multiplyCells', layout.channels[0], way.measures[0].before, masses[0]);
  way.measures.forEach((volumes, turn) => {
    const passed = layout.riding?.passed.address ?? 0;
    sweep(state, way, turn, 0, volumes, { gain: turn === way.order.length - 1 ? gain : 1, left, passed });
    if (!layout.riding) return;
    over('multiplyCells', layout.channels[0], volumes.after, masses[1]);
    const [before, after] = addresses(masses);
    riders.forEach((n, r) =>
      sweep(state, way, turn, n, { flow: passed, before, after }, { range: ranges[r] }),
    );
    masses.reverse();
  });
  for (const n of riders) over('multiplyCells', layout.channels[n], layout.channels[0].address);
}

/** The least and the greatest value of what rides, where the medium is not all but gone. */
function rangeOf(state: MediumState, n: number): [number, number] {
  const { threadPool, layout, window } = state;
  const l = window.lattice;
  const { partials } = layout;
  const [g, f] = [layout.channels[0].address, layout.channels[n].address];
  const enough = Math.max(LEAST_DENSITY, THIN * greatestOf(state, layout.channels[0]));
  threadPool.run('valueRange', l.nz, SLAB, { f, g, enough, ...extent(l), partials });
  const parts = new Float64Array(threadPool.memory.buffer, partials, l.nz * 8);
  const planes = Array.from({ length: l.nz }, (_, k) => k * 8);
  return [Math.min(...planes.map((k) => parts[k])), Math.max(...planes.map((k) => parts[k + 1]))];
}

function markRows({ threadPool, layout, window }: MediumState, n: number): void {
  const l = window.lattice;
  const [marks] = layout.marks;
  threadPool.run('markRows', l.nz, SLAB, { f: layout.channels[n].address, marks, ...extent(l) });
}

interface SweepOptions {
  readonly gain?: number;
  readonly left?: number[] | null;
  /** Field that is given what passes the faces. */
  readonly passed?: number;
  /** Of what rides, and says that it does. */
  readonly range?: readonly [least: number, most: number] | null;
}

/** The turn-th sweep of a go. What rides looks at the rows of the density, and leaves their marks alone. */
function sweep(
  state: MediumState,
  { order, reach, emptySides }: Way,
  turn: number,
  n: number,
  measure: Measure,
  { gain = 1, left = null, passed = 0, range = null }: SweepOptions,
): void {
  const { threadPool, layout, window, plan } = state;
  const l = window.lattice;
  const { method } = plan.recipe;
  const axis = order[turn];
  const from = layout.channels[n];
  SweepStruct.write(threadPool.memory, layout.sweep, {
    from: from.address,
    to: layout.spare.address,
    ...measure,
    axis,
    ...extent(l),
    emptySides,
    parabolas: Number(method[plan.channels[n].fades!] === 'fine'),
    rides: Number(range !== null),
    least: range?.[0] ?? 0,
    most: range?.[1] ?? 0,
    reach: reach[axis],
    marks: layout.marks[turn % 2],
    marksTo: range ? layout.marks[2] : layout.marks[(turn + 1) % 2],
    gain,
    passed,
    rows: layout.sweepRows,
    rowBytes: sweepRowBytes(l),
    partials: left ? layout.partials : 0,
  });
  const slab = Math.max(SLAB, axis === 2 ? share(l.nz, threadPool) : SLAB);
  threadPool.run('sweepCells', l.nz, slab, { sweep: layout.sweep, slab });
  if (left)
    for (const side of [2 * axis, 2 * axis + 1])
      left[side] += reduce(state, l.nz, side, 'sum') / plan.perCell;
  [layout.channels[n], layout.spare] = [layout.spare, from];
}

function fadeInPlaces(state: SimulationState, dtS: number): void {
  const medium = mediumOf(state);
  eachRegionVariant(
    state,
    ['dissipation'],
    (r) => r.dissipation,
    ({ dissipation }, weight) => {
      const fade = (on: MediumState, n: number, by: number): void => {
        const { fades } = on.plan.channels[n];
        const { channels } = on.layout;
        const { bias, even } = dissipation;
        if (fades)
          dissipate({ state: on, dtS }, channels[n], channels[0], dissipation[fades], bias, even, by);
      };

      // density last: the others lean by what it was
      for (let n = state.plan.channels.length - 1; n >= 0; n--)
        if (medium === state || !isMass(state.plan, n)) fade(state, n, weight);
      if (medium === state) return;
      const by = weightOnMedium(state, weight);
      for (let n = medium.plan.channels.length - 1; n >= 0; n--) fade(medium, n, by);
    },
  );
  gatherMedium(state);
}

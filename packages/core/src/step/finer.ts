// The medium on cells half as large as the air's. Where they are, the air's own density, and what rides on
// it, are means that it is felt and measured by.
import { finerWindow, type Lattice } from '../grid/lattice';
import { LevelStruct } from '@bramblemist/kernels/seam';
import { addresses, extent, named, SLAB } from '../grid/sweep';
import type { Field } from '../grid/memory';
import type { MediumLayout } from '../plan/medium-layout';
import { isMass, reduce, type MediumState, type SimulationState } from './state';

/** The state as the medium's cells see it; the state itself where those are the air's. */
export function mediumOf(state: SimulationState): MediumState {
  const { medium } = state.layout;
  return medium ? onFinerCells(state, medium) : state;
}

const onFinerCells = (state: SimulationState, layout: MediumLayout): MediumState => ({
  ...state,
  plan: state.plan.medium!,
  window: finerWindow(state.window),
  layout,
});

/** Cells of a lattice, and the strides of one that is twice as fine. */
function bothExtents(
  { nx, ny, rowStride, planeStride }: Lattice,
  fine: Lattice,
): Record<'nx' | 'ny' | 'rowStride' | 'planeStride' | 'fineRow' | 'finePlane', number> {
  return { nx, ny, rowStride, planeStride, fineRow: fine.rowStride, finePlane: fine.planeStride };
}

/** Pairs of the medium's fields and the air's own, as kernels take them. */
function pairsOf({ threadPool, plan, layout }: SimulationState, medium: MediumLayout): number {
  const own = layout.channels.filter((_, n) => isMass(plan, n));
  const pairs = own.flatMap((f, n) => [medium.channels[n].address, f.address]);
  new Int32Array(threadPool.memory.buffer, layout.emission, pairs.length + 1).set([pairs.length, ...pairs]);
  return layout.emission;
}

/** The air's own density, and what rides on it, become the means of what the medium's cells hold. */
export function gatherMedium(state: SimulationState): void {
  betweenCells(state, 'gatherCells');
}

/** What was changed of those means since is handed on to the medium's cells. */
export function followMedium(state: SimulationState): void {
  betweenCells(state, 'followCells');
}

function betweenCells(state: SimulationState, kernel: 'gatherCells' | 'followCells'): void {
  const { threadPool, layout, window } = state;
  if (!layout.medium) return;
  const cells = bothExtents(window.lattice, layout.medium.spare.lattice);
  threadPool.run(kernel, window.lattice.nz, SLAB, { list: pairsOf(state, layout.medium), ...cells });
}

/**
 * Values on the air's faces onto those of the finer cells, free of divergence where they are.
 * @param sloped false: even over each face
 */
export function refineFaces(
  { threadPool, window }: SimulationState,
  from: readonly Field[],
  to: readonly Field[],
  scale: number,
  sloped = true,
): void {
  const { nz } = window.lattice;
  threadPool.run('refineFaces', nz, SLAB, {
    ...named(['x', 'y', 'z'], addresses(from)),
    ...named(['tx', 'ty', 'tz'], addresses(to)),
    scale,
    sloped: Number(sloped),
    nz,
    ...bothExtents(window.lattice, to[0].lattice),
  });
}

/** Values at the air's cells onto the finer ones: linear between the cells' middles, or even in each. */
export function refineCells(
  { threadPool, window }: SimulationState,
  from: number,
  to: Field,
  linear: boolean,
): void {
  const { nz } = window.lattice;
  threadPool.run('refineCells', nz, SLAB, {
    f: from,
    to: to.address,
    linear: Number(linear),
    nz,
    ...bothExtents(window.lattice, to.lattice),
  });
}

/** A field of weights of the air's cells on the medium's, until the next field is swept; 0 stays 0. */
export function weightOnMedium(state: SimulationState, weight: number): number {
  const { medium } = state.layout;
  if (!medium || weight === 0) return weight;
  refineCells(state, weight, medium.spare, true);
  return medium.spare.address;
}

/**
 * The flows through the air's faces onto the medium's; returns by how much they turn a cell at most.
 * @param rooms the cells' air at both ends, on the medium's cells; 0: all of them
 */
export function refineFlows(state: SimulationState, rooms: { rooms: number; roomsTo: number }): number {
  const { layout, threadPool } = state;
  const medium = onFinerCells(state, layout.medium!);
  const { flows, partials } = medium.layout;
  const { nz } = medium.window.lattice;
  refineFaces(state, layout.flows, flows, 2);
  const [x, , z] = addresses(flows);
  threadPool.run('mostTurned', nz, SLAB, { x, z, ...rooms, ...extent(medium.window.lattice), partials });
  return reduce(medium, nz, 0, 'max');
}

/** The cells' air, at the start and at the end of a substep, on the medium's cells. */
export function refineRooms(state: SimulationState): void {
  const { rooms, medium } = state.layout;
  if (rooms && medium) rooms.forEach((f, n) => refineCells(state, f.address, medium.rooms![n], false));
}

/** What a level says for the sake of its pressure, which the medium's cells do not have. */
const PRESSURE_ONLY = [
  ...([
    'half',
    'odd',
    'rowBytes',
    'planeBytes',
    'walls',
    'kind',
    'coefficients',
    'r',
    'e',
    'q',
    'ring',
  ] as const),
  ...(['ringBytes', 'tile', 'side0', 'side1', 'side2', 'side3', 'side4', 'side5'] as const),
] as const;

/** Tells the kernels of the medium's cells, with the faces that obstacles leave open laid over its flows. */
export function describeMedium(state: SimulationState): void {
  const { layout, threadPool } = state;
  const medium = onFinerCells(state, layout.medium!);
  const { nx, ny, nz, rowStride, planeStride } = medium.window.lattice;
  const { flows, levels } = medium.layout;
  refineFaces(state, layout.levels[0].open, flows, 1, false);
  LevelStruct.write(threadPool.memory, levels[0].block, {
    ...named(
      PRESSURE_ONLY,
      PRESSURE_ONLY.map(() => 0),
    ),
    ...named(['ax', 'ay', 'az'], addresses(flows)),
    nx,
    ny,
    nz,
    faceRowBytes: rowStride * 4,
    facePlaneBytes: planeStride * 4,
  });
}

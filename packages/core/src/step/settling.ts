// Stage 9: what is heavier than the air falls through it, along gravity, and lies where it lands; see
// settling.ts of the kernels.
import { addresses, SLAB } from '../grid/sweep';
import { directionOf } from '../math/vector';
import { settlingSpeed } from '../recipe/parts/settling';
import { carryMass, wayAlong, type Measure, type Way } from './carry';
import { listOf } from './cut-cells';
import { bookDeposited, bookFallen, massOf } from './ledger';
import { followMedium, gatherMedium, mediumOf, refineCells, refineFaces, refineRooms } from './finer';
import { channelField, isMass, reduce, type MediumState, type SimulationState } from './state';

/** Cells that medium may fall in one go. */
const FARTHEST_GO = 0.95;
/** Slower than this part of a cell in a substep along an axis is none. */
const NO_FALL = 1e-7;

export function settling(state: SimulationState): void {
  const { plan, layout, threadPool, window, dtS } = state;
  const { settling: rule, gravity } = plan.at(state.timeS + dtS / 2);
  const speed = settlingSpeed(rule, gravity);
  const down = directionOf(gravity.direction);
  const cells = down.map((v) => (v * speed * dtS) / window.voxelSizeM);
  const deposit = channelField(state, 'deposit');
  if (speed === 0 && !deposit) return;
  if (deposit) loosen(state, cells, deposit.address);
  const { nz } = window.lattice;
  const level = layout.levels[0].block;
  const rooms = layout.rooms?.[0].address ?? 0;
  const left = [0, 0, 0, 0, 0, 0];
  const medium = mediumOf(state);
  cells.forEach((far, axis) => {
    if (Math.abs(far) < NO_FALL) return;
    const farthest = (FARTHEST_GO * medium.window.voxelSizeM) / window.voxelSizeM;
    const goes = Math.ceil(Math.abs(far) / farthest);
    const fall = far / goes;
    const flow = layout.flows[axis].address;
    const [volume] = addresses(layout.volumes);
    threadPool.run('fallFlows', nz + Number(axis === 2), SLAB, { level, axis, fall, rooms, flow, volume });
    const way = layout.medium
      ? fallOnMedium(state, axis, fall)
      : fallAlong(state, axis, fall, { flow, before: rooms, after: volume });
    for (let go = 0; go < goes; go++) {
      if (deposit) {
        const list = listOf(state, (n) => isMass(plan, n));
        const { partials } = layout;
        threadPool.run('land', nz, SLAB, {
          level,
          axis,
          fall,
          rooms,
          list,
          deposit: deposit.address,
          partials,
        });
        followMedium(state);
        bookDeposited(state);
      }

      carryMass(medium, way, 1, left);
      gatherMedium(state);
    }
  });
  bookFallen(state, left);
}

const fallAlong = (state: MediumState, axis: number, fall: number, measure: Measure): Way =>
  wayAlong(
    state,
    [0, 1, 2].map((a) => (a === axis ? Math.abs(fall) : 0)),
    [axis],
    [measure],
  );

/** The fall through the air's faces as the medium's cells see it. */
function fallOnMedium(state: SimulationState, axis: number, fall: number): Way {
  const { layout } = state;
  const medium = mediumOf(state);
  const { flows, volumes, rooms } = medium.layout;
  refineFaces(state, layout.flows, flows, 2, false);
  refineCells(state, layout.volumes[0].address, volumes[0], false);
  refineRooms(state);
  const before = rooms?.[0].address ?? 0;
  const after = volumes[0].address;
  return fallAlong(medium, axis, 2 * fall, { flow: flows[axis].address, before, after });
}

/** What lies where its floor has gone away falls again, in the colour that the medium has in the mean. */
function loosen(state: SimulationState, cells: readonly number[], deposit: number): void {
  const { plan, layout, threadPool, window } = state;
  const { nz } = window.lattice;
  const { partials } = layout;
  const rooms = layout.rooms?.[0].address ?? 0;
  const mass = massOf(state);
  const shares = plan.channels.flatMap((_, n) => {
    if (!isMass(plan, n)) return [];
    return n === 0 || mass <= 0 ? [Number(n === 0)] : [massOf(state, rooms, n) / mass];
  });
  const list = listOf(state, (n) => isMass(plan, n));
  new Float32Array(threadPool.memory.buffer, layout.corners, shares.length).set(shares);
  const [x, y, z] = cells;
  threadPool.run('loosen', nz, SLAB, {
    level: layout.levels[0].block,
    ...{ x, y, z, rooms, list, means: layout.corners, deposit, partials },
  });
  followMedium(state);
  if (reduce(state, nz, 0, 'sum') > 0) bookDeposited(state);
}

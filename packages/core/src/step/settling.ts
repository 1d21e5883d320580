// Stage 9: what is heavier than the air falls through it, along gravity, and lies where it lands; see
// settling.ts of the kernels.
import { addresses, SLAB } from '../grid/sweep';
import { directionOf } from '../math/vector';
import { settlingSpeed } from '../recipe/parts/settling';
import { carryMass, wayAlong } from './carry';
import { isMass, listOf } from './cut-cells';
import { bookDeposited, bookFallen, massOf } from './ledger';
import { channelField, reduce, type SimulationState } from './state';

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
  cells.forEach((far, axis) => {
    if (Math.abs(far) < NO_FALL) return;
    const goes = Math.ceil(Math.abs(far) / FARTHEST_GO);
    const fall = far / goes;
    const flow = layout.flows[axis].address;
    const [volume] = addresses(layout.volumes);
    threadPool.run('fallFlows', nz + Number(axis === 2), SLAB, { level, axis, fall, rooms, flow, volume });
    const reached = [0, 1, 2].map((a) => (a === axis ? Math.abs(fall) : 0));
    const way = wayAlong(state, reached, [axis], [{ flow, before: rooms, after: volume }]);
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
        bookDeposited(state);
      }

      carryMass(state, way, 1, left);
    }
  });
  bookFallen(state, left);
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
  if (reduce(state, nz, 0, 'sum') > 0) bookDeposited(state);
}

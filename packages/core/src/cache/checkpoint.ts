// A run's state as bytes, from which it goes on with the same bits: a JSON head, the arrays as they are, and
// a checksum.
import { CoreError } from '../base/error';
import { lattice } from '../grid/lattice';
import type { Triple } from '../math/vector';
import { ARRAYS } from '../plan/particle-pool';
import type { Plan } from '../plan/plan';
import type { Checkpoint } from '../run/simulation';
import { sites } from '../grid/sweep';
import type { FieldSnapshot } from '../step/snapshot';

const MAGIC = 0x35504342; // BCP5
/** What stands before the arrays. */
export interface CheckpointHead {
  readonly frame: number;
  readonly topSpeeds: readonly [number, number, number];
  readonly cells: Triple;
  readonly origin: Triple;
  readonly voxelSizeM: number;
  readonly channels: readonly string[];
  /** Whether density, and what rides on it, is there on cells of its own too. */
  readonly medium: boolean;
  /** Whether the air of the cells is kept, as it is where an obstacle moves. */
  readonly rooms?: boolean;
  /** Of each part of particles that is on. */
  readonly pools: readonly {
    readonly id: string;
    readonly count: number;
    readonly born: number;
    readonly owed: number;
  }[];
}

export const encodeCheckpoint = (plan: Plan, checkpoint: Checkpoint): Uint8Array =>
  joinCheckpoint(checkpointHead(plan, checkpoint), checkpoint.snapshot);

export function checkpointHead(plan: Plan, { frame, topSpeeds, snapshot }: Checkpoint): CheckpointHead {
  const { window, medium, rooms, pools } = snapshot;
  return {
    frame,
    topSpeeds,
    cells: [window.lattice.nx, window.lattice.ny, window.lattice.nz],
    origin: [window.origin[0], window.origin[1], window.origin[2]],
    voxelSizeM: window.voxelSizeM,
    channels: plan.channels.map((c) => c.name),
    medium: medium !== null,
    rooms: rooms !== null,
    pools: pools.map(({ count, born, owed }, n) => ({ id: plan.particles[n].part.id, count, born, owed })),
  };
}

/** The arrays of a state, in the order of its bytes. */
export const arraysOf = (snapshot: FieldSnapshot): Float32Array[] => {
  const { velocity, channels, medium, pressure, rooms, pools } = snapshot;
  const cells = [...velocity, ...channels, ...(medium ?? []), pressure, ...(rooms ? [rooms] : [])];
  return [...cells, ...pools.map((p) => p.values)];
};

export function joinCheckpoint(head: CheckpointHead, snapshot: FieldSnapshot): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(head));
  const start = 12 + Math.ceil(text.length / 4) * 4;
  const arrays = arraysOf(snapshot);
  const out = new Uint8Array(start + arrays.reduce((n, a) => n + a.byteLength, 0) + 4);
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, text.length, true);
  view.setUint32(8, out.length, true);
  out.set(text, 12);
  let at = start;
  for (const a of arrays) {
    out.set(new Uint8Array(a.buffer, a.byteOffset, a.byteLength), at);
    at += a.byteLength;
  }

  view.setUint32(at, checksum(out.subarray(0, at)), true);
  return out;
}

/** @throws Error where the bytes are not a whole checkpoint of this plan */
export function decodeCheckpoint(plan: Plan, bytes: Uint8Array): Checkpoint {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 16 || view.getUint32(0, true) !== MAGIC)
    throw new CoreError('cache', 'It is not a checkpoint.');
  const length = view.getUint32(4, true);
  const start = 12 + Math.ceil(length / 4) * 4;
  if (view.getUint32(8, true) !== bytes.length) throw new CoreError('cache', 'It is cut short.');
  if (view.getUint32(bytes.length - 4, true) !== checksum(bytes.subarray(0, bytes.length - 4)))
    throw new CoreError('cache', 'It is damaged: its checksum differs.');
  const head = JSON.parse(new TextDecoder().decode(bytes.subarray(12, 12 + length))) as CheckpointHead;
  const names = plan.channels.map((c) => c.name);
  if (
    head.voxelSizeM !== plan.window.voxelSizeM ||
    head.channels.join() !== names.join() ||
    head.medium !== (plan.medium !== null) ||
    head.pools.map((p) => p.id).join() !== plan.particles.map((p) => p.part.id).join()
  )
    throw new CoreError('cache', 'It belongs to another recipe or voxel size.');
  const l = lattice(...head.cells);
  let at = start;
  const takeFloats = (count: number): Float32Array => {
    const from = at;
    at += count * 4;
    // a copy, aligned; a view's own slice need not be one
    return new Float32Array(
      bytes.buffer.slice(bytes.byteOffset + from, bytes.byteOffset + at) as ArrayBuffer,
    );
  };

  const take = (axis: number): Float32Array => takeFloats(sites(l, axis).reduce((n, m) => n * m, 1));
  const velocity = [0, 1, 2].map(take);
  const channels = names.map(() => take(3));
  const medium = plan.medium && plan.medium.channels.map(() => takeFloats(8 * l.nx * l.ny * l.nz));
  // with the cells around the window
  const pressure = takeFloats((l.nx + 2) * (l.ny + 2) * (l.nz + 2));
  const rooms = head.rooms ? take(3) : null;
  const pools = head.pools.map(({ count, born, owed }) => ({
    count,
    born,
    owed,
    values: takeFloats(count * ARRAYS.length),
  }));
  return {
    frame: head.frame,
    topSpeeds: head.topSpeeds,
    snapshot: {
      window: { lattice: l, origin: head.origin, voxelSizeM: head.voxelSizeM },
      velocity,
      channels,
      medium,
      pressure,
      rooms,
      pools,
    },
  };
}

/** FNV-1a over the bytes. */
function checksum(bytes: Uint8Array): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < bytes.length; i++) h = Math.imul(h ^ bytes[i], 0x01000193);
  return h >>> 0;
}

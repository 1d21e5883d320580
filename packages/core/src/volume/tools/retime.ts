// Retime: slower or faster, with what lies between two frames found along the motion: both are carried to the
// moment by their own velocities and mixed, so that a moving edge stays one edge.
import type { ChannelName } from '../../base/channels';
import { CoreError } from '../../base/error';
import { square } from '../../math/exact';
import { choice, definePart, number, type PartValues } from '../../recipe/settings';
import {
  isCarried,
  cropToBox,
  carried,
  checkBox,
  countOf,
  emptyVolume,
  facesAbout,
  trilinearSampler,
  cropToActive,
  type CacheVolume,
} from '../volume';
import type { Triple } from '../../math/vector';
import type { Tool } from './tool';

const PART = definePart({
  key: 'retime',
  title: 'Retime',
  many: false,
  keyable: false,
  sentence: 'At {speed} of the speed, frames between found {between}.',
  settings: [
    number(
      'speed',
      'speed',
      '%',
      [5, 1000],
      50,
      'Of playing: 50 % takes twice as many frames, 200 % half as many.',
    ),
    choice(
      'between',
      'frames between',
      [
        ['motion', 'along the motion'],
        ['mixed', 'by mixing'],
      ],
      'Along the motion: both neighbours are carried to the moment by their velocity. By mixing: they ' +
        'are faded into each other, which doubles moving edges.',
    ),
  ],
});
/** Parts of a frame that count as the frame itself. */
const NEAR = 1e-6;

export const RETIME: Tool<PartValues<typeof PART>> = {
  part: PART,
  apply(frames, { speed, between }) {
    const times = speed / 100;
    const last = frames.first + Math.floor((frames.last - frames.first) / times + NEAR);
    const inOld = (frame: number): number =>
      Math.min(frames.last, frames.first + (frame - frames.first) * times);
    return {
      ...frames,
      last,
      timeS(frame) {
        const a = Math.min(frames.last - 1, Math.floor(inOld(frame)));
        if (frames.last === frames.first) return frames.timeS(frames.first);
        return frames.timeS(a) + (inOld(frame) - a) * (frames.timeS(a + 1) - frames.timeS(a));
      },
      read(frame) {
        const at = inOld(frame);
        const a = Math.floor(at + NEAR);
        const t = at - a < NEAR ? 0 : at - a;
        const before = frames.read(a);
        if (between === 'motion' && !before.channels.has('velocity') && times !== 1)
          throw new CoreError(
            'settings',
            'The cache keeps no velocity to carry its frames along. Choose “by mixing”, or bake with ' +
              'velocity.',
          );
        const made =
          t === 0
            ? before
            : mix(before, frames.read(a + 1), t, between === 'motion' ? 1 / frames.frameRate : 0);
        return slowed({ ...made, frame }, times);
      },
    };
  },
};

/** Velocity in metres a second of the new time. */
function slowed(v: CacheVolume, times: number): CacheVolume {
  const u = v.channels.get('velocity');
  if (!u || times === 1) return v;
  return {
    ...v,
    channels: new Map(v.channels).set(
      'velocity',
      u.map((p) => p.map((x) => x * times)),
    ),
  };
}

/** @param frameS a frame of the motion, s; 0 to leave both where they are */
function mix(a: CacheVolume, b: CacheVolume, t: number, frameS: number): CacheVolume {
  const h = a.voxelSizeM;
  const none = (v: CacheVolume): boolean => !v.active.some((x) => x);
  if (none(a) && none(b)) return emptyVolume(a);
  // a box that holds both, with room for what moves out of it
  const reach = Math.ceil((Math.max(fastest(a), fastest(b)) * frameS) / h) + 1;
  const min = a.min.map((m, n) => Math.min(m, b.min[n]) - reach) as Triple;
  const dims = min.map((m, n) => Math.max(a.min[n] + a.dims[n], b.min[n] + b.dims[n]) + reach - m) as Triple;
  checkBox(dims);
  const out = cropToBox(a, min, dims);
  const [nx, ny, nz] = dims;
  const count = countOf(dims);
  const flow = [a, b].map((v) =>
    (v.channels.get('velocity') ?? []).map((p, axis) => trilinearSampler(v, p, axis)),
  );
  const shift = [-t * frameS, (1 - t) * frameS];
  const share = [1 - t, t];
  const density = [a, b].map((v) => trilinearSampler(v, v.channels.get('density')![0]));
  const channels = new Map(
    [...a.channels.keys()].map(
      (name) => [name, a.channels.get(name)!.map(() => new Float32Array(count))] as const,
    ),
  );
  const active = new Uint8Array(count);
  const names = ([...channels.keys()] as ChannelName[]).filter((n) => isCarried(n) && b.channels.has(n));
  // what lies does not move: it is there by both frames' shares
  const deposits = [a, b].map(
    (v) => v.channels.get('deposit') && trilinearSampler(v, v.channels.get('deposit')![0]),
  );
  const reads = names.map((name) => [a, b].map((v) => carried(v, name).map((p) => trilinearSampler(v, p))));
  const place = [0, 0, 0];
  const from = [
    [0, 0, 0],
    [0, 0, 0],
  ];
  /** Where what is here at the moment was in frame a, and will be in frame b. */
  const trace = (): void => {
    for (const s of [0, 1]) {
      if (frameS === 0 || flow[s].length === 0) {
        for (let c = 0; c < 3; c++) from[s][c] = place[c];
        continue;
      }

      // midpoint rule through the frame's own field
      const u = flow[s].map((f) => f(place[0], place[1], place[2]));
      const mid = place.map((p, c) => p + 0.5 * shift[s] * u[c]);
      const v = flow[s].map((f) => f(mid[0], mid[1], mid[2]));
      for (let c = 0; c < 3; c++) from[s][c] = place[c] + shift[s] * v[c];
    }
  };

  for (let k = 0, n = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++, n++) {
        for (let c = 0; c < 3; c++) place[c] = a.translation[c] + (min[c] + [i, j, k][c]) * h;
        trace();
        const d = [0, 1].map((s) => share[s] * density[s](from[s][0], from[s][1], from[s][2]));
        const sum = d[0] + d[1];
        if (deposits[0]) {
          const lies = [0, 1].map((s) => share[s] * (deposits[s]?.(place[0], place[1], place[2]) ?? 0));
          channels.get('deposit')![0][n] = lies[0] + lies[1];
          if (lies[0] + lies[1] > FAINTEST) active[n] = 1;
        }

        if (sum <= FAINTEST) continue;
        active[n] = 1;
        channels.get('density')![0][n] = sum;
        // what the medium carries is mixed by how much of it each frame brings
        names.forEach((name, c) =>
          reads[c][0].forEach((_, p) => {
            channels.get(name)![p][n] = [0, 1].reduce(
              (x, s) => x + (share[s] / sum) * reads[c][s][p](from[s][0], from[s][1], from[s][2]),
              0,
            );
          }),
        );
      }

  const moving = facesAbout(active, dims);
  channels.get('velocity')?.forEach((values, axis) => {
    const fields = [a, b].map((v) =>
      v.channels.has('velocity') ? trilinearSampler(v, v.channels.get('velocity')![axis], axis) : () => 0,
    );
    for (let n = 0; n < count; n++) {
      if (!moving[n]) continue;
      const at = [n % nx, Math.floor(n / nx) % ny, Math.floor(n / (nx * ny))];
      at.forEach((c, q) => (place[q] = a.translation[q] + (min[q] + c - (q === axis ? 0.5 : 0)) * h));
      values[n] =
        share[0] * fields[0](place[0], place[1], place[2]) +
        share[1] * fields[1](place[0], place[1], place[2]);
    }
  });
  return cropToActive({ ...out, active, moving, channels });
}

/** Thinner than this is nothing: what linear look-ups leave at an edge. */
const FAINTEST = 1e-5;

function fastest(v: CacheVolume): number {
  const u = v.channels.get('velocity');
  let most = 0;
  if (u)
    for (let n = 0; n < u[0].length; n++)
      most = Math.max(most, square(u[0][n]) + square(u[1][n]) + square(u[2][n]));
  return Math.sqrt(most);
}

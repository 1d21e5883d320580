// Particles through a cache: seeded in a shape, a source or the medium, carried forward or back by
// the velocity that it keeps (Runge–Kutta of fourth order in space and time), with what the medium holds
// where they are.
import type { ChannelName } from '../base/channels';
import { CoreError } from '../base/error';
import type { FrameSource } from '../volume/frames';
import { extrapolateVelocity } from '../volume/extrapolate-velocity';
import { carried, trilinearSampler, type CacheVolume } from '../volume/volume';
import type { Triple } from '../math/vector';
import { poseOf } from '../geometry/pose';
import { cellShape, type CellShape } from '../geometry/shape';
import { chanceOf, placeIn } from '../step/births';
import type { StandingPart } from '../recipe/types';
import type { ParticleAdvection } from './particle-settings';

/** Particles of a frame: a column for each name, as long as there are of them. */
export interface AdvectedFrame {
  readonly frame: number;
  readonly count: number;
  readonly columns: ReadonlyMap<string, Float32Array | Uint32Array>;
  /** Ways so far: places one behind the other, and how many belong to each particle; null without trails. */
  readonly trails: { readonly places: Float32Array; readonly lengths: Uint16Array } | null;
}

const MOST_TRAIL_PLACES = 50_000_000;

/** The air of a frame: staggered velocity, and where it is known. */
class Air {
  private readonly u: Float32Array;
  private readonly v: Float32Array;
  private readonly w: Float32Array;
  private readonly known: Uint8Array;
  private readonly nx: number;
  private readonly ny: number;
  private readonly nz: number;
  private readonly x0: number;
  private readonly y0: number;
  private readonly z0: number;
  private readonly per: number;

  constructor(volume: CacheVolume) {
    const velocity = volume.channels.get('velocity');
    if (!velocity)
      throw new CoreError(
        'settings',
        'The cache keeps no velocity, so that nothing can be carried through it. Bake it with velocity.',
      );
    const { parts, known, min, dims } = extrapolateVelocity(volume, velocity);
    [this.u, this.v, this.w] = parts;
    this.known = known;
    [this.nx, this.ny, this.nz] = dims;
    const h = volume.voxelSizeM;
    [this.x0, this.y0, this.z0] = min.map((m, a) => volume.translation[a] + (m - 0.5) * h);
    this.per = 1 / h;
  }

  /** Adds weight × the velocity at a place to out. @returns false where none is known */
  add(x: number, y: number, z: number, weight: number, out: Float64Array): boolean {
    const { nx, ny, nz, per } = this;
    const a = (x - this.x0) * per;
    const b = (y - this.y0) * per;
    const c = (z - this.z0) * per;
    // faces on both sides are needed
    if (!(a >= 0.5 && b >= 0.5 && c >= 0.5 && a < nx - 1 && b < ny - 1 && c < nz - 1)) return false;
    const i = Math.floor(a);
    const j = Math.floor(b);
    const k = Math.floor(c);
    if (this.known[(k * ny + j) * nx + i] === 0) return false;
    const i2 = Math.floor(a - 0.5);
    const j2 = Math.floor(b - 0.5);
    const k2 = Math.floor(c - 0.5);
    out[0] += weight * this.mix(this.u, i, j2, k2, a - i, b - 0.5 - j2, c - 0.5 - k2);
    out[1] += weight * this.mix(this.v, i2, j, k2, a - 0.5 - i2, b - j, c - 0.5 - k2);
    out[2] += weight * this.mix(this.w, i2, j2, k, a - 0.5 - i2, b - 0.5 - j2, c - k);
    return true;
  }

  private mix(f: Float32Array, i: number, j: number, k: number, a: number, b: number, c: number): number {
    const row = this.nx;
    const plane = row * this.ny;
    const n = k * plane + j * row + i;
    const p = f[n] + a * (f[n + 1] - f[n]);
    const q = f[n + row] + a * (f[n + row + 1] - f[n + row]);
    const m = n + plane;
    const r = f[m] + a * (f[m + 1] - f[m]);
    const s = f[m + row] + a * (f[m + row + 1] - f[m + row]);
    const low = p + b * (q - p);
    return low + c * (r + b * (s - r) - low);
  }
}

/** What seeding needs beside the frames. */
export interface SeedPlaces {
  /**
   * Shapes of the recipe's sources at a time, in cells of the run that it was compiled for; and the edge of
   * such a cell, m.
   */
  sources(timeS: number): { readonly shapes: readonly CellShape[]; readonly cellM: number };
}

/** Gives places one after the other; each by its particle's own number, whatever came before it. */
function seeder(
  settings: ParticleAdvection,
  volume: CacheVolume,
  timeS: number,
  places: SeedPlaces,
): (id: number) => Triple {
  const own = (shape: CellShape, cellM: number, chance: () => number): Triple => {
    const p = placeIn(shape, false, chance);
    return [0, 1, 2].map(
      (a) =>
        (shape.centre[a] + p[0] * shape.toOwn[0][a] + p[1] * shape.toOwn[1][a] + p[2] * shape.toOwn[2][a]) *
        cellM,
    ) as Triple;
  };

  if (settings.seeds === 'shape') {
    const part = {
      turn: [0, 0, 0],
      motion: 'still',
      velocity: [0, 0, 0],
      spin: 0,
      ...settings,
    } as unknown as StandingPart;
    const shape = cellShape(part, poseOf(part, 0), volume.voxelSizeM, null);
    return (id) => own(shape, volume.voxelSizeM, chanceOf(settings.seed, id));
  }

  if (settings.seeds === 'source') {
    const { shapes, cellM } = places.sources(timeS);
    const able = shapes.filter((s) => s.reach);
    if (able.length === 0)
      throw new CoreError(
        'settings',
        'The recipe of this cache has no source with a shape of its own. Start them in the medium.',
      );
    return (id) => {
      const chance = chanceOf(settings.seed, id);
      return own(able[Math.floor(chance() * able.length)], cellM, chance);
    };
  }

  const density = volume.channels.get('density')![0];
  const sums = new Float64Array(density.length);
  const [nx, ny] = volume.dims;
  let all = 0;
  for (let n = 0; n < density.length; n++) sums[n] = all += density[n];
  if (all === 0)
    throw new CoreError(
      'settings',
      `Frame ${volume.frame} holds no medium to start particles in. Start them in another frame, or in ` +
        'a shape.',
    );
  return (id) => {
    const chance = chanceOf(settings.seed, id);
    const wanted = chance() * all;
    let low = 0;
    let high = sums.length - 1;
    while (low < high) {
      const mid = (low + high) >> 1;
      if (sums[mid] > wanted) high = mid;
      else low = mid + 1;
    }

    return [low % nx, Math.floor(low / nx) % ny, Math.floor(low / (nx * ny))].map(
      (c, a) => volume.translation[a] + (volume.min[a] + c + chance() - 0.5) * volume.voxelSizeM,
    ) as Triple;
  };
}

/**
 * Carries the particles from frame to frame.
 * @returns the particles of each frame, in the order of the way that they go
 * @throws Error in words where there is no velocity, or nothing to start in
 */
export function* advectParticles(
  frames: FrameSource,
  settings: ParticleAdvection,
  places: SeedPlaces,
): Generator<AdvectedFrame> {
  const { count: most, substeps } = settings;
  const back = settings.way === 'backward';
  const start = back ? frames.last : frames.first;
  const end = back ? frames.first : frames.last;
  const one = back ? -1 : 1;
  const total = Math.abs(end - start) + 1;
  const places3 = new Float32Array(3 * most);
  const speeds = new Float32Array(3 * most);
  const ages = new Float32Array(most);
  const ids = new Uint32Array(most);
  const trail = settings.trail ? settings.length : 0;
  if (trail * most > MOST_TRAIL_PLACES)
    throw new CoreError(
      'settings',
      `Trails of ${trail} frames for ${most} particles hold more than ${MOST_TRAIL_PLACES / 1e6} ` +
        'million places. Make them shorter.',
    );
  const ways = new Float32Array(3 * most * trail);
  const gone = new Uint16Array(trail > 0 ? most : 0);
  let count = 0;
  let born = 0;

  const streamFrom = back ? Math.min(start, settings.until) : Math.max(start, settings.from);
  const streamTo = back ? Math.max(end, settings.from) : Math.min(end, settings.until);
  const streamed = Math.abs(streamTo - streamFrom) + 1;
  if (settings.born === 'stream' && (streamTo - streamFrom) * one < 0)
    throw new CoreError(
      'settings',
      `The stream from frame ${settings.from} to ${settings.until} lies outside of the cache’s ` +
        `${frames.first} to ${frames.last}.`,
    );
  /** How many have been born when a frame is done. */
  const dueBy = (frame: number): number => {
    if (settings.born === 'burst') return most;
    const done = (frame - streamFrom) * one + 1;
    if (done <= 0) return 0;
    return done >= streamed ? most : Math.round((most * done) / streamed);
  };

  let now = frames.read(start);
  let air = new Air(now);
  for (let n = 0; n < total; n++) {
    const frame = start + n * one;
    if (n > 0) {
      const next = frames.read(frame);
      const other = new Air(next);
      const dt = one * Math.abs(frames.timeS(frame) - frames.timeS(frame - one));
      count = carry(air, other, dt, substeps, settings.leaving === 'end', {
        places: places3,
        speeds,
        ages,
        ids,
        ways,
        gone,
        trail,
        count,
      });
      now = next;
      air = other;
    }

    if (born < dueBy(frame)) {
      const place = seeder(settings, now, frames.timeS(frame), places);
      const u = new Float64Array(3);
      for (; born < dueBy(frame); born++, count++) {
        const p = place(born);
        places3.set(p, 3 * count);
        u.fill(0);
        air.add(p[0], p[1], p[2], 1, u);
        speeds.set(u, 3 * count);
        ages[count] = 0;
        ids[count] = born;
        if (trail > 0) gone[count] = 0;
      }
    }

    if (trail > 0) lengthen(places3, ways, gone, trail, count);
    yield {
      frame,
      count,
      columns: columnsOf(now, settings, count, { places: places3, speeds, ages, ids }),
      trails: trail > 0 ? trailsOf(ways, gone, trail, count) : null,
    };
  }
}

interface Pool {
  places: Float32Array;
  speeds: Float32Array;
  ages: Float32Array;
  ids: Uint32Array;
  ways: Float32Array;
  gone: Uint16Array;
  trail: number;
  count: number;
}

/**
 * One frame of their way, s long (below 0 back in time). @returns how many are left; the others are closed
 * up, in order
 */
function carry(a: Air, b: Air, dt: number, substeps: number, ends: boolean, p: Pool): number {
  const h = dt / substeps;
  const k1 = new Float64Array(3);
  const k2 = new Float64Array(3);
  const k3 = new Float64Array(3);
  const k4 = new Float64Array(3);
  const at = (x: number, y: number, z: number, t: number, out: Float64Array): boolean => {
    out[0] = out[1] = out[2] = 0;
    if (t <= 0) return a.add(x, y, z, 1, out);
    if (t >= 1) return b.add(x, y, z, 1, out);
    const in1 = a.add(x, y, z, 1 - t, out);
    const in2 = b.add(x, y, z, t, out);
    if (in1 && in2) return true;
    // known in one frame alone: that one's
    const part = in1 ? 1 - t : t;
    if (in1 || in2) for (let c = 0; c < 3; c++) out[c] /= part;
    return in1 || in2;
  };

  let kept = 0;
  for (let n = 0; n < p.count; n++) {
    const o = 3 * n;
    let x = p.places[o];
    let y = p.places[o + 1];
    let z = p.places[o + 2];
    let known = true;
    for (let s = 0; s < substeps; s++) {
      const t = s / substeps;
      const mid = (s + 0.5) / substeps;
      const end = (s + 1) / substeps;
      known =
        at(x, y, z, t, k1) &&
        at(x + 0.5 * h * k1[0], y + 0.5 * h * k1[1], z + 0.5 * h * k1[2], mid, k2) &&
        at(x + 0.5 * h * k2[0], y + 0.5 * h * k2[1], z + 0.5 * h * k2[2], mid, k3) &&
        at(x + h * k3[0], y + h * k3[1], z + h * k3[2], end, k4);
      if (known) {
        for (let c = 0; c < 3; c++) p.speeds[o + c] = (k1[c] + 2 * k2[c] + 2 * k3[c] + k4[c]) / 6;
      } else if (ends) break;
      x += h * p.speeds[o];
      y += h * p.speeds[o + 1];
      z += h * p.speeds[o + 2];
    }

    if (!known && ends) continue;
    const to = 3 * kept;
    p.places[to] = x;
    p.places[to + 1] = y;
    p.places[to + 2] = z;
    for (let c = 0; c < 3; c++) p.speeds[to + c] = p.speeds[o + c];
    p.ages[kept] = p.ages[n] + Math.abs(dt);
    p.ids[kept] = p.ids[n];
    if (p.trail > 0) {
      p.gone[kept] = p.gone[n];
      if (kept !== n) p.ways.copyWithin(3 * p.trail * kept, 3 * p.trail * n, 3 * p.trail * (n + 1));
    }

    kept++;
  }

  return kept;
}

/** The newest place goes to the end of each way; of a full one the oldest goes. */
function lengthen(
  places: Float32Array,
  ways: Float32Array,
  gone: Uint16Array,
  trail: number,
  count: number,
): void {
  for (let n = 0; n < count; n++) {
    const base = 3 * trail * n;
    if (gone[n] === trail) ways.copyWithin(base, base + 3, base + 3 * trail);
    else gone[n]++;
    for (let c = 0; c < 3; c++) ways[base + 3 * (gone[n] - 1) + c] = places[3 * n + c];
  }
}

function trailsOf(
  ways: Float32Array,
  gone: Uint16Array,
  trail: number,
  count: number,
): AdvectedFrame['trails'] {
  const lengths = gone.slice(0, count);
  const places = new Float32Array(3 * lengths.reduce((a, b) => a + b, 0));
  for (let n = 0, at = 0; n < count; at += 3 * lengths[n], n++)
    places.set(ways.subarray(3 * trail * n, 3 * (trail * n + lengths[n])), at);
  return { places, lengths };
}

function columnsOf(
  volume: CacheVolume,
  settings: ParticleAdvection,
  count: number,
  { places, speeds, ages, ids }: Pick<Pool, 'places' | 'speeds' | 'ages' | 'ids'>,
): AdvectedFrame['columns'] {
  const every = (values: Float32Array, c: number): Float32Array =>
    Float32Array.from({ length: count }, (_, n) => values[3 * n + c]);
  const out = new Map<string, Float32Array | Uint32Array>();
  ['x', 'y', 'z'].forEach((name, c) => out.set(name, every(places, c)));
  ['vx', 'vy', 'vz'].forEach((name, c) => out.set(name, every(speeds, c)));
  out.set('age', ages.slice(0, count));
  out.set('id', ids.slice(0, count));
  const thick = trilinearSampler(volume, volume.channels.get('density')![0]);
  const sample = (read: (x: number, y: number, z: number) => number): Float32Array =>
    Float32Array.from({ length: count }, (_, n) => read(places[3 * n], places[3 * n + 1], places[3 * n + 2]));
  if (settings.density) out.set('density', sample(thick));
  const carriedBy = (name: ChannelName, names: readonly string[]): void => {
    if (!volume.channels.has(name))
      throw new CoreError('settings', `The cache does not keep ${name}, so particles cannot carry it.`);
    carried(volume, name).forEach((values, c) => {
      const read = trilinearSampler(volume, values);
      out.set(
        names[c],
        sample((x, y, z) => read(x, y, z) / (thick(x, y, z) || 1)),
      );
    });
  };

  if (settings.temperature) carriedBy('temperature', ['temperature']);
  if (settings.colour) carriedBy('colour', ['red', 'green', 'blue']);
  return out;
}

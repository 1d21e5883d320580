// How particles come into the world: where, how fast, how large, for how long. All chance comes from the
// part's seed and the particle's number, so a run that goes on, or one at another voxel size, has the same
// ones.
import { ownDistance, type CellShape } from '../geometry/shape';
import type { Pose } from '../geometry/pose';
import type { ParticlesPart } from '../recipe/types';
import type { Triple } from '../math/vector';

/** Chance for one particle: numbers of [0, 1), one after the other. */
export function chanceOf(seed: number, id: number): () => number {
  let n = 0;
  return () => {
    let h = Math.imul(seed, 0x9e3779b1) ^ Math.imul(id, 0x85ebca6b) ^ Math.imul(++n, 0xc2b2ae35);
    h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
    h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
    return ((h ^ (h >>> 15)) >>> 8) / 16777216;
  };
}

/** One as it comes. */
export interface Newborn {
  readonly place: Triple;
  readonly velocity: Triple;
  readonly life: number;
  readonly radius: number;
}

const MOST_TRIES = 200;

/** A place in a shape, in its own axes, cells: evenly inside, or on the surface. */
export function placeIn(shape: CellShape, surface: boolean, chance: () => number): Triple {
  if (!shape.reach) return [0, 0, 0];
  const [least, most] = shape.reach;
  let p: Triple = [0, 0, 0];
  for (let n = 0; n < MOST_TRIES; n++) {
    p = least.map((v, a) => v + (most[a] - v) * chance()) as Triple;
    if (ownDistance(shape, ...p) <= shape.grow) break;
    // nothing is inside: an open sheet
    if (n === MOST_TRIES - 1) p = least.map((v, a) => (v + most[a]) / 2) as Triple;
  }

  if (!surface) return p;
  // down the distance to where it is nothing
  for (let n = 0; n < 4; n++) {
    const d = ownDistance(shape, ...p) - shape.grow;
    const g = normalAt(shape, p);
    p = p.map((v, a) => v - d * g[a]) as Triple;
  }

  return p;
}

/** Outward, in own axes. */
function normalAt(shape: CellShape, p: Triple): Triple {
  const slope = [0, 1, 2].map((a) => {
    const step = (by: number): Triple => p.map((v, b) => (a === b ? v + by : v)) as Triple;
    return ownDistance(shape, ...step(0.25)) - ownDistance(shape, ...step(-0.25));
  }) as Triple;
  return unit(slope);
}

function unit(v: Triple): Triple {
  const long = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  return long > 1e-9 ? (v.map((x) => x / long) as Triple) : [0, 1, 0];
}

const cross = (a: Triple, b: Triple): Triple => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** A direction evenly within a cone; cosine: of its half angle. */
function within(axis: Triple, cosine: number, chance: () => number): Triple {
  if (cosine >= 1) return axis;
  let a = 0;
  let b = 0;
  let r2 = 2;
  while (r2 >= 1 || r2 === 0) {
    a = 2 * chance() - 1;
    b = 2 * chance() - 1;
    r2 = a * a + b * b;
  }

  // r² is even in [0, 1), and (a, b) / r a direction: no sine is needed
  const c = 1 - r2 * (1 - cosine);
  const s = Math.sqrt(Math.max(0, 1 - c * c) / r2);
  const e = unit(cross(Math.abs(axis[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0], axis));
  const f = cross(axis, e);
  return axis.map((v, n) => c * v + s * (a * e[n] + b * f[n])) as Triple;
}

const varied = (value: number, percent: number, chance: () => number): number =>
  value * (1 + (percent / 100) * (2 * chance() - 1));

/** @param cosine of the half angle of the part's cone */
function thrown(
  part: ParticlesPart,
  axis: Triple,
  carried: Triple,
  cosine: number,
  chance: () => number,
): Omit<Newborn, 'place'> {
  const way = within(axis, cosine, chance);
  const speed = varied(part.speed, part.vary, chance);
  return {
    velocity: way.map((v, a) => v * speed + (part.inherit / 100) * carried[a]) as Triple,
    life: part.life === 0 ? 0 : Math.max(1e-6, varied(part.life, part.lifeVary, chance)),
    radius: varied(part.ball, part.ballVary, chance),
  };
}

/** @param h voxel size, m */
export function bornIn(
  part: ParticlesPart,
  shape: CellShape,
  pose: Pose,
  h: number,
  id: number,
  cosine: number,
): Newborn {
  const chance = chanceOf(part.seed, id);
  const own = placeIn(shape, part.fill === 'surface', chance);
  const toWorld = (v: Triple): Triple =>
    [0, 1, 2].map(
      (a) => v[0] * pose.toOwn[0][a] + v[1] * pose.toOwn[1][a] + v[2] * pose.toOwn[2][a],
    ) as Triple;
  const arm = toWorld(own).map((v) => v * h) as Triple;
  const turning = cross(pose.turning, arm);
  const axis = {
    along: () => unit(part.direction),
    outward: () => unit(arm),
    normal: () => toWorld(normalAt(shape, own)),
  }[part.aim]();
  return {
    place: arm.map((v, a) => v + pose.centre[a]) as Triple,
    ...thrown(part, axis, pose.velocity.map((v, a) => v + turning[a]) as Triple, cosine, chance),
  };
}

/** @param place where its parent is at the moment; @param velocity the parent's */
export function bornOff(
  part: ParticlesPart,
  place: Triple,
  velocity: Triple,
  id: number,
  cosine: number,
): Newborn {
  const chance = chanceOf(part.seed, id);
  return {
    place,
    ...thrown(part, part.aim === 'along' ? unit(part.direction) : unit(velocity), velocity, cosine, chance),
  };
}

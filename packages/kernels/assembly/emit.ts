// What sources cover of the voxels, and what they write there. Covering comes first, into two fields: the
// mean over the moments of a substep (what is added in it) and the most of any moment (what is raised, set or
// drawn to).
import { byAxis, row } from './common';
import { valueNoise } from './patterns';
import { BoxedShape, ShapeKind, distance, flowAt, ownDistance, ownX, ownY, ownZ, sampleGrid } from './shape';

/** A source at one moment. */
@unmanaged
class SourceShape extends BoxedShape {
  mean: usize;
  most: usize;
  /** This moment's part of the substep. */
  weight: f32;
  /** Half the thickness of the layer along the surface, cells; 0: filled. */
  layer: f32;
  /**
   * A mask on the surface: values at the grid's nodes (0: none), where it starts to count, and over what it
   * fades in.
   */
  mask: usize;
  least: f32;
  soft: f32;
}

/**
 * Part of the unit length around x that lies within −half … half, exact for slabs thinner than a voxel too.
 */
// @ts-ignore: decorator
@inline
function overlap(x: f32, half: f32): f32 {
  return max<f32>(0, min<f32>(x + <f32>0.5, half) - max<f32>(x - <f32>0.5, -half));
}
/** Part of a voxel inside a surface that is sd voxels away (negative inside). */
// @ts-ignore: decorator
@inline
export function inside(sd: f32): f32 {
  return min<f32>(1, max<f32>(0, <f32>0.5 - sd));
}

/** Part of a little cube around a place in own axes; per: how many such cubes fit along a cell. */
function partAt(S: SourceShape, x: f32, y: f32, z: f32, per: f32): f32 {
  if (S.layer > 0) return overlap(ownDistance(S, x, y, z) * per, S.layer * per);
  if (S.kind == ShapeKind.BOX)
    return overlap(x * per, S.hx * per) * overlap(y * per, S.hy * per) * overlap(z * per, S.hz * per);
  if (S.kind == ShapeKind.CYLINDER)
    return overlap(y * per, S.hy * per) * inside((sqrt<f32>(x * x + z * z) - S.hx) * per);
  return inside(ownDistance(S, x, y, z) * per);
}

/**
 * Part of the voxel around a place of the window: by distance where that is plain, by 4³ points at the
 * surface.
 */
function covered(S: SourceShape, x: f32, y: f32, z: f32): f32 {
  const px = x - S.cx;
  const py = y - S.cy;
  const pz = z - S.cz;
  const u = ownX(S, px, py, pz);
  const v = ownY(S, px, py, pz);
  const w = ownZ(S, px, py, pz);
  let part: f32;
  if (S.kind == ShapeKind.BOX && S.a00 == 1 && S.a11 == 1 && S.layer == 0) part = partAt(S, u, v, w, 1);
  else {
    const sd = ownDistance(S, u, v, w);
    const far = abs<f32>(sd) - S.layer;
    if ((S.layer > 0 ? far : sd) >= 0.87) return 0;
    if (S.layer == 0 && sd <= -0.87) part = 1;
    else {
      part = 0;
      for (let c = 0; c < 4; c++)
        for (let b = 0; b < 4; b++)
          for (let a = 0; a < 4; a++) {
            const dx = <f32>0.25 * <f32>a - <f32>0.375;
            const dy = <f32>0.25 * <f32>b - <f32>0.375;
            const dz = <f32>0.25 * <f32>c - <f32>0.375;
            part += partAt(S, u + ownX(S, dx, dy, dz), v + ownY(S, dx, dy, dz), w + ownZ(S, dx, dy, dz), 4);
          }

      part /= 64;
    }
  }

  if (part > 0 && S.mask) {
    const m = sampleGrid(S, S.mask, u, v, w);
    part *= S.soft > 0 ? min<f32>(1, max<f32>(0, (m - S.least) / S.soft)) : f32(m >= S.least);
  }

  return part;
}

/** Adds a source at one moment to the two fields of its cover. */
export function rasterizeShape(source: usize, rowStride: i32, planeStride: i32, k0: i32, k1: i32): void {
  const S = changetype<SourceShape>(source);
  for (let k = max(k0, S.k0); k < min(k1, S.k1); k++)
    for (let j = S.j0; j < S.j1; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let i = S.i0; i < S.i1; i++) {
        const part = covered(S, <f32>i + <f32>0.5, <f32>j + <f32>0.5, <f32>k + <f32>0.5);
        if (part <= 0) continue;
        const o = at + ((<usize>i) << 2);
        store<f32>(S.mean + o, load<f32>(S.mean + o) + S.weight * part);
        store<f32>(S.most + o, max<f32>(load<f32>(S.most + o), part));
      }
    }
}

/**
 * How a value is written. Add: so much each second. Raise: at least (below 0: at most). Replace: to it.
 * Blend: toward it.
 */
export const enum CombineMode {
  NONE = 0,
  ADD = 1,
  RAISE = 2,
  REPLACE = 3,
  BLEND = 4,
}

// @ts-ignore: decorator
@inline
function written(now: f32, how: i32, amount: f32, mean: f32, most: f32, dt: f32, draw: f32): f32 {
  if (how == CombineMode.ADD) return now + mean * amount * dt;
  if (how == CombineMode.RAISE)
    return amount >= 0 ? max<f32>(now, most * amount) : min<f32>(now, most * amount);
  return now + (how == CombineMode.REPLACE ? most : mean * draw) * (amount - now);
}

/**
 * A channel of the air: temperature. draw: part of the way to the amount that blending goes in this substep.
 */
export function emitScalar(
  field: usize,
  mean: usize,
  most: usize,
  how: i32,
  amount: f32,
  dt: f32,
  draw: f32,
  i0: i32,
  i1: i32,
  j0: i32,
  j1: i32,
  from: i32,
  to: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  for (let k = max(k0, from); k < min(k1, to); k++)
    for (let j = j0; j < j1; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let o = at + ((<usize>i0) << 2), e = at + ((<usize>i1) << 2); o < e; o += 4) {
        const m = load<f32>(mean + o);
        if (m > 0)
          store<f32>(
            field + o,
            written(load<f32>(field + o), how, amount, m, min<f32>(1, load<f32>(most + o)), dt, draw),
          );
      }
    }
}

/**
 * What a source does to the medium and what the medium carries by mass. An address of 0: there is no such
 * channel.
 */
@unmanaged
class MediumEmission {
  mean: usize;
  most: usize;
  density: usize;
  red: usize;
  green: usize;
  blue: usize;
  age: usize;
  outflow: usize;
  /** Colours at the cells (a picture's), three fields; 0: the one below. */
  cr: usize;
  cg: usize;
  cb: usize;
  densityHow: i32;
  colourHow: i32;
  ageHow: i32;
  densityAmount: f32;
  r: f32;
  g: f32;
  b: f32;
  ageAmount: f32;
  /** m/s over a voxel that it pushes out. */
  push: f32;
  dt: f32;
  draw: f32;
  i0: i32;
  i1: i32;
  j0: i32;
  j1: i32;
  k0: i32;
  k1: i32;
}

/**
 * Density, and with it colour and age, which are carried as amounts (times density): what is new has the
 * source's colour and no age; what is taken away takes its share of both along. colourHow ADD: only what is
 * new is coloured.
 */
export function emitMedium(gift: usize, rowStride: i32, planeStride: i32, k0: i32, k1: i32): void {
  const G = changetype<MediumEmission>(gift);
  for (let k = max(k0, G.k0); k < min(k1, G.k1); k++)
    for (let j = G.j0; j < G.j1; j++) {
      const at = row(0, j, k, rowStride, planeStride);
      for (let i = G.i0; i < G.i1; i++) {
        const o = at + ((<usize>i) << 2);
        const mean = load<f32>(G.mean + o);
        if (mean <= 0) continue;
        const most = min<f32>(1, load<f32>(G.most + o));
        const before = load<f32>(G.density + o);
        let after = before;
        if (G.densityHow) {
          after = max<f32>(0, written(before, G.densityHow, G.densityAmount, mean, most, G.dt, G.draw));
          store<f32>(G.density + o, after);
        }

        const kept: f32 = after >= before || before <= 0 ? 1 : after / before;
        const fresh = max<f32>(0, after - before);
        if (G.red) {
          let r = G.r;
          let g = G.g;
          let b = G.b;
          if (G.cr) {
            r = load<f32>(G.cr + o);
            g = load<f32>(G.cg + o);
            b = load<f32>(G.cb + o);
          }

          let paint: f32 = 0;
          if (G.colourHow == CombineMode.REPLACE) paint = most;
          else if (G.colourHow == CombineMode.BLEND) paint = mean * G.draw;
          const own: f32 = G.colourHow == CombineMode.NONE ? 0 : 1;
          dye(G.red + o, kept, fresh, r * own + 1 - own, after, paint, r);
          dye(G.green + o, kept, fresh, g * own + 1 - own, after, paint, g);
          dye(G.blue + o, kept, fresh, b * own + 1 - own, after, paint, b);
        }

        if (G.age) {
          let a = load<f32>(G.age + o) * kept;
          if (G.ageHow) {
            const target = after * G.ageAmount;
            if (G.ageHow == CombineMode.ADD) a += mean * G.dt * target;
            else if (G.ageHow == CombineMode.RAISE) a = max<f32>(a, most * target);
            else a += (G.ageHow == CombineMode.REPLACE ? most : mean * G.draw) * (target - a);
          }

          store<f32>(G.age + o, a);
        }

        if (G.outflow) store<f32>(G.outflow + o, load<f32>(G.outflow + o) + mean * G.push);
      }
    }
}
// @ts-ignore: decorator
@inline
function dye(at: usize, kept: f32, fresh: f32, fresher: f32, after: f32, paint: f32, own: f32): void {
  const amount = load<f32>(at) * kept + fresh * fresher;
  store<f32>(at, amount + paint * (after * own - amount));
}

/** Where a source's velocity comes from. */
const enum VelocityMode {
  ALONG = 0,
  NORMAL = 1,
  MOTION = 2,
  POINT = 3,
}

/** The velocity that a source writes. Lengths in cells, speeds in m/s. */
@unmanaged
class VelocityEmission extends BoxedShape {
  mean: usize;
  most: usize;
  u: usize;
  v: usize;
  w: usize;
  /**
   * Cover times speed, m/s, where the parts of the source go each their own way (its own motion is then
   * theirs); or 0.
   */
  su: usize;
  sv: usize;
  sw: usize;
  /**
   * 0: along dx, dy, dz; 1: along the surface's normal; 2: the shape's own motion; 3: away from px, py, pz.
   */
  mode: i32;
  /** Whether the source is a cloud, which has no surface but its cover. */
  cloud: i32;
  how: i32;
  speed: f32;
  dx: f32;
  dy: f32;
  dz: f32;
  px: f32;
  py: f32;
  pz: f32;
  vx: f32;
  vy: f32;
  vz: f32;
  wx: f32;
  wy: f32;
  wz: f32;
  /**
   * Chance: how far aside (tangent of the cone's half angle), part of the speed, lumps a cell, moment, seed.
   */
  aside: f32;
  vary: f32;
  lumps: f32;
  moment: f32;
  seed: i32;
  originX: f32;
  originY: f32;
  originZ: f32;
  dt: f32;
  draw: f32;
}

// @ts-ignore: decorator
@inline
function slope(T: VelocityEmission, o: usize, q: usize, s: usize): f32 {
  return (
    load<f32>(T.mean + o - s) +
    load<f32>(T.mean + q - s) -
    load<f32>(T.mean + o + s) -
    load<f32>(T.mean + q + s)
  );
}

/**
 * o, q: the cells before and behind the face, from the fields' addresses; line, sheet: bytes to the next row
 * and plane.
 */
function pushAt(
  T: VelocityEmission,
  axis: i32,
  x: f32,
  y: f32,
  z: f32,
  o: usize,
  q: usize,
  mean: f32,
  line: usize,
  sheet: usize,
): f32 {
  let dx: f32;
  let dy: f32;
  let dz: f32;
  const px = x - T.cx;
  const py = y - T.cy;
  const pz = z - T.cz;
  if (T.mode == VelocityMode.MOTION && T.su) {
    const one = <f32>0.5 / mean;
    dx = one * (load<f32>(T.su + o) + load<f32>(T.su + q));
    dy = one * (load<f32>(T.sv + o) + load<f32>(T.sv + q));
    dz = one * (load<f32>(T.sw + o) + load<f32>(T.sw + q));
  } else if (T.mode == VelocityMode.NORMAL && T.cloud) {
    // out of a cloud: to where less of it is
    dx = slope(T, o, q, 4);
    dy = slope(T, o, q, line);
    dz = slope(T, o, q, sheet);
  } else if (T.mode == VelocityMode.MOTION) {
    dx = T.vx + T.wy * pz - T.wz * py;
    dy = T.vy + T.wz * px - T.wx * pz;
    dz = T.vz + T.wx * py - T.wy * px;
    if (T.flow) {
      dx += flowAt(T, 0, px, py, pz);
      dy += flowAt(T, 1, px, py, pz);
      dz += flowAt(T, 2, px, py, pz);
    }
  } else if (T.mode == VelocityMode.NORMAL) {
    dx = distance(T, x + <f32>0.5, y, z) - distance(T, x - <f32>0.5, y, z);
    dy = distance(T, x, y + <f32>0.5, z) - distance(T, x, y - <f32>0.5, z);
    dz = distance(T, x, y, z + <f32>0.5) - distance(T, x, y, z - <f32>0.5);
  } else if (T.mode == VelocityMode.POINT) {
    dx = x - T.px;
    dy = y - T.py;
    dz = z - T.pz;
  } else {
    dx = T.dx;
    dy = T.dy;
    dz = T.dz;
  }

  if (T.mode != VelocityMode.MOTION) {
    const long = sqrt<f32>(dx * dx + dy * dy + dz * dz);
    const one = long > 1e-6 ? <f32>1 / long : 0;
    dx *= one;
    dy *= one;
    dz *= one;
  }

  let speed = T.speed;
  if (T.aside > 0 || T.vary > 0) {
    const u = (x + T.originX) * T.lumps;
    const v = (y + T.originY) * T.lumps;
    const w = (z + T.originZ) * T.lumps;
    const size = T.mode == VelocityMode.MOTION ? sqrt<f32>(dx * dx + dy * dy + dz * dz) : <f32>1;
    if (T.aside > 0) {
      // a random vector; its part across the direction turns it aside
      const a = valueNoise(u, v, w, T.moment, T.seed);
      const b = valueNoise(u, v, w, T.moment, T.seed + 1);
      const c = valueNoise(u, v, w, T.moment, T.seed + 2);
      dx += T.aside * size * (2 * a - 1) * <f32>1.7;
      dy += T.aside * size * (2 * b - 1) * <f32>1.7;
      dz += T.aside * size * (2 * c - 1) * <f32>1.7;
      const long = sqrt<f32>(dx * dx + dy * dy + dz * dz);
      const one = long > 1e-6 ? size / long : 0;
      dx *= one;
      dy *= one;
      dz *= one;
    }

    speed *= 1 + T.vary * (2 * valueNoise(u, v, w, T.moment, T.seed + 3) - 1);
  }

  return speed * byAxis(axis, dx, dy, dz);
}

/** Velocity on the faces between covered cells. */
export function emitVelocity(push: usize, rowStride: i32, planeStride: i32, k0: i32, k1: i32): void {
  const T = changetype<VelocityEmission>(push);
  for (let axis = 0; axis < 3; axis++) {
    const field = byAxis(axis, T.u, T.v, T.w);
    const di = i32(axis == 0);
    const dj = i32(axis == 1);
    const dk = i32(axis == 2);
    for (let k = max(k0, T.k0 + dk); k < min(k1, T.k1); k++)
      for (let j = T.j0 + dj; j < T.j1; j++)
        for (let i = T.i0 + di; i < T.i1; i++) {
          const o = row(0, j, k, rowStride, planeStride) + ((<usize>i) << 2);
          const q = row(0, j - dj, k - dk, rowStride, planeStride) + ((<usize>(i - di)) << 2);
          const mean = <f32>0.5 * (load<f32>(T.mean + o) + load<f32>(T.mean + q));
          if (mean <= 0) continue;
          const most = min<f32>(1, <f32>0.5 * (load<f32>(T.most + o) + load<f32>(T.most + q)));
          const amount = pushAt(
            T,
            axis,
            <f32>i + (axis == 0 ? <f32>0 : <f32>0.5),
            <f32>j + (axis == 1 ? <f32>0 : <f32>0.5),
            <f32>k + (axis == 2 ? <f32>0 : <f32>0.5),
            o,
            q,
            mean,
            (<usize>rowStride) << 2,
            (<usize>planeStride) << 2,
          );
          const now = load<f32>(field + o);
          let to = written(now, T.how, amount, min<f32>(1, mean), most, T.dt, T.draw);
          // raising: a component that already goes further the same way is let be, and none is turned round
          if (T.how == CombineMode.RAISE && now * amount > 0 && abs<f32>(now) > abs<f32>(most * amount))
            to = now;
          store<f32>(field + o, to);
        }
  }
}

// Particles: they fly through the air under their own forces, meet obstacles, and give off the medium along
// their way.
//
// A pool is so many arrays of `room` floats, one behind the other (core/particles/pool.ts names them). Places
// in metres of the world, speeds in m/s. The age of one that is born within this substep is below 0: minus
// the time until its birth.
import { inside } from './emit';
import { row } from './common';
import { curlAt, curlX, curlY, curlZ } from './noise';
import { distance } from './shape';
import { Solid, speedAt } from './solids';

const enum ParticleArray {
  X = 0,
  Y,
  Z,
  WAS_X,
  WAS_Y,
  WAS_Z,
  VX,
  VY,
  VZ,
  AGE,
  LIFE,
  RADIUS,
  ID,
  ALL,
}

/** What a particle does at an obstacle or a wall. */
const enum Meeting {
  PASSES = 0,
  ENDS = 1,
  BOUNCES = 2,
}

/** One pool's flight through a substep. */
@unmanaged
class ParticleFlight {
  /** The arrays, bytes from one to the next. */
  pool: usize;
  stride: usize;
  /** The air. */
  u: usize;
  v: usize;
  w: usize;
  rowStride: i32;
  planeStride: i32;
  nx: i32;
  ny: i32;
  nz: i32;
  perM: f32;
  originX: f32;
  originY: f32;
  originZ: f32;
  dt: f32;
  /**
   * Time in which the air's speed is taken up, s; 0: never. And what a whole substep leaves of the
   * difference.
   */
  drag: f32;
  left: f32;
  /** m/s², upward. */
  lift: f32;
  /** Turbulence: m/s² over the noise's own length, noise coordinates a metre. */
  churn: f32;
  table: usize;
  seed: i32;
  lumps: f32;
  /**
   * Obstacles, see solids.ts; what happens at them (0: passes, 1: ends, 2: bounces), and what is left of the
   * speed into them.
   */
  solids: usize;
  solidCount: i32;
  solidBytes: i32;
  meets: i32;
  bounce: f32;
  /** Sides of the room that are walls, a bit each, and where they are, m. */
  walls: i32;
  loX: f32;
  loY: f32;
  loZ: f32;
  hiX: f32;
  hiY: f32;
  hiZ: f32;
}

/**
 * What a wall does along its axis: the place after it; beyond it the speed turns round with what the bounce
 * leaves.
 */
function atWalls(F: ParticleFlight, axis: i32, place: f32, lo: f32, hi: f32): f32 {
  if ((F.walls >> (2 * axis)) & 1 && place < lo) return lo + F.bounce * (lo - place);
  if ((F.walls >> (2 * axis + 1)) & 1 && place > hi) return hi - F.bounce * (place - hi);
  return place;
}

/** Trilinear look-up of a velocity component at a place in cells; beyond the window the edge's. */
function air(F: ParticleFlight, f: usize, axis: i32, x: f32, y: f32, z: f32): f32 {
  const u = min<f32>(max<f32>(axis == 0 ? x : x - <f32>0.5, 0), <f32>(axis == 0 ? F.nx : F.nx - 1));
  const v = min<f32>(max<f32>(axis == 1 ? y : y - <f32>0.5, 0), <f32>(axis == 1 ? F.ny : F.ny - 1));
  const w = min<f32>(max<f32>(axis == 2 ? z : z - <f32>0.5, 0), <f32>(axis == 2 ? F.nz : F.nz - 1));
  const i = min(<i32>u, F.nx - i32(axis != 0) - 1);
  const j = min(<i32>v, F.ny - i32(axis != 1) - 1);
  const k = min(<i32>w, F.nz - i32(axis != 2) - 1);
  const a = u - <f32>i;
  const b = v - <f32>j;
  const c = w - <f32>k;
  const p = row(f, j, k, F.rowStride, F.planeStride) + ((<usize>i) << 2);
  const line = (<usize>F.rowStride) << 2;
  const sheet = (<usize>F.planeStride) << 2;
  const x00 = load<f32>(p) + a * (load<f32>(p, 4) - load<f32>(p));
  const q = p + line;
  const x10 = load<f32>(q) + a * (load<f32>(q, 4) - load<f32>(q));
  const r = p + sheet;
  const x01 = load<f32>(r) + a * (load<f32>(r, 4) - load<f32>(r));
  const s = r + line;
  const x11 = load<f32>(s) + a * (load<f32>(s, 4) - load<f32>(s));
  const y0 = x00 + b * (x10 - x00);
  const y1 = x01 + b * (x11 - x01);
  return y0 + c * (y1 - y0);
}

/**
 * Moves particles from..to over a substep: the motion is exact for air and forces that stay the same over it,
 * so a throw is a parabola and a fall with drag ends at gravity times the drag's time at any length of step.
 */
export function advanceParticles(flight: usize, n0: i32, n1: i32): void {
  const F = changetype<ParticleFlight>(flight);
  const s = F.stride;
  for (let n = n0; n < n1; n++) {
    const p = F.pool + ((<usize>n) << 2);
    const age = load<f32>(p + s * ParticleArray.AGE);
    const dt: f32 = age < 0 ? F.dt + age : F.dt;
    const x = load<f32>(p);
    const y = load<f32>(p + s);
    const z = load<f32>(p + s * 2);
    const wx = load<f32>(p + s * ParticleArray.VX);
    const wy = load<f32>(p + s * ParticleArray.VY);
    const wz = load<f32>(p + s * ParticleArray.VZ);
    let vx = wx;
    let vy = wy;
    let vz = wz;
    let ax: f32 = 0;
    let ay = F.lift;
    let az: f32 = 0;
    if (F.churn != 0) {
      curlAt(F.table, F.seed, <f64>(x * F.lumps), <f64>(y * F.lumps), <f64>(z * F.lumps));
      ax += F.churn * curlX;
      ay += F.churn * curlY;
      az += F.churn * curlZ;
    }

    let nx: f32;
    let ny: f32;
    let nz: f32;
    if (F.drag > 0) {
      const cx = x * F.perM - F.originX;
      const cy = y * F.perM - F.originY;
      const cz = z * F.perM - F.originZ;
      const left: f32 = age < 0 ? Mathf.exp(-dt / F.drag) : F.left;
      const way: f32 = F.drag * (<f32>1 - left);
      const ux = air(F, F.u, 0, cx, cy, cz) + ax * F.drag;
      const uy = air(F, F.v, 1, cx, cy, cz) + ay * F.drag;
      const uz = air(F, F.w, 2, cx, cy, cz) + az * F.drag;
      nx = x + ux * dt + (vx - ux) * way;
      ny = y + uy * dt + (vy - uy) * way;
      nz = z + uz * dt + (vz - uz) * way;
      vx = ux + (vx - ux) * left;
      vy = uy + (vy - uy) * left;
      vz = uz + (vz - uz) * left;
    } else {
      nx = x + vx * dt + <f32>0.5 * ax * dt * dt;
      ny = y + vy * dt + <f32>0.5 * ay * dt * dt;
      nz = z + vz * dt + <f32>0.5 * az * dt * dt;
      vx += ax * dt;
      vy += ay * dt;
      vz += az * dt;
    }

    if (F.meets != Meeting.PASSES)
      for (let m = 0; m < F.solidCount; m++) {
        const S = changetype<Solid>(F.solids + <usize>(m * F.solidBytes));
        const cx = nx * F.perM - F.originX;
        const cy = ny * F.perM - F.originY;
        const cz = nz * F.perM - F.originZ;
        const d = distance(S, cx, cy, cz);
        if (d >= 0) continue;
        if (F.meets == Meeting.ENDS) {
          store<f32>(p + s * ParticleArray.LIFE, 1e-30);
          break;
        }

        let gx = distance(S, cx + <f32>0.5, cy, cz) - distance(S, cx - <f32>0.5, cy, cz);
        let gy = distance(S, cx, cy + <f32>0.5, cz) - distance(S, cx, cy - <f32>0.5, cz);
        let gz = distance(S, cx, cy, cz + <f32>0.5) - distance(S, cx, cy, cz - <f32>0.5);
        const long = sqrt<f32>(gx * gx + gy * gy + gz * gz);
        if (long < 1e-6) continue;
        gx /= long;
        gy /= long;
        gz /= long;
        // where and how fast it met the surface, if the way is straight; from there it goes on for the rest
        // of the time
        const before = distance(S, x * F.perM - F.originX, y * F.perM - F.originY, z * F.perM - F.originZ);
        const f: f32 = before > 0 ? before / (before - d) : 0;
        const rest = dt * (<f32>1 - f);
        const bx = wx + f * (vx - wx);
        const by = wy + f * (vy - wy);
        const bz = wz + f * (vz - wz);
        const into =
          (bx - speedAt(S, 0, cx, cy, cz)) * gx +
          (by - speedAt(S, 1, cx, cy, cz)) * gy +
          (bz - speedAt(S, 2, cx, cy, cz)) * gz;
        const back = into < 0 ? (<f32>1 + F.bounce) * into : 0;
        const hx = vx - bx;
        const hy = vy - by;
        const hz = vz - bz;
        nx = x + f * (nx - x) + (bx - back * gx + <f32>0.5 * hx) * rest;
        ny = y + f * (ny - y) + (by - back * gy + <f32>0.5 * hy) * rest;
        nz = z + f * (nz - z) + (bz - back * gz + <f32>0.5 * hz) * rest;
        vx -= back * gx;
        vy -= back * gy;
        vz -= back * gz;
        const still = distance(S, nx * F.perM - F.originX, ny * F.perM - F.originY, nz * F.perM - F.originZ);
        if (still < 0) {
          nx -= (gx * still) / F.perM;
          ny -= (gy * still) / F.perM;
          nz -= (gz * still) / F.perM;
        }
      }

    if (F.meets != Meeting.PASSES) {
      const tx = atWalls(F, 0, nx, F.loX, F.hiX);
      const ty = atWalls(F, 1, ny, F.loY, F.hiY);
      const tz = atWalls(F, 2, nz, F.loZ, F.hiZ);
      if (F.meets == Meeting.ENDS && (tx != nx || ty != ny || tz != nz))
        store<f32>(p + s * ParticleArray.LIFE, 1e-30);
      if (tx != nx) vx *= -F.bounce;
      if (ty != ny) vy *= -F.bounce;
      if (tz != nz) vz *= -F.bounce;
      nx = tx;
      ny = ty;
      nz = tz;
    }

    store<f32>(p + s * ParticleArray.WAS_X, x);
    store<f32>(p + s * ParticleArray.WAS_Y, y);
    store<f32>(p + s * ParticleArray.WAS_Z, z);
    store<f32>(p, nx);
    store<f32>(p + s, ny);
    store<f32>(p + s * 2, nz);
    store<f32>(p + s * ParticleArray.VX, vx);
    store<f32>(p + s * ParticleArray.VY, vy);
    store<f32>(p + s * ParticleArray.VZ, vz);
    store<f32>(p + s * ParticleArray.AGE, age < 0 ? dt : age + dt);
  }
}

/**
 * Closes the gaps of those that have lived their life (0: they live on), in their order; returns how many are
 * left.
 */
export function compactParticles(pool: usize, stride: usize, count: i32): i32 {
  let kept = 0;
  for (let n = 0; n < count; n++) {
    const p = pool + ((<usize>n) << 2);
    const life = load<f32>(p + stride * ParticleArray.LIFE);
    if (life > 0 && load<f32>(p + stride * ParticleArray.AGE) >= life) continue;
    if (kept != n) {
      const q = pool + ((<usize>kept) << 2);
      for (let a: usize = 0; a < <usize>ParticleArray.ALL; a++)
        store<f32>(q + stride * a, load<f32>(p + stride * a));
    }

    kept++;
  }

  return kept;
}

/** A pool as a source. */
@unmanaged
class ParticleSource {
  pool: usize;
  stride: usize;
  count: i32;
  perM: f32;
  originX: f32;
  originY: f32;
  originZ: f32;
  /** What all radii are multiplied by; what of radius and of amount is left at the end of a life. */
  swell: f32;
  endSize: f32;
  endAmount: f32;
  mean: usize;
  most: usize;
  /** Cover times speed; 0 where no speed is wanted. */
  su: usize;
  sv: usize;
  sw: usize;
  nx: i32;
  ny: i32;
  nz: i32;
  rowStride: i32;
  planeStride: i32;
}

/** Radius in cells below which a particle is a point of its volume, shared by the eight voxels around it. */
const POINT: f32 = 0.75;
const MOST_STOPS = 48;
/**
 * Radius up to which what a ball covers is scaled to its true volume: larger ones are right by themselves.
 */
const SMALL: f32 = 2.5;

// @ts-ignore: decorator
@inline
function put(C: ParticleSource, o: usize, part: f32, share: f32, u: f32, v: f32, w: f32): void {
  store<f32>(C.mean + o, load<f32>(C.mean + o) + share);
  store<f32>(C.most + o, max<f32>(load<f32>(C.most + o), min<f32>(1, part)));
  if (!C.su) return;
  store<f32>(C.su + o, load<f32>(C.su + o) + share * u);
  store<f32>(C.sv + o, load<f32>(C.sv + o) + share * v);
  store<f32>(C.sw + o, load<f32>(C.sw + o) + share * w);
}

// @ts-ignore: decorator
@inline
function partOfBall(i: i32, j: i32, k: i32, cx: f32, cy: f32, cz: f32, r: f32): f32 {
  const dx = <f32>i + <f32>0.5 - cx;
  const dy = <f32>j + <f32>0.5 - cy;
  const dz = <f32>k + <f32>0.5 - cz;
  const d2 = dx * dx + dy * dy + dz * dz;
  return d2 >= (r + <f32>0.5) * (r + <f32>0.5) ? 0 : inside(sqrt<f32>(d2) - r);
}

/**
 * Adds all particles to a cover. Each is a ball along its way through the substep, at stops no further apart
 * than its radius. A small one covers its true volume wherever it stands between the voxels.
 */
export function rasterizeParticles(cloud: usize, k0: i32, k1: i32): void {
  const C = changetype<ParticleSource>(cloud);
  const s = C.stride;
  for (let n = 0; n < C.count; n++) {
    const p = C.pool + ((<usize>n) << 2);
    const life = load<f32>(p + s * ParticleArray.LIFE);
    const lived: f32 = life > 0 ? min<f32>(1, load<f32>(p + s * ParticleArray.AGE) / life) : 0;
    const r = load<f32>(p + s * ParticleArray.RADIUS) * C.swell * C.perM * (<f32>1 + (C.endSize - 1) * lived);
    const amount: f32 = <f32>1 + (C.endAmount - 1) * lived;
    if (r <= 0 || amount <= 0) continue;
    const z0 = load<f32>(p + s * ParticleArray.WAS_Z) * C.perM - C.originZ;
    const z1 = load<f32>(p + s * 2) * C.perM - C.originZ;
    if (min<f32>(z0, z1) - r - 1 > <f32>k1 || max<f32>(z0, z1) + r + 1 < <f32>k0) continue;
    const x0 = load<f32>(p + s * ParticleArray.WAS_X) * C.perM - C.originX;
    const x1 = load<f32>(p) * C.perM - C.originX;
    const y0 = load<f32>(p + s * ParticleArray.WAS_Y) * C.perM - C.originY;
    const y1 = load<f32>(p + s) * C.perM - C.originY;
    const u = load<f32>(p + s * ParticleArray.VX);
    const v = load<f32>(p + s * ParticleArray.VY);
    const w = load<f32>(p + s * ParticleArray.VZ);
    const way = sqrt<f32>((x1 - x0) * (x1 - x0) + (y1 - y0) * (y1 - y0) + (z1 - z0) * (z1 - z0));
    const stops = min(MOST_STOPS, 1 + <i32>(way / max<f32>(r, POINT)));
    const own = amount / <f32>stops;
    for (let m = 0; m < stops; m++) {
      const t = (<f32>m + <f32>0.5) / <f32>stops;
      const cx = x0 + t * (x1 - x0);
      const cy = y0 + t * (y1 - y0);
      const cz = z0 + t * (z1 - z0);
      const around = r < POINT ? <f32>0.5 : r + <f32>0.5;
      const i0 = <i32>Mathf.floor(cx - around);
      const j0 = <i32>Mathf.floor(cy - around);
      const l0 = <i32>Mathf.floor(cz - around);
      const i1 = <i32>Mathf.floor(cx + around) + 1;
      const j1 = <i32>Mathf.floor(cy + around) + 1;
      const l1 = <i32>Mathf.floor(cz + around) + 1;
      if (l1 <= k0 || l0 >= k1 || i1 <= 0 || i0 >= C.nx || j1 <= 0 || j0 >= C.ny) continue;
      const volume = <f32>4.18879 * r * r * r;
      let scale: f32 = 1;
      if (r >= POINT && r < SMALL) {
        let sum: f32 = 0;
        for (let k = l0; k < l1; k++)
          for (let j = j0; j < j1; j++)
            for (let i = i0; i < i1; i++) sum += partOfBall(i, j, k, cx, cy, cz, r);
        if (sum > 0) scale = volume / sum;
      }

      for (let k = max(k0, l0); k < min(min(k1, C.nz), l1); k++)
        for (let j = max(0, j0); j < min(C.ny, j1); j++) {
          const at = row(0, j, k, C.rowStride, C.planeStride);
          for (let i = max(0, i0); i < min(C.nx, i1); i++) {
            let part: f32;
            if (r < POINT) {
              const a = max<f32>(0, <f32>1 - abs<f32>(<f32>i + <f32>0.5 - cx));
              const b = max<f32>(0, <f32>1 - abs<f32>(<f32>j + <f32>0.5 - cy));
              part = volume * a * b * max<f32>(0, <f32>1 - abs<f32>(<f32>k + <f32>0.5 - cz));
            } else part = scale * partOfBall(i, j, k, cx, cy, cz, r);
            if (part > 0) put(C, at + ((<usize>i) << 2), part * amount, part * own, u, v, w);
          }
        }
    }
  }
}

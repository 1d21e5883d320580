// Rays through the medium, four at once: free paths are drawn against the greatest extinction of each block,
// which a ray walks through one after the other (Woodcock et al. 1965; Szirmay-Kalos et al. 2011; Novák et
// al. 2014). A lane whose ray has ended takes the next one.
import {
  half4,
  laneOf,
  mad4,
  minusLog4,
  mix,
  mix4,
  nothing4,
  one4,
  pick4,
  tenth4,
  unit4,
  wordOf,
} from './lanes';
import { countLookUps } from './look-ups';
import { BLOCK, blockPlane, blockRow, blocks4, cells4, extinction4, partOf4, tintIn, Medium } from './medium';
import { Scene } from './scene';

/** What is known of a ray before it is walked, a record each. Lengths in cells. */
@unmanaged
class Ray {
  x: f32;
  y: f32;
  z: f32;
  dx: f32;
  dy: f32;
  dz: f32;
  /** Where it leaves the medium, or meets something solid. */
  end: f32;
  /** To the next side of a block along each axis, and from side to side. */
  nextX: f32;
  nextY: f32;
  nextZ: f32;
  widthX: f32;
  widthY: f32;
  widthZ: f32;
  block: i32;
  stepX: i32;
  stepY: i32;
  stepZ: i32;
  /** The bit of the octant that it looks into. */
  octant: i32;
  /** Two words that its draws are made from. */
  nameA: u32;
  nameB: u32;
  /** How far it had to go to the medium, and which ray it is. */
  before: f32;
  number: i32;
}

export const RAY_BYTES: usize = 96;

const LANES = memory.data<u32>([
  0xffffffff, 0, 0, 0, 0, 0xffffffff, 0, 0, 0, 0, 0xffffffff, 0, 0, 0, 0, 0xffffffff,
]);
const STEP_OF_NAMES: u32 = 0x9e3779b9;
/** Trips between two looks for lanes that have ended: a branch that depends on lanes is as good as random. */
const TRIPS: i32 = 4;

// @ts-ignore: decorator
@inline
function inverse(d: f32): f32 {
  if (abs<f32>(d) > 1e-9) return 1 / d;
  return d < 0 ? -1e9 : 1e9;
}

/**
 * Writes a ray's record.
 * @returns false where the ray does not meet the medium before `limit`
 */
export function prepare(
  m: Medium,
  record: usize,
  number: i32,
  x: f32,
  y: f32,
  z: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  limit: f32,
  name: u32,
): bool {
  const r = changetype<Ray>(record);
  const ix = inverse(dx);
  const iy = inverse(dy);
  const iz = inverse(dz);
  const nx = <f32>(m.nx + 1);
  const ny = <f32>(m.ny + 1);
  const nz = <f32>(m.nz + 1);
  let before: f32 = 0;
  if (x < 0 || y < 0 || z < 0 || x > nx || y > ny || z > nz) {
    const ax = -x * ix;
    const bx = (nx - x) * ix;
    const ay = -y * iy;
    const by = (ny - y) * iy;
    const az = -z * iz;
    const bz = (nz - z) * iz;
    before = max<f32>(max<f32>(min<f32>(ax, bx), min<f32>(ay, by)), max<f32>(min<f32>(az, bz), 0));
    const leave = min<f32>(min<f32>(max<f32>(ax, bx), max<f32>(ay, by)), max<f32>(az, bz));
    if (before >= leave || before >= limit) return false;
    x = min<f32>(nx, max<f32>(0, x + before * dx));
    y = min<f32>(ny, max<f32>(0, y + before * dy));
    z = min<f32>(nz, max<f32>(0, z + before * dz));
  }

  const upX = dx >= 0;
  const upY = dy >= 0;
  const upZ = dz >= 0;
  const bx = <i32>x / BLOCK;
  const by = <i32>y / BLOCK;
  const bz = <i32>z / BLOCK;
  const row = blockRow(m);
  const plane = blockPlane(m);
  const block = bx + by * row + bz * plane + 1 + row + plane;
  const octant = 1 << ((upX ? 1 : 0) + (upY ? 2 : 0) + (upZ ? 4 : 0));
  if (!(load<u32>(m.blocks + ((<usize>block) << 2)) & octant)) return false;
  const endX = ((upX ? nx : 0) - x) * ix;
  const endY = ((upY ? ny : 0) - y) * iy;
  const endZ = ((upZ ? nz : 0) - z) * iz;
  r.x = x;
  r.y = y;
  r.z = z;
  r.dx = dx;
  r.dy = dy;
  r.dz = dz;
  r.end = min<f32>(limit - before, min<f32>(endX, min<f32>(endY, endZ)));
  r.nextX = (<f32>((bx + (upX ? 1 : 0)) * BLOCK) - x) * ix;
  r.nextY = (<f32>((by + (upY ? 1 : 0)) * BLOCK) - y) * iy;
  r.nextZ = (<f32>((bz + (upZ ? 1 : 0)) * BLOCK) - z) * iz;
  r.widthX = abs<f32>(ix) * <f32>BLOCK;
  r.widthY = abs<f32>(iy) * <f32>BLOCK;
  r.widthZ = abs<f32>(iz) * <f32>BLOCK;
  r.block = block;
  r.stepX = upX ? 1 : -1;
  r.stepY = upY ? row : -row;
  r.stepZ = upZ ? plane : -plane;
  r.octant = octant;
  r.nameA = name;
  r.nameB = mix(name ^ 0x68bc21eb);
  r.before = before;
  r.number = number;
  return true;
}

/** Distances to the first real collision of each ray; −1 is left standing for those that leave. */
export function trackCollisions(s: Scene, rays: usize, count: i32, out: usize): void {
  walk(s, rays, count, out, 0, 0, false, false);
}

/**
 * Unbiased transmittance of each ray, the same for all channels; 1 is left standing for those without a
 * record.
 */
export function trackThrough(s: Scene, rays: usize, count: i32, red: usize): void {
  walk(s, rays, count, red, 0, 0, true, false);
}

/** The same by channel. */
export function trackColours(s: Scene, rays: usize, count: i32, red: usize, green: usize, blue: usize): void {
  walk(s, rays, count, red, green, blue, true, true);
}

/** What is taken by channel in one lane; nothing where its ray does not collide. */
// @ts-ignore: decorator
@inline
function taken(m: Medium, ready: v128, at: v128, fx: v128, fy: v128, fz: v128, lane: i32): v128 {
  return wordOf(ready, lane) ? tintIn(m, m.takes, at, fx, fy, fz, lane) : f32x4.splat(0);
}

// @ts-ignore: decorator
@inline
function set(lane: v128, old: v128, from: usize): v128 {
  return v128.bitselect(v128.load_splat<u32>(from), old, lane);
}

// @ts-ignore: decorator
@inline
function walk(
  s: Scene,
  rays: usize,
  count: i32,
  red: usize,
  green: usize,
  blue: usize,
  ratio: bool,
  colours: bool,
): void {
  const m = changetype<Medium>(s.medium);
  const zero = f32x4.splat(0);
  const clean = i32x4.splat(~255);
  // extinction toward lamps may be another than toward the eye
  const strength = f32x4.splat(ratio ? s.shadow : 1);
  let ox = zero;
  let oy = zero;
  let oz = zero;
  let dx = zero;
  let dy = zero;
  let dz = zero;
  let end = zero;
  let nextX = zero;
  let nextY = zero;
  let nextZ = zero;
  let widthX = zero;
  let widthY = zero;
  let widthZ = zero;
  let stepX = zero;
  let stepY = zero;
  let stepZ = zero;
  let block = zero;
  let octant = zero;
  let nameA = zero;
  let nameB = zero;
  let greatest = zero;
  let free = zero;
  let t = zero;
  let through = one4();
  let throughG = one4();
  let throughB = one4();
  let live = zero;
  let next = 0;
  // the record of each lane's ray; 0: none
  let own0: usize = 0;
  let own1: usize = 0;
  let own2: usize = 0;
  let own3: usize = 0;
  for (;;) {
    const over = i32x4.bitmask(live) ^ 15;
    if (over) {
      let fresh = zero;
      for (let lane = 0; lane < 4; lane++) {
        if (!(over & (1 << lane))) continue;
        const own = oneOf(lane, own0, own1, own2, own3);
        if (own) {
          const r = changetype<Ray>(own);
          const to = (<usize>r.number) << 2;
          let a: f32;
          if (ratio) a = laneOf(through, lane);
          else {
            a = laneOf(t, lane);
            if (a >= 0) a += r.before;
          }

          store<f32>(red + to, a);
          if (colours) {
            store<f32>(green + to, laneOf(throughG, lane));
            store<f32>(blue + to, laneOf(throughB, lane));
          }
        }

        let p: usize = 0;
        if (next < count) {
          p = rays + <usize>next * RAY_BYTES;
          next++;
          const only = v128.load(LANES + ((<usize>lane) << 4));
          ox = set(only, ox, p);
          oy = set(only, oy, p + offsetof<Ray>('y'));
          oz = set(only, oz, p + offsetof<Ray>('z'));
          dx = set(only, dx, p + offsetof<Ray>('dx'));
          dy = set(only, dy, p + offsetof<Ray>('dy'));
          dz = set(only, dz, p + offsetof<Ray>('dz'));
          end = set(only, end, p + offsetof<Ray>('end'));
          nextX = set(only, nextX, p + offsetof<Ray>('nextX'));
          nextY = set(only, nextY, p + offsetof<Ray>('nextY'));
          nextZ = set(only, nextZ, p + offsetof<Ray>('nextZ'));
          widthX = set(only, widthX, p + offsetof<Ray>('widthX'));
          widthY = set(only, widthY, p + offsetof<Ray>('widthY'));
          widthZ = set(only, widthZ, p + offsetof<Ray>('widthZ'));
          stepX = set(only, stepX, p + offsetof<Ray>('stepX'));
          stepY = set(only, stepY, p + offsetof<Ray>('stepY'));
          stepZ = set(only, stepZ, p + offsetof<Ray>('stepZ'));
          block = set(only, block, p + offsetof<Ray>('block'));
          octant = set(only, octant, p + offsetof<Ray>('octant'));
          nameA = set(only, nameA, p + offsetof<Ray>('nameA'));
          nameB = set(only, nameB, p + offsetof<Ray>('nameB'));
          fresh = v128.or(fresh, only);
        }

        if (lane == 0) own0 = p;
        else if (lane == 1) own1 = p;
        else if (lane == 2) own2 = p;
        else own3 = p;
      }

      live = v128.or(live, fresh);
      if (!v128.any_true(live)) return;
      greatest = pick4(fresh, f32x4.mul(strength, v128.and(blocks4(m, block, fresh, zero), clean)), greatest);
      free = pick4(fresh, minusLog4(unit4(mix4(nameA))), free);
      t = v128.andnot(t, fresh);
      if (ratio) through = pick4(fresh, one4(), through);
      if (colours) {
        throughG = pick4(fresh, one4(), throughG);
        throughB = pick4(fresh, one4(), throughB);
      }
    }

    // in a trip each lane passes a side of a block, or comes to a place for a collision
    for (let trip = 0; trip < TRIPS; trip++) {
      const tx = f32x4.pmin(f32x4.pmin(nextX, nextY), f32x4.pmin(nextZ, end));
      const part = f32x4.mul(f32x4.sub(tx, t), greatest);
      const pass = v128.and(live, f32x4.le(part, free));
      const ready = v128.andnot(live, pass);
      const inverse = f32x4.div(one4(), f32x4.pmax(greatest, nothing4()));
      t = pick4(pass, tx, pick4(ready, mad4(free, inverse, t), t));
      const px = v128.and(pass, f32x4.le(nextX, tx));
      const py = v128.andnot(v128.and(pass, f32x4.le(nextY, tx)), px);
      const pz = v128.andnot(v128.andnot(pass, px), py);
      nextX = f32x4.add(nextX, v128.and(px, widthX));
      nextY = f32x4.add(nextY, v128.and(py, widthY));
      nextZ = f32x4.add(nextZ, v128.and(pz, widthZ));
      block = i32x4.add(
        block,
        v128.or(v128.and(px, stepX), v128.or(v128.and(py, stepY), v128.and(pz, stepZ))),
      );
      free = f32x4.sub(free, v128.and(pass, part));
      const found = blocks4(m, block, pass, zero);
      greatest = pick4(pass, f32x4.mul(strength, v128.and(found, clean)), greatest);
      const left = v128.and(pass, v128.or(f32x4.le(end, tx), i32x4.eq(v128.and(found, octant), zero)));
      live = v128.andnot(live, left);
      if (!ratio) t = pick4(left, f32x4.splat(-1), t);

      if (v128.any_true(ready)) {
        nameA = i32x4.add(nameA, v128.and(ready, i32x4.splat(STEP_OF_NAMES)));
        const word = mix4(nameA);
        free = pick4(ready, minusLog4(unit4(word)), free);
        let other = i32x4.mul(v128.xor(word, nameB), i32x4.splat(0x9e3779b1));
        other = v128.xor(other, i32x4.shr_u(other, 15));
        const u = unit4(other);
        const x = mad4(t, dx, ox);
        const y = mad4(t, dy, oy);
        const z = mad4(t, dz, oz);
        const xf = f32x4.floor(x);
        const yf = f32x4.floor(y);
        const zf = f32x4.floor(z);
        const at = v128.and(
          ready,
          cells4(m, i32x4.trunc_sat_f32x4_s(xf), i32x4.trunc_sat_f32x4_s(yf), i32x4.trunc_sat_f32x4_s(zf)),
        );
        const fx = f32x4.sub(x, xf);
        const fy = f32x4.sub(y, yf);
        const fz = f32x4.sub(z, zf);
        countLookUps(ready);
        const mu = f32x4.mul(strength, extinction4(m, at, fx, fy, fz));
        // that the collision is real
        const chance = v128.and(ready, f32x4.pmin(f32x4.mul(mu, inverse), one4()));
        if (!ratio) {
          live = v128.andnot(live, f32x4.lt(u, chance));
        } else {
          let most = through;
          if (colours) {
            let r = f32x4.splat(s.takes0R);
            let g = f32x4.splat(s.takes0G);
            let b = f32x4.splat(s.takes0B);
            if (m.tint) {
              const c0 = taken(m, ready, at, fx, fy, fz, 0);
              const c1 = taken(m, ready, at, fx, fy, fz, 1);
              const c2 = taken(m, ready, at, fx, fy, fz, 2);
              const c3 = taken(m, ready, at, fx, fy, fz, 3);
              r = mad4(partOf4(c0, c1, c2, c3, 0), f32x4.splat(s.takes1R), r);
              g = mad4(partOf4(c0, c1, c2, c3, 1), f32x4.splat(s.takes1G), g);
              b = mad4(partOf4(c0, c1, c2, c3, 2), f32x4.splat(s.takes1B), b);
            }

            through = f32x4.sub(through, f32x4.mul(through, f32x4.mul(chance, r)));
            throughG = f32x4.sub(throughG, f32x4.mul(throughG, f32x4.mul(chance, g)));
            throughB = f32x4.sub(throughB, f32x4.mul(throughB, f32x4.mul(chance, b)));
            most = f32x4.pmax(through, f32x4.pmax(throughG, throughB));
          } else {
            through = f32x4.sub(through, f32x4.mul(through, chance));
            most = through;
          }

          // where little is left half of the rays end, and the others count twice
          const low = v128.and(ready, f32x4.lt(most, tenth4()));
          const gone = v128.and(low, f32x4.lt(u, half4()));
          live = v128.andnot(live, gone);
          through = v128.andnot(pick4(low, f32x4.add(through, through), through), gone);
          if (colours) {
            throughG = v128.andnot(pick4(low, f32x4.add(throughG, throughG), throughG), gone);
            throughB = v128.andnot(pick4(low, f32x4.add(throughB, throughB), throughB), gone);
          }
        }
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function oneOf(lane: i32, a: usize, b: usize, c: usize, d: usize): usize {
  if (lane == 0) return a;
  if (lane == 1) return b;
  return lane == 2 ? c : d;
}

// Quick pictures: camera rays in packets of 2 × 2 pixels, front to back (Max 1995), single scattering from
// light volumes, and further orders as octaves of it (Wrenninge, Kulla & Lundqvist 2013): each sees half the
// extinction of the one before toward the light, scatters more evenly and counts for less.
import { ambientAt } from './ambient';
import { lerp4, pairs } from './common';
import { expOfNegative4, half4, laneOf, mad4, one4, pick4, spread4 } from './lanes';
import { countLookUps, tellLookUps } from './look-ups';
import { faceFalls, isFace, lampFalls, litAt } from './lamps';
import {
  BLOCK,
  blockPlane,
  blockRow,
  blocks4,
  cells4,
  extinction4,
  lightFace,
  Medium,
  partOf4,
  skyFace,
  sunFace,
  tintIn,
  trilinear4,
} from './medium';
import { Lamp, LampKind, phaseOf, PIXEL_FLOATS, Scene, TILE, tilesAcross } from './scene';
import { beginSenses, keepSenses, senseStep } from './sense';
import { takeRoom } from './rooms';

/** What is left of the light behind which nothing is looked for. */
const CUTOFF: f32 = 0.001;
/**
 * What an octave counts for against the one before, and its asymmetry against that; fitted to true pictures
 * of a plume, see docs/rendering.md.
 */
const NEXT_WEIGHT: f32 = 0.78;
const NEXT_LEAN: f32 = 0.5;
/** Steps between two looks at the light from all round, which varies slowly. */
const AMBIENT_STEPS: i32 = 4;
const SMALL: f32 = 1e-9;

// @ts-ignore: decorator
@inline
function awayFromZero4(d: v128): v128 {
  const sign = v128.and(d, i32x4.splat(0x80000000));
  return v128.or(f32x4.pmax(f32x4.abs(d), f32x4.splat(SMALL)), sign);
}

// @ts-ignore: decorator
@inline
function way4(corner: f32, across: f32, down: f32, px: v128, py: v128): v128 {
  return f32x4.add(
    f32x4.splat(corner),
    f32x4.add(f32x4.mul(px, f32x4.splat(across)), f32x4.mul(py, f32x4.splat(down))),
  );
}

// @ts-ignore: decorator
@inline
function phase4(g: f32, cosine: v128): v128 {
  const b = f32x4.sub(f32x4.splat(1 + g * g), f32x4.mul(cosine, f32x4.splat(2 * g)));
  return f32x4.div(f32x4.splat(1 - g * g), f32x4.mul(b, f32x4.sqrt(b)));
}

/** 4π times the phase function with its lobes drawn together by `lean`. */
// @ts-ignore: decorator
@inline
function phases4(s: Scene, lean: f32, cosine: v128): v128 {
  const first = phase4(s.forward * lean, cosine);
  if (s.backPart <= 0) return first;
  return lerp4(first, phase4(s.backward * lean, cosine), f32x4.splat(s.backPart));
}

/**
 * Sum over octaves of what a transmittance and a cosine give, by channel, with the powers of the albedo that
 * allOrders has.
 */
// @ts-ignore: decorator
@inline
function orders(s: Scene, through: f32, cosine: f32, stays: f32, albedo: v128): v128 {
  let sum = f32x4.splat(phaseOf(s, cosine, s.backPart) * through);
  let weight: f32 = 1;
  let lean: f32 = 1;
  let power = albedo;
  for (let n = 0; n < s.octaves; n++) {
    through = sqrt<f32>(through);
    weight *= stays;
    lean *= NEXT_LEAN;
    const given = weight * f32x4.extract_lane(phases4(s, lean, f32x4.splat(cosine)), 0) * through;
    sum = mad4(power, f32x4.splat(given), sum);
    power = f32x4.mul(power, n == 0 ? f32x4.mul(albedo, albedo) : power);
  }

  return sum;
}

/** What the lamps that are no sun, and further suns, give at a place to light that goes on to the eye. */
function lampsAt(
  s: Scene,
  x: f32,
  y: f32,
  z: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  stays: f32,
  albedo: v128,
): v128 {
  const m = changetype<Medium>(s.medium);
  let sum = f32x4.splat(0);
  for (let n = 0; n < s.lampCount; n++) {
    const l = changetype<Lamp>(s.lamps + <usize>n * offsetof<Lamp>());
    if (!l.lit) continue;
    let tx = l.aimX;
    let ty = l.aimY;
    let tz = l.aimZ;
    let square: f32 = 1;
    if (l.kind != LampKind.SUN) {
      tx = l.x - x;
      ty = l.y - y;
      tz = l.z - z;
      square = tx * tx + ty * ty + tz * tz;
      const far: f32 = 1 / sqrt<f32>(max<f32>(square, 1e-12));
      tx *= far;
      ty *= far;
      tz *= far;
    }

    const falls = isFace(l) ? faceFalls(l, x, y, z) : lampFalls(l, tx, ty, tz, square);
    if (falls <= 0) continue;
    const all = orders(s, litAt(m, l.lit, x, y, z), dx * tx + dy * ty + dz * tz, stays, albedo);
    const given = f32x4.mul(all, f32x4.splat(falls * <f32>0.0795774715459477));
    sum = mad4(f32x4(l.red, l.green, l.blue, 0), given, sum);
  }

  return sum;
}

/** The same in one lane of a packet. */
// @ts-ignore: decorator
@inline
function lampsIn(
  s: Scene,
  x: v128,
  y: v128,
  z: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  stays: v128,
  albedoR: v128,
  albedoG: v128,
  albedoB: v128,
  lane: i32,
): v128 {
  const albedo = f32x4(laneOf(albedoR, lane), laneOf(albedoG, lane), laneOf(albedoB, lane), 0);
  return lampsAt(
    s,
    laneOf(x, lane),
    laneOf(y, lane),
    laneOf(z, lane),
    laneOf(dx, lane),
    laneOf(dy, lane),
    laneOf(dz, lane),
    laneOf(stays, lane),
    albedo,
  );
}

/** Light from all round in one lane of a packet. */
// @ts-ignore: decorator
@inline
function aroundIn(s: Scene, x: v128, y: v128, z: v128, lane: i32): v128 {
  return ambientAt(s, laneOf(x, lane), laneOf(y, lane), laneOf(z, lane));
}

/** Camera rays of the tiles k0..k1 of the scene's part of the picture. */
export function marchTiles(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  const across = tilesAcross(s);
  const grey = s.lampCount == 0 && !changetype<Medium>(s.medium).tint && !s.chromatic && !s.ambient;
  for (let tile = k0; tile < k1; tile++) {
    const x0 = s.fromX + (tile % across) * TILE;
    const y0 = s.fromY + (tile / across) * TILE;
    const x1 = min(x0 + TILE, s.endX);
    const y1 = min(y0 + TILE, s.endY);
    for (let y = y0; y < y1; y += 2)
      for (let x = x0; x < x1; x += 2) {
        if (!grey) marchPacket(s, 0, x, y, x1, y1, false, true, false);
        else if (s.octaves > 0) marchPacket(s, 0, x, y, x1, y1, true, true, false);
        else marchPacket(s, 0, x, y, x1, y1, true, false, false);
      }
  }

  tellLookUps(s.lookUps);
}

/** What the tiles k0..k1 of the scene's part hold besides light: see sense.ts. */
export function senseTiles(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  const across = tilesAcross(s);
  const n = takeRoom(s.rooms);
  const acc = s.rooms + 256 + <usize>n * <usize>s.roomBytes;
  for (let tile = k0; tile < k1; tile++) {
    const x0 = s.fromX + (tile % across) * TILE;
    const y0 = s.fromY + (tile / across) * TILE;
    const x1 = min(x0 + TILE, s.endX);
    const y1 = min(y0 + TILE, s.endY);
    for (let y = y0; y < y1; y += 2)
      for (let x = x0; x < x1; x += 2) marchPacket(s, acc, x, y, x1, y1, false, false, true);
  }

  tellLookUps(s.lookUps);
  atomic.store<i32>(s.rooms + ((<usize>n) << 2), 0);
}

/**
 * Octaves of the sun and the environment together. Each stands for twice as many scatterings as the one
 * before, so that they go with powers 0, 1, 3, 6 and 12 of the albedo.
 */
// @ts-ignore: decorator
@inline
function allOrders(
  albedo: v128,
  sun: f32,
  sky: v128,
  lit0: v128,
  lit1: v128,
  lit2: v128,
  lit3: v128,
  lit4: v128,
  airy0: v128,
  airy1: v128,
  airy2: v128,
  airy3: v128,
  airy4: v128,
): v128 {
  const S = f32x4.splat(sun);
  const A = sky;
  const a2 = f32x4.mul(albedo, albedo);
  const a3 = f32x4.mul(a2, albedo);
  let sum = mad4(lit4, S, f32x4.mul(airy4, A));
  sum = mad4(sum, f32x4.mul(a3, a3), mad4(lit3, S, f32x4.mul(airy3, A)));
  sum = mad4(sum, a3, mad4(lit2, S, f32x4.mul(airy2, A)));
  sum = mad4(sum, a2, mad4(lit1, S, f32x4.mul(airy1, A)));
  return mad4(sum, albedo, mad4(lit0, S, f32x4.mul(airy0, A)));
}

// @ts-ignore: decorator
@inline
function marchPacket(
  s: Scene,
  acc: usize,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  grey: bool,
  further: bool,
  senses: bool,
): void {
  const m = changetype<Medium>(s.medium);
  const zero = f32x4.splat(0);
  const one = one4();
  const px = f32x4.add(f32x4.splat(<f32>x0), f32x4(0, 1, 0, 1));
  const py = f32x4.add(f32x4.splat(<f32>y0), f32x4(0, 0, 1, 1));
  const inside = v128.and(f32x4.lt(px, f32x4.splat(<f32>x1)), f32x4.lt(py, f32x4.splat(<f32>y1)));
  let dx = way4(s.cornerX, s.acrossX, s.downX, px, py);
  let dy = way4(s.cornerY, s.acrossY, s.downY, px, py);
  let dz = way4(s.cornerZ, s.acrossZ, s.downZ, px, py);
  const scale = f32x4.div(one, f32x4.sqrt(mad4(dx, dx, mad4(dy, dy, f32x4.mul(dz, dz)))));
  dx = awayFromZero4(f32x4.mul(dx, scale));
  dy = awayFromZero4(f32x4.mul(dy, scale));
  dz = awayFromZero4(f32x4.mul(dz, scale));
  const ix = f32x4.div(one, dx);
  const iy = f32x4.div(one, dy);
  const iz = f32x4.div(one, dz);
  const ex = f32x4.splat(s.eyeX);
  const ey = f32x4.splat(s.eyeY);
  const ez = f32x4.splat(s.eyeZ);
  const xa = f32x4.mul(f32x4.sub(zero, ex), ix);
  const xb = f32x4.mul(f32x4.sub(f32x4.splat(<f32>(m.nx + 1)), ex), ix);
  const ya = f32x4.mul(f32x4.sub(zero, ey), iy);
  const yb = f32x4.mul(f32x4.sub(f32x4.splat(<f32>(m.ny + 1)), ey), iy);
  const za = f32x4.mul(f32x4.sub(zero, ez), iz);
  const zb = f32x4.mul(f32x4.sub(f32x4.splat(<f32>(m.nz + 1)), ez), iz);
  const enter = f32x4.pmax(
    f32x4.pmax(f32x4.pmin(xa, xb), f32x4.pmin(ya, yb)),
    f32x4.pmax(f32x4.pmin(za, zb), zero),
  );
  let leave = f32x4.pmin(f32x4.pmin(f32x4.pmax(xa, xb), f32x4.pmax(ya, yb)), f32x4.pmax(za, zb));
  if (s.limits) {
    const to = s.limits + ((<usize>(y0 * s.width + x0)) << 2);
    // the rows end with room for a vector
    leave = f32x4.pmin(leave, pairs(to, 0, s.width << 2));
  }

  const ds = f32x4.splat(s.step);
  const perStep = f32x4.splat(1 / s.step);
  // steps are counted from the first sample in the box, lest a far eye costs digits
  const first = f32x4.mul(f32x4.add(f32x4.floor(f32x4.add(f32x4.mul(enter, perStep), half4())), half4()), ds);
  const end = f32x4.sub(leave, first);
  const ox = mad4(first, dx, ex);
  const oy = mad4(first, dy, ey);
  const oz = mad4(first, dz, ez);
  let live = v128.and(inside, v128.and(f32x4.lt(enter, leave), f32x4.lt(zero, end)));
  let k = zero;
  let t = zero;
  let through = one;
  let throughG = one;
  let throughB = one;
  // light by order of scattering, from the sun and from all round
  let sun0 = zero;
  let sun1 = zero;
  let sun2 = zero;
  let sun3 = zero;
  let sun4 = zero;
  let air0 = zero;
  let air1 = zero;
  let air2 = zero;
  let air3 = zero;
  let air4 = zero;
  let red = zero;
  let green = zero;
  let blue = zero;
  const perBlock = f32x4.splat(<f32>1 / <f32>BLOCK);
  const side = f32x4.splat(<f32>BLOCK);
  const fromX = v128.and(f32x4.lt(zero, dx), side);
  const fromY = v128.and(f32x4.lt(zero, dy), side);
  const fromZ = v128.and(f32x4.lt(zero, dz), side);
  const row = i32x4.splat(blockRow(m));
  const plane = i32x4.splat(blockPlane(m));
  const ring = i32x4.splat(1 + blockRow(m) + blockPlane(m));
  const minusStep = f32x4.neg(ds);
  const cutoff = f32x4.splat(CUTOFF);
  const cosine = mad4(
    dx,
    f32x4.splat(s.toSunX),
    mad4(dy, f32x4.splat(s.toSunY), f32x4.mul(dz, f32x4.splat(s.toSunZ))),
  );
  const sunPhase = phases4(s, 1, cosine);
  const octaves = further ? s.octaves : 0;
  const sunPhase1 = octaves > 0 ? phases4(s, NEXT_LEAN, cosine) : zero;
  const sunPhase2 = octaves > 1 ? phases4(s, NEXT_LEAN * NEXT_LEAN, cosine) : zero;
  const sunPhase3 = octaves > 2 ? phases4(s, NEXT_LEAN * NEXT_LEAN * NEXT_LEAN, cosine) : zero;
  const next = f32x4.splat(NEXT_WEIGHT);
  const unit = f32x4.splat(<f32>1 / 65535);
  let aroundR = f32x4.splat(s.skyR);
  let aroundG = f32x4.splat(s.skyG);
  let aroundB = f32x4.splat(s.skyB);
  // steps for which what comes from all round is good
  let stale = 0;
  if (senses) beginSenses(s, acc, px, py, first, scale);
  let doubtful = live; // lanes that may stand in an empty block
  while (v128.any_true(live)) {
    let empty = v128.and(doubtful, live);
    while (v128.any_true(empty)) {
      const bx = f32x4.floor(f32x4.mul(mad4(t, dx, ox), perBlock));
      const by = f32x4.floor(f32x4.mul(mad4(t, dy, oy), perBlock));
      const bz = f32x4.floor(f32x4.mul(mad4(t, dz, oz), perBlock));
      const block = i32x4.add(
        i32x4.add(i32x4.trunc_sat_f32x4_s(bx), ring),
        i32x4.add(i32x4.mul(i32x4.trunc_sat_f32x4_s(by), row), i32x4.mul(i32x4.trunc_sat_f32x4_s(bz), plane)),
      );
      const found = blocks4(m, block, empty, i32x4.splat(256));
      empty = v128.and(empty, i32x4.lt_s(found, i32x4.splat(256)));
      if (!v128.any_true(empty)) break;
      const out = f32x4.pmin(
        f32x4.pmin(
          f32x4.mul(f32x4.sub(mad4(bx, side, fromX), ox), ix),
          f32x4.mul(f32x4.sub(mad4(by, side, fromY), oy), iy),
        ),
        f32x4.mul(f32x4.sub(mad4(bz, side, fromZ), oz), iz),
      );
      stale = 0;
      k = pick4(empty, f32x4.pmax(f32x4.add(k, one), f32x4.ceil(f32x4.mul(out, perStep))), k);
      t = f32x4.mul(k, ds);
      live = v128.and(live, f32x4.lt(t, end));
      empty = v128.and(empty, live);
    }

    if (!v128.any_true(live)) break;
    const x = mad4(t, dx, ox);
    const y = mad4(t, dy, oy);
    const z = mad4(t, dz, oz);
    const xf = f32x4.floor(x);
    const yf = f32x4.floor(y);
    const zf = f32x4.floor(z);
    // lanes that have ended read the first cell
    const at = v128.and(
      live,
      cells4(m, i32x4.trunc_sat_f32x4_s(xf), i32x4.trunc_sat_f32x4_s(yf), i32x4.trunc_sat_f32x4_s(zf)),
    );
    const fx = f32x4.sub(x, xf);
    const fy = f32x4.sub(y, yf);
    const fz = f32x4.sub(z, zf);
    countLookUps(live);
    const mu = extinction4(m, at, fx, fy, fz);
    const some = v128.and(live, f32x4.lt(zero, mu));
    if (v128.any_true(some)) {
      const own = v128.and(some, f32x4.mul(mu, minusStep));
      let sunlit = zero;
      let air = zero;
      if (!senses) {
        const a0 = i32x4.extract_lane(at, 0);
        const a1 = i32x4.extract_lane(at, 1);
        const a2 = i32x4.extract_lane(at, 2);
        const a3 = i32x4.extract_lane(at, 3);
        const near0 = lightFace(m, a0, false);
        const near1 = lightFace(m, a1, false);
        const near2 = lightFace(m, a2, false);
        const near3 = lightFace(m, a3, false);
        const far0 = lightFace(m, a0, true);
        const far1 = lightFace(m, a1, true);
        const far2 = lightFace(m, a2, true);
        const far3 = lightFace(m, a3, true);
        const fz0 = spread4(fz, 0);
        const fz1 = spread4(fz, 1);
        const fz2 = spread4(fz, 2);
        const fz3 = spread4(fz, 3);
        sunlit = f32x4.mul(
          unit,
          trilinear4(
            sunFace(near0, far0, fz0),
            sunFace(near1, far1, fz1),
            sunFace(near2, far2, fz2),
            sunFace(near3, far3, fz3),
            fx,
            fy,
          ),
        );
        air = f32x4.mul(
          unit,
          trilinear4(
            skyFace(near0, far0, fz0),
            skyFace(near1, far1, fz1),
            skyFace(near2, far2, fz2),
            skyFace(near3, far3, fz3),
            fx,
            fy,
          ),
        );
      }

      // light that comes to a place goes on from it by as much as is not seen of the sky from there
      const stays = f32x4.mul(next, f32x4.sub(one, air));
      const lit0 = f32x4.mul(sunlit, sunPhase);
      const airy0 = air;
      let lit1 = zero;
      let lit2 = zero;
      let lit3 = zero;
      let lit4 = zero;
      let airy1 = zero;
      let airy2 = zero;
      let airy3 = zero;
      let airy4 = zero;
      if (further && octaves > 0) {
        let weight = stays;
        sunlit = f32x4.sqrt(sunlit);
        air = f32x4.sqrt(air);
        lit1 = f32x4.mul(weight, f32x4.mul(sunlit, sunPhase1));
        airy1 = f32x4.mul(weight, air);
        if (octaves > 1) {
          weight = f32x4.mul(weight, stays);
          sunlit = f32x4.sqrt(sunlit);
          air = f32x4.sqrt(air);
          lit2 = f32x4.mul(weight, f32x4.mul(sunlit, sunPhase2));
          airy2 = f32x4.mul(weight, air);
        }

        if (octaves > 2) {
          weight = f32x4.mul(weight, stays);
          sunlit = f32x4.sqrt(sunlit);
          air = f32x4.sqrt(air);
          lit3 = f32x4.mul(weight, f32x4.mul(sunlit, sunPhase3));
          airy3 = f32x4.mul(weight, air);
        }

        if (octaves > 3) {
          weight = f32x4.mul(weight, stays);
          lit4 = f32x4.mul(weight, f32x4.sqrt(sunlit));
          airy4 = f32x4.mul(weight, f32x4.sqrt(air));
        }
      }

      if (grey) {
        const pass = expOfNegative4(own);
        const take = v128.and(some, f32x4.sub(through, f32x4.mul(through, pass)));
        sun0 = mad4(take, lit0, sun0);
        air0 = mad4(take, airy0, air0);
        if (further) {
          sun1 = mad4(take, lit1, sun1);
          air1 = mad4(take, airy1, air1);
          sun2 = mad4(take, lit2, sun2);
          air2 = mad4(take, airy2, air2);
          sun3 = mad4(take, lit3, sun3);
          air3 = mad4(take, airy3, air3);
          sun4 = mad4(take, lit4, sun4);
          air4 = mad4(take, airy4, air4);
        }

        through = pick4(some, f32x4.mul(through, pass), through);
      } else {
        let tr = zero;
        let tg = zero;
        let tb = zero;
        if (m.tint) {
          const a = tintIn(m, m.tint, at, fx, fy, fz, 0);
          const b = tintIn(m, m.tint, at, fx, fy, fz, 1);
          const c = tintIn(m, m.tint, at, fx, fy, fz, 2);
          const d = tintIn(m, m.tint, at, fx, fy, fz, 3);
          tr = partOf4(a, b, c, d, 0);
          tg = partOf4(a, b, c, d, 1);
          tb = partOf4(a, b, c, d, 2);
        }

        let er = tr;
        let eg = tg;
        let eb = tb;
        if (m.takes != m.tint) {
          const a = tintIn(m, m.takes, at, fx, fy, fz, 0);
          const b = tintIn(m, m.takes, at, fx, fy, fz, 1);
          const c = tintIn(m, m.takes, at, fx, fy, fz, 2);
          const d = tintIn(m, m.takes, at, fx, fy, fz, 3);
          er = partOf4(a, b, c, d, 0);
          eg = partOf4(a, b, c, d, 1);
          eb = partOf4(a, b, c, d, 2);
        }

        // by channel: what is taken on the step, and of it what is scattered on
        er = mad4(er, f32x4.splat(s.takes1R), f32x4.splat(s.takes0R));
        eg = mad4(eg, f32x4.splat(s.takes1G), f32x4.splat(s.takes0G));
        eb = mad4(eb, f32x4.splat(s.takes1B), f32x4.splat(s.takes0B));
        const sr = mad4(tr, f32x4.splat(s.scatters1R), f32x4.splat(s.scatters0R));
        const sg = mad4(tg, f32x4.splat(s.scatters1G), f32x4.splat(s.scatters0G));
        const sb = mad4(tb, f32x4.splat(s.scatters1B), f32x4.splat(s.scatters0B));
        const passR = expOfNegative4(f32x4.mul(own, er));
        const passG = expOfNegative4(f32x4.mul(own, eg));
        const passB = expOfNegative4(f32x4.mul(own, eb));
        const least = f32x4.splat(<f32>1e-6);
        const albedoR = f32x4.div(sr, f32x4.pmax(er, least));
        const albedoG = f32x4.div(sg, f32x4.pmax(eg, least));
        const albedoB = f32x4.div(sb, f32x4.pmax(eb, least));
        const takenR = f32x4.mul(through, f32x4.sub(one, passR));
        const takenG = f32x4.mul(throughG, f32x4.sub(one, passG));
        const takenB = f32x4.mul(throughB, f32x4.sub(one, passB));
        if (!senses) {
          let lr = f32x4.splat(0);
          let lg = f32x4.splat(0);
          let lb = f32x4.splat(0);
          if (s.lampCount > 0) {
            const a = lampsIn(s, x, y, z, dx, dy, dz, stays, albedoR, albedoG, albedoB, 0);
            const b = lampsIn(s, x, y, z, dx, dy, dz, stays, albedoR, albedoG, albedoB, 1);
            const c = lampsIn(s, x, y, z, dx, dy, dz, stays, albedoR, albedoG, albedoB, 2);
            const d = lampsIn(s, x, y, z, dx, dy, dz, stays, albedoR, albedoG, albedoB, 3);
            lr = partOf4(a, b, c, d, 0);
            lg = partOf4(a, b, c, d, 1);
            lb = partOf4(a, b, c, d, 2);
          }

          if (s.ambient && stale <= 0) {
            stale = AMBIENT_STEPS;
            const a = aroundIn(s, x, y, z, 0);
            const b = aroundIn(s, x, y, z, 1);
            const c = aroundIn(s, x, y, z, 2);
            const d = aroundIn(s, x, y, z, 3);
            aroundR = partOf4(a, b, c, d, 0);
            aroundG = partOf4(a, b, c, d, 1);
            aroundB = partOf4(a, b, c, d, 2);
          }

          lr = f32x4.add(
            lr,
            allOrders(
              albedoR,
              s.sunR,
              aroundR,
              lit0,
              lit1,
              lit2,
              lit3,
              lit4,
              airy0,
              airy1,
              airy2,
              airy3,
              airy4,
            ),
          );
          lg = f32x4.add(
            lg,
            allOrders(
              albedoG,
              s.sunG,
              aroundG,
              lit0,
              lit1,
              lit2,
              lit3,
              lit4,
              airy0,
              airy1,
              airy2,
              airy3,
              airy4,
            ),
          );
          lb = f32x4.add(
            lb,
            allOrders(
              albedoB,
              s.sunB,
              aroundB,
              lit0,
              lit1,
              lit2,
              lit3,
              lit4,
              airy0,
              airy1,
              airy2,
              airy3,
              airy4,
            ),
          );
          red = mad4(f32x4.mul(takenR, albedoR), lr, red);
          green = mad4(f32x4.mul(takenG, albedoG), lg, green);
          blue = mad4(f32x4.mul(takenB, albedoB), lb, blue);
        }

        through = f32x4.mul(through, passR);
        throughG = f32x4.mul(throughG, passG);
        throughB = f32x4.mul(throughB, passB);
        if (senses) {
          const left = f32x4.add(through, f32x4.add(throughG, throughB));
          const taken = f32x4.mul(f32x4.add(takenR, f32x4.add(takenG, takenB)), f32x4.splat(<f32>1 / 3));
          senseStep(
            s,
            acc,
            v128.and(some, taken),
            own,
            f32x4.mul(left, f32x4.splat(<f32>1 / 3)),
            f32x4.add(first, t),
            x,
            y,
            z,
            at,
            fx,
            fy,
            fz,
            tr,
            tg,
            tb,
          );
        }
      }

      const left = grey ? through : f32x4.pmax(through, f32x4.pmax(throughG, throughB));
      live = v128.and(live, f32x4.lt(cutoff, left));
    }

    stale--;
    k = f32x4.add(k, one);
    t = f32x4.mul(k, ds);
    live = v128.and(live, f32x4.lt(t, end));
    doubtful = v128.andnot(live, some);
  }

  if (senses) {
    keepSenses(s, acc, x0, y0, x1, y1, f32x4.add(through, f32x4.add(throughG, throughB)));
    return;
  }

  if (grey) {
    const albedoR = f32x4.splat(s.scatters0R);
    const albedoG = f32x4.splat(s.scatters0G);
    const albedoB = f32x4.splat(s.scatters0B);
    red = f32x4.mul(
      albedoR,
      allOrders(
        albedoR,
        s.sunR,
        f32x4.splat(s.skyR),
        sun0,
        sun1,
        sun2,
        sun3,
        sun4,
        air0,
        air1,
        air2,
        air3,
        air4,
      ),
    );
    green = f32x4.mul(
      albedoG,
      allOrders(
        albedoG,
        s.sunG,
        f32x4.splat(s.skyG),
        sun0,
        sun1,
        sun2,
        sun3,
        sun4,
        air0,
        air1,
        air2,
        air3,
        air4,
      ),
    );
    blue = f32x4.mul(
      albedoB,
      allOrders(
        albedoB,
        s.sunB,
        f32x4.splat(s.skyB),
        sun0,
        sun1,
        sun2,
        sun3,
        sun4,
        air0,
        air1,
        air2,
        air3,
        air4,
      ),
    );
  }

  const alpha = grey
    ? f32x4.sub(one, through)
    : f32x4.sub(one, f32x4.mul(f32x4.add(through, f32x4.add(throughG, throughB)), f32x4.splat(<f32>1 / 3)));
  const passG = grey ? through : throughG;
  keep(s, x0, y0, x1, y1, red, green, blue, alpha, through, passG, 0);
  keep(s, x0, y0, x1, y1, red, green, blue, alpha, through, passG, 1);
  keep(s, x0, y0, x1, y1, red, green, blue, alpha, through, passG, 2);
  keep(s, x0, y0, x1, y1, red, green, blue, alpha, through, passG, 3);
}

/** Writes one lane of a packet, where it is within the picture. */
// @ts-ignore: decorator
@inline
function keep(
  s: Scene,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  red: v128,
  green: v128,
  blue: v128,
  alpha: v128,
  passR: v128,
  passG: v128,
  lane: i32,
): void {
  const x = x0 + (lane & 1);
  const y = y0 + (lane >> 1);
  if (x >= x1 || y >= y1) return;
  const to = s.image + ((<usize>((y * s.width + x) * PIXEL_FLOATS)) << 2);
  store<f32>(to, laneOf(red, lane));
  store<f32>(to, laneOf(green, lane), 4);
  store<f32>(to, laneOf(blue, lane), 8);
  store<f32>(to, laneOf(alpha, lane), 12);
  store<f32>(to, laneOf(passR, lane), 16);
  store<f32>(to, laneOf(passG, lane), 20);
}

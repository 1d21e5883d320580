// True pictures: unbiased paths (null-scattering form, Miller, Georgiev & Jarosz 2019), many at a time. All
// paths of a worker take the same stage together: free paths through the medium, collisions and surfaces, one
// ray toward each lamp, the next direction. New camera paths take the places of those that have ended. Where
// channels are taken differently, collisions are those of the greatest, and the rest of the others' goes on
// as if nothing had been there (Kutz et al. 2017).
import { environmentAt, environmentTo, skyB, skyDensity, skyG, skyR, skyX, skyY, skyZ } from './environment';
import { mix, named, turnCosine, unit } from './lanes';
import { lampFalls } from './lamps';
import { Medium, tintAt } from './medium';
import { again, Draw, draw, Lamp, LampKind, phaseCosine, phaseOf, Scene, TILE, tilesAcross } from './scene';
import { isHeldBack, meet, metAt, normalX, normalY, normalZ, OFF, Surface, SurfaceSeen } from './surfaces';
import { boundsOf, Sensing } from './sense';
import { prepare, RAY_BYTES, trackCollisions, trackColours, trackThrough } from './track';
import { tellLookUps } from './look-ups';
import { takeRoom } from './rooms';
import { at, get, PathField, PATHS, put, putWord, ROOM, word } from './path-fields';

/**
 * Sums of a pixel: red, green, blue, alpha, squared luminance, in parts of 2³² (any order gives the same
 * sum).
 */
const SUMS: i32 = 5;
const ONE: f64 = 4294967296;
/** What one sample may add; 2²⁰ leaves room for thousands of them. */
const MOST: f64 = 1048576;
/** Events that a path has at the most: collisions that take nothing are many where channels differ. */
const MOST_EVENTS: i32 = 4096;

// @ts-ignore: decorator
@inline
function addTo(p: usize, value: f32): void {
  const v = min<f64>(MOST, max<f64>(-MOST, <f64>value));
  store<i64>(p, load<i64>(p) + <i64>Math.floor(v * ONE + 0.5));
}

/** Adds light that a path brings its pixel to one of the lights apart. */
// @ts-ignore: decorator
@inline
function addApart(s: Scene, room: usize, q: i32, light: i32, r: f32, g: f32, b: f32): void {
  const pixel = light * s.width * s.height + word(room, PathField.PIXEL, q);
  const p = s.apart + ((<usize>pixel * 3) << 3);
  addTo(p, r);
  addTo(p + 8, g);
  addTo(p + 16, b);
}

/**
 * The same to one of the lights apart, and to the order of scattering that it is of, where those are kept.
 */
// @ts-ignore: decorator
@inline
function addKept(s: Scene, room: usize, q: i32, light: i32, vertex: i32, r: f32, g: f32, b: f32): void {
  if (s.lightsApart) addApart(s, room, q, light, r, g, b);
  if (s.orders >= 0) addApart(s, room, q, s.orders + (vertex > 1 ? 1 : 0), r, g, b);
}

/** The second lobe's part where a path scatters. */
// @ts-ignore: decorator
@inline
function lobePart(s: Scene, room: usize, q: i32): f32 {
  return s.mixed ? get(room, PathField.LOBE, q) : s.backPart;
}

/** Ends a path: its light goes to its pixel. */
function finish(s: Scene, room: usize, q: i32, alpha: f32): void {
  const p = s.image + ((<usize>(word(room, PathField.PIXEL, q) * SUMS)) << 3);
  const r = get(room, PathField.LR, q);
  const g = get(room, PathField.LG, q);
  const b = get(room, PathField.LB, q);
  addTo(p, r);
  addTo(p + 8, g);
  addTo(p + 16, b);
  addTo(p + 24, alpha);
  const luminance = <f32>0.2126 * r + <f32>0.7152 * g + <f32>0.0722 * b;
  addTo(p + 32, luminance * luminance);
  if (!s.deep) return;
  const d = deepOf(s, word(room, PathField.PIXEL, q), word(room, PathField.PART, q));
  addTo(d, r);
  addTo(d + 8, g);
  addTo(d + 16, b);
  addTo(d + 24, alpha);
}

/** Sums of a part of a deep pixel: red, green, blue, alpha. The last part is what lies behind the medium. */
// @ts-ignore: decorator
@inline
function deepOf(s: Scene, pixel: i32, part: i32): usize {
  const sensing = changetype<Sensing>(s.sensing);
  const own = pixel - sensing.boundsFrom * sensing.width;
  return s.deep + ((<usize>((own * (sensing.mostBounds + 1) + part) * 4)) << 3);
}

/** Which part of its pixel's ray a place in the medium lies in. */
function partAt(s: Scene, pixel: i32, x: f32, y: f32, z: f32): i32 {
  const sensing = changetype<Sensing>(s.sensing);
  const dx = x - s.eyeX;
  const dy = y - s.eyeY;
  const dz = z - s.eyeZ;
  const far = sqrt<f32>(dx * dx + dy * dy + dz * dz);
  const p = boundsOf(sensing, pixel % sensing.width, pixel / sensing.width);
  const count = load<i32>(p);
  let n = 0;
  while (n < count && load<f32>(p + ((<usize>(n + 1)) << 2)) < far) n++;
  return n;
}

/** Adds the scene's samples to the tiles k0..k1 of its part of the picture. */
export function tracePaths(scene: usize, k0: i32, k1: i32): void {
  const s = changetype<Scene>(scene);
  const n = takeRoom(s.rooms);
  const room = s.rooms + 256 + <usize>n * <usize>s.roomBytes;
  for (let tile = k0; tile < k1; tile++) traceTile(s, room, tile);
  tellLookUps(s.lookUps);
  atomic.store<i32>(s.rooms + ((<usize>n) << 2), 0);
}

function traceTile(s: Scene, room: usize, tile: i32): void {
  const across = tilesAcross(s);
  const x0 = s.fromX + (tile % across) * TILE;
  const y0 = s.fromY + (tile / across) * TILE;
  const x1 = min(x0 + TILE, s.endX);
  const y1 = min(y0 + TILE, s.endY);
  const rays = room + <usize>PathField.COUNT * ROOM + 64;
  let first = s.firstSample;
  let samples = s.samples;
  if (s.shares) {
    const p = s.shares + ((<usize>tile) << 3);
    first = load<i32>(p);
    samples = load<i32>(p, 4);
    if (samples == 0) return;
  }

  let x = x0;
  let y = y0;
  let sample = 0;
  let count = 0;
  for (;;) {
    while (count < PATHS && y < y1) {
      const pixel = y * s.width + x;
      const name = named(<u32>pixel, <u32>(first + sample), s.seed);
      if (startPath(s, room, count, x, y, pixel, name)) count++;
      if (++sample == samples) {
        sample = 0;
        if (++x == x1) {
          x = x0;
          y++;
        }
      }
    }

    if (count == 0) return;
    collisions(s, room, rays, count);
    count = events(s, room, count);
    for (let l = 0; l < s.lampCount; l++) gather(s, room, rays, count, l);
    count = goOn(s, room, count);
  }
}

/** A camera path. @returns whether there is anything that it may meet */
// @ts-ignore: decorator
@inline
function startPath(s: Scene, room: usize, q: i32, x: i32, y: i32, pixel: i32, name: u32): bool {
  let px = <f32>x;
  let py = <f32>y;
  if (s.spread) {
    const u = draw(name, 0, Draw.LENS);
    px += unit(u) - <f32>0.5;
    py += unit(again(u)) - <f32>0.5;
  }

  let dx = s.cornerX + px * s.acrossX + py * s.downX;
  let dy = s.cornerY + px * s.acrossY + py * s.downY;
  let dz = s.cornerZ + px * s.acrossZ + py * s.downZ;
  let x0 = s.eyeX;
  let y0 = s.eyeY;
  let z0 = s.eyeZ;
  if (s.focus > 0) {
    // from a place on the lens to where the ray through its middle meets the plane in focus
    const u = draw(name, 0, Draw.APERTURE);
    const v = unit(again(u));
    const r = sqrt<f32>(unit(u));
    const a = r * turnCosine(v);
    const b = r * turnCosine(v + 0.75);
    const ox = a * s.lensRightX + b * s.lensUpX;
    const oy = a * s.lensRightY + b * s.lensUpY;
    const oz = a * s.lensRightZ + b * s.lensUpZ;
    x0 += ox;
    y0 += oy;
    z0 += oz;
    dx = s.focus * dx - ox;
    dy = s.focus * dy - oy;
    dz = s.focus * dz - oz;
  }

  const scale: f32 = 1 / sqrt<f32>(dx * dx + dy * dy + dz * dz);
  dx *= scale;
  dy *= scale;
  dz *= scale;
  if (s.surfaceCount == 0 && !s.skySeen && !passesBy(s, x0, y0, z0, dx, dy, dz)) return false;
  put(room, PathField.X, q, x0);
  put(room, PathField.Y, q, y0);
  put(room, PathField.Z, q, z0);
  put(room, PathField.DX, q, dx);
  put(room, PathField.DY, q, dy);
  put(room, PathField.DZ, q, dz);
  put(room, PathField.TR, q, 1);
  put(room, PathField.TG, q, 1);
  put(room, PathField.TB, q, 1);
  put(room, PathField.LR, q, 0);
  put(room, PathField.LG, q, 0);
  put(room, PathField.LB, q, 0);
  putWord(room, PathField.NAME, q, name);
  putWord(room, PathField.PIXEL, q, pixel);
  putWord(room, PathField.VERTEX, q, 0);
  putWord(room, PathField.EVENT, q, 0);
  putWord(room, PathField.STOPPED, q, 0);
  if (s.deep) putWord(room, PathField.PART, q, changetype<Sensing>(s.sensing).mostBounds);
  return true;
}

/** Whether a ray meets the medium's box. */
// @ts-ignore: decorator
@inline
function passesBy(s: Scene, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32): bool {
  const m = changetype<Medium>(s.medium);
  const ix: f32 = 1 / (abs<f32>(dx) > 1e-9 ? dx : <f32>1e-9);
  const iy: f32 = 1 / (abs<f32>(dy) > 1e-9 ? dy : <f32>1e-9);
  const iz: f32 = 1 / (abs<f32>(dz) > 1e-9 ? dz : <f32>1e-9);
  const ax = -x * ix;
  const bx = (<f32>(m.nx + 1) - x) * ix;
  const ay = -y * iy;
  const by = (<f32>(m.ny + 1) - y) * iy;
  const az = -z * iz;
  const bz = (<f32>(m.nz + 1) - z) * iz;
  const enter = max<f32>(max<f32>(min<f32>(ax, bx), min<f32>(ay, by)), max<f32>(min<f32>(az, bz), 0));
  return enter < min<f32>(min<f32>(max<f32>(ax, bx), max<f32>(ay, by)), max<f32>(az, bz));
}

const FAR: f32 = 1e9;
/** A triangle of a mesh that glows, see Lamp. */
const GLOWING_BYTES: usize = 40;

/** How far each path goes: to a surface, and before it to a collision. */
function collisions(s: Scene, room: usize, rays: usize, count: i32): void {
  const m = changetype<Medium>(s.medium);
  let n = 0;
  for (let q = 0; q < count; q++) {
    const x = get(room, PathField.X, q);
    const y = get(room, PathField.Y, q);
    const z = get(room, PathField.Z, q);
    const dx = get(room, PathField.DX, q);
    const dy = get(room, PathField.DY, q);
    const dz = get(room, PathField.DZ, q);
    let far = FAR;
    if (s.surfaceCount > 0) {
      const camera = word(room, PathField.VERTEX, q) == 0;
      putWord(room, PathField.SURFACE, q, meet(s.surfaces, s.surfaceCount, x, y, z, dx, dy, dz, FAR, camera));
      far = metAt;
      put(room, PathField.NX, q, normalX);
      put(room, PathField.NY, q, normalY);
      put(room, PathField.NZ, q, normalZ);
      put(room, PathField.LIMIT, q, far);
    }

    put(room, PathField.MET, q, -1);
    const name = draw(word(room, PathField.NAME, q), word(room, PathField.EVENT, q), Draw.FREE);
    if (prepare(m, rays + <usize>n * RAY_BYTES, q, x, y, z, dx, dy, dz, far, name)) n++;
  }

  trackCollisions(s, rays, n, at(room, PathField.MET, 0));
}

/** Copies a path's state to an earlier place. */
// @ts-ignore: decorator
@inline
function move(room: usize, from: i32, to: i32): void {
  if (from == to) return;
  for (let n = 0; n <= <i32>PathField.SURFACE; n++)
    store<u32>(
      room + <usize>n * ROOM + ((<usize>to) << 2),
      load<u32>(room + <usize>n * ROOM + ((<usize>from) << 2)),
    );
}

/**
 * What happens to each path where it has come to: it scatters in the medium or on a surface, goes on where
 * the collision took nothing, or ends. @returns how many are left, those before the others
 */
function events(s: Scene, room: usize, count: i32): i32 {
  let to = 0;
  for (let q = 0; q < count; q++) {
    const met = get(room, PathField.MET, q);
    const goes = met >= 0 ? collide(s, room, q, met) : arrive(s, room, q);
    if (!goes) continue;
    move(room, q, to);
    to++;
  }

  return to;
}

/** A collision in the medium. @returns whether the path goes on */
function collide(s: Scene, room: usize, q: i32, met: f32): bool {
  const m = changetype<Medium>(s.medium);
  const x = get(room, PathField.X, q) + met * get(room, PathField.DX, q);
  const y = get(room, PathField.Y, q) + met * get(room, PathField.DY, q);
  const z = get(room, PathField.Z, q) + met * get(room, PathField.DZ, q);
  let sr = s.scatters0R;
  let sg = s.scatters0G;
  let sb = s.scatters0B;
  let er = s.takes0R;
  let eg = s.takes0G;
  let eb = s.takes0B;
  if (m.tint) {
    const i = <i32>x;
    const j = <i32>y;
    const k = <i32>z;
    const cell = (<usize>(k * m.plane + j * m.row + i)) << 2;
    const c = tintAt(m, m.tint, cell, x - <f32>i, y - <f32>j, z - <f32>k);
    const cr = f32x4.extract_lane(c, 0);
    const cg = f32x4.extract_lane(c, 1);
    const cb = f32x4.extract_lane(c, 2);
    sr += cr * s.scatters1R;
    sg += cg * s.scatters1G;
    sb += cb * s.scatters1B;
    const t = m.takes == m.tint ? c : tintAt(m, m.takes, cell, x - <f32>i, y - <f32>j, z - <f32>k);
    er += f32x4.extract_lane(t, 0) * s.takes1R;
    eg += f32x4.extract_lane(t, 1) * s.takes1G;
    eb += f32x4.extract_lane(t, 2) * s.takes1B;
    if (s.mixed) put(room, PathField.LOBE, q, f32x4.extract_lane(c, 3));
  }

  put(room, PathField.X, q, x);
  put(room, PathField.Y, q, y);
  put(room, PathField.Z, q, z);
  const tr = get(room, PathField.TR, q);
  const tg = get(room, PathField.TG, q);
  const tb = get(room, PathField.TB, q);
  const event = word(room, PathField.EVENT, q) + 1;
  putWord(room, PathField.EVENT, q, event);
  put(room, PathField.NX, q, 0);
  put(room, PathField.NY, q, 0);
  put(room, PathField.NZ, q, 0);
  if (s.chromatic) {
    // what is not taken goes on; which of both happens is drawn by what they weigh
    const scatters = tr * sr + tg * sg + tb * sb;
    const passes = tr * max<f32>(0, 1 - er) + tg * max<f32>(0, 1 - eg) + tb * max<f32>(0, 1 - eb);
    const all = scatters + passes;
    if (all <= 0 || event > MOST_EVENTS) {
      if (s.deep && !word(room, PathField.STOPPED, q))
        putWord(room, PathField.PART, q, partAt(s, word(room, PathField.PIXEL, q), x, y, z));
      finish(s, room, q, 1);
      return false;
    }

    const chance = scatters / all;
    if (unit(draw(word(room, PathField.NAME, q), event, Draw.EVENT)) >= chance) {
      const scale: f32 = 1 / (1 - chance);
      put(room, PathField.TR, q, tr * max<f32>(0, 1 - er) * scale);
      put(room, PathField.TG, q, tg * max<f32>(0, 1 - eg) * scale);
      put(room, PathField.TB, q, tb * max<f32>(0, 1 - eb) * scale);
      // marked as one that only passes
      putWord(room, PathField.SURFACE, q, PASSES);
      return true;
    }

    const scale: f32 = 1 / chance;
    sr *= scale;
    sg *= scale;
    sb *= scale;
  }

  const vertex = word(room, PathField.VERTEX, q) + 1;
  if (s.deep && vertex == 1)
    putWord(room, PathField.PART, q, partAt(s, word(room, PathField.PIXEL, q), x, y, z));
  if (vertex > s.bounces + 1) {
    finish(s, room, q, 1);
    return false;
  }

  put(room, PathField.TR, q, tr * sr);
  put(room, PathField.TG, q, tg * sg);
  put(room, PathField.TB, q, tb * sb);
  putWord(room, PathField.VERTEX, q, vertex);
  putWord(room, PathField.STOPPED, q, 1);
  putWord(room, PathField.SURFACE, q, SCATTERS);
  return true;
}

/** In place of a surface's number. */
const SCATTERS: i32 = -2;
const PASSES: i32 = -3;
const CATCHES: i32 = -4;

/** Light of the environment for a path that leaves. */
// @ts-ignore: decorator
@inline
function toSky(s: Scene, room: usize, q: i32, tr: f32, tg: f32, tb: f32, vertex: i32): void {
  let red = s.skyR;
  let green = s.skyG;
  let blue = s.skyB;
  if (s.sky) {
    environmentAt(s, get(room, PathField.DX, q), get(room, PathField.DY, q), get(room, PathField.DZ, q));
    // the other way to this light is a ray toward it (balance heuristic, Veach 1997)
    let weight: f32 = 1;
    if (vertex > 0) {
      const own = get(room, PathField.DENSITY, q);
      weight = own / (own + skyDensity);
    }

    red = skyR * weight;
    green = skyG * weight;
    blue = skyB * weight;
  }

  if (s.apart) addKept(s, room, q, s.skyApart, vertex, tr * red, tg * green, tb * blue);
  put(room, PathField.LR, q, get(room, PathField.LR, q) + tr * red);
  put(room, PathField.LG, q, get(room, PathField.LG, q) + tg * green);
  put(room, PathField.LB, q, get(room, PathField.LB, q) + tb * blue);
}

/** A path that meets a surface, or leaves. @returns whether it goes on */
function arrive(s: Scene, room: usize, q: i32): bool {
  const tr = get(room, PathField.TR, q);
  const tg = get(room, PathField.TG, q);
  const tb = get(room, PathField.TB, q);
  const vertex = word(room, PathField.VERTEX, q);
  const stopped = word(room, PathField.STOPPED, q);
  const hit = s.surfaceCount > 0 ? word(room, PathField.SURFACE, q) : -1;
  // what the eye sees through the medium counts as not there
  const clear: f32 = stopped ? 1 : 1 - (tr + tg + tb) / 3;
  if (hit < 0) {
    const seen = vertex > 0 || s.skySeen;
    if (seen) toSky(s, room, q, tr, tg, tb, vertex);
    finish(s, room, q, seen ? 1 : clear);
    return false;
  }

  const S = changetype<Surface>(s.surfaces + <usize>hit * offsetof<Surface>());
  if (vertex == 0 && S.seen == SurfaceSeen.HELD_OUT) {
    finish(s, room, q, clear);
    return false;
  }

  const catches = vertex == 0 && S.seen == SurfaceSeen.CATCHER;
  if (!catches && (vertex == 0 || !S.isLamp)) {
    if (s.apart) addKept(s, room, q, s.glowApart, vertex, tr * S.glowR, tg * S.glowG, tb * S.glowB);
    put(room, PathField.LR, q, get(room, PathField.LR, q) + tr * S.glowR);
    put(room, PathField.LG, q, get(room, PathField.LG, q) + tg * S.glowG);
    put(room, PathField.LB, q, get(room, PathField.LB, q) + tb * S.glowB);
  }

  const event = word(room, PathField.EVENT, q) + 1;
  if (
    !catches &&
    (vertex > s.bounces || event > MOST_EVENTS || (S.red <= 0 && S.green <= 0 && S.blue <= 0))
  ) {
    finish(s, room, q, 1);
    return false;
  }

  const far = get(room, PathField.LIMIT, q);
  const off = OFF;
  put(
    room,
    PathField.X,
    q,
    get(room, PathField.X, q) + far * get(room, PathField.DX, q) + off * get(room, PathField.NX, q),
  );
  put(
    room,
    PathField.Y,
    q,
    get(room, PathField.Y, q) + far * get(room, PathField.DY, q) + off * get(room, PathField.NY, q),
  );
  put(
    room,
    PathField.Z,
    q,
    get(room, PathField.Z, q) + far * get(room, PathField.DZ, q) + off * get(room, PathField.NZ, q),
  );
  putWord(room, PathField.EVENT, q, event);
  if (catches) {
    // gathers all light in red, and what arrives of it in green
    putWord(room, PathField.SURFACE, q, CATCHES);
    return true;
  }

  put(room, PathField.TR, q, tr * S.red);
  put(room, PathField.TG, q, tg * S.green);
  put(room, PathField.TB, q, tb * S.blue);
  putWord(room, PathField.VERTEX, q, vertex + 1);
  putWord(room, PathField.STOPPED, q, 1);
  putWord(room, PathField.SURFACE, q, SCATTERS);
  return true;
}

/** Adds what one lamp gives at the places where paths have scattered. */
function gather(s: Scene, room: usize, rays: usize, count: i32, lamp: i32): void {
  const m = changetype<Medium>(s.medium);
  const l = changetype<Lamp>(s.lamps + <usize>lamp * offsetof<Lamp>());
  let n = 0;
  for (let q = 0; q < count; q++) {
    put(room, PathField.GR, q, 0);
    put(room, PathField.GG, q, 0);
    put(room, PathField.GB, q, 0);
    put(room, PathField.PR, q, 1);
    put(room, PathField.PG, q, 1);
    put(room, PathField.PB, q, 1);
    const goes = word(room, PathField.SURFACE, q);
    if (goes != SCATTERS && goes != CATCHES) continue;
    const name = <u32>word(room, PathField.NAME, q);
    const first = draw(name, word(room, PathField.EVENT, q), Draw.LAMP + ((<u32>lamp) << 8));
    const second = again(first);
    let u = unit(first);
    const v = unit(second);
    const x = get(room, PathField.X, q);
    const y = get(room, PathField.Y, q);
    const z = get(room, PathField.Z, q);
    let tx = l.aimX;
    let ty = l.aimY;
    let tz = l.aimZ;
    let a: f32;
    let b: f32;
    if (l.kind == LampKind.RECTANGLE) {
      a = 2 * u - 1;
      b = 2 * v - 1;
    } else {
      // even on a disc; a point lamp of some size is a ball that is seen as one
      u = sqrt<f32>(u);
      a = u * turnCosine(v);
      b = u * turnCosine(v + 0.75);
    }

    let square: f32 = 1;
    let far = FAR;
    let red = l.red;
    let green = l.green;
    let blue = l.blue;
    let density: f32 = 0;
    if (l.kind == LampKind.ENVIRONMENT) {
      environmentTo(s, unit(first), v);
      if (!(skyDensity > 0)) continue;
      density = skyDensity;
      tx = skyX;
      ty = skyY;
      tz = skyZ;
      red = skyR;
      green = skyG;
      blue = skyB;
    } else if (l.kind == LampKind.MESH) {
      const p = triangleOf(l, unit(again(second)));
      const rest: f32 = 1 - u;
      tx = load<f32>(p) + rest * load<f32>(p, 12) + u * v * load<f32>(p, 24) - x;
      ty = load<f32>(p, 4) + rest * load<f32>(p, 16) + u * v * load<f32>(p, 28) - y;
      tz = load<f32>(p, 8) + rest * load<f32>(p, 20) + u * v * load<f32>(p, 32) - z;
      const gx = load<f32>(p, 16) * load<f32>(p, 32) - load<f32>(p, 20) * load<f32>(p, 28);
      const gy = load<f32>(p, 20) * load<f32>(p, 24) - load<f32>(p, 12) * load<f32>(p, 32);
      const gz = load<f32>(p, 12) * load<f32>(p, 28) - load<f32>(p, 16) * load<f32>(p, 24);
      square = max<f32>(tx * tx + ty * ty + tz * tz, 1e-4);
      const distance = sqrt<f32>(square);
      const one: f32 = 1 / distance;
      tx *= one;
      ty *= one;
      tz *= one;
      const size = sqrt<f32>(max<f32>(gx * gx + gy * gy + gz * gz, 1e-20));
      density = (square * size) / max<f32>(l.area * abs<f32>(gx * tx + gy * ty + gz * tz), 1e-12);
      // stops before the surface that glows
      far = max<f32>(0, distance - <f32>2 * OFF);
    } else if (l.kind == LampKind.SUN) {
      tx += a * l.uX + b * l.vX;
      ty += a * l.uY + b * l.vY;
      tz += a * l.uZ + b * l.vZ;
      const one: f32 = 1 / sqrt<f32>(tx * tx + ty * ty + tz * tz);
      tx *= one;
      ty *= one;
      tz *= one;
    } else {
      tx = l.x + a * l.uX + b * l.vX - x;
      ty = l.y + a * l.uY + b * l.vY - y;
      tz = l.z + a * l.uZ + b * l.vZ - z;
      square = tx * tx + ty * ty + tz * tz;
      far = sqrt<f32>(max<f32>(square, 1e-8));
      const one: f32 = 1 / far;
      tx *= one;
      ty *= one;
      tz *= one;
    }

    const nx = get(room, PathField.NX, q);
    const ny = get(room, PathField.NY, q);
    const nz = get(room, PathField.NZ, q);
    // density by solid angle with which a path would go on in this direction
    const goesOn: f32 =
      (nx != 0 || ny != 0 || nz != 0
        ? <f32>4 * max<f32>(0, nx * tx + ny * ty + nz * tz)
        : phaseOf(
            s,
            get(room, PathField.DX, q) * tx +
              get(room, PathField.DY, q) * ty +
              get(room, PathField.DZ, q) * tz,
            lobePart(s, room, q),
          )) * <f32>0.0795774715459477;
    let given = goesOn;
    if (l.kind == LampKind.MESH) given /= density;
    else if (l.kind != LampKind.ENVIRONMENT) given *= lampFalls(l, tx, ty, tz, square);
    // nothing else finds the light of the environment that a catcher gets
    else given /= goes == CATCHES ? density : density + goesOn;
    if (given <= 0) continue;
    if (goes == CATCHES) {
      red = green = blue = <f32>0.2126 * red + <f32>0.7152 * green + <f32>0.0722 * blue;
      put(room, PathField.LR, q, get(room, PathField.LR, q) + given * red);
    }

    if (l.shadows && s.surfaceCount > 0 && isHeldBack(s.surfaces, s.surfaceCount, x, y, z, tx, ty, tz, far))
      continue;
    put(room, PathField.GR, q, given * red);
    put(room, PathField.GG, q, given * green);
    put(room, PathField.GB, q, given * blue);
    if (prepare(m, rays + <usize>n * RAY_BYTES, q, x, y, z, tx, ty, tz, far, mix(first ^ 0x51ed270b))) n++;
  }

  const through = at(room, PathField.PR, 0);
  if (s.chromatic) trackColours(s, rays, n, through, at(room, PathField.PG, 0), at(room, PathField.PB, 0));
  else trackThrough(s, rays, n, through);
  for (let q = 0; q < count; q++) {
    const r = get(room, PathField.PR, q);
    const g = s.chromatic ? get(room, PathField.PG, q) : r;
    const b = s.chromatic ? get(room, PathField.PB, q) : r;
    if (word(room, PathField.SURFACE, q) == CATCHES) {
      const arrives = (get(room, PathField.GR, q) * (r + g + b)) / 3;
      put(room, PathField.LG, q, get(room, PathField.LG, q) + arrives);
      continue;
    }

    const red = get(room, PathField.TR, q) * get(room, PathField.GR, q) * r;
    const green = get(room, PathField.TG, q) * get(room, PathField.GG, q) * g;
    const blue = get(room, PathField.TB, q) * get(room, PathField.GB, q) * b;
    if (s.apart && (red != 0 || green != 0 || blue != 0))
      addKept(s, room, q, l.apart, word(room, PathField.VERTEX, q), red, green, blue);
    put(room, PathField.LR, q, get(room, PathField.LR, q) + red);
    put(room, PathField.LG, q, get(room, PathField.LG, q) + green);
    put(room, PathField.LB, q, get(room, PathField.LB, q) + blue);
  }
}

/** The triangle of a mesh that glows where the part `u` of its area lies. */
function triangleOf(l: Lamp, u: f32): usize {
  let low = 0;
  let high = l.triangleCount - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (load<f32>(l.triangles + <usize>middle * GLOWING_BYTES, 36) > u) high = middle;
    else low = middle + 1;
  }

  return l.triangles + <usize>low * GLOWING_BYTES;
}

/**
 * Sums of a pixel where surfaces catch shadows: how clear the way there is, all light there, what arrives.
 */
const CAUGHT: i32 = 3;

/**
 * Ends a path on a surface that shows only what light is held back from it. What part that is only the sums
 * of many paths tell: those of single ones would count faint light as much as bright.
 */
function catchShadow(s: Scene, room: usize, q: i32): void {
  const clear =
    (get(room, PathField.TR, q) + get(room, PathField.TG, q) + get(room, PathField.TB, q)) / <f32>3;
  const p = s.caught + ((<usize>(word(room, PathField.PIXEL, q) * CAUGHT)) << 3);
  addTo(p, clear);
  addTo(p + 8, clear * get(room, PathField.LR, q));
  addTo(p + 16, clear * get(room, PathField.LG, q));
  put(room, PathField.LR, q, 0);
  put(room, PathField.LG, q, 0);
  finish(s, room, q, 1 - clear);
}

/** Gives paths their next direction; those that carry little end by chance, the others then carry more. */
function goOn(s: Scene, room: usize, count: i32): i32 {
  const isSky = s.sky || s.skyR > 0 || s.skyG > 0 || s.skyB > 0 || s.surfaceCount > 0;
  let to = 0;
  for (let q = 0; q < count; q++) {
    const goes = word(room, PathField.SURFACE, q);
    if (goes == CATCHES) {
      catchShadow(s, room, q);
      continue;
    }

    if (goes == PASSES) {
      move(room, q, to++);
      continue;
    }

    const vertex = word(room, PathField.VERTEX, q);
    if (vertex > s.bounces && !isSky) {
      finish(s, room, q, 1);
      continue;
    }

    const name = word(room, PathField.NAME, q);
    const event = word(room, PathField.EVENT, q);
    const tr = get(room, PathField.TR, q);
    const tg = get(room, PathField.TG, q);
    const tb = get(room, PathField.TB, q);
    const first = draw(name, event, Draw.KEEP);
    const second = again(first);
    const third = again(second);
    const keep = min<f32>(1, 4 * max<f32>(tr, max<f32>(tg, tb)));
    if (unit(first) >= keep) {
      finish(s, room, q, 1);
      continue;
    }

    if (keep < 1) {
      put(room, PathField.TR, q, tr / keep);
      put(room, PathField.TG, q, tg / keep);
      put(room, PathField.TB, q, tb / keep);
    }

    const nx = get(room, PathField.NX, q);
    const ny = get(room, PathField.NY, q);
    const nz = get(room, PathField.NZ, q);
    const isSurface = nx != 0 || ny != 0 || nz != 0;
    // about the way of travel, or about the normal evenly by its cosine
    const dx = isSurface ? nx : get(room, PathField.DX, q);
    const dy = isSurface ? ny : get(room, PathField.DY, q);
    const dz = isSurface ? nz : get(room, PathField.DZ, q);
    const u = unit(second);
    const cosine = isSurface ? sqrt<f32>(1 - u) : phaseCosine(s, u, unit(again(third)), lobePart(s, room, q));
    const sine = sqrt<f32>(max<f32>(0, 1 - cosine * cosine));
    const v = unit(third);
    const c1 = sine * turnCosine(v);
    const c2 = sine * turnCosine(v + 0.75);
    // a frame about the direction (Duff et al. 2017)
    const sign: f32 = dz < 0 ? -1 : 1;
    const a: f32 = -1 / (sign + dz);
    const b = dx * dy * a;
    const ox = (<f32>1 + sign * dx * dx * a) * c1 + b * c2 + dx * cosine;
    const oy = sign * b * c1 + (sign + dy * dy * a) * c2 + dy * cosine;
    const oz = -sign * dx * c1 - dy * c2 + dz * cosine;
    const scale: f32 = 1 / sqrt<f32>(ox * ox + oy * oy + oz * oz);
    put(room, PathField.DX, q, ox * scale);
    put(room, PathField.DY, q, oy * scale);
    put(room, PathField.DZ, q, oz * scale);
    if (s.sky)
      put(
        room,
        PathField.DENSITY,
        q,
        (isSurface ? <f32>4 * cosine : phaseOf(s, cosine, lobePart(s, room, q))) * <f32>0.0795774715459477,
      );
    move(room, q, to++);
  }

  return to;
}

// What is known of the paths that a worker has on their way, as they lie in its memory.

/** Paths that a worker has on their way. */
export const PATHS: i32 = 256;

/** A path's state, a float or a word each; one array after the other. */
export const enum PathField {
  X,
  Y,
  Z,
  DX,
  DY,
  DZ,
  /** Throughput, and light gathered. */
  TR,
  TG,
  TB,
  LR,
  LG,
  LB,
  /** Normal of the surface that it stands on; 0 in the medium. */
  NX,
  NY,
  NZ,
  /**
   * Name, pixel, scatterings so far, events so far, and whether it has been stopped on its way to the eye.
   */
  NAME,
  PIXEL,
  VERTEX,
  EVENT,
  STOPPED,
  /** Part of the second lobe where it scattered last, in a mixture of media. */
  LOBE,
  /** Density by solid angle with which its direction was drawn. */
  DENSITY,
  /** Of a deep pixel: which part its light goes to. */
  PART,
  /** Which surface it comes to, and how far off that is. */
  SURFACE,
  LIMIT,
  /** How far to the collision. */
  MET,
  /** What a lamp gives through nothing, and what arrives of it by channel. */
  GR,
  GG,
  GB,
  PR,
  PG,
  PB,
  COUNT,
}
export const ROOM: usize = (<usize>PATHS) << 2;

// @ts-ignore: decorator
@inline
export function at(room: usize, what: PathField, path: i32): usize {
  return room + <usize>what * ROOM + ((<usize>path) << 2);
}

// @ts-ignore: decorator
@inline
export function get(room: usize, what: PathField, path: i32): f32 {
  return load<f32>(at(room, what, path));
}

// @ts-ignore: decorator
@inline
export function put(room: usize, what: PathField, path: i32, value: f32): void {
  store<f32>(at(room, what, path), value);
}

// @ts-ignore: decorator
@inline
export function word(room: usize, what: PathField, path: i32): i32 {
  return load<i32>(at(room, what, path));
}

// @ts-ignore: decorator
@inline
export function putWord(room: usize, what: PathField, path: i32, value: i32): void {
  store<i32>(at(room, what, path), value);
}

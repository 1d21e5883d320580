// What a picture is made from, as the kernels read it: camera, medium's colours, lamps, environment, samples.
// Places are a Medium's, counted in cells; directions are unit vectors unless they say otherwise.
import { mix, named } from './lanes';

/** What a lamp is. */
export const enum LampKind {
  SUN = 0,
  POINT = 1,
  SPOT = 2,
  RECTANGLE = 3,
  DISC = 4,
  /** All directions at once, by the scene's environment; true pictures only. */
  ENVIRONMENT = 5,
  /** Triangles that glow on both sides; true pictures only. */
  MESH = 6,
}


@unmanaged
export class Lamp {
  kind: i32;
  /** Whether what stands in its way holds it back; the medium always does, by the scene's shadow strength. */
  shadows: i32;
  /** Middle, in cells; a sun has none. */
  x: f32;
  y: f32;
  z: f32;
  /** Toward a sun; the way in which any other shines. */
  aimX: f32;
  aimY: f32;
  aimZ: f32;
  /** Half its extent along two directions across, in cells; of a sun the tangent of its angular radius. */
  uX: f32;
  uY: f32;
  uZ: f32;
  vX: f32;
  vY: f32;
  vZ: f32;
  /** Irradiance square to it: of a sun anywhere, of the others at one cell's distance along its aim. */
  red: f32;
  green: f32;
  blue: f32;
  /** Cosines of a spot's half-angle, and of where it begins to fade. */
  cosineEnd: f32;
  cosineFull: f32;
  /** Quick pictures: transmittance toward it at every second value, floats; see marchLamp. */
  lit: usize;
  /** How far around its middle nothing holds it back, cells: it stands for a surface that glows there. */
  within: f32;
  /**
   * Of a mesh: how many triangles, and for each a corner, its two sides from there and the part of all area
   * up to its end; and all area, square cells.
   */
  triangles: usize;
  triangleCount: i32;
  area: f32;
  /** Which of the lights apart it belongs to. */
  apart: i32;
}


@unmanaged
export class Scene {
  /** A Medium. */
  medium: usize;
  /** The eye, and the direction of pixel (0, 0) and its change along x and y, not normalised. */
  eyeX: f32;
  eyeY: f32;
  eyeZ: f32;
  cornerX: f32;
  cornerY: f32;
  cornerZ: f32;
  acrossX: f32;
  acrossY: f32;
  acrossZ: f32;
  downX: f32;
  downY: f32;
  downZ: f32;
  /** Pixels across and down; the part of them that is rendered, from and behind the last. */
  width: i32;
  height: i32;
  fromX: i32;
  fromY: i32;
  endX: i32;
  endY: i32;
  /** Metres of a cell. */
  metre: f32;
  /**
   * Of what the extinction takes, by channel: the part that it takes of the channel, and the part that is
   * scattered on; each at colour 0, and what colour 1 adds.
   */
  takes0R: f32;
  takes0G: f32;
  takes0B: f32;
  takes1R: f32;
  takes1G: f32;
  takes1B: f32;
  scatters0R: f32;
  scatters0G: f32;
  scatters0B: f32;
  scatters1R: f32;
  scatters1G: f32;
  scatters1B: f32;
  /** Mean colour of all the medium, and of what says what is taken. */
  meanR: f32;
  meanG: f32;
  meanB: f32;
  meanTakesR: f32;
  meanTakesG: f32;
  meanTakesB: f32;
  /** Whether extinction differs by channel. */
  chromatic: i32;
  /** Phase function: asymmetries of two lobes and the second one's part. */
  forward: f32;
  backward: f32;
  backPart: f32;
  /** Whether the second lobe's part is the fourth of the medium's colour, in true pictures. */
  mixed: i32;
  /** Extinction toward lamps against that toward the eye. */
  shadow: f32;
  /** Toward the first sun (quick pictures), and 4π times the radiance that it gives an even scatterer. */
  toSunX: f32;
  toSunY: f32;
  toSunZ: f32;
  sunR: f32;
  sunG: f32;
  sunB: f32;
  /** Radiance of the even part of the environment. */
  skyR: f32;
  skyG: f32;
  skyB: f32;
  /** Radiance by direction, see environment.ts; 0 where all of it is even. */
  sky: usize;
  /** Values along a side of that, without its ring, and what they are multiplied by. */
  skySide: i32;
  skyGain: f32;
  /** Whether the eye sees the environment behind everything. */
  skySeen: i32;
  lamps: usize;
  lampCount: i32;
  /** How many stand there, those without a light of their own in quick pictures too. */
  allLamps: i32;
  /** Quick pictures: cells from sample to sample, and orders of scattering after the first. */
  step: f32;
  octaves: i32;
  /**
   * True pictures: the samples of this run, scatterings after the first, whether samples spread in a pixel.
   */
  firstSample: i32;
  samples: i32;
  bounces: i32;
  spread: i32;
  seed: u32;
  /** A float a pixel: how far it sees before something solid stands there, cells; 0: nothing stands. */
  limits: usize;
  image: usize;
  /**
   * True pictures, where surfaces catch shadows: sums of a pixel, see catchShadow of path.ts; else 0.
   */
  caught: usize;
  /**
   * True pictures with each light apart: three sums a pixel for each, one picture after the other; else 0.
   * What comes from all round and what glows have places of their own among them.
   */
  apart: usize;
  /**
   * Whether lights are among them, and which picture is that of single scattering, the next of the rest; or
   * −1.
   */
  lightsApart: i32;
  orders: i32;
  skyApart: i32;
  glowApart: i32;
  /** Quick pictures: whether surfaces show their own glow. */
  glows: i32;
  /** Surfaces of the scene and how many. */
  surfaces: usize;
  surfaceCount: i32;
  rooms: usize;
  roomBytes: i32;
  /**
   * Quick pictures with solids: light from all round, see ambient.ts; 0 where the sky is all there is. Its
   * values, its rays, their directions and how many; its first place and its steps, cells.
   */
  ambient: usize;
  ambientRays: usize;
  ambientDirections: usize;
  ambientWays: i32;
  ambientX: f32;
  ambientY: f32;
  ambientZ: f32;
  ambientStepX: f32;
  ambientStepY: f32;
  ambientStepZ: f32;
  /**
   * Half the width of the lens along the picture's axes, cells, and how far ahead is in focus, cells; 0:
   * everything is.
   */
  lensRightX: f32;
  lensRightY: f32;
  lensRightZ: f32;
  lensUpX: f32;
  lensUpY: f32;
  lensUpZ: f32;
  focus: f32;
  /** True pictures: for each tile its first sample and how many, whole numbers; 0: all tiles are alike. */
  shares: usize;
  /** True pictures that are deep: sums by parts of the pixels' rays, see path.ts; else 0. */
  deep: usize;
  /** What is sensed along the rays besides light, a Sensing; 0: nothing. */
  sensing: usize;
  /** Where look-ups of the extinction are counted, a whole number of 64 bits; 0: nowhere. */
  lookUps: usize;
}

/**
 * Floats a pixel of a quick picture: premultiplied red, green, blue, alpha, and what is let through of red
 * and green.
 */
export const PIXEL_FLOATS: i32 = 6;

/** Pixels along a side of what a worker takes at a time. */
export const TILE: i32 = 32;

// @ts-ignore: decorator
@inline
export function tilesAcross(s: Scene): i32 {
  return (s.endX - s.fromX + TILE - 1) / TILE;
}

// @ts-ignore: decorator
@inline
export function lobe(g: f32, cosine: f32): f32 {
  const b: f32 = 1 + g * g - 2 * g * cosine;
  return (1 - g * g) / (b * sqrt<f32>(b));
}

/** 4π times the phase function; cosine between the ways of travel, and the second lobe's part. */
// @ts-ignore: decorator
@inline
export function phaseOf(s: Scene, cosine: f32, backPart: f32): f32 {
  const first = lobe(s.forward, cosine);
  return backPart > 0 ? first + backPart * (lobe(s.backward, cosine) - first) : first;
}

/** A cosine by the phase function, from two numbers that are even in (0, 1). */
// @ts-ignore: decorator
@inline
export function phaseCosine(s: Scene, u: f32, which: f32, backPart: f32): f32 {
  const g = which < backPart ? s.backward : s.forward;
  if (abs(g) < 1e-3) return 1 - 2 * u;
  const square: f32 = g * g;
  const k: f32 = (<f32>1 - square) / (<f32>1 - g + <f32>2 * g * u);
  return max<f32>(-1, min<f32>(1, (<f32>1 + square - k * k) / (<f32>2 * g)));
}

/** Draws: parts of a name, see lanes.ts. */
export const enum Draw {
  LENS = 1,
  FREE = 2,
  LAMP = 3,
  EVENT = 4,
  KEEP = 5,
  ENTER = 6,
  APERTURE = 7,
}

/** A word for a path's vertex. */
// @ts-ignore: decorator
@inline
export function draw(path: u32, vertex: i32, what: u32): u32 {
  return named(path, <u32>vertex, what);
}

// @ts-ignore: decorator
@inline
export function again(word: u32): u32 {
  return mix(word + 0x9e3779b9);
}

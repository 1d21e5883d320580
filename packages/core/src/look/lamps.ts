// The lamps of a look on the medium's lattice, and what glows or lights from all round as lamps.
import type { Mesh } from '../geometry/mesh';
import type { CellShape } from '../geometry/shape';
import type { Triple } from '../math/vector';
import { directionOf, frameAbout, powerOf, type LightPart, type Look } from './look';
import type { SeenMedium } from './medium';
import type { SeenSolid } from './seen-solids';
import { placeOn } from './solids';

/** What the light from all round, and of what glows, is called apart. */
export const SKY_APART = 'environment';
export const GLOW_APART = 'glow';

export interface CompiledLamp {
  /** Which light it belongs to, as it is called apart. */
  readonly apart: string;
  readonly kind: LightPart['kind'] | 'environment' | 'mesh';
  /** Which pictures it lights: a true one may know better. */
  readonly lights: 'all' | 'quick' | 'true';
  readonly shadows: boolean;
  /** Place on the medium's lattice. */
  readonly place: Triple;
  readonly aim: Triple;
  readonly u: Triple;
  readonly v: Triple;
  /** Irradiance: of a sun anywhere, else at the distance of one cell. */
  readonly power: Triple;
  readonly cosineEnd: number;
  readonly cosineFull: number;
  /** How far around its middle nothing holds it back, cells. */
  readonly within: number;
  /** Of a mesh: triangles as the kernels' Lamp says, and all area in square cells. */
  readonly glowing: { readonly triangles: Float32Array; readonly area: number } | null;
}

const IRRADIANCE = 4 * Math.PI;
/** A corner, two sides, and the part of all area up to its end. */
const GLOWING_FLOATS = 10;

const lampLike = (
  kind: CompiledLamp['kind'],
  lights: CompiledLamp['lights'],
  apart: string,
): CompiledLamp => ({
  apart,
  kind,
  lights,
  shadows: true,
  place: [0, 0, 0],
  aim: [0, 1, 0],
  u: [0, 0, 0],
  v: [0, 0, 0],
  power: [0, 0, 0],
  cosineEnd: 0,
  cosineFull: 0,
  within: 0,
  glowing: null,
});

/** The environment of true pictures, which its directions are drawn of. */
export const skyLamp = ({ solids }: Look): CompiledLamp => ({
  ...lampLike('environment', 'true', SKY_APART),
  shadows: solids.shadows,
});

/** A part of the environment as quick pictures have it. */
export const skySun = ({ solids }: Look, toward: Triple, irradiance: Triple): CompiledLamp => ({
  ...lampLike('sun', 'quick', SKY_APART),
  shadows: solids.shadows,
  aim: toward,
  power: irradiance,
});

/**
 * What glows, as lamps: a mesh by its triangles in true pictures; in quick ones a ball of light with as much
 * area, which shines alike all round.
 */
export function glowLamps(
  { solid, glow }: SeenSolid,
  { corner, voxelSizeM: h }: SeenMedium,
): { readonly true: readonly CompiledLamp[]; readonly quick: CompiledLamp } {
  const { shape, cellM, mesh } = solid;
  const half = shape.half.map((v) => (v * cellM) / h);
  const centre = placeOn(
    corner,
    h,
    shape.centre.map((c) => c * cellM),
  );
  const glowing = mesh ? glowingTriangles(mesh, shape.toOwn, centre, h) : null;
  const [x, y, z] = half;
  // a body without dents shows a quarter of its surface from anywhere, a sheet half of what it has on one
  // side
  const shown = glowing ? glowing.area / (glowing.isClosed ? 4 : 2) : Math.PI * ((x * y + y * z + z * x) / 3);
  return {
    true: glowing ? [{ ...lampLike('mesh', 'true', GLOW_APART), power: glow, glowing }] : [],
    quick: {
      ...lampLike('point', 'quick', GLOW_APART),
      place: glowing?.middle ?? centre,
      power: glow.map((g) => g * shown) as Triple,
      within: glowing?.reach ?? Math.hypot(...half),
    },
  };
}

interface Glowing {
  /** As the kernels' Lamp has them. */
  readonly triangles: Float32Array;
  /** In square cells, one side of each triangle. */
  readonly area: number;
  readonly middle: Triple;
  /** How far its corners lie from there, cells. */
  readonly reach: number;
  /** Its faces look all ways alike. */
  readonly isClosed: boolean;
}

function glowingTriangles(
  { positions, triangles }: Mesh,
  toOwn: CellShape['toOwn'],
  centre: Triple,
  h: number,
): Glowing {
  const count = triangles.length / 3;
  const out = new Float32Array(count * GLOWING_FLOATS);
  const cornerOf = (t: number, v: number): number[] => {
    const own = [0, 1, 2].map((a) => positions[3 * triangles[3 * t + v] + a] / h);
    return [0, 1, 2].map((a) => centre[a] + own.reduce((sum, w, b) => sum + toOwn[b][a] * w, 0));
  };

  let area = 0;
  const middle = [0, 0, 0];
  const facing = [0, 0, 0];
  for (let t = 0; t < count; t++) {
    const at = t * GLOWING_FLOATS;
    const p = cornerOf(t, 0);
    const [a, b] = [1, 2].map((v) => cornerOf(t, v).map((w, axis) => w - p[axis]));
    const normal = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
    const own = Math.hypot(...normal) / 2;
    out.set([...p, ...a, ...b], at);
    area += own;
    out[at + GLOWING_FLOATS - 1] = area;
    for (let axis = 0; axis < 3; axis++) {
      middle[axis] += own * (p[axis] + (a[axis] + b[axis]) / 3);
      facing[axis] += normal[axis] / 2;
    }
  }

  for (let t = 1; t <= count; t++) out[t * GLOWING_FLOATS - 1] /= area;
  const mean = middle.map((v) => v / area) as Triple;
  let reach = 0;
  for (let t = 0; t < count; t++)
    for (let v = 0; v < 3; v++)
      reach = Math.max(reach, Math.hypot(...cornerOf(t, v).map((w, axis) => w - mean[axis])));
  return { triangles: out, area, middle: mean, reach, isClosed: Math.hypot(...facing) < 0.01 * area };
}

/** All lamps that give light, the key sun last: quick pictures have it from its light volume. */
export function lampsOf(
  lights: readonly LightPart[],
  key: LightPart | undefined,
  { corner, voxelSizeM: h }: SeenMedium,
): CompiledLamp[] {
  const on = lights.filter((l) => l.on && l !== key);
  return (key ? [...on, key] : on)
    .map((l) => lampOf(l, corner, h))
    .filter(({ power }) => power.some((p) => p > 0));
}

function lampOf(l: LightPart, corner: Triple, h: number): CompiledLamp {
  const isSun = l.kind === 'sun';
  const away = l.position.map((v, a) => l.aim[a] - v);
  const long = Math.hypot(...away);
  const points = l.kind === 'point' || long === 0;
  const aim = isSun ? directionOf(l) : ((points ? [0, -1, 0] : away.map((v) => v / long)) as Triple);
  const { right, up } = frameAbout(aim);
  const times = (v: Triple, s: number): Triple => v.map((x) => x * s) as Triple;
  const sunReach = Math.tan((l.angle * Math.PI) / 360);
  const reach = {
    sun: [sunReach, sunReach],
    rectangle: [l.width / 2 / h, l.length / 2 / h],
    disc: [l.radius / h, l.radius / h],
    spot: [l.radius / h, l.radius / h],
    point: [l.radius / h, l.radius / h],
  }[l.kind];
  const half = (l.cone * Math.PI) / 360;
  // one metre is 1 / h cells, and light falls by the square
  const scale = isSun ? IRRADIANCE : IRRADIANCE / (h * h);
  return {
    ...lampLike(l.kind, 'all', l.id),
    shadows: l.shadows,
    place: placeOn(corner, h, l.position),
    aim,
    u: times(right, reach[0]),
    v: times(up, reach[1]),
    power: powerOf(l).map((p) => p * scale) as Triple,
    cosineEnd: Math.cos(half),
    cosineFull: Math.cos(half * (1 - l.soft)),
  };
}

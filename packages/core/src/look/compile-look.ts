// A look and a volume to flat numbers that the kernels of light read; nothing else reaches them.
import { FileError } from '../files/bytes';
import type { Texture } from '../files/picture';
import type { Mesh } from '../geometry/mesh';
import type { CellShape } from '../geometry/shape';
import type { Triple } from '../math/vector';
import { valueAt } from '../recipe/profile';
import { environmentOf, evenEnvironment, type Environment } from './environment';
import { directionOf, frameAbout, keySun, powerOf, skyOf, type LightPart, type Look } from './look';
import { groundAt, placeOn, type Solid } from './solids';

/** A density to be seen, and what may colour it: tight values, x fastest, and where they are. */
export interface Volume {
  readonly dims: Triple;
  readonly density: Float32Array;
  /** World position of its least corner, m. */
  readonly corner: Triple;
  readonly voxelSizeM: number;
  /** Red, green and blue that it carries, an array each. */
  readonly colour?: readonly Float32Array[];
  /** Other channels that a ramp may run over. */
  readonly channels?: Readonly<Partial<Record<'temperature' | 'age' | 'speed', Float32Array>>>;
}

/** The part of a volume that holds something, with its colours. */
export interface SeenMedium {
  readonly dims: Triple;
  readonly corner: Triple;
  readonly voxelSizeM: number;
  /** As simulated, 0 where it is clipped. */
  readonly density: Float32Array;
  /** Four 16-bit parts of one a value; null where the colour is the same everywhere. */
  readonly tint: Uint16Array | null;
  /** 1025 values over density 0…`most`; null where it is shown as it is. */
  readonly curve: { readonly values: Float32Array; readonly most: number } | null;
  /** Extinction a cell at density 1. */
  readonly sigma: number;
}

/**
 * By channel, at colour 0 and what colour 1 adds: part of the extinction that takes, and that scatters on.
 */
export interface Taking {
  readonly takes0: Triple;
  readonly takes1: Triple;
  readonly scatters0: Triple;
  readonly scatters1: Triple;
  readonly isChromatic: boolean;
}

export interface CompiledLamp {
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

/** A solid as the look shows it. */
export interface SeenSolid {
  readonly solid: Solid;
  readonly seen: 'seen' | 'held-out' | 'catcher' | 'unseen';
  readonly shadows: boolean;
  readonly colour: Triple;
  /** Radiance of its own. */
  readonly glow: Triple;
  /** A lamp gives its glow to what is not the eye. */
  readonly isLamp: boolean;
}

export interface CompiledLook {
  readonly look: Look;
  readonly medium: SeenMedium;
  readonly taking: Taking;
  /** Those of true pictures alone, those of both with the key sun last, those of quick pictures alone. */
  readonly lamps: readonly CompiledLamp[];
  readonly sun: ReturnType<typeof keySun>;
  /** Radiance of an environment that is even; of another the even part that quick pictures have. */
  readonly sky: Triple;
  readonly environment: Environment | null;
  /** What the environment's values are multiplied by. */
  readonly skyGain: number;
  readonly solids: readonly SeenSolid[];
}

/** What of a look's world does not stand in it. */
export interface Surroundings {
  readonly solids?: readonly Solid[];
  /** The environment's picture, where the look has one. */
  readonly picture?: Texture;
}

const CURVE_STEPS = 1024;

/** @throws FileError where the look asks for a channel or a picture that is not there */
export function compileLook(
  look: Look,
  volume: Volume,
  { solids = [], picture }: Surroundings = {},
): CompiledLook {
  const taking = takingOf(look.medium);
  const medium = seenMedium(look.medium, volume, taking.greatest);
  const key = look.lights.find((l) => l.on && l.kind === 'sun');
  const seen = seenSolids(look, solids);
  const environment = environmentFor(look, picture, seen);
  const gain = look.sky.kind === 'picture' ? 2 ** look.sky.stops : 1;
  const times = (v: Triple): Triple => v.map((x) => x * gain) as Triple;
  const sky = environment ? times(environment.even) : skyOf(look);
  const glows = seen.filter((s) => s.glow.some((g) => g > 0)).map((s) => glowLamps(s, medium));
  return {
    look,
    medium,
    taking,
    lamps: [
      ...(environment ? [skyLamp(look)] : []),
      ...glows.flatMap(({ true: own }) => own),
      ...lampsOf(look.lights, key, medium),
      ...glows.map(({ quick }) => quick),
      ...(environment?.suns ?? []).map(({ toward, irradiance }) => ({
        ...lampLike('sun', 'quick'),
        shadows: look.solids.shadows,
        aim: toward,
        power: times(irradiance),
      })),
    ],
    sun: keySun(look),
    sky,
    environment,
    skyGain: gain,
    solids: seen,
  };
}

function environmentFor(
  look: Look,
  picture: Texture | undefined,
  solids: readonly SeenSolid[],
): Environment | null {
  const { kind, turn } = look.sky;
  if (kind === 'picture') {
    if (!picture)
      throw new FileError(
        look.sky.picture === ''
          ? 'Its environment has no picture yet. Choose one in Light, or an even environment'
          : 'The picture of its environment is not among the shot’s files',
      );
    return environmentOf(picture, turn);
  }

  // what catches shadows has to draw directions to know what is held back
  const sky = skyOf(look);
  const catches = solids.some((s) => s.seen === 'catcher');
  return catches && sky.some((v) => v > 0) ? evenEnvironment(sky) : null;
}

/** Obstacles, vessels and the ground as they are seen, with what is said of one alone. */
function seenSolids(look: Look, solids: readonly Solid[]): SeenSolid[] {
  const { solids: all, surfaces } = look;
  const ways = { obstacle: all.seen, vessel: all.vessels, ground: all.ground } as const;
  const wayOf = ({ kind }: Solid): SeenSolid['seen'] => {
    const way = ways[kind];
    return way === 'none' ? 'unseen' : way;
  };

  const plain = (solid: Solid): SeenSolid => ({
    solid,
    seen: wayOf(solid),
    shadows: solid.kind !== 'vessel' && all.shadows,
    colour: { obstacle: all.colour, vessel: all.walls, ground: all.floor }[solid.kind],
    glow: [0, 0, 0],
    isLamp: false,
  });
  return [...solids, ...(all.ground === 'none' ? [] : [groundAt(all.level)])].flatMap((solid) => {
    const own = surfaces.find((s) => s.on && s.of !== '' && s.of === solid.id);
    const usual = plain(solid);
    // what is not seen at all does not stand there, unless somebody says so of it alone
    if (!own) return usual.seen === 'unseen' ? [] : [usual];
    const glow = own.glows ? (own.glow.map((v) => v * 2 ** own.stops) as Triple) : usual.glow;
    return [
      {
        ...usual,
        seen: own.seen,
        shadows: solid.kind !== 'vessel' && own.shadows,
        colour: own.colour,
        glow,
        isLamp: solid.mesh !== null && glow.some((g) => g > 0),
      },
    ];
  });
}

function takingOf({
  scatter,
  absorb,
  colour,
  colours,
}: Look['medium']): Taking & { readonly greatest: number } {
  const all = scatter.map((s, c) => s + absorb[c]);
  const greatest = Math.max(...all);
  const part = (v: readonly number[]): Triple => v.map((x) => (greatest > 0 ? x / greatest : 0)) as Triple;
  const none: Triple = [0, 0, 0];
  const inks = colour !== 'even' && colours === 'absorb';
  const veils = colour !== 'even' && !inks;
  return {
    greatest,
    takes0: part(all),
    takes1: inks ? part(absorb.map((a) => -a)) : none,
    scatters0: veils ? none : part(scatter),
    scatters1: veils ? part(scatter) : none,
    isChromatic: inks || all.some((v) => v !== greatest),
  };
}

/** Cuts out the box that holds something, and looks colours up. */
function seenMedium(settings: Look['medium'], volume: Volume, greatest: number): SeenMedium {
  const { dims, density, corner, voxelSizeM } = volume;
  const [nx, ny, nz] = dims;
  const least = settings.clip;
  const from = [nx, ny, nz];
  const to = [-1, -1, -1];
  for (let k = 0, row = 0; k < nz; k++)
    for (let j = 0; j < ny; j++, row += nx) {
      let first = 0;
      while (first < nx && !(density[row + first] > least)) first++;
      if (first === nx) continue;
      let last = nx - 1;
      while (!(density[row + last] > least)) last--;
      from[0] = Math.min(from[0], first);
      to[0] = Math.max(to[0], last);
      from[1] = Math.min(from[1], j);
      to[1] = Math.max(to[1], j);
      from[2] = Math.min(from[2], k);
      to[2] = Math.max(to[2], k);
    }

  if (to[0] < 0) {
    from.fill(0);
    to.fill(0);
  }

  const size = from.map((f, a) => to[a] - f + 1) as Triple;
  const own = new Float32Array(size[0] * size[1] * size[2]);
  for (let k = 0, n = 0; k < size[2]; k++)
    for (let j = 0; j < size[1]; j++, n += size[0]) {
      const row = ((k + from[2]) * ny + j + from[1]) * nx + from[0];
      own.set(density.subarray(row, row + size[0]), n);
    }

  if (least > 0) for (let n = 0; n < own.length; n++) if (own[n] <= least) own[n] = 0;
  // what is not a number would go through every sum
  for (let n = 0; n < own.length; n++) if (!(own[n] < Infinity)) own[n] = 0;
  const cut = corner.map((c, a) => c + from[a] * voxelSizeM) as Triple;
  const curve =
    settings.remap === 'drawn'
      ? {
          values: Float32Array.from(
            { length: CURVE_STEPS + 1 },
            (_, n) => settings.full * valueAt(settings.curve, n / CURVE_STEPS),
          ),
          most: settings.full,
        }
      : null;
  return {
    dims: size,
    corner: cut,
    voxelSizeM,
    density: own,
    tint: settings.colour === 'even' ? null : tintOf(settings, volume, from, size),
    curve,
    sigma: settings.density * greatest * voxelSizeM,
  };
}

function tintOf(
  settings: Look['medium'],
  volume: Volume,
  from: readonly number[],
  size: Triple,
): Uint16Array {
  const [nx, ny] = volume.dims;
  const out = new Uint16Array(4 * size[0] * size[1] * size[2]);
  const put = (n: number, c: number, v: number): void => {
    out[4 * n + c] = Math.round(65535 * Math.min(1, Math.max(0, v)));
  };

  const colourAt = colouring(settings, volume);
  for (let k = 0, n = 0; k < size[2]; k++)
    for (let j = 0; j < size[1]; j++)
      for (let i = 0; i < size[0]; i++, n++) {
        const at = ((k + from[2]) * ny + j + from[1]) * nx + i + from[0];
        for (let c = 0; c < 3; c++) put(n, c, colourAt(at, j + from[1], c));
      }

  return out;
}

/** The colour of a voxel by its place in the volume's arrays, its row and the part that is asked for. */
function colouring(
  settings: Look['medium'],
  { density, colour, channels, corner, voxelSizeM }: Volume,
): (at: number, row: number, part: number) => number {
  if (settings.colour === 'carried') {
    if (!colour)
      throw new FileError(
        'Its medium carries no colour. Keep the colour in Set up and bake again, or choose another ' +
          'colour in Light',
      );
    return (at, _, c) => colour[c][at];
  }

  const { channel, low, high, first, last } = settings;
  const span = high === low ? 1 : high - low;
  const mixed = (value: number, c: number): number => {
    const t = Math.min(1, Math.max(0, (value - low) / span));
    return first[c] + t * (last[c] - first[c]);
  };

  if (channel === 'height') return (_, row, c) => mixed(corner[1] + (row + 0.5) * voxelSizeM, c);
  const values = channel === 'density' ? density : channels?.[channel];
  if (!values)
    throw new FileError(
      `Its frames hold no ${channel}. Keep it in Set up and bake again, or let the ramp run over ` +
        'something else',
    );
  return (at, _, c) => mixed(values[at], c);
}

const IRRADIANCE = 4 * Math.PI;
/** A corner, two sides, and the part of all area up to its end. */
const GLOWING_FLOATS = 10;

const lampLike = (kind: CompiledLamp['kind'], lights: CompiledLamp['lights']): CompiledLamp => ({
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
const skyLamp = ({ solids }: Look): CompiledLamp => ({
  ...lampLike('environment', 'true'),
  shadows: solids.shadows,
});

/**
 * What glows, as lamps: a mesh by its triangles in true pictures; in quick ones a ball of light with as much
 * area, which shines alike all round.
 */
function glowLamps(
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
    true: glowing ? [{ ...lampLike('mesh', 'true'), power: glow, glowing }] : [],
    quick: {
      ...lampLike('point', 'quick'),
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
function lampsOf(
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
    ...lampLike(l.kind, 'all'),
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

// A shot's volumes, cameras, lights and obstacles as a scene that other programs open.
import { nameIn } from '../cache/channel-names';
import type { Manifest } from '../cache/manifest';
import { PROGRAM } from '../cache/manifest';
import { CHANNELS, isVector, type ChannelName } from '../base/channels';
import type {
  Scene,
  SceneCamera,
  SceneLight,
  SceneObstacle,
  SceneParticles,
  SceneSky,
  Stand,
} from '../files/scene';
import type { Mesh } from '../geometry/mesh';
import { meshOfShape } from '../geometry/tessellate';
import type { Triple } from '../math/vector';
import { shapeAt } from '../plan/placement';
import type { Plan } from '../plan/plan';
import { cameraRays, directionOf, frameAbout, lookAt, powerOf, skyOf, type Look } from './look';

/** What a light of so much power gives of irradiance: powers are radiances of an even scatterer. */
const IRRADIANCE = 4 * Math.PI;
const unit = (v: readonly number[]): Triple => v.map((x) => x / Math.hypot(...v)) as Triple;
const minus = (v: readonly number[]): Triple => v.map((x) => -x) as Triple;

/** Where the scene's files stand, from the scene itself. */
export interface ScenePaths {
  volume(file: string, frame: number): string;
  /** Of a file of the look, by its name. */
  picture(name: string): string;
}

/** @param particles of the shot, at any frames */
export function sceneOf(
  manifest: Manifest,
  plan: Plan,
  look: Look,
  paths: ScenePaths,
  particles: readonly SceneParticles[] = [],
): Scene {
  const { recipe } = manifest;
  const { space } = recipe;
  const frames = manifest.frames.map(({ frame }) => frame);
  const timeOf = (n: number): number =>
    manifest.frames[n].timeS ?? (frames[n] - space.firstFrame + 1) * plan.frameS;
  const looks = frames.map((frame) => lookAt(look, frame));
  const remarks: string[] = [];
  return {
    name: recipe.name,
    comment: `${recipe.name}: made by ${PROGRAM}, recipe ${manifest.recipeSha256.slice(0, 12)}`,
    frames,
    frameRate: space.frameRate,
    volumes: manifest.frames.map(({ frame, file }) => ({ frame, path: paths.volume(file, frame) })),
    channels: manifest.channels.map((name) => ({
      name: nameIn(manifest.names ?? {}, name) ?? name,
      holds: name,
      isVector: isVector(name as ChannelName),
      isHalf: manifest.precision === 'half',
      kind: classOf(name as ChannelName),
    })),
    domain: { least: space.corner, most: space.corner.map((c, a) => c + space.size[a]) as Triple },
    cameras: [
      cameraIn('Shot camera', frames, (frame) => lookAt(look, frame)),
      ...look.cameras
        .filter(({ on }) => on)
        .map(({ id, name }) => cameraIn(name, frames, (frame) => lookAt(look, frame, id))),
    ],
    lights: look.lights.flatMap((l, n) =>
      l.on
        ? [
            lightIn(
              l.name,
              looks.map(({ lights }) => lights[n]),
            ),
          ]
        : [],
    ),
    sky: skyIn(looks, paths, remarks),
    obstacles: plan.obstacles.flatMap((o): SceneObstacle[] => {
      const name = o.part.name;
      let isHollow = false;
      const seen = frames.map((_, n): { stand: Stand; mesh: Mesh | null } => {
        const shape = shapeAt(plan, 'obstacles', o, timeOf(n));
        isHollow ||= shape.facing < 0;
        const h = plan.window.voxelSizeM;
        const [x, y, z] = shape.toOwn;
        const at = shape.centre.map((c) => c * h) as Triple;
        const mesh = o.mesh?.surfaceAt?.(timeOf(n)) ?? meshOfShape(shape, h);
        return { stand: { x, y, z, at }, mesh };
      });
      const meshes = seen.flatMap(({ mesh }) => mesh ?? []);
      if (meshes.length < seen.length) {
        remarks.push(`${name} is known by its distances alone, and is left out`);
        return [];
      }

      return [{ name, stands: settled(seen.map((s) => s.stand)), meshes: settled(meshes), isHollow }];
    }),
    particles,
    remarks,
  };
}

function classOf(name: ChannelName): 'fogVolume' | 'staggered' | 'unknown' {
  const own = CHANNELS[name].grid as { readonly class?: string };
  if (own.class === 'fog volume') return 'fogVolume';
  return own.class === 'staggered' ? 'staggered' : 'unknown';
}

function cameraIn(name: string, frames: readonly number[], at: (frame: number) => Look): SceneCamera {
  const looks = frames.map(at);
  const [{ camera }] = looks;
  const open = camera.moving === 'blurred' ? camera.shutter / 720 : 0;
  return {
    name,
    stands: settled(
      looks.map((look) => {
        const { eye, across, down } = cameraRays(look);
        const [x, y] = [unit(across), minus(unit(down))];
        const z: Triple = [x[1] * y[2] - x[2] * y[1], x[2] * y[0] - x[0] * y[2], x[0] * y[1] - x[1] * y[0]];
        return { x, y, z, at: eye };
      }),
    ),
    lenses: settled(
      looks.map(({ camera: c }) => {
        const high = (c.back * c.height) / c.width / c.squeeze;
        return {
          focal: c.focal,
          wide: c.back,
          high,
          angle: 2 * Math.atan(high / 2 / c.focal),
          fNumber: c.lens === 'thin' ? c.fNumber : 0,
          focus: c.focus,
        };
      }),
    ),
    shutter: [-open, open],
  };
}

function lightIn(name: string, over: readonly Look['lights'][number][]): SceneLight {
  const [first] = over;
  const sizes = {
    sun: { wide: first.angle, high: first.angle },
    point: { wide: 2 * first.radius, high: 2 * first.radius },
    spot: { wide: 2 * first.radius, high: 2 * first.radius },
    disc: { wide: 2 * first.radius, high: 2 * first.radius },
    rectangle: { wide: first.width, high: first.length },
  };
  return {
    name,
    kind: first.kind,
    stands: settled(over.map(lightStand)),
    irradiance: settled(over.map((l) => powerOf(l).map((p) => p * IRRADIANCE) as Triple)),
    shadows: first.shadows,
    size: sizes[first.kind],
    cone: { half: first.cone / 2, soft: first.soft },
  };
}

function lightStand(l: Look['lights'][number]): Stand {
  const away = l.aim.map((v, a) => v - l.position[a]);
  const isAimed = l.kind !== 'point' && away.some((v) => v !== 0);
  const ahead = isAimed ? unit(away) : ([0, -1, 0] as Triple);
  const along = l.kind === 'sun' ? minus(directionOf(l)) : ahead;
  const { right, up } = frameAbout(along);
  return { x: right, y: up, z: minus(along), at: l.kind === 'sun' ? [0, 0, 0] : l.position };
}

function skyIn(looks: readonly Look[], paths: ScenePaths, remarks: string[]): SceneSky {
  const [{ sky, files }] = looks;
  const file = sky.kind === 'picture' ? files.find(({ id }) => id === sky.picture) : undefined;
  const colours = looks.map((look) =>
    file ? ([1, 1, 1].map((c) => c * 2 ** look.sky.stops) as Triple) : skyOf(look),
  );
  if (file) remarks.push(`check how ${file.name} is turned about the upright axis: programs differ in it`);
  return { radiance: settled(colours), picture: file ? paths.picture(file.name) : null, turn: sky.turn };
}

/** One value where all are the same. */
function settled<T extends object>(values: readonly T[]): readonly T[] {
  const [first] = values;
  const isSame = (v: T): boolean =>
    v === first || (isSmall(v) && JSON.stringify(v) === JSON.stringify(first));
  return values.every(isSame) ? [first] : values;
}

/** Meshes are compared by whether they are one and the same, or of few corners. */
const isSmall = (v: object): boolean => !('positions' in v) || (v as Mesh).positions.length < 30_000;

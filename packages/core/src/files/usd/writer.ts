// A scene as an OpenUSD layer in text: the volume sequence, cameras, lights, obstacles.
import { boundsOfMesh, type Mesh } from '../../geometry/mesh';
import type { Triple } from '../../math/vector';
import type {
  Scene,
  SceneCamera,
  SceneLight,
  SceneObstacle,
  SceneParticles,
  SceneSky,
  Stand,
} from '../scene';
import { assetPath, list, matrix, numberIn, Prim, quoted, scenePath, tuple } from './usda';

const SHADOWS = 'ShadowAPI';
const SHAPING = 'ShapingAPI';
/** Film and lens are told in tenths of a unit, which is a metre here. */
const MM = 0.01;
const FAR_M = 100_000;

/** @param scene its paths are from where the layer will stand */
export function writeUsda(scene: Scene): string {
  const { frames, frameRate } = scene;
  const root = new Prim('/Scene', 'Xform', 'Scene');
  if (scene.volumes.length > 0) putVolumes(root, scene);
  const cameras = root.add('Scope', 'Cameras');
  for (const camera of scene.cameras) putCamera(cameras, camera, frames);
  const lights = root.add('Scope', 'Lights');
  for (const light of scene.lights) putLight(lights, light, frames);
  putSky(lights, scene.sky, frames);
  const obstacles = root.add('Scope', 'Obstacles');
  for (const obstacle of scene.obstacles) putObstacle(obstacles, obstacle, frames);
  if (scene.particles.length > 0) {
    const particles = root.add('Scope', 'Particles');
    for (const some of scene.particles) putParticles(particles, some, frames);
  }

  const head = [
    'defaultPrim = "Scene"',
    `doc = ${quoted(scene.comment)}`,
    'metersPerUnit = 1',
    'upAxis = "Y"',
    `startTimeCode = ${frames[0]}`,
    `endTimeCode = ${frames[frames.length - 1]}`,
    `timeCodesPerSecond = ${numberIn(frameRate)}`,
    `framesPerSecond = ${numberIn(frameRate)}`,
  ];
  return `#usda 1.0\n(\n${head.map((h) => `    ${h}\n`).join('')})\n\n${root.text()}`;
}

function putVolumes(root: Prim, { volumes, channels, domain }: Scene): void {
  const medium = root.add('Volume', 'Medium');
  medium.set('float3[]', 'extent', list([tuple(domain.least), tuple(domain.most)]));
  for (const { name, holds, isVector, isHalf, kind } of channels) {
    const type = isHalf ? 'half' : 'float';
    const field = medium
      .add('OpenVDBAsset', name)
      .over(
        'asset',
        'filePath',
        volumes.map(({ frame }) => frame),
        volumes.map(({ path }) => assetPath(path)),
      )
      .set('token', 'fieldName', quoted(name))
      .set('token', 'fieldDataType', quoted(isVector ? `${type}3` : type))
      .set('token', 'fieldClass', quoted(kind));
    if (isVector) field.set('token', 'vectorDataRoleHint', quoted(holds === 'colour' ? 'Color' : 'Vector'));
    medium.set('rel', `field:${name}`, scenePath(field.path));
  }
}

function putStand(prim: Prim, stands: readonly Stand[], frames: readonly number[]): void {
  prim.over(
    'matrix4d',
    'xformOp:transform',
    frames,
    stands.map(({ x, y, z, at }) =>
      matrix([
        [...x, 0],
        [...y, 0],
        [...z, 0],
        [...at, 1],
      ]),
    ),
  );
  prim.set('uniform token[]', 'xformOpOrder', '["xformOp:transform"]');
}

function putCamera(
  root: Prim,
  { name, stands, lenses, shutter }: SceneCamera,
  frames: readonly number[],
): void {
  const camera = root.add('Camera', name);
  putStand(camera, stands, frames);
  const each = (attribute: string, value: (lens: SceneCamera['lenses'][number]) => number): void =>
    void camera.over('float', attribute, frames, settled(lenses.map((l) => numberIn(value(l)))));
  camera.set('token', 'projection', '"perspective"');
  camera.set('float2', 'clippingRange', tuple([0.01, FAR_M]));
  each('focalLength', ({ focal }) => focal * MM);
  each('horizontalAperture', ({ wide }) => wide * MM);
  each('verticalAperture', ({ high }) => high * MM);
  each('fStop', ({ fNumber }) => fNumber);
  each('focusDistance', ({ focus }) => focus);
  camera.set('double', 'shutter:open', numberIn(shutter[0]));
  camera.set('double', 'shutter:close', numberIn(shutter[1]));
}

const TYPES = {
  sun: 'DistantLight',
  point: 'SphereLight',
  spot: 'SphereLight',
  rectangle: 'RectLight',
  disc: 'DiskLight',
} as const;

/**
 * What normalised lights are told to give the same irradiance at a metre: of a small ball that is its
 * intensity over 4, of a face the intensity itself, of a sun the intensity too.
 */
const SHARE = { sun: 1, point: 4, spot: 4, rectangle: 1, disc: 1 } as const;

function putLight(root: Prim, light: SceneLight, frames: readonly number[]): void {
  const { name, kind, stands, irradiance, shadows, size, cone } = light;
  const prim = root.add(TYPES[kind], name, [...(kind === 'spot' ? [SHAPING] : []), SHADOWS]);
  putStand(prim, stands, frames);
  putColour(prim, irradiance, SHARE[kind], frames);
  prim.set('bool', 'inputs:normalize', '1');
  prim.set('bool', 'inputs:shadow:enable', shadows ? '1' : '0');
  if (kind === 'sun') prim.set('float', 'inputs:angle', numberIn(size.wide));
  else if (kind === 'rectangle') {
    prim.set('float', 'inputs:width', numberIn(size.wide));
    prim.set('float', 'inputs:height', numberIn(size.high));
  } else prim.set('float', 'inputs:radius', numberIn(size.wide / 2));
  if (kind === 'spot') {
    prim.set('float', 'inputs:shaping:cone:angle', numberIn(cone.half));
    prim.set('float', 'inputs:shaping:cone:softness', numberIn(cone.soft));
  }
}

function putSky(root: Prim, { radiance, picture, turn }: SceneSky, frames: readonly number[]): void {
  const dome = root.add('DomeLight', 'Environment');
  putColour(dome, radiance, 1, frames);
  if (picture === null) return;
  dome.set('asset', 'inputs:texture:file', assetPath(picture));
  dome.set('token', 'inputs:texture:format', '"latlong"');
  dome.set('float', 'xformOp:rotateY', numberIn(turn));
  dome.set('uniform token[]', 'xformOpOrder', '["xformOp:rotateY"]');
}

/** A colour whose greatest part is 1, and how strong it is. */
function putColour(prim: Prim, values: readonly Triple[], share: number, frames: readonly number[]): void {
  const strength = values.map((v) => Math.max(...v));
  const colours = values.map((v, n) => tuple(strength[n] > 0 ? v.map((c) => c / strength[n]) : [1, 1, 1]));
  prim.over('color3f', 'inputs:color', frames, settled(colours));
  const intensities = strength.map((s) => numberIn(share * s));
  prim.over('float', 'inputs:intensity', frames, settled(intensities));
}

function putObstacle(root: Prim, obstacle: SceneObstacle, frames: readonly number[]): void {
  const { name, stands, meshes, isHollow } = obstacle;
  const [first] = meshes;
  const prim = root.add('Mesh', name);
  putStand(prim, stands, frames);
  const keepsFaces = meshes.every((m) => m.triangles === first.triangles || sameFaces(m, first));
  const faces = keepsFaces ? [first] : meshes;
  const counts = (m: Mesh): string => list(new Array<string>(m.triangles.length / 3).fill('3'));
  prim.over('int[]', 'faceVertexCounts', frames, faces.map(counts));
  prim.over(
    'int[]',
    'faceVertexIndices',
    frames,
    faces.map((m) => list(Array.from(m.triangles, String))),
  );
  prim.over(
    'point3f[]',
    'points',
    frames,
    meshes.map((m) => list(triples(m.positions))),
  );
  prim.over(
    'float3[]',
    'extent',
    frames,
    meshes.map((m) => {
      const { least, most } = boundsOfMesh(m);
      return list([tuple(least), tuple(most)]);
    }),
  );
  if (first.colours && keepsFaces)
    prim.set(
      'color3f[]',
      'primvars:displayColor',
      list(triples(first.colours)),
      ' (\n            interpolation = "vertex"\n        )',
    );
  prim.set('uniform token', 'subdivisionScheme', '"none"');
  if (isHollow) prim.set('uniform bool', 'doubleSided', '1');
}

/** At frames of the scene; where there are none of them, a frame has no points. */
function putParticles(
  root: Prim,
  { name, frames: own, wideM }: SceneParticles,
  frames: readonly number[],
): void {
  const at = frames.map((frame) => own.find((f) => f.frame === frame));
  const prim = root.add('Points', name);
  prim.over(
    'point3f[]',
    'points',
    frames,
    at.map((f) => list(f ? triples(f.places) : [])),
  );
  if (at.every((f) => !f || f.ids))
    prim.over(
      'int64[]',
      'ids',
      frames,
      at.map((f) => list(Array.from(f?.ids ?? [], String))),
    );
  prim.over(
    'float3[]',
    'extent',
    frames,
    at.map((f) => {
      const { least, most } = boundsOf(f?.places ?? new Float32Array());
      return list([tuple(least), tuple(most)]);
    }),
  );
  prim.set(
    'float[]',
    'widths',
    list([numberIn(wideM)]),
    ' (\n            interpolation = "constant"\n        )',
  );
}

function boundsOf(places: Float32Array): { least: Triple; most: Triple } {
  if (places.length === 0) return { least: [0, 0, 0], most: [0, 0, 0] };
  const least: [number, number, number] = [Infinity, Infinity, Infinity];
  const most: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  places.forEach((v, n) => {
    least[n % 3] = Math.min(least[n % 3], v);
    most[n % 3] = Math.max(most[n % 3], v);
  });
  return { least, most };
}

const sameFaces = (a: Mesh, b: Mesh): boolean =>
  a.triangles.length === b.triangles.length && a.triangles.every((v, n) => v === b.triangles[n]);

const triples = (values: ArrayLike<number>): string[] =>
  Array.from({ length: values.length / 3 }, (_, n) =>
    tuple([values[3 * n], values[3 * n + 1], values[3 * n + 2]]),
  );

/** One value where all are the same. */
const settled = (values: readonly string[]): readonly string[] =>
  values.every((v) => v === values[0]) ? values.slice(0, 1) : values;

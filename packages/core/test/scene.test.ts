// The scene that opens elsewhere: its text follows the grammar, its attributes are those of the schemas, an
// open library reads it as it was meant, and what it shows stands where a render shows it.
import { WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual, type Light } from '@gltf-transform/extensions';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import { importAsset } from '@bramblemist/core/assets/import-asset';
import { readGltfCameras } from '@bramblemist/core/files/gltf/camera';
import { writeSceneGlb } from '@bramblemist/core/files/gltf/writer';
import type { Scene } from '@bramblemist/core/files/scene';
import { primName } from '@bramblemist/core/files/usd/usda';
import { writeUsda } from '@bramblemist/core/files/usd/writer';
import { checkMesh } from '@bramblemist/core/geometry/mesh';
import { distanceTo } from '@bramblemist/core/geometry/shape';
import { LOOK, lookAt, pixelsOf, type Look } from '@bramblemist/core/look/look';
import { sceneOf } from '@bramblemist/core/look/scene';
import { compile } from '@bramblemist/core/plan/compile';
import { shapeAt } from '@bramblemist/core/plan/placement';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { readUsda, type ReadPrim } from './usda-grammar';

const folder = mkdtempSync(join(tmpdir(), 'scene-'));
afterAll(() => rmSync(folder, { recursive: true }));

const CURVE = {
  after: 'hold',
  keys: [
    { frame: 1, value: 0, ease: 'even' },
    { frame: 5, value: 0.8, ease: 'even' },
  ],
};
const recipe = parseRecipe({
  name: 'Mill "race"',
  space: { size: [2, 2, 2], corner: [-1, 0, -1], voxelSize: 0.1, lastFrame: 5, frameRate: 25 },
  sources: [{ id: 's', centre: [0, 1, 0], radius: 0.2 }],
  obstacles: [
    { id: 'ball', name: 'Ball', shape: 'sphere', centre: [0.3, 0.5, 0], radius: 0.25 },
    {
      id: 'crate',
      name: 'Crate på ön',
      shape: 'box',
      centre: [-0.5, 0.3, 0.2],
      size: [0.4, 0.3, 0.2],
      turn: [20, 30, 40],
    },
    {
      id: 'post',
      name: 'Post',
      shape: 'cylinder',
      centre: [0, 0.5, -0.5],
      radius: 0.2,
      size: [1, 0.6, 1],
      motion: 'moves',
      velocity: [1, 0, 0],
      spin: 90,
    },
    { id: 'hoop', name: 'Post', shape: 'ring', centre: [0, 1.2, 0], radius: 0.5, tube: 0.1 },
    { id: 'floor', name: 'Floor', shape: 'ground', centre: [0, 0.05, 0] },
  ],
  curves: [{ id: 'c', path: 'obstacles/ball/centre.1', ...CURVE }],
});
const look = LOOK.parse({
  camera: {
    eye: [2, 1.5, 3],
    target: [0, 0.5, 0],
    roll: 10,
    focal: 45,
    width: 320,
    height: 200,
    lens: 'thin',
  },
  cameras: [{ id: 'top', name: 'Top', eye: [0, 5, 0.01], target: [0, 0, 0] }],
  lights: [
    { id: 'sun', name: 'Sun', kind: 'sun', heading: 20, height: 40, stops: 1 },
    { id: 'lamp', name: 'Lamp', kind: 'spot', position: [1, 2, 1], aim: [0, 0, 0], cone: 50 },
    { id: 'wall', name: 'Wall', kind: 'rectangle', position: [-1, 1, 0], aim: [0, 1, 0], shadows: false },
    { id: 'bulb', name: 'Bulb', kind: 'point' },
    { id: 'dish', name: 'Dish', kind: 'disc' },
    { id: 'off', name: 'Off', kind: 'point', on: false },
  ],
  curves: [
    { id: 'e', path: 'camera/eye.0', ...CURVE },
    { id: 'l', path: 'lights/lamp/stops', ...CURVE },
  ],
});
const FRAMES = [1, 2, 3, 4, 5];
const manifest = {
  recipe,
  recipeSha256: '0123456789abcdef',
  channels: ['density', 'temperature', 'velocity', 'colour'],
  precision: 'half',
  frames: FRAMES.map((frame) => ({ frame, file: `mill.000${frame}.vdb` })),
} as unknown as Manifest;
const { plan } = compile(recipe, {});
const scene: Scene = sceneOf(manifest, plan, look, {
  volume: (file) => `./volumes/${file}`,
  picture: (name) => `./files/${name}`,
});
const text = writeUsda(scene);
const read = readUsda(text);
const [root] = read.prims;
const found = (...names: string[]): ReadPrim => {
  let own = root;
  for (const name of names) {
    const next = own.children.find((c) => c.name === name);
    if (!next) throw new Error(`no ${name} in ${own.children.map((c) => c.name).join(', ')}`);
    own = next;
  }

  return own;
};

type Rows = readonly (readonly number[])[];
/** Of an attribute at a frame. */
const at = (prim: ReadPrim, name: string, frame: number): unknown => {
  const { value, samples } = prim.attributes[name];
  return samples ? samples.find(([code]) => code === frame)![1] : value;
};

const moved = (rows: Rows, p: readonly number[]): number[] =>
  [0, 1, 2].map((a) => p.reduce((sum, v, n) => sum + v * rows[n][a], rows[3][a]));

/** What the schemas call their attributes: UsdGeom, UsdVol, UsdLux. */
const STAND = ['xformOp:transform', 'xformOpOrder'];
const LIGHT = [...STAND, 'inputs:color', 'inputs:intensity', 'inputs:normalize', 'inputs:shadow:enable'];
const SCHEMA: Readonly<Record<string, readonly string[]>> = {
  Xform: [],
  Scope: [],
  Volume: ['extent', ...manifest.channels.map((c) => `field:${c}`)],
  OpenVDBAsset: ['filePath', 'fieldName', 'fieldDataType', 'fieldClass', 'vectorDataRoleHint'],
  Camera: [
    ...[...STAND, 'projection', 'clippingRange', 'focalLength', 'horizontalAperture', 'verticalAperture'],
    ...['fStop', 'focusDistance', 'shutter:open', 'shutter:close'],
  ],
  DistantLight: [...LIGHT, 'inputs:angle'],
  SphereLight: [...LIGHT, 'inputs:radius', 'inputs:shaping:cone:angle', 'inputs:shaping:cone:softness'],
  RectLight: [...LIGHT, 'inputs:width', 'inputs:height'],
  DiskLight: [...LIGHT, 'inputs:radius'],
  DomeLight: ['inputs:color', 'inputs:intensity'],
  Mesh: [
    ...STAND,
    'faceVertexCounts',
    'faceVertexIndices',
    'points',
    'extent',
    'subdivisionScheme',
    'doubleSided',
  ],
};

test('prims are of the schemas, and so are their attributes', () => {
  const all = (p: ReadPrim): ReadPrim[] => [p, ...p.children.flatMap(all)];
  for (const { type, name, attributes } of all(root)) {
    expect(Object.keys(SCHEMA)).toContain(type);
    for (const key of Object.keys(attributes))
      expect([name, SCHEMA[type]]).toEqual([name, expect.arrayContaining([key])]);
  }

  expect(read.metadata).toMatchObject({
    metersPerUnit: 1,
    upAxis: '"Y"',
    startTimeCode: 1,
    endTimeCode: 5,
    timeCodesPerSecond: 25,
  });
  expect(all(root).filter((p) => p.type === 'OpenVDBAsset')).toHaveLength(4);
});

test('each volume is named at its frame', () => {
  const density = found('Medium', 'density');
  expect(density.attributes.filePath.samples).toEqual(FRAMES.map((f) => [f, `@./volumes/mill.000${f}.vdb@`]));
  expect(at(density, 'fieldClass', 1)).toBe('"fogVolume"');
  expect(at(found('Medium', 'velocity'), 'fieldDataType', 1)).toBe('"half3"');
  expect(at(found('Medium', 'velocity'), 'fieldClass', 1)).toBe('"staggered"');
  expect(at(found('Medium'), 'field:density', 1)).toBe('</Scene/Medium/density>');
});

test('names are those that the format allows, and what they were is told', () => {
  expect(found('Obstacles', 'Crate_pa_on').metadata.displayName).toBe('"Crate på ön"');
  expect(found('Obstacles').children.map((c) => c.name)).toEqual([
    'Ball',
    'Crate_pa_on',
    'Post',
    'Post_2',
    'Floor',
  ]);
  expect(primName('', new Set())).toBe('_');
  expect(primName('2nd pipe', new Set(['_2nd_pipe']))).toBe('_2nd_pipe_2');
});

test.each(['Shot_camera', 'Top'])('%s sees a place where the render has it', (name) => {
  const camera = found('Cameras', name);
  const id = name === 'Top' ? 'top' : undefined;
  for (const frame of [1, 3, 5]) {
    const now: Look = lookAt(look, frame, id);
    const rows = pixelsOf(now, { metre: 1, origin: [0, 0, 0] });
    const m = at(camera, 'xformOp:transform', frame) as Rows;
    const lens = (key: string): number => at(camera, key, frame) as number;
    for (const p of [
      [0, 0.5, 0],
      [0.4, 0.9, 0.3],
      [-0.3, 0.2, 0.5],
    ]) {
      const [px, py, ahead] = [0, 1, 2].map(
        (r) => rows[4 * r] * p[0] + rows[4 * r + 1] * p[1] + rows[4 * r + 2] * p[2] + rows[4 * r + 3],
      );
      const off = p.map((v, a) => v - m[3][a]);
      const [x, y, z] = [0, 1, 2].map((r) => off.reduce((sum, v, a) => sum + v * m[r][a], 0));
      const { width, height } = now.camera;
      const across = (0.5 + (x / -z) * (lens('focalLength') / lens('horizontalAperture'))) * width - 0.5;
      const down = (0.5 - (y / -z) * (lens('focalLength') / lens('verticalAperture'))) * height - 0.5;
      expect(across).toBeCloseTo(px / ahead, 3);
      expect(down).toBeCloseTo(py / ahead, 3);
    }
  }

  if (!id)
    expect([at(camera, 'fStop', 1), at(camera, 'focusDistance', 1)]).toEqual([
      look.camera.fNumber,
      look.camera.focus,
    ]);
});

test('corners of obstacles lie on the surfaces that the air feels, at each frame', () => {
  const timeOf = (frame: number): number => frame * plan.frameS;
  plan.obstacles.forEach((o, n) => {
    const prim = found('Obstacles').children[n];
    for (const frame of FRAMES) {
      const shape = shapeAt(plan, 'obstacles', o, timeOf(frame), true);
      const m = at(prim, 'xformOp:transform', frame) as Rows;
      const points = at(prim, 'points', frame) as Rows;
      const outside = points.map(
        (p) =>
          distanceTo(
            shape,
            moved(m, p).map((v) => v / 0.1),
          ) * 0.1,
      );
      expect(Math.max(...outside)).toBeLessThan(1e-5);
      if (!['post', 'hoop'].includes(o.part.id)) expect(Math.min(...outside)).toBeGreaterThan(-1e-5);
    }
  });
});

test('bodies are closed, face outward and have their volume', () => {
  const volumes = { Ball: (4 / 3) * Math.PI * 0.25 ** 3, 'Crate på ön': 0.024, Post: Math.PI * 0.04 * 0.6 };
  for (const { name, meshes } of scene.obstacles.slice(0, 3)) {
    const report = checkMesh(meshes[0]);
    expect([name, report.openEdges, report.flippedEdges, report.flat]).toEqual([name, 0, 0, 0]);
    const whole = volumes[name as keyof typeof volumes];
    expect(Math.abs(report.volume / whole - 1)).toBeLessThan(0.01);
  }

  const hoop = checkMesh(scene.obstacles[3].meshes[0]);
  expect([hoop.openEdges, hoop.flippedEdges]).toEqual([0, 0]);
  expect(hoop.volume / (2 * Math.PI ** 2 * 0.5 * 0.01)).toBeCloseTo(1, 1);
});

test('lights shine where they are aimed, as strongly as ours', () => {
  const sun = found('Lights', 'Sun');
  const { height, heading } = look.lights[0];
  const [, , z] = at(sun, 'xformOp:transform', 1) as Rows;
  expect(z[1]).toBeCloseTo(Math.sin((height * Math.PI) / 180), 5);
  expect(Math.atan2(z[2], z[0])).toBeCloseTo((heading * Math.PI) / 180, 5);
  const lamp = found('Lights', 'Lamp');
  expect(lamp.metadata['prepend apiSchemas']).toEqual(['"ShapingAPI"', '"ShadowAPI"']);
  const m = at(lamp, 'xformOp:transform', 1) as Rows;
  expect(m[2].map((v) => v * Math.sqrt(6)).map((v) => Number(v.toFixed(4)))).toEqual([1, 2, 1, 0]);
  expect(at(lamp, 'inputs:shaping:cone:angle', 1)).toBe(25);
  // a keyed light over time: a stop is twice as much
  const [a, b] = [1, 5].map((f) => at(lamp, 'inputs:intensity', f) as number);
  expect(b / a).toBeCloseTo(2 ** (0.8 - 0), 4);
  expect(at(found('Lights', 'Wall'), 'inputs:shadow:enable', 1)).toBe(0);
  expect(found('Lights').children.map((c) => c.type)).toEqual([
    'DistantLight',
    'SphereLight',
    'RectLight',
    'SphereLight',
    'DiskLight',
    'DomeLight',
  ]);
});

test('an open library reads the layer, and finds as much in it', () => {
  const path = join(folder, 'scene.usda');
  writeFileSync(path, text);
  const theirs = execFileSync(process.execPath, [join(__dirname, 'read-usd.mjs'), path], {
    encoding: 'utf8',
  });
  const counted = (t: string): Record<string, number> =>
    Object.fromEntries(
      [
        ...Object.keys(SCHEMA).map((type) => `def ${type} `),
        'timeSamples',
        'rel field:',
        '.vdb@',
        'displayName',
      ].map((word) => [word, t.split(word).length - 1]),
    );
  expect(counted(theirs)).toEqual(counted(text));
  writeFileSync(path, text.replace('def Volume', 'def def Volume'));
  expect(() =>
    execFileSync(process.execPath, [join(__dirname, 'read-usd.mjs'), path], { stdio: 'pipe' }),
  ).toThrow();
});

test('as glTF lights are what that format has of them', async () => {
  const { bytes, remarks } = await writeSceneGlb(scene);
  const document = await new WebIO().registerExtensions([KHRLightsPunctual]).readBinary(bytes);
  const nodes = document.getRoot().listNodes();
  const read = nodes.flatMap((node) => {
    const light = node.getExtension<Light>('KHR_lights_punctual');
    return light ? [{ node, light }] : [];
  });
  expect(read.map(({ node, light }) => [node.getName(), light.getType()])).toEqual([
    ['Sun', 'directional'],
    ['Lamp', 'spot'],
    ['Wall', 'spot'],
    ['Bulb', 'point'],
    ['Dish', 'spot'],
  ]);
  const [sun, lamp, wall] = read;
  const strength = (light: Light): number[] => light.getColor().map((c) => c * light.getIntensity());
  strength(sun.light).forEach((v, c) => expect(v).toBeCloseTo(scene.lights[0].irradiance[0][c], 5));
  expect((lamp.light.getOuterConeAngle() * 180) / Math.PI).toBeCloseTo(25, 5);
  expect(lamp.light.getInnerConeAngle()).toBeLessThan(lamp.light.getOuterConeAngle());
  expect(wall.light.getOuterConeAngle()).toBeCloseTo(Math.PI / 2, 6);
  // it shines along −z of its node
  const away = [1, 2, 1].map((v) => -v / Math.sqrt(6));
  const m = lamp.node.getWorldMatrix();
  away.forEach((v, a) => expect(-m[8 + a]).toBeCloseTo(v, 5));
  expect(remarks).toEqual(
    expect.arrayContaining([
      'Lamp: its strength changes; that of the first frame is written',
      'Wall: its face is written as a spot, since glTF has lights without a size only',
    ]),
  );
});

test('as glTF the camera and the obstacles move as they do', async () => {
  const { bytes, remarks } = await writeSceneGlb(scene);
  expect(remarks).toContain('volumes are not in it');
  const brought = await importAsset('scene.glb', bytes);
  if (brought.kind !== 'mesh') throw new Error(brought.kind);
  const triangles = scene.obstacles.reduce((n, { meshes }) => n + meshes[0].triangles.length / 3, 0);
  for (const frame of [1, 3, 5]) {
    const mesh = brought.mesh.at((frame - 1) / 25);
    expect(mesh.triangles.length / 3).toBe(triangles);
    const ball = shapeAt(plan, 'obstacles', plan.obstacles[0], frame * plan.frameS);
    const first = [...mesh.positions.subarray(0, 3)].map((v) => v / 0.1);
    expect(Math.abs(distanceTo(ball, first))).toBeLessThan(1e-3);
  }

  const cameras = await readGltfCameras(bytes);
  expect(cameras.map(({ name }) => name)).toEqual(['Shot camera', 'Top']);
  const view = cameras[0].at(4 / 25);
  const now = lookAt(look, 5).camera;
  view.eye.forEach((v, a) => expect(v).toBeCloseTo(now.eye[a], 5));
  const away = now.target.map((v, a) => v - now.eye[a]);
  view.ahead.forEach((v, a) => expect(v).toBeCloseTo(away[a] / Math.hypot(...away), 5));
});

test('a picture of all directions is named, and what is unsure of it is told', () => {
  const withSky = LOOK.parse({
    files: [{ id: 'f', name: 'morning.hdr', sha256: '' }],
    sky: { kind: 'picture', picture: 'f', stops: 1, turn: 30 },
  });
  const own = sceneOf(manifest, plan, withSky, { volume: (f) => f, picture: (n) => `./files/${n}` });
  const dome = readUsda(writeUsda(own))
    .prims[0].children.find((c) => c.name === 'Lights')!
    .children.at(-1)!;
  expect(dome.attributes['inputs:texture:file'].value).toBe('@./files/morning.hdr@');
  expect([at(dome, 'inputs:intensity', 1), at(dome, 'xformOp:rotateY', 1)]).toEqual([2, 30]);
  expect(own.remarks.join()).toMatch(/morning\.hdr is turned/);
});

describe('particles', () => {
  const own = {
    ...scene,
    particles: [
      {
        name: 'Motes',
        wideM: 0.05,
        frames: [
          { frame: 2, places: Float32Array.of(0, 1, 0, 0.5, 1, 0), ids: [7, 9] },
          { frame: 3, places: Float32Array.of(0.25, 1, 0), ids: [9] },
        ],
      },
    ],
  };

  test('in the layer they are points over time, none where there are none', () => {
    const { prims } = readUsda(writeUsda(own));
    const motes = prims[0].children.find((c) => c.name === 'Particles')!.children[0];
    expect(motes).toMatchObject({ type: 'Points', name: 'Motes' });
    expect(FRAMES.map((f) => (at(motes, 'points', f) as Rows).length)).toEqual([0, 2, 1, 0, 0]);
    const places = [
      [0, 1, 0],
      [0.5, 1, 0],
    ];
    expect(at(motes, 'points', 2)).toEqual(places);
    expect(at(motes, 'extent', 2)).toEqual(places);
    expect([2, 3].map((f) => at(motes, 'ids', f))).toEqual([[7, 9], [9]]);
    expect(motes.attributes.widths.value).toEqual([0.05]);
  });

  test('in glTF each frame has its points, as large as life in that frame alone', async () => {
    const { bytes } = await writeSceneGlb(own);
    const document = await new WebIO().registerExtensions([KHRLightsPunctual]).readBinary(bytes);
    const [group] = document
      .getRoot()
      .listNodes()
      .filter((n) => n.getName() === 'Motes');
    const nodes = group.listChildren();
    expect(nodes.map((n) => n.getMesh()!.listPrimitives()[0].getMode())).toEqual([0, 0]);
    expect([...nodes[0].getMesh()!.listPrimitives()[0].getAttribute('POSITION')!.getArray()!]).toEqual([
      0, 1, 0, 0.5, 1, 0,
    ]);
    const [animation] = document.getRoot().listAnimations();
    const scaleAt = (node: (typeof nodes)[number], seconds: number): number => {
      const channel = animation
        .listChannels()
        .find((c) => c.getTargetNode() === node && c.getTargetPath() === 'scale')!;
      const sampler = channel.getSampler()!;
      expect(sampler.getInterpolation()).toBe('STEP');
      const times = [...sampler.getInput()!.getArray()!];
      const at = times.filter((t) => t <= seconds + 1e-6).length - 1;
      return sampler.getOutput()!.getArray()![3 * at];
    };

    // frames 1 to 5 at 25 a second
    expect([0, 1, 2, 3, 4].map((n) => scaleAt(nodes[0], n / 25))).toEqual([0, 1, 0, 0, 0]);
    expect([0, 1, 2, 3, 4].map((n) => scaleAt(nodes[1], n / 25))).toEqual([0, 0, 1, 0, 0]);
  });
});

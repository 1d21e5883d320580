// A scene as glTF: cameras, lights and obstacles with their motion. Volumes have no place in that format: the
// OpenUSD layer holds them.
import {
  Accessor,
  AnimationSampler,
  Document,
  Primitive,
  WebIO,
  type Animation,
  type AnimationChannel,
  type Buffer,
  type Node,
  type Scene as GltfScene,
} from '@gltf-transform/core';
import { KHRLightsPunctual, Light } from '@gltf-transform/extensions';
import type { Mesh } from '../../geometry/mesh';
import type { Scene, SceneLens, SceneLight, SceneParticles, Stand } from '../scene';

/** Nearest and farthest that a camera sees, m. */
const NEAR = 0.01;
const FAR = 100_000;

/** @returns the file, and what it could not hold */
export async function writeSceneGlb(scene: Scene): Promise<{ bytes: Uint8Array; remarks: string[] }> {
  const remarks: string[] = [];
  const document = new Document();
  const buffer = document.createBuffer();
  const root = document.createScene(scene.name);
  document.getRoot().setDefaultScene(root);
  document.getRoot().getAsset().generator = scene.comment;
  const animation = document.createAnimation('shot');
  const moving: Moving = { document, buffer, animation, seconds: secondsOf(scene) };
  for (const { name, stands, lenses } of scene.cameras) {
    const [lens] = lenses;
    if (lenses.length > 1) remarks.push(`${name}: its lens changes; that of the first frame is written`);
    const camera = document
      .createCamera(name)
      .setType('perspective')
      .setYFov(lens.angle)
      .setAspectRatio(aspectOf(lens))
      .setZNear(NEAR)
      .setZFar(FAR);
    const node = document.createNode(name).setCamera(camera);
    root.addChild(node);
    stand(node, stands, moving);
  }

  for (const { name, stands, meshes, isHollow } of scene.obstacles) {
    if (meshes.length > 1) remarks.push(`${name}: its form changes; that of the first frame is written`);
    const material = document.createMaterial(name).setDoubleSided(isHollow).setMetallicFactor(0);
    const primitive = primitiveOf(document, buffer, meshes[0]).setMaterial(material);
    const mesh = document.createMesh(name).addPrimitive(primitive);
    const node = document.createNode(name).setMesh(mesh);
    root.addChild(node);
    stand(node, stands, moving);
  }

  const lights = document.createExtension(KHRLightsPunctual);
  for (const light of scene.lights) {
    const own = punctual(lights, light, remarks);
    const node = document.createNode(light.name).setExtension('KHR_lights_punctual', own);
    root.addChild(node);
    stand(node, light.stands, moving);
  }

  for (const some of scene.particles) putParticles(root, some, scene, moving);

  if (scene.lights.length === 0) lights.dispose();
  if (animation.listChannels().length === 0) animation.dispose();
  if (scene.volumes.length > 0) remarks.push('volumes are not in it');
  const io = new WebIO().registerExtensions([KHRLightsPunctual]);
  return { bytes: await io.writeBinary(document), remarks };
}

/**
 * What glTF has of lights: suns, points and spots, without a size. A face that shines forward becomes a spot
 * as wide as such a one can be. Strengths are ours, so that a white surface is as bright in a viewer that
 * shows light as it is.
 */
function punctual(lights: KHRLightsPunctual, light: SceneLight, remarks: string[]): Light {
  const { name, kind, irradiance, cone } = light;
  const [first] = irradiance;
  if (irradiance.length > 1)
    remarks.push(`${name}: its strength changes; that of the first frame is written`);
  const most = Math.max(...first);
  const own = lights
    .createLight(name)
    .setColor((most > 0 ? first.map((v) => v / most) : [1, 1, 1]) as [number, number, number])
    .setIntensity(most);
  if (kind === 'sun') return own.setType(Light.Type.DIRECTIONAL);
  if (kind === 'point') return own.setType(Light.Type.POINT);
  if (kind !== 'spot') {
    remarks.push(`${name}: its face is written as a spot, since glTF has lights without a size only`);
    return own
      .setType(Light.Type.SPOT)
      .setInnerConeAngle(0)
      .setOuterConeAngle(Math.PI / 2);
  }

  // a spot of glTF fades over some of its angle always
  const outer = Math.min(Math.PI / 2, (cone.half * Math.PI) / 180);
  return own
    .setType(Light.Type.SPOT)
    .setInnerConeAngle(Math.min(outer * (1 - cone.soft), outer - 1e-4))
    .setOuterConeAngle(outer);
}

/**
 * Points come and go from frame to frame, which the format has no way to say: each frame has a node of its
 * own, as large as life in its frame and nothing in all others.
 */
function putParticles(root: GltfScene, { name, frames }: SceneParticles, scene: Scene, moving: Moving): void {
  const { document, buffer, animation } = moving;
  const group = document.createNode(name);
  root.addChild(group);
  const shown = frames.filter(({ frame, places }) => places.length > 0 && scene.frames.includes(frame));
  for (const [n, { frame, places }] of shown.entries()) {
    const accessor = document.createAccessor().setType('VEC3').setBuffer(buffer);
    const points = document
      .createPrimitive()
      .setMode(Primitive.Mode.POINTS)
      .setAttribute('POSITION', accessor.setArray(places.slice() as Float32Array<ArrayBuffer>));
    const node = document
      .createNode(`${name} ${frame}`)
      .setMesh(document.createMesh(`${name} ${frame}`).addPrimitive(points));
    group.addChild(node);
    if (shown.length === 1) continue;
    const at = scene.frames.indexOf(frame);
    const on = [1, 1, 1];
    const off = [0, 0, 0];
    // before it, at it, after it: what is not there is left out
    const times = [0, at, at + 1].filter((v, m, all) => v < scene.frames.length && all.indexOf(v) === m);
    const seconds = times.map((m) => moving.seconds[m]);
    node.setScale(n === 0 && at === 0 ? [1, 1, 1] : [0, 0, 0]);
    const sampler = document
      .createAnimationSampler()
      .setInterpolation('STEP')
      .setInput(document.createAccessor().setArray(Float32Array.from(seconds)).setBuffer(buffer))
      .setOutput(
        document
          .createAccessor()
          .setType('VEC3')
          .setArray(Float32Array.from(times.flatMap((m) => (m === at ? on : off))))
          .setBuffer(buffer),
      );
    animation
      .addSampler(sampler)
      .addChannel(
        document.createAnimationChannel().setTargetNode(node).setTargetPath('scale').setSampler(sampler),
      );
  }
}

const aspectOf = ({ wide, high }: SceneLens): number => wide / high;

const secondsOf = ({ frames, frameRate }: Scene): Float32Array<ArrayBuffer> =>
  Float32Array.from(frames, (f) => (f - frames[0]) / frameRate);

interface Moving {
  readonly document: Document;
  readonly buffer: Buffer;
  readonly animation: Animation;
  readonly seconds: Float32Array<ArrayBuffer>;
}

/** Puts a node where it stands at first, and moves it where it moves. */
function stand(node: Node, stands: readonly Stand[], moving: Moving): void {
  const turns: number[][] = [];
  // of the two turns that are the same the one that is nearer to the last
  for (const s of stands) {
    const own = quaternionOf(s);
    const last = turns[turns.length - 1];
    const isAway = last !== undefined && own.reduce((sum, v, a) => sum + v * last[a], 0) < 0;
    turns.push(isAway ? own.map((v) => -v) : own);
  }

  node.setTranslation([...stands[0].at]).setRotation(turns[0] as [number, number, number, number]);
  if (stands.length === 1) return;
  const { document, buffer, animation, seconds } = moving;
  const accessor = (type: 'SCALAR' | 'VEC3' | 'VEC4', values: Float32Array<ArrayBuffer>): Accessor =>
    document.createAccessor().setType(type).setArray(values).setBuffer(buffer);
  const paths = [
    ['translation', accessor('VEC3', Float32Array.from(stands.flatMap((s) => s.at)))],
    ['rotation', accessor('VEC4', Float32Array.from(turns.flat()))],
  ] as const;
  const input = accessor('SCALAR', seconds);
  for (const [path, output] of paths) {
    const sampler: AnimationSampler = document.createAnimationSampler().setInput(input).setOutput(output);
    const channel: AnimationChannel = document
      .createAnimationChannel()
      .setTargetNode(node)
      .setTargetPath(path)
      .setSampler(sampler);
    animation.addSampler(sampler).addChannel(channel);
  }
}

/** Of the turn whose axes are these (after Shepperd, Quaternion from rotation matrix, 1978): x, y, z, w. */
function quaternionOf({ x, y, z }: Stand): number[] {
  const squares = [x[0] - y[1] - z[2], y[1] - x[0] - z[2], z[2] - x[0] - y[1], x[0] + y[1] + z[2]];
  const most = squares.indexOf(Math.max(...squares));
  const own = Math.sqrt(1 + squares[most]) / 2;
  const f = 1 / (4 * own);
  const [a, b, c] = [(y[2] - z[1]) * f, (z[0] - x[2]) * f, (x[1] - y[0]) * f];
  const [xy, xz, yz] = [(x[1] + y[0]) * f, (x[2] + z[0]) * f, (y[2] + z[1]) * f];
  return [
    [own, xy, xz, a],
    [xy, own, yz, b],
    [xz, yz, own, c],
    [a, b, c, own],
  ][most];
}

function primitiveOf(document: Document, buffer: Buffer, { positions, triangles, colours }: Mesh) {
  const accessor = (type: 'VEC3' | 'SCALAR', values: Float32Array | Uint32Array): Accessor =>
    document
      .createAccessor()
      .setType(type)
      .setArray(values.slice() as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', positions))
    .setIndices(accessor('SCALAR', triangles));
  return colours ? primitive.setAttribute('COLOR_0', accessor('VEC3', colours)) : primitive;
}

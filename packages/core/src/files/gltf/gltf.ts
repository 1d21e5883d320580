// glTF 2.0, as GLB or JSON with everything inside, read by a library: all triangles of the scene as they
// stand, bent by their bones and morphed by their weights, over the time of the first animation.
import { Primitive, WebIO, type Document, type Node, type Skin } from '@gltf-transform/core';
import { EXTMeshGPUInstancing, KHRMeshQuantization, type InstancedMesh } from '@gltf-transform/extensions';
import { stillMesh, timed, type Mesh, type TimedMesh } from '../../geometry/mesh';
import { FileError } from '../bytes';
import { trianglesOfStrip } from '../faces';
import { mustBeSound, withoutTextures, type GltfJson } from './sound';

const GLB = 0x46546c67;

/**
 * @param most triangles that are taken
 * @throws FileError
 */
export async function readGltf(
  bytes: Uint8Array,
  most = Infinity,
): Promise<{ mesh: TimedMesh; remarks: string[] }> {
  let document: Document;
  const remarks: string[] = [];
  try {
    document = await documentOf(bytes);
  } catch (error) {
    if (error instanceof FileError) throw error;
    throw new FileError(`It is no glTF file that can be read: ${(error as Error).message}`);
  }

  const count = triangleCount(document);
  if (count > most)
    throw new FileError(
      `It holds ${(count / 1e6).toFixed(1)} million triangles with all that repeats; ${most / 1e6} million ` +
        'are the most. Reduce it first.',
    );
  const animations = document.getRoot().listAnimations();
  if (animations.length > 1) {
    const name = animations[0].getName();
    remarks.push(`of its ${animations.length} animations the first${name ? `, ${name},` : ''} is taken`);
  }

  const lines = document
    .getRoot()
    .listMeshes()
    .flatMap((m) => m.listPrimitives())
    .filter((p) => !isFaces(p)).length;
  if (lines > 0) remarks.push(`${lines} parts of points or lines are left out`);
  const courses = coursesOf(document);
  const ends = courses.flatMap((c) => [c.times[0], c.times[c.times.length - 1]]);
  if (courses.length === 0) return { mesh: stillMesh(meshOf(document)), remarks };
  const mesh = timed(
    { unit: 'seconds', first: Math.min(...ends), last: Math.max(...ends), keepsShape: true },
    (time) => {
      for (const course of courses) course.set(time);
      return meshOf(document);
    },
  );
  return { mesh, remarks };
}

async function documentOf(bytes: Uint8Array): Promise<Document> {
  const io = new WebIO().registerExtensions([EXTMeshGPUInstancing, KHRMeshQuantization]);
  const isGlb =
    bytes.length >= 4 && new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0, true) === GLB;
  const { json, resources } = isGlb
    ? await io.binaryToJSON(new Uint8Array(bytes))
    : { json: JSON.parse(new TextDecoder().decode(bytes)) as never, resources: {} };
  const said = json as unknown as GltfJson;
  const outside = said.buffers?.find((b) => b.uri && !b.uri.startsWith('data:') && !(b.uri in resources));
  if (outside)
    throw new FileError(
      `It keeps its data in another file, ${outside.uri}. Save it as GLB, which holds all in one.`,
    );
  const all: Record<string, Uint8Array<ArrayBuffer>> = {
    ...(resources as Record<string, Uint8Array<ArrayBuffer>>),
    ...embedded(said),
  };
  const lengths = (said.buffers ?? []).map(({ uri }) => all[uri ?? '@glb.bin']?.byteLength ?? 0);
  mustBeSound(said, lengths);
  return io.readJSON({ json: withoutTextures(said) as never, resources: all });
}

const isFaces = (p: Primitive): boolean =>
  [Primitive.Mode.TRIANGLES, Primitive.Mode.TRIANGLE_STRIP, Primitive.Mode.TRIANGLE_FAN].includes(
    p.getMode() as 4,
  );

/** Copies of a node's mesh. */
const instancesOf = (node: Node): InstancedMesh | null =>
  node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing');

const scenesOf = (document: Document): ReturnType<ReturnType<Document['getRoot']>['listScenes']> => {
  const scene = document.getRoot().getDefaultScene();
  return scene ? [scene] : document.getRoot().listScenes();
};

/** About how many there are, with copies, before any is made. */
function triangleCount(document: Document): number {
  let count = 0;
  for (const scene of scenesOf(document))
    scene.traverse((node) => {
      const copies = instancesOf(node)?.listAttributes()[0]?.getCount() ?? 1;
      for (const p of node.getMesh()?.listPrimitives() ?? [])
        count += ((p.getIndices() ?? p.getAttribute('POSITION'))?.getCount() ?? 0) * copies;
    });
  return count / 3;
}

/** All triangles of the scene as its nodes stand now. */
function meshOf(document: Document): Mesh {
  const out: Parts = { positions: [], colours: [], triangles: [] };
  for (const scene of scenesOf(document))
    scene.traverse((node) => {
      const mesh = node.getMesh();
      if (!mesh) return;
      const skin = node.getSkin();
      // what bones bend stands where they are, not where its node is
      const bones = skin && bonesOf(skin);
      const world = node.getWorldMatrix();
      const own = node.getWeights();
      const weights = own.length > 0 ? own : mesh.getWeights();
      for (const matrix of copiesOf(node, world))
        for (const primitive of mesh.listPrimitives())
          if (isFaces(primitive)) addPrimitive(primitive, { matrix, bones, weights }, out);
    });
  const { positions, colours, triangles } = out;
  while (colours.length > 0 && colours.length < positions.length) colours.push(1);
  return {
    positions: Float32Array.from(positions),
    triangles: Uint32Array.from(triangles),
    colours: colours.length ? Float32Array.from(colours) : null,
  };
}

type Matrix = readonly number[];

function product(a: Matrix, b: Matrix): number[] {
  return Array.from({ length: 16 }, (_, n) => {
    const [row, column] = [n % 4, Math.floor(n / 4)];
    let sum = 0;
    for (let k = 0; k < 4; k++) sum += a[4 * k + row] * b[4 * column + k];
    return sum;
  });
}

function bonesOf(skin: Skin): Matrix[] {
  const inverse = skin.getInverseBindMatrices();
  return skin
    .listJoints()
    .map((joint, n) =>
      inverse ? product(joint.getWorldMatrix(), inverse.getElement(n, [])) : joint.getWorldMatrix(),
    );
}

/** Where a node's mesh stands; several times where it is instanced. */
function copiesOf(node: Node, world: Matrix): Matrix[] {
  const instances = instancesOf(node);
  if (!instances) return [world];
  const [place, turn, size] = ['TRANSLATION', 'ROTATION', 'SCALE'].map((name) =>
    instances.getAttribute(name),
  );
  const count = (place ?? turn ?? size)?.getCount() ?? 0;
  return Array.from({ length: count }, (_, n) => {
    const none: number[] = [];
    const [x, y, z, w] = turn ? turn.getElement(n, none.slice()) : [0, 0, 0, 1];
    const [sx, sy, sz] = size ? size.getElement(n, none.slice()) : [1, 1, 1];
    const t = place ? place.getElement(n, none.slice()) : [0, 0, 0];
    return product(world, [
      ...[1 - 2 * (y * y + z * z), 2 * (x * y + w * z), 2 * (x * z - w * y)].map((v) => v * sx),
      0,
      ...[2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x)].map((v) => v * sy),
      0,
      ...[2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)].map((v) => v * sz),
      0,
      ...t,
      1,
    ]);
  });
}

/** What one channel of the animation does to its node. */
interface Course {
  readonly times: ArrayLike<number>;
  readonly set: (time: number) => void;
}

/** Of the file's first animation, the channels that move, turn and size nodes and morph their meshes. */
function coursesOf(document: Document): Course[] {
  const [animation] = document.getRoot().listAnimations();
  return (animation?.listChannels() ?? []).flatMap((channel): Course[] => {
    const node = channel.getTargetNode();
    const sampler = channel.getSampler();
    const path = channel.getTargetPath();
    const times = sampler?.getInput()?.getArray();
    const output = sampler?.getOutput();
    if (
      !node ||
      !sampler ||
      !times?.length ||
      !output ||
      !['translation', 'rotation', 'scale', 'weights'].includes(path ?? '')
    )
      return [];
    // the weights of all morphs of a key stand one after the other
    const morphs = path === 'weights' ? morphCount(node) : 0;
    if (path === 'weights' && morphs === 0) return [];
    const how = sampler.getInterpolation();
    const cubic = how === 'CUBICSPLINE';
    // of a cubic one, each key has its slope in, its value, its slope out
    const element = (n: number, part: number): number[] => {
      const at = cubic ? 3 * n + part : n;
      return morphs > 0
        ? Array.from({ length: morphs }, (_, m) => output.getScalar(at * morphs + m))
        : output.getElement(at, []);
    };

    const valueAt = (time: number): number[] => {
      let n = times.length - 2;
      while (n > 0 && times[n] > time) n--;
      if (time <= times[0] || times.length === 1) return element(0, 1);
      if (time >= times[times.length - 1]) return element(times.length - 1, 1);
      const length = times[n + 1] - times[n];
      const t = (time - times[n]) / length;
      const a = element(n, 1);
      const b = element(n + 1, 1);
      if (how === 'STEP') return a;
      if (!cubic) return path === 'rotation' ? between(a, b, t) : a.map((v, c) => v + t * (b[c] - v));
      const out = element(n, 2);
      const into = element(n + 1, 0);
      const t2 = t * t;
      const t3 = t2 * t;
      const curve = a.map(
        (v, c) =>
          (2 * t3 - 3 * t2 + 1) * v +
          length * (t3 - 2 * t2 + t) * out[c] +
          (3 * t2 - 2 * t3) * b[c] +
          length * (t3 - t2) * into[c],
      );
      return path === 'rotation' ? unit(curve) : curve;
    };

    const set = (time: number): void => {
      const v = valueAt(time);
      if (path === 'translation') node.setTranslation(v as [number, number, number]);
      else if (path === 'scale') node.setScale(v as [number, number, number]);
      else if (path === 'weights') node.setWeights(v);
      else node.setRotation(v as [number, number, number, number]);
    };

    return [{ times, set }];
  });
}

const morphCount = (node: Node): number => node.getMesh()?.listPrimitives()[0]?.listTargets().length ?? 0;

function unit(q: readonly number[]): number[] {
  const long = Math.sqrt(q.reduce((sum, v) => sum + v * v, 0));
  return q.map((v) => v / long);
}

/** Halvings of the way between two turns: finer than single precision. */
const HALVINGS = 26;

/**
 * The turn at a part of the way from one to the other at even speed, by halving: the middle of two turns is
 * their sum made one long, so no sine is needed and every engine gets the same bits.
 */
function between(p: readonly number[], q: readonly number[], t: number): number[] {
  const dot = p.reduce((sum, v, c) => sum + v * q[c], 0);
  let a = unit(p);
  let b = unit(dot < 0 ? q.map((v) => -v) : q);
  let low = 0;
  let high = 1;
  for (let n = 0; n < HALVINGS; n++) {
    const middle = unit(a.map((v, c) => v + b[c]));
    const at = (low + high) / 2;
    if (t < at) {
      b = middle;
      high = at;
    } else {
      a = middle;
      low = at;
    }
  }

  return a;
}

interface Parts {
  readonly positions: number[];
  readonly colours: number[];
  readonly triangles: number[];
}

/** How a primitive stands: by its node, or by its bones; and how much of each morph is in it. */
interface Standing {
  readonly matrix: Matrix;
  readonly bones: readonly Matrix[] | null;
  readonly weights: readonly number[];
}

function addPrimitive(
  primitive: Primitive,
  { matrix, bones, weights }: Standing,
  { positions, colours, triangles }: Parts,
): void {
  const place = primitive.getAttribute('POSITION');
  if (!place) return;
  const colour = primitive.getAttribute('COLOR_0');
  const first = positions.length / 3;
  const morphs = primitive.listTargets().flatMap((target, n) => {
    const off = target.getAttribute('POSITION');
    return off && weights[n] ? [{ off, weight: weights[n] }] : [];
  });
  const bends = bones
    ? [0, 1, 2, 3].flatMap((n) => {
        const joints = primitive.getAttribute(`JOINTS_${n}`);
        const shares = primitive.getAttribute(`WEIGHTS_${n}`);
        return joints && shares ? [{ joints, shares }] : [];
      })
    : [];
  const element: number[] = [];
  const element2: number[] = [];
  for (let v = 0; v < place.getCount(); v++) {
    let [x, y, z] = place.getElement(v, element);
    for (const { off, weight } of morphs) {
      const [dx, dy, dz] = off.getElement(v, element2);
      x += weight * dx;
      y += weight * dy;
      z += weight * dz;
    }

    const m = bends.length > 0 ? blended(bones!, bends, v) : matrix;
    for (let a = 0; a < 3; a++) positions.push(m[a] * x + m[4 + a] * y + m[8 + a] * z + m[12 + a]);
    if (!colour) continue;
    while (colours.length < positions.length - 3) colours.push(1);
    colours.push(...colour.getElement(v, element).slice(0, 3));
  }

  const index = primitive.getIndices();
  const corners = Array.from({ length: index ? index.getCount() : place.getCount() }, (_, n) =>
    index ? index.getScalar(n) : n,
  );
  const bad = corners.find((c) => c >= place.getCount());
  if (bad !== undefined)
    throw new FileError(`A face of it names vertex ${bad}; there are ${place.getCount()}.`);
  // a mirrored node turns its triangles round
  const m = matrix;
  const mirrored =
    bends.length === 0 &&
    m[0] * (m[5] * m[10] - m[6] * m[9]) -
      m[4] * (m[1] * m[10] - m[2] * m[9]) +
      m[8] * (m[1] * m[6] - m[2] * m[5]) <
      0;
  const faces = facesOf(primitive.getMode(), corners);
  for (let n = 0; n + 2 < faces.length; n += 3) {
    const [a, b, c] = [faces[n], faces[n + 1], faces[n + 2]].map((f) => first + f);
    triangles.push(a, ...(mirrored ? [c, b] : [b, c]));
  }
}

function facesOf(mode: number, corners: readonly number[]): readonly number[] {
  if (mode === Primitive.Mode.TRIANGLE_STRIP) return trianglesOfStrip(corners);
  if (mode !== Primitive.Mode.TRIANGLE_FAN) return corners;
  return corners.slice(2).flatMap((c, n) => [corners[0], corners[n + 1], c]);
}

/** The matrices of a vertex's bones, by their shares. */
function blended(
  bones: readonly Matrix[],
  bends: readonly {
    joints: ReturnType<Primitive['getAttribute']>;
    shares: ReturnType<Primitive['getAttribute']>;
  }[],
  v: number,
): number[] {
  const out = new Array<number>(16).fill(0);
  let sum = 0;
  for (const { joints, shares } of bends) {
    const own = joints!.getElement(v, []);
    shares!.getElement(v, []).forEach((share, n) => {
      const bone = bones[own[n]];
      if (share === 0) return;
      if (!bone) throw new FileError(`Vertex ${v} hangs on bone ${own[n]}; there are ${bones.length}.`);
      sum += share;
      for (let e = 0; e < 16; e++) out[e] += share * bone[e];
    });
  }

  return sum > 0 ? out.map((e) => e / sum) : [...bones[0]];
}

/** Buffers that stand in the JSON itself, in base64 or with percent signs. */
function embedded(json: GltfJson): Record<string, Uint8Array<ArrayBuffer>> {
  const bytesOf = (text: string): Uint8Array<ArrayBuffer> => Uint8Array.from(text, (c) => c.charCodeAt(0));
  return Object.fromEntries(
    (json.buffers ?? []).flatMap(({ uri }) => {
      const match = /^data:[^,]*?(;base64)?,/.exec(uri ?? '');
      if (!uri || !match) return [];
      const body = uri.slice(match[0].length);
      return [[uri, bytesOf(match[1] ? atob(body) : unescaped(body))]];
    }),
  );
}

/** Each percent sign and two digits is a byte. */
const unescaped = (text: string): string =>
  text.replace(/%([0-9a-f]{2})/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)));

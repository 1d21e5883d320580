// glTF 2.0, as GLB or JSON with everything inside, read by a library: all triangles of the scene as they
// stand, bent by their bones and morphed by their weights, over the time of the first animation.
import { Primitive, type Accessor, type Document, type Node, type Skin } from '@gltf-transform/core';
import type { InstancedMesh } from '@gltf-transform/extensions';
import { stillMesh, timed, type Mesh, type TimedMesh } from '../../geometry/mesh';
import { FileError } from '../bytes';
import { trianglesOfStrip } from '../faces';
import { floatList, indexList, type FloatList, type IndexList } from '../growing';
import { coursesOf } from './animation';
import { openGltf, scenesOf } from './open';

/**
 * @param most triangles that are taken
 * @throws FileError
 */
export async function readGltf(
  bytes: Uint8Array,
  most = Infinity,
): Promise<{ mesh: TimedMesh; remarks: string[] }> {
  const remarks: string[] = [];
  const document = await openGltf(bytes);

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

const isFaces = (p: Primitive): boolean =>
  [Primitive.Mode.TRIANGLES, Primitive.Mode.TRIANGLE_STRIP, Primitive.Mode.TRIANGLE_FAN].includes(
    p.getMode() as 4,
  );

/** Copies of a node's mesh. */
const instancesOf = (node: Node): InstancedMesh | null =>
  node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing');

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
  const out: Parts = { positions: floatList(), colours: floatList(), triangles: indexList() };
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
    positions: positions.done().slice(),
    triangles: triangles.done().slice(),
    colours: colours.length ? colours.done().slice() : null,
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

interface Parts {
  readonly positions: FloatList;
  readonly colours: FloatList;
  readonly triangles: IndexList;
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
  const count = place.getCount();
  const placeAt = elementsOf(place);
  const offAt = morphs.map(({ off }) => elementsOf(off));
  const colourAt = colour && elementsOf(colour);
  for (let v = 0; v < count; v++) {
    let [x, y, z] = placeAt(v);
    for (let n = 0; n < morphs.length; n++) {
      const [dx, dy, dz] = offAt[n](v);
      const { weight } = morphs[n];
      x += weight * dx;
      y += weight * dy;
      z += weight * dz;
    }

    const m = bends.length > 0 ? blended(bones!, bends, v) : matrix;
    for (let a = 0; a < 3; a++) positions.push(m[a] * x + m[4 + a] * y + m[8 + a] * z + m[12 + a]);
    if (!colourAt) continue;
    while (colours.length < positions.length - 3) colours.push(1);
    const own = colourAt(v);
    for (let c = 0; c < 3; c++) colours.push(own[c]);
  }

  const corners = primitive.getIndices()?.getArray() ?? Uint32Array.from({ length: count }, (_, n) => n);
  for (const c of corners)
    if (c >= count) throw new FileError(`A face of it names vertex ${c}; there are ${count}.`);
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
    triangles.push(first + faces[n]);
    triangles.push(first + faces[mirrored ? n + 2 : n + 1]);
    triangles.push(first + faces[mirrored ? n + 1 : n + 2]);
  }
}

/** A vertex's values; the same list each time. */
function elementsOf(accessor: Accessor): (v: number) => readonly number[] {
  const out: number[] = [];
  const array = accessor.getArray();
  if (!(array instanceof Float32Array)) return (v) => accessor.getElement(v, out);
  const size = accessor.getElementSize();
  return (v) => {
    for (let n = 0; n < size; n++) out[n] = array[v * size + n];
    return out;
  };
}

function facesOf(mode: number, corners: ArrayLike<number>): ArrayLike<number> {
  if (mode === Primitive.Mode.TRIANGLE_STRIP) return trianglesOfStrip(Array.from(corners));
  if (mode !== Primitive.Mode.TRIANGLE_FAN) return corners;
  return Array.from(corners)
    .slice(2)
    .flatMap((c, n) => [corners[0], corners[n + 1], c]);
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

// glTF 2.0, as GLB or JSON with everything inside, read by a library: all triangles of the scene as they
// stand.
import { Accessor, Primitive, WebIO, type Document, type Node } from '@gltf-transform/core';
import { stillMesh, timed, type Mesh, type TimedMesh } from '../../geometry/mesh';
import { FileError } from '../bytes';

/** @throws FileError */
export async function readGltf(bytes: Uint8Array): Promise<TimedMesh> {
  let document: Document;
  try {
    if (new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0, true) === 0x46546c67)
      document = await new WebIO().readBinary(bytes);
    else {
      const json = JSON.parse(new TextDecoder().decode(bytes)) as { buffers?: { uri?: string }[] };
      const outside = json.buffers?.find((b) => b.uri && !b.uri.startsWith('data:'));
      if (outside)
        throw new FileError(
          `It keeps its data in another file, ${outside.uri}. Save it as GLB, which holds all in one.`,
        );
      document = await new WebIO().readJSON({ json: json as never, resources: embedded(json) });
    }
  } catch (error) {
    if (error instanceof FileError) throw error;
    throw new FileError(`It is no glTF file that can be read: ${(error as Error).message}`);
  }

  const courses = coursesOf(document);
  const ends = courses.flatMap((c) => [c.times[0], c.times[c.times.length - 1]]);
  if (courses.length === 0) return stillMesh(meshOf(document));
  return timed(
    { unit: 'seconds', first: Math.min(...ends), last: Math.max(...ends), keepsShape: true },
    (time) => {
      for (const course of courses) course.set(time);
      return meshOf(document);
    },
  );
}

/** All triangles of the scene as its nodes stand now. */
function meshOf(document: Document): Mesh {
  const positions: number[] = [];
  const colours: number[] = [];
  const triangles: number[] = [];
  const add = (node: Node): void => {
    const matrix = node.getWorldMatrix();
    for (const primitive of node.getMesh()?.listPrimitives() ?? [])
      addPrimitive(primitive, matrix, positions, colours, triangles);
    node.listChildren().forEach(add);
  };

  const scenes = document.getRoot().getDefaultScene()
    ? [document.getRoot().getDefaultScene()!]
    : document.getRoot().listScenes();
  scenes.forEach((scene) => scene.listChildren().forEach(add));
  while (colours.length > 0 && colours.length < positions.length) colours.push(1);
  return {
    positions: Float32Array.from(positions),
    triangles: Uint32Array.from(triangles),
    colours: colours.length ? Float32Array.from(colours) : null,
  };
}

/** What one channel of the animation does to its node. */
interface Course {
  readonly times: ArrayLike<number>;
  readonly set: (time: number) => void;
}

/** Of the file's first animation, the channels that move, turn and size nodes. */
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
      (path !== 'translation' && path !== 'rotation' && path !== 'scale')
    )
      return [];
    const how = sampler.getInterpolation();
    const cubic = how === 'CUBICSPLINE';
    // of a cubic one, each key has its slope in, its value, its slope out
    const element = (n: number, part: number): number[] => output.getElement(cubic ? 3 * n + part : n, []);
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
      else node.setRotation(v as [number, number, number, number]);
    };

    return [{ times, set }];
  });
}

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

function addPrimitive(
  primitive: Primitive,
  m: readonly number[],
  positions: number[],
  colours: number[],
  triangles: number[],
): void {
  const place = primitive.getAttribute('POSITION');
  const colour = primitive.getAttribute('COLOR_0');
  const first = positions.length / 3;
  if (!place || primitive.getMode() !== Primitive.Mode.TRIANGLES) return;
  const element: number[] = [];
  for (let v = 0; v < place.getCount(); v++) {
    const [x, y, z] = place.getElement(v, element);
    for (let a = 0; a < 3; a++) positions.push(m[a] * x + m[4 + a] * y + m[8 + a] * z + m[12 + a]);
    if (!colour) continue;
    while (colours.length < positions.length - 3) colours.push(1);
    colours.push(...colour.getElement(v, element).slice(0, 3));
  }

  const index: Accessor | null = primitive.getIndices();
  const count = index ? index.getCount() : place.getCount();
  // a mirrored node turns its triangles round
  const mirrored =
    m[0] * (m[5] * m[10] - m[6] * m[9]) -
      m[4] * (m[1] * m[10] - m[2] * m[9]) +
      m[8] * (m[1] * m[6] - m[2] * m[5]) <
    0;
  for (let n = 0; n + 2 < count; n += 3) {
    const c = [0, 1, 2].map((e) => first + (index ? index.getScalar(n + e) : n + e));
    triangles.push(c[0], ...(mirrored ? [c[2], c[1]] : [c[1], c[2]]));
  }
}

/** Buffers that stand in the JSON as base64. */
function embedded(json: { buffers?: { uri?: string }[] }): Record<string, Uint8Array<ArrayBuffer>> {
  return Object.fromEntries(
    (json.buffers ?? []).flatMap(({ uri }) => {
      const at = uri?.indexOf('base64,') ?? -1;
      return uri && at >= 0 ? [[uri, Uint8Array.from(atob(uri.slice(at + 7)), (c) => c.charCodeAt(0))]] : [];
    }),
  );
}

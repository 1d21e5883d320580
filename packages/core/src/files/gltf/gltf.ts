// glTF 2.0, as GLB or JSON with everything inside, read by a library: all triangles of the scene as they stand.
import { Accessor, Primitive, WebIO, type Document, type Node } from '@gltf-transform/core';
import type { Mesh } from '../../geometry/mesh';
import { FileFault } from '../bytes';

/** @throws FileFault */
export async function readGltf(bytes: Uint8Array): Promise<Mesh> {
  let document: Document;
  try {
    if (new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0, true) === 0x46546c67) document = await new WebIO().readBinary(bytes);
    else {
      const json = JSON.parse(new TextDecoder().decode(bytes)) as { buffers?: { uri?: string }[] };
      const outside = json.buffers?.find((b) => b.uri && !b.uri.startsWith('data:'));
      if (outside) throw new FileFault(`It keeps its data in another file, ${outside.uri}. Save it as GLB, which holds all in one.`);
      document = await new WebIO().readJSON({ json: json as never, resources: embedded(json) });
    }
  } catch (error) {
    if (error instanceof FileFault) throw error;
    throw new FileFault(`It is no glTF file that can be read: ${(error as Error).message}`);
  }
  const positions: number[] = [],
    colours: number[] = [],
    triangles: number[] = [];
  const add = (node: Node): void => {
    const matrix = node.getWorldMatrix();
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) addPrimitive(primitive, matrix, positions, colours, triangles);
    node.listChildren().forEach(add);
  };
  const scenes = document.getRoot().getDefaultScene() ? [document.getRoot().getDefaultScene()!] : document.getRoot().listScenes();
  scenes.forEach((scene) => scene.listChildren().forEach(add));
  while (colours.length > 0 && colours.length < positions.length) colours.push(1);
  return {
    positions: Float32Array.from(positions),
    triangles: Uint32Array.from(triangles),
    colours: colours.length ? Float32Array.from(colours) : null,
  };
}

function addPrimitive(primitive: Primitive, m: readonly number[], positions: number[], colours: number[], triangles: number[]): void {
  const place = primitive.getAttribute('POSITION'),
    colour = primitive.getAttribute('COLOR_0'),
    first = positions.length / 3;
  if (!place || primitive.getMode() !== Primitive.Mode.TRIANGLES) return;
  const element: number[] = [];
  for (let v = 0; v < place.getCount(); v++) {
    const [x, y, z] = place.getElement(v, element);
    for (let a = 0; a < 3; a++) positions.push(m[a] * x + m[4 + a] * y + m[8 + a] * z + m[12 + a]);
    if (!colour) continue;
    while (colours.length < positions.length - 3) colours.push(1);
    colours.push(...colour.getElement(v, element).slice(0, 3));
  }
  const index: Accessor | null = primitive.getIndices(),
    count = index ? index.getCount() : place.getCount();
  // a mirrored node turns its triangles round
  const mirrored = m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5]) < 0;
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

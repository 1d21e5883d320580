// Opens a glTF file by a library: GLB or JSON with everything inside, checked before it is believed.
import { WebIO, type Document } from '@gltf-transform/core';
import { EXTMeshGPUInstancing, KHRLightsPunctual, KHRMeshQuantization } from '@gltf-transform/extensions';
import { FileError } from '../bytes';
import { mustBeSound, withoutTextures, type GltfJson } from './sound';

const GLB = 0x46546c67;

/** @throws FileError */
export async function openGltf(bytes: Uint8Array): Promise<Document> {
  try {
    return await documentOf(bytes);
  } catch (error) {
    if (error instanceof FileError) throw error;
    throw new FileError(`It is no glTF file that can be read: ${(error as Error).message}`);
  }
}

async function documentOf(bytes: Uint8Array): Promise<Document> {
  const io = new WebIO().registerExtensions([EXTMeshGPUInstancing, KHRLightsPunctual, KHRMeshQuantization]);
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

export const scenesOf = (document: Document): ReturnType<ReturnType<Document['getRoot']>['listScenes']> => {
  const scene = document.getRoot().getDefaultScene();
  return scene ? [scene] : document.getRoot().listScenes();
};

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

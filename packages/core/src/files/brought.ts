// Files that artists bring in: which reader takes them, and what every one of them must hold to.
import type { Picture } from '../geometry/assets';
import type { Mesh } from '../geometry/mesh';
import { FileFault } from './bytes';
import { readExr } from './exr/exr';
import { readGltf } from './gltf/gltf';
import { readObj } from './obj/obj';
import { readPly } from './ply/ply';
import { readPngPicture } from './png/png';
import { readStl } from './stl/stl';

export const MESH_ENDINGS: readonly string[] = ['obj', 'ply', 'stl', 'glb', 'gltf'];
export const PICTURE_ENDINGS: readonly string[] = ['png', 'exr'];
const MOST_TRIANGLES = 5_000_000;

export function endingOf(name: string): string {
  return /\.([^.]+)$/.exec(name)?.[1].toLowerCase() ?? '';
}
/** What a file's name says that it is; null for one that is not taken. */
export function kindOf(name: string): 'mesh' | 'picture' | null {
  const ending = endingOf(name);
  return MESH_ENDINGS.includes(ending) ? 'mesh' : PICTURE_ENDINGS.includes(ending) ? 'picture' : null;
}

/** @throws FileFault in words that name the place and the cure */
export async function readMesh(name: string, bytes: Uint8Array): Promise<Mesh> {
  const ending = endingOf(name);
  if (bytes.length === 0) throw new FileFault('The file is empty.');
  const mesh =
    ending === 'obj' ? readObj(bytes) : ending === 'ply' ? readPly(bytes) : ending === 'stl' ? readStl(bytes) : await readGltf(bytes);
  const triangles = mesh.triangles.length / 3;
  if (triangles === 0) throw new FileFault('It holds no triangles. Points and lines cannot be used as a mesh.');
  if (triangles > MOST_TRIANGLES)
    throw new FileFault(
      `It holds ${(triangles / 1e6).toFixed(1)} million triangles; ${MOST_TRIANGLES / 1e6} million are the most. Reduce it first.`,
    );
  const bad = mesh.positions.findIndex((v) => !Number.isFinite(v));
  if (bad >= 0) throw new FileFault(`Vertex ${Math.floor(bad / 3)} is at no place (not a finite number).`);
  return mesh;
}

/** @throws FileFault */
export function readPicture(name: string, bytes: Uint8Array): Picture {
  if (bytes.length === 0) throw new FileFault('The file is empty.');
  if (endingOf(name) === 'png') return readPngPicture(bytes);
  const { width, height, channels } = readExr(bytes);
  const plane = (...names: string[]): Float32Array | undefined => channels.find((c) => names.includes(c.name))?.values;
  const [r, g, b] = [plane('R', 'Y'), plane('G', 'Y'), plane('B', 'Y')];
  if (!r || !g || !b) throw new FileFault('It has neither the channels R, G, B nor Y.');
  return planesOf(width, height, (c, n) => [r, g, b][c][n]);
}

/** @param value of a channel (0…2) at a pixel, top row first */
export function planesOf(width: number, height: number, value: (channel: number, pixel: number) => number): Picture {
  const size = width * height,
    planes = new Float32Array(4 * size);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = (height - 1 - y) * width + x,
        to = y * width + x;
      const [r, g, b] = [0, 1, 2].map((c) => value(c, from));
      planes[to] = r;
      planes[size + to] = g;
      planes[2 * size + to] = b;
      planes[3 * size + to] = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    }
  return { width, height, planes };
}

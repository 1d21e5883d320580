// STL, binary and as text: triangles without anything else. It says nothing about units.
import type { Mesh } from '../../geometry/mesh';
import { FileError } from '../bytes';

const HEAD = 84;
const EACH = 50;

/** @throws FileError */
export function readStl(bytes: Uint8Array): Mesh {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const count = bytes.length >= HEAD ? view.getUint32(80, true) : 0;
  const fits = bytes.length >= HEAD && HEAD + count * EACH <= bytes.length;
  const isText = /^\s*solid\b[^]*\bfacet\b/i.test(new TextDecoder('latin1').decode(bytes.subarray(0, 1024)));
  // a text file starts with “solid”, and so may a careless binary one: its length tells; some end with more
  const binary = fits && (HEAD + count * EACH === bytes.length || (count > 0 && !isText));
  const positions: number[] = [];
  if (binary) {
    for (let n = 0; n < count; n++)
      for (let v = 0; v < 9; v++) positions.push(view.getFloat32(HEAD + n * EACH + 12 + v * 4, true));
  } else {
    const text = new TextDecoder().decode(bytes);
    if (!/^\s*solid\b/i.test(text))
      throw new FileError(
        `It is no STL file, or cut short: it says ${count} triangles and holds ${bytes.length} bytes.`,
      );
    for (const match of text.matchAll(/\bvertex\s+(\S+)\s+(\S+)\s+(\S+)/gi)) {
      const values = match.slice(1, 4).map(Number);
      if (values.some((v) => !Number.isFinite(v)))
        throw new FileError(`“${match[0]}” is no place.`, match.index);
      positions.push(...values);
    }

    if (positions.length % 9 !== 0 || !/\bendsolid\b/i.test(text))
      throw new FileError('The text ends inside a triangle: the file is cut short.');
  }

  return {
    positions: Float32Array.from(positions),
    triangles: Uint32Array.from({ length: positions.length / 3 }, (_, n) => n),
    colours: null,
  };
}

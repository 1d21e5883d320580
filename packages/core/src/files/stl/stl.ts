// STL, binary and as text: triangles without anything else. It says nothing about units.
import type { Mesh } from '../../geometry/mesh';
import { FileError } from '../bytes';
import { floatList } from '../growing';
import { TextScanner } from '../text-scanner';

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
  const positions = binary ? binaryPlaces(view, count) : textPlaces(bytes, count);
  const triangles = new Uint32Array(positions.length / 3);
  for (let n = 0; n < triangles.length; n++) triangles[n] = n;
  return { positions, triangles, colours: null };
}

function binaryPlaces(view: DataView, count: number): Float32Array {
  const positions = new Float32Array(9 * count);
  for (let n = 0; n < count; n++)
    for (let v = 0; v < 9; v++) positions[9 * n + v] = view.getFloat32(HEAD + n * EACH + 12 + v * 4, true);
  return positions;
}

function textPlaces(bytes: Uint8Array, count: number): Float32Array {
  const scan = new TextScanner(bytes);
  const positions = floatList();
  scan.skip(true);
  scan.word();
  if (!scan.is('solid', true))
    throw new FileError(
      `It is no STL file, or cut short: it says ${count} triangles and holds ${bytes.length} bytes.`,
    );
  scan.nextLine();
  let isWhole = false;
  for (scan.skip(true); scan.word() > 0; scan.skip(true)) {
    // a name may hold any words
    const ends = scan.is('endsolid', true);
    if (ends || scan.is('solid', true)) {
      isWhole = ends;
      scan.nextLine();
      continue;
    }

    if (!scan.is('vertex', true)) continue;
    const from = scan.from;
    for (let a = 0; a < 3; a++) {
      scan.skip(true);
      const v = scan.number();
      if (!Number.isFinite(v)) {
        scan.from = from;
        throw new FileError(`“${scan.text.slice(0, 60)}” is no place.`, from);
      }

      positions.push(v);
    }
  }

  if (positions.length % 9 !== 0 || !isWhole)
    throw new FileError('The text ends inside a triangle: the file is cut short.');
  return positions.done().slice();
}

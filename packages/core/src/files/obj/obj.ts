// Wavefront OBJ: vertices (with colours behind them, as many programs write them) and faces; all else is
// passed over.
import type { Mesh } from '../../geometry/mesh';
import { FileError } from '../bytes';
import { putTriangles } from '../faces';
import { floatList, indexList } from '../growing';
import { TextScanner } from '../text-scanner';

const BLANK = 32;
const LINE_FEED = 10;
const RETURN = 13;
const BACKSLASH = 92;
const REMARK = 35;
const SLASH = 47;

/** @throws FileError naming the line */
export function readObj(bytes: Uint8Array): Mesh {
  const positions = floatList();
  const colours = floatList();
  const triangles = indexList();
  const scan = new TextScanner(bytes.includes(BACKSLASH) ? joined(bytes) : bytes, 0, REMARK);
  const values: number[] = [];
  const corners: number[] = [];
  for (let line = 1; scan.at < scan.end; line++, scan.nextLine()) {
    scan.skip(false);
    const start = scan.at;
    scan.word();
    if (scan.is('v')) {
      values.length = 0;
      for (scan.skip(false); !scan.isAtLineEnd; scan.skip(false)) values.push(scan.number());
      if (values.length < 3 || !values.slice(0, 3).every(Number.isFinite)) {
        while (!scan.isAtLineEnd) scan.at++;
        scan.from = start;
        throw new FileError(
          `Line ${line}: a vertex needs three numbers, not “${scan.text.trim().slice(0, 60)}”.`,
        );
      }

      for (let a = 0; a < 3; a++) positions.push(values[a]);
      if (values.length >= 6 && values.slice(3, 6).every(Number.isFinite)) {
        while (colours.length < positions.length - 3) colours.push(1);
        for (let c = 3; c < 6; c++) colours.push(values[c]);
      }
    } else if (scan.is('f')) {
      corners.length = 0;
      const count = positions.length / 3;
      for (scan.skip(false); !scan.isAtLineEnd; scan.skip(false)) {
        const n = scan.number(SLASH);
        const { from } = scan;
        // what stands behind a slash is for shading
        if (scan.byte === SLASH) scan.word();
        const v = n < 0 ? count + n : n - 1;
        if (!Number.isInteger(n) || n === 0 || v < 0 || v >= count) {
          scan.from = from;
          throw new FileError(
            `Line ${line}: the face’s corner “${scan.text.slice(0, 30)}” is no vertex; there are ${count} ` +
              'before it.',
          );
        }

        corners.push(v);
      }

      if (corners.length < 3) throw new FileError(`Line ${line}: a face needs three corners at least.`);
      putTriangles(corners, positions, triangles);
    }
  }

  while (colours.length > 0 && colours.length < positions.length) colours.push(1);
  return {
    positions: positions.done().slice(),
    triangles: triangles.done().slice(),
    colours: colours.length ? colours.done().slice() : null,
  };
}

/** A line that ends with a backslash goes on in the next one. */
function joined(bytes: Uint8Array): Uint8Array {
  const out = bytes.slice();
  for (let n = 0; n < out.length; n++) {
    const end = out[n + 1] === RETURN ? n + 2 : n + 1;
    if (out[n] === BACKSLASH && out[end] === LINE_FEED) out.fill(BLANK, n, end + 1);
  }

  return out;
}

/** The same form, for tests and for meshes made here. */
export function writeObj({ positions: p, triangles: t, colours: c }: Mesh): string {
  const out: string[] = [];
  for (let v = 0; v < p.length; v += 3)
    out.push(['v', p[v], p[v + 1], p[v + 2], ...(c ? [c[v], c[v + 1], c[v + 2]] : [])].join(' '));
  for (let n = 0; n < t.length; n += 3) out.push(`f ${t[n] + 1} ${t[n + 1] + 1} ${t[n + 2] + 1}`);
  return `${out.join('\n')}\n`;
}

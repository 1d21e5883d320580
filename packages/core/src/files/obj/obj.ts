// Wavefront OBJ: vertices (with colours behind them, as many programs write them) and faces; all else is
// passed over.
import type { Mesh } from '../../geometry/mesh';
import { FileError } from '../bytes';
import { trianglesOf } from '../faces';

/** @throws FileError naming the line */
export function readObj(bytes: Uint8Array): Mesh {
  const positions: number[] = [];
  const colours: number[] = [];
  const triangles: number[] = [];
  const text = new TextDecoder().decode(bytes).replace(/\\\r?\n/g, ' ');
  let line = 0;
  for (const row of text.split('\n')) {
    line++;
    const words = row.replace(/#.*/, '').trim().split(/\s+/);
    if (words[0] === 'v') {
      const values = words.slice(1).map(Number);
      if (values.length < 3 || values.slice(0, 3).some((v) => !Number.isFinite(v)))
        throw new FileError(`Line ${line}: a vertex needs three numbers, not “${row.trim().slice(0, 60)}”.`);
      positions.push(...values.slice(0, 3));
      if (values.length >= 6 && values.slice(3, 6).every(Number.isFinite)) {
        while (colours.length < positions.length - 3) colours.push(1);
        colours.push(...values.slice(3, 6));
      }
    } else if (words[0] === 'f') {
      const corners = words.slice(1).map((w) => {
        const n = Number(w.split('/')[0]);
        const count = positions.length / 3;
        const v = n < 0 ? count + n : n - 1;
        if (!Number.isInteger(n) || n === 0 || v < 0 || v >= count)
          throw new FileError(
            `Line ${line}: the face’s corner “${w.slice(0, 30)}” is no vertex; there are ${count} before it.`,
          );
        return v;
      });
      if (corners.length < 3) throw new FileError(`Line ${line}: a face needs three corners at least.`);
      triangles.push(...trianglesOf(corners, positions));
    }
  }

  while (colours.length > 0 && colours.length < positions.length) colours.push(1);
  return {
    positions: Float32Array.from(positions),
    triangles: Uint32Array.from(triangles),
    colours: colours.length ? Float32Array.from(colours) : null,
  };
}

/** The same form, for tests and for meshes made here. */
export function writeObj({ positions: p, triangles: t, colours: c }: Mesh): string {
  const out: string[] = [];
  for (let v = 0; v < p.length; v += 3)
    out.push(['v', p[v], p[v + 1], p[v + 2], ...(c ? [c[v], c[v + 1], c[v + 2]] : [])].join(' '));
  for (let n = 0; n < t.length; n += 3) out.push(`f ${t[n] + 1} ${t[n + 1] + 1} ${t[n + 2] + 1}`);
  return `${out.join('\n')}\n`;
}

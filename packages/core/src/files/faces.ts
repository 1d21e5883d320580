// Faces of several corners as triangles, and meshes without what no face uses.
import earcut from 'earcut';
import type { Mesh } from '../geometry/mesh';

/**
 * Fans where a face is convex, else cut so that nothing outside of it is covered.
 * @param corners vertices in their order around the face
 * @param positions three numbers a vertex
 */
export function trianglesOf(corners: readonly number[], positions: ArrayLike<number>): number[] {
  const n = corners.length;
  const fan = Array.from({ length: n - 2 }, (_, c) => [corners[0], corners[c + 1], corners[c + 2]]).flat();
  if (n === 3) return fan;
  // the face's normal, twice its area long (after Newell)
  const normal = [0, 0, 0];
  for (let c = 0; c < n; c++) {
    const p = 3 * corners[c];
    const q = 3 * corners[(c + 1) % n];
    for (let a = 0; a < 3; a++) {
      const [u, v] = [(a + 1) % 3, (a + 2) % 3];
      normal[a] += (positions[p + u] - positions[q + u]) * (positions[p + v] + positions[q + v]);
    }
  }

  const axis = normal.reduce((most, v, a) => (Math.abs(v) > Math.abs(normal[most]) ? a : most), 0);
  const [u, v] = normal[axis] >= 0 ? [(axis + 1) % 3, (axis + 2) % 3] : [(axis + 2) % 3, (axis + 1) % 3];
  const flat = corners.flatMap((c) => [positions[3 * c + u], positions[3 * c + v]]);
  const turns = (c: number): number => {
    const [a, b, d] = [c, (c + 1) % n, (c + 2) % n].map((m) => 2 * m);
    return (
      (flat[b] - flat[a]) * (flat[d + 1] - flat[b + 1]) - (flat[b + 1] - flat[a + 1]) * (flat[d] - flat[b])
    );
  };

  if (corners.every((_, c) => turns(c) >= 0)) return fan;
  const cut = earcut(flat);
  // a face that crosses itself cannot be cut
  return cut.length === 0 ? fan : cut.map((c) => corners[c]);
}

/** Triangles of a strip: every other one turns the other way. */
export function trianglesOfStrip(corners: readonly number[]): number[] {
  const out: number[] = [];
  for (let n = 2; n < corners.length; n++) {
    const [a, b, c] = corners.slice(n - 2, n + 1);
    if (a === b || b === c || a === c) continue;
    out.push(a, ...(n % 2 === 0 ? [b, c] : [c, b]));
  }

  return out;
}

/** A mesh of the vertices that its faces use: others would make its box larger than it is. */
export function withoutLoose(mesh: Mesh): { mesh: Mesh; loose: number } {
  const count = mesh.positions.length / 3;
  const place = new Int32Array(count).fill(-1);
  let used = 0;
  for (const v of mesh.triangles) if (place[v] < 0) place[v] = 0;
  for (let v = 0; v < count; v++) if (place[v] === 0) place[v] = used++;
  if (used === count) return { mesh, loose: 0 };
  const kept = (values: Float32Array): Float32Array => {
    const out = new Float32Array(3 * used);
    for (let v = 0; v < count; v++)
      if (place[v] >= 0) out.set(values.subarray(3 * v, 3 * v + 3), 3 * place[v]);
    return out;
  };

  return {
    mesh: {
      positions: kept(mesh.positions),
      triangles: mesh.triangles.map((v) => place[v]),
      colours: mesh.colours && kept(mesh.colours),
    },
    loose: count - used,
  };
}

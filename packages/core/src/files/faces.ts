// Faces of several corners as triangles, and meshes without what no face uses.
import earcut from 'earcut';
import type { Mesh } from '../geometry/mesh';

/** Positions of vertices, three numbers each. */
export interface Places {
  at(n: number): number;
}
/** Where corners go, three a triangle. */
export interface Corners {
  push(v: number): void;
}

/**
 * Puts down a face's triangles: fans where it is convex, else cut so that nothing outside of it is covered.
 * @param corners vertices in their order around the face
 */
export function putTriangles(corners: readonly number[], places: Places, out: Corners): void {
  const n = corners.length;
  const fan = (): void => {
    for (let c = 2; c < n; c++) {
      out.push(corners[0]);
      out.push(corners[c - 1]);
      out.push(corners[c]);
    }
  };

  if (n === 3) return fan();
  // the face's normal, twice its area long (after Newell)
  let [nx, ny, nz] = [0, 0, 0];
  for (let c = 0; c < n; c++) {
    const p = 3 * corners[c];
    const q = 3 * corners[c + 1 === n ? 0 : c + 1];
    const [px, py, pz] = [places.at(p), places.at(p + 1), places.at(p + 2)];
    const [qx, qy, qz] = [places.at(q), places.at(q + 1), places.at(q + 2)];
    nx += (py - qy) * (pz + qz);
    ny += (pz - qz) * (px + qx);
    nz += (px - qx) * (py + qy);
  }

  let axis = Math.abs(ny) > Math.abs(nx) ? 1 : 0;
  if (Math.abs(nz) > Math.abs(axis ? ny : nx)) axis = 2;
  const isForward = [nx, ny, nz][axis] >= 0;
  const u = isForward ? (axis + 1) % 3 : (axis + 2) % 3;
  const v = isForward ? (axis + 2) % 3 : (axis + 1) % 3;
  const flat = new Float64Array(2 * n);
  for (let c = 0; c < n; c++) {
    flat[2 * c] = places.at(3 * corners[c] + u);
    flat[2 * c + 1] = places.at(3 * corners[c] + v);
  }

  const turns = (c: number): number => {
    const [a, b, d] = [2 * c, 2 * ((c + 1) % n), 2 * ((c + 2) % n)];
    return (
      (flat[b] - flat[a]) * (flat[d + 1] - flat[b + 1]) - (flat[b + 1] - flat[a + 1]) * (flat[d] - flat[b])
    );
  };

  let isConvex = true;
  for (let c = 0; c < n && isConvex; c++) isConvex = turns(c) >= 0;
  if (isConvex) return fan();
  const cut = earcut(flat);
  // a face that crosses itself cannot be cut
  if (cut.length === 0) return fan();
  for (const c of cut) out.push(corners[c]);
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

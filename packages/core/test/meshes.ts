// Meshes made of formulas.
import type { Accessor, Document } from '@gltf-transform/core';
import type { Assets } from '@bramblemist/core/assets/assets';
import { stillMesh, type Mesh } from '@bramblemist/core/geometry/mesh';

/** A surface over a grid of two parameters, joined end to end where it closes. */
function surface(nu: number, nv: number, at: (u: number, v: number) => [number, number, number]): Mesh {
  const positions: number[] = [];
  const triangles: number[] = [];
  for (let v = 0; v <= nv; v++)
    for (let u = 0; u <= nu; u++) positions.push(...at(u / nu, v / nv).map((x) => Math.round(x * 1e6) / 1e6));
  for (let v = 0; v < nv; v++)
    for (let u = 0; u < nu; u++) {
      const a = v * (nu + 1) + u;
      const b = a + nu + 1;
      triangles.push(a, b, a + 1, a + 1, b, b + 1);
    }

  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles), colours: null };
}

/** @param upTo part of the way from the north pole to the south pole: less than 1 leaves it open */
export function ballMesh(radius: number, n: number, upTo = 1): Mesh {
  return surface(n, Math.ceil(n / 2), (u, v) => {
    const a = -2 * Math.PI * u;
    const b = Math.PI * v * upTo;
    return [radius * Math.sin(b) * Math.cos(a), radius * Math.cos(b), radius * Math.sin(b) * Math.sin(a)];
  });
}

export function torusMesh(radius: number, tube: number, n: number): Mesh {
  return surface(n, Math.ceil(n / 2), (u, v) => {
    const a = -2 * Math.PI * u;
    const b = -2 * Math.PI * v;
    const r = radius + tube * Math.cos(b);
    return [r * Math.cos(a), tube * Math.sin(b), r * Math.sin(a)];
  });
}

export function boxMesh(hx: number, hy: number, hz: number): Mesh {
  const corners = Array.from({ length: 8 }, (_, n) => [n & 1 ? hx : -hx, n & 2 ? hy : -hy, n & 4 ? hz : -hz]);
  const quads = [
    [0, 4, 6, 2],
    [1, 3, 7, 5],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 2, 3, 1],
    [4, 5, 7, 6],
  ];
  return {
    positions: Float32Array.from(corners.flat()),
    triangles: Uint32Array.from(quads.flatMap(([a, b, c, d]) => [a, b, c, a, c, d])),
    colours: null,
  };
}

/** A single square in the plane y = 0, one side up. */
export function sheetMesh(half: number): Mesh {
  return {
    positions: Float32Array.from([-half, 0, -half, half, 0, -half, half, 0, half, -half, 0, half]),
    triangles: Uint32Array.from([0, 2, 1, 0, 3, 2]),
    colours: null,
  };
}

/** What makes accessors of a glTF document, all in one buffer. */
export function accessors(
  d: Document,
): (type: 'VEC3' | 'VEC4' | 'SCALAR', array: Float32Array | Uint32Array) => Accessor {
  const buffer = d.createBuffer();
  return (type, array) =>
    d
      .createAccessor()
      .setType(type)
      .setArray(array as never)
      .setBuffer(buffer);
}

const neverAsked = (): never => {
  throw new Error('no particles are asked for here');
};

/** Files that all hold one mesh, and one picture. */
export function assetsOf(
  mesh: Mesh,
  picture?: { width: number; height: number; planes: Float32Array },
): Assets {
  const still = stillMesh(mesh);
  return { mesh: () => still, picture: () => picture!, clouds: () => neverAsked(), volumes: () => null };
}

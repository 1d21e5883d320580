// What sources and obstacles look like, about their own middle.
import * as THREE from 'three';
import { inMetres, type Mesh } from '@bramblemist/core/geometry/mesh';
import type { StandingPart } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';

/** Layer of what hides the medium behind it. */
export const SOLID_LAYER = 1;
/** How far the ground is drawn, m. */
const GROUND = 200;

const scaled = new WeakMap<Mesh, Map<string, Mesh>>();
/** A mesh in metres, the same object for the same scale. */
export function inMetresOnce(mesh: Mesh, scale: number, up: 'y' | 'z'): Mesh {
  const key = `${scale} ${up}`;
  const own = scaled.get(mesh) ?? new Map<string, Mesh>();
  const made = own.get(key) ?? inMetres(mesh, { scale, up });
  scaled.set(mesh, own.set(key, made));
  return made;
}

/** @param round segments of a whole turn; @param mesh in metres, for a part that is one */
export function geometryOf(
  part: StandingPart & { points?: readonly Triple[] },
  round: number,
  mesh: Mesh | null,
): THREE.BufferGeometry {
  switch (part.shape) {
    case 'sphere':
      return new THREE.SphereGeometry(part.radius, round, Math.round(round * 0.65));
    case 'box':
    case 'plane':
      return new THREE.BoxGeometry(...part.size);
    case 'cylinder':
    case 'disc':
      return new THREE.CylinderGeometry(part.radius, part.radius, part.size[1], round);
    case 'ring':
      return new THREE.TorusGeometry(part.radius, part.tube, 8, round).rotateX(Math.PI / 2);
    case 'particles': // they are drawn one by one
      return new THREE.BufferGeometry();
    case 'ground':
      return new THREE.PlaneGeometry(GROUND, GROUND).rotateX(-Math.PI / 2);
    case 'path': {
      const path = new THREE.CurvePath<THREE.Vector3>();
      const points = (part.points ?? []).map((p) => new THREE.Vector3(...p));
      points.slice(1).forEach((p, n) => path.add(new THREE.LineCurve3(points[n], p)));
      return new THREE.TubeGeometry(path, 8 * Math.max(1, points.length - 1), part.radius, 8);
    }
    case 'mesh': {
      if (!mesh) throw new Error('A mesh that is not here yet cannot be drawn');
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute('position', new THREE.BufferAttribute(mesh.positions, 3));
      geometry.setIndex(new THREE.BufferAttribute(mesh.triangles, 1));
      geometry.computeVertexNormals();
      return geometry;
    }
  }
}

// What sources and obstacles look like, about their own middle.
import * as THREE from 'three';
import type { StandingPart, Triple } from '@bramblemist/core/recipe/recipe';

/** How far the ground is drawn, m. */
const GROUND = 200;

/** @param round segments of a whole turn */
export function geometryOf(part: StandingPart & { points?: readonly Triple[] }, round: number): THREE.BufferGeometry {
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
    case 'ground':
      return new THREE.PlaneGeometry(GROUND, GROUND).rotateX(-Math.PI / 2);
    case 'path': {
      const path = new THREE.CurvePath<THREE.Vector3>(),
        points = (part.points ?? []).map((p) => new THREE.Vector3(...p));
      points.slice(1).forEach((p, n) => path.add(new THREE.LineCurve3(points[n], p)));
      return new THREE.TubeGeometry(path, 8 * Math.max(1, points.length - 1), part.radius, 8);
    }
    case 'mesh':
      return new THREE.BufferGeometry();
  }
}

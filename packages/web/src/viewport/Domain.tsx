// The domain: its edges, and its sides by what they let through.
import { useEffect, useMemo, type ReactNode } from 'react';
import * as THREE from 'three';
import { SOLID_LAYER } from './shapes';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';

/** Sides of the domain but the floor: where each is, and how its plane is turned to look inward. */
const WALLS: readonly {
  side: 'top' | 'left' | 'right' | 'back' | 'front';
  axis: 0 | 1 | 2;
  end: -1 | 1;
  turn: Triple;
}[] = [
  { side: 'top', axis: 1, end: 1, turn: [Math.PI / 2, 0, 0] },
  { side: 'left', axis: 0, end: -1, turn: [0, Math.PI / 2, 0] },
  { side: 'right', axis: 0, end: 1, turn: [0, -Math.PI / 2, 0] },
  { side: 'back', axis: 2, end: -1, turn: [0, 0, 0] },
  { side: 'front', axis: 2, end: 1, turn: [0, Math.PI, 0] },
];
const HATCHES = 14;

/**
 * A side that is a wall: a faint plane with hatches, seen from inside only, so that none stands before the
 * scene.
 */
function Wall({
  place,
  turn,
  width,
  height,
}: {
  place: Triple;
  turn: Triple;
  width: number;
  height: number;
}): ReactNode {
  const hatches = useMemo(() => {
    // slanting strips from edge to edge; strips, as lines have no side from which they are not seen
    const points: number[] = [];
    const all = width + height;
    const half = (0.0012 * all) / Math.SQRT2;
    for (let n = 1; n < HATCHES; n++) {
      const at = (all * n) / HATCHES;
      const a = [Math.min(at, width) - width / 2, Math.max(0, at - width) - height / 2];
      const b = [Math.max(0, at - height) - width / 2, Math.min(at, height) - height / 2];
      const [p, q, r, t] = [
        [a[0] - half, a[1] - half],
        [a[0] + half, a[1] + half],
        [b[0] + half, b[1] + half],
        [b[0] - half, b[1] - half],
      ];
      for (const c of [p, q, r, p, r, t]) points.push(c[0], c[1], 0);
    }

    return new THREE.BufferGeometry().setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
  }, [width, height]);
  useEffect(() => () => hatches.dispose(), [hatches]);
  return (
    <group position={place} rotation={turn}>
      <mesh>
        <planeGeometry args={[width, height]} />
        <meshBasicMaterial color="#8a8a90" transparent opacity={0.13} depthWrite={false} />
      </mesh>
      <mesh geometry={hatches}>
        <meshBasicMaterial color="#c9c9cc" transparent opacity={0.16} depthWrite={false} />
      </mesh>
    </group>
  );
}

/**
 * The domain: edges, a floor that is a wall, hatches on other walls; an open side is nothing but its edges.
 * Bare it only takes the shadow.
 */
export function Domain({ recipe, bare }: { recipe: Recipe; bare: boolean }): ReactNode {
  const { size, corner, sides } = recipe.space;
  const edges = useMemo(() => new THREE.EdgesGeometry(new THREE.BoxGeometry(...size)), [size]);
  useEffect(() => () => edges.dispose(), [edges]);
  const middle = corner.map((c, a) => c + size[a] / 2) as [number, number, number];
  return (
    <>
      <lineSegments geometry={edges} position={middle}>
        <lineBasicMaterial color="#c9c9cc" transparent opacity={0.55} />
      </lineSegments>
      {sides.floor === 'wall' && (
        <mesh
          position={[middle[0], corner[1] - 0.002, middle[2]]}
          rotation={[-Math.PI / 2, 0, 0]}
          layers-mask={(1 << SOLID_LAYER) | 1}
        >
          <planeGeometry args={[size[0], size[2]]} />
          <meshStandardMaterial colorWrite={!bare} color="#4a4a4c" roughness={1} side={THREE.DoubleSide} />
        </mesh>
      )}
      {WALLS.filter(({ side }) => !bare && sides[side] === 'wall').map(({ side, axis, end, turn }) => {
        const place = [...middle] as Triple;
        place[axis] += (end * size[axis]) / 2;
        return (
          <Wall
            key={side}
            place={place}
            turn={turn}
            width={axis === 0 ? size[2] : size[0]}
            height={axis === 1 ? size[2] : size[1]}
          />
        );
      })}
    </>
  );
}

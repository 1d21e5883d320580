// What stands in the domain: sources and obstacles as shapes, a mesh that is painted on, particles as dots.
import { useThree, type ThreeEvent } from '@react-three/fiber';
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import * as THREE from 'three';
import { useTheme } from 'styled-components';
import type { ParticlePreview } from '@bramblemist/core/cache/particle-preview';
import type { Mesh } from '@bramblemist/core/geometry/mesh';
import { dabbed, paintedAt } from '@bramblemist/core/geometry/paint';
import type { Pose } from '@bramblemist/core/geometry/pose';
import type { SourcePart, StandingPart } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';
import { change, useBench } from '../data/bench';
import { select, useSelection } from '../data/selection';
import { useHandle } from './chosen';
import { geometryOf, SOLID_LAYER } from './shapes';

/** Pixels by which a hand may move in a press. */
const MOST_SHAKE = 3;
/** Faces that meet at less are drawn as one. */
const SHARP_DEGREES = 20;

/** A source or an obstacle as it stands at the frame that is shown. */
export function Shape({
  part,
  kind,
  pose,
  mesh,
  bare = false,
}: {
  part: StandingPart & { points?: readonly Triple[] };
  kind: 'source' | 'obstacle';
  pose: Pose;
  /** Whether it only hides the medium and takes its shadow, before what lies behind the window. */
  bare?: boolean;
  mesh: Mesh | null;
}): ReactNode {
  const theme = useTheme();
  const geometry = useMemo(() => geometryOf(part, kind === 'source' ? 20 : 48, mesh), [part, kind, mesh]);
  const chosen = useSelection((s) => s.id === part.id);
  // what has edges is drawn by them, what has none by a net
  const round = ['sphere', 'ring', 'path'].includes(part.shape) && kind === 'source';
  const vessel = 'facing' in part && part.facing === 'vessel';
  const lines = useMemo(
    () => (round ? new THREE.WireframeGeometry(geometry) : new THREE.EdgesGeometry(geometry, SHARP_DEGREES)),
    [geometry, round],
  );
  useEffect(
    () => () => {
      geometry.dispose();
      lines.dispose();
    },
    [geometry, lines],
  );
  return (
    <group
      position={pose.centre}
      quaternion={turned(pose)}
      onClick={(e) => {
        if (e.delta > MOST_SHAKE) return; // the end of a drag, of the camera or of a handle
        e.stopPropagation();
        select(part.id);
      }}
    >
      {kind === 'obstacle' && !vessel && (
        <mesh geometry={geometry} layers-mask={(1 << SOLID_LAYER) | 1}>
          <meshStandardMaterial
            colorWrite={!bare}
            color="#55565a"
            roughness={0.95}
            flatShading={part.shape === 'mesh'}
            side={THREE.DoubleSide}
          />
        </mesh>
      )}
      <lineSegments geometry={lines}>
        <lineBasicMaterial
          color={kind === 'source' || chosen ? theme.thorn : '#85858a'}
          transparent
          opacity={chosen ? 1 : opacityOf(kind, round)}
        />
      </lineSegments>
    </group>
  );
}

function turned({ toOwn: [x, y, z] }: Pose): THREE.Quaternion {
  // the rows are the obstacle's own axes in the world
  const m = new THREE.Matrix4().makeBasis(
    new THREE.Vector3(...x),
    new THREE.Vector3(...y),
    new THREE.Vector3(...z),
  );
  return new THREE.Quaternion().setFromRotationMatrix(m);
}

/**
 * The chosen mesh to be painted on: a press or a stroke lays dabs on it, with Shift held it wipes them away.
 */
export function PaintedOn({
  source,
  index,
  pose,
  mesh,
}: {
  source: SourcePart;
  index: number;
  pose: Pose;
  mesh: Mesh;
}): ReactNode {
  const theme = useTheme();
  const controls = useThree((s) => s.controls) as unknown as { enabled: boolean } | null;
  const brushM = useHandle((s) => s.brushM);
  const geometry = useMemo(() => geometryOf(source, 8, mesh), [source, mesh]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  const dab = useMemo(() => new THREE.SphereGeometry(1, 16, 10), []);
  const balls = useRef<THREE.InstancedMesh>(null);
  const painted = source.paint.filter(
    ([x, y, z, , amount]) => amount > 0 && paintedAt(source.paint, x, y, z) > 0.1,
  );
  useEffect(() => {
    const m = new THREE.Matrix4();
    painted.forEach(([x, y, z, r], n) =>
      balls.current?.setMatrixAt(n, m.makeScale(r, r, r).setPosition(x, y, z)),
    );
    if (balls.current) balls.current.instanceMatrix.needsUpdate = true;
  });
  const lay = (e: ThreeEvent<PointerEvent>): void => {
    if (e.buttons !== 1) return;
    e.stopPropagation();
    const now = useBench.getState().documents?.recipe.sources[index];
    if (!now) return;
    const d = e.point.toArray().map((v, a) => v - pose.centre[a]);
    const place = pose.toOwn.map((r) => r[0] * d[0] + r[1] * d[1] + r[2] * d[2]) as Triple;
    const next = dabbed(now.paint, place, brushM, e.nativeEvent.shiftKey ? -1 : 1);
    if (next !== now.paint) change(`paint ${now.name}`, 'recipe', `sources.${index}.paint`, next);
  };

  return (
    <group position={pose.centre} quaternion={turned(pose)}>
      <mesh
        geometry={geometry}
        layers-mask={(1 << SOLID_LAYER) | 1}
        onPointerDown={(e) => {
          if (controls) controls.enabled = false;
          lay(e);
        }}
        onPointerMove={lay}
        onPointerUp={() => {
          if (controls) controls.enabled = true;
        }}
        onPointerLeave={() => {
          if (controls) controls.enabled = true;
        }}
        onClick={(e) => e.stopPropagation()}
      >
        <meshStandardMaterial color="#77777c" roughness={0.9} flatShading side={THREE.DoubleSide} />
      </mesh>
      <instancedMesh
        key={painted.length}
        ref={balls}
        args={[dab, undefined, Math.max(1, painted.length)]}
        visible={painted.length > 0}
        raycast={() => null}
      >
        <meshBasicMaterial color={theme.thorn} transparent opacity={0.35} depthWrite={false} />
      </instancedMesh>
    </group>
  );
}

/** Particles at the frame that is shown. */
export function Particles({ dots }: { dots: ParticlePreview }): ReactNode {
  const geometry = useMemo(() => {
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.BufferAttribute(dots.places, 3, true));
    g.boundingSphere = new THREE.Sphere(new THREE.Vector3(0.5, 0.5, 0.5), 1);
    return g;
  }, [dots]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <points geometry={geometry} position={dots.corner} scale={dots.size} raycast={() => null}>
      <pointsMaterial
        color="#efe3c2"
        size={Math.max(2 * dots.radius, 1e-4)}
        sizeAttenuation
        transparent
        opacity={0.85}
      />
    </points>
  );
}

function opacityOf(kind: string, round: boolean): number {
  if (kind !== 'source') return 0.5;
  return round ? 0.35 : 0.9;
}

// The handle of what is chosen: moves it, turns it about its middle, sizes it or aims it; freely, or by whole
// voxels, fifteen degrees and tenths.
import { TransformControls } from '@react-three/drei';
import { useThree } from '@react-three/fiber';
import { useEffect, useRef, type ReactNode, type RefObject } from 'react';
import * as THREE from 'three';
import type { Recipe, StandingPart } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';
import { change } from '../data/bench';
import { useSelection } from '../data/selection';
import { chosenPart, DOMAIN, useHandle, type Chosen } from './chosen';

/** What a handle's mode is called where it is drawn. */
const GIZMOS = { turn: 'rotate', size: 'scale', move: 'translate', aim: 'translate' } as const;

const TURN_STEP = Math.PI / 12;
const tidy = (v: number): number => Number(v.toFixed(4));

/** Sizes after a pull by these factors; a round shape grows as a whole. */
function resized(part: Chosen['part'], by: Triple): Partial<Pick<StandingPart, 'size' | 'radius' | 'tube'>> {
  const size = part.size.map((v, a) => Math.max(0.001, tidy(v * Math.abs(by[a])))) as Triple;
  const most = by.reduce((m, v) => (Math.abs(v - 1) > Math.abs(m - 1) ? v : m), 1);
  const radius = Math.max(0.001, tidy(part.radius * Math.abs(most)));
  switch (part.shape) {
    case 'box':
    case 'plane':
      return { size };
    case 'cylinder':
    case 'disc': {
      const across = Math.abs(by[0] - 1) > Math.abs(by[2] - 1) ? by[0] : by[2];
      return {
        radius: Math.max(0.001, tidy(part.radius * Math.abs(across))),
        size: [part.size[0], size[1], part.size[2]],
      };
    }
    case 'ring':
      return { radius, tube: Math.max(0.001, tidy(part.tube * Math.abs(most))) };
    default:
      return { radius };
  }
}

export function Handle({ recipe }: { recipe: Recipe }): ReactNode {
  const id = useSelection((s) => s.id);
  const { mode: wanted, snap } = useHandle();
  const invalidate = useThree((s) => s.invalidate);
  const object = useRef<THREE.Group>(null);
  /** As it was when the handle was taken hold of. */
  const start = useRef<Chosen | null>(null);
  const chosen = chosenPart(recipe, id);
  const mode = chosen?.modes.includes(wanted) ? wanted : 'move';
  useEffect(() => invalidate(), [invalidate, id, mode]);
  if (!chosen?.part.on || mode === 'paint') return null;
  const { list, index, part, name, aim } = chosen;
  const domain = list === DOMAIN;
  const [x, y, z] = part.turn.map((d) => (d * Math.PI) / 180);
  const reach = 0.25 * Math.min(...recipe.space.size);
  const path = (rest: string): string => (domain ? `space.${rest}` : `${list}.${index}.${rest}`);
  const tip = aim && mode === 'aim' ? tipOf(part.centre, aim, reach) : null;
  const onChange = (): void => {
    const at = object.current;
    if (!at) return;
    const place = at.position.toArray().map(tidy) as Triple;
    if (mode === 'aim' && aim) {
      const value =
        aim.is === 'point'
          ? place
          : (place.map((v, a) => Number(((v - part.centre[a]) / reach).toFixed(3))) as Triple);
      if (value.some((v, a) => v !== aim.value[a]) && value.some((v) => v !== 0))
        change(`aim ${name}`, 'recipe', path(aim.path), value);
    } else if (mode === 'move') {
      if (!place.some((v, a) => v !== tidy(part.centre[a]))) return;
      if (domain)
        change(
          'move the domain',
          'recipe',
          'space.corner',
          place.map((v, a) => tidy(v - part.size[a] / 2)),
        );
      else change(`move ${name}`, 'recipe', path('centre'), place);
    } else if (mode === 'size') {
      const from = start.current;
      if (!from) return;
      const next = resized(from.part, at.scale.toArray() as Triple);
      if (domain) {
        // about its middle, but from its floor up
        const size = next.size!.map((v) => Math.max(0.01, v)) as Triple;
        const low = from.part.centre.map((c, a) => (a === 1 ? c - from.part.size[1] / 2 : c - size[a] / 2));
        change('size the domain', 'recipe', 'space', {
          ...recipe.space,
          size,
          corner: low.map(tidy) as Triple,
        });
      } else
        for (const [key, value] of Object.entries(next)) change(`size ${name}`, 'recipe', path(key), value);
    } else {
      const e = new THREE.Euler().setFromQuaternion(at.quaternion, 'ZYX');
      const turn = [e.x, e.y, e.z].map((r) => tidy((r * 180) / Math.PI)) as Triple;
      if (turn.some((v, a) => v !== tidy(part.turn[a]))) change(`turn ${name}`, 'recipe', path('turn'), turn);
    }
  };

  const grip = (): void => {
    start.current = chosen;
  };

  const release = (): void => {
    start.current = null;
    object.current?.scale.set(1, 1, 1);
  };

  return (
    <>
      <group
        ref={object}
        position={tip ?? part.centre}
        rotation={mode === 'aim' ? [0, 0, 0] : [x, y, z, 'ZYX']}
      />
      {tip && (
        <arrowHelper
          key={tip.join()}
          args={[
            new THREE.Vector3(...tip).sub(new THREE.Vector3(...part.centre)).normalize(),
            new THREE.Vector3(...part.centre),
            new THREE.Vector3(...tip).distanceTo(new THREE.Vector3(...part.centre)),
            '#b79cf0',
          ]}
        />
      )}
      <TransformControls
        key={`${id} ${mode}`}
        object={object as RefObject<THREE.Object3D>}
        mode={GIZMOS[mode]}
        translationSnap={snap ? recipe.space.voxelSize : null}
        rotationSnap={snap ? TURN_STEP : null}
        scaleSnap={snap ? 0.1 : null}
        size={0.7}
        onMouseDown={grip}
        onMouseUp={release}
        onObjectChange={onChange}
      />
    </>
  );
}

/** Where the handle that aims stands: in the direction, or at the point itself. */
function tipOf(centre: Triple, aim: NonNullable<Chosen['aim']>, reach: number): Triple {
  if (aim.is === 'point') return aim.value;
  const long = Math.hypot(...aim.value) || 1;
  return centre.map((c, a) => c + (reach * aim.value[a]) / long) as Triple;
}

// The handle of what is chosen: moves it, or turns it about its middle, freely or by whole voxels and fifteen degrees.
import { TransformControls } from '@react-three/drei';
import { useThree } from '@react-three/fiber';
import { useEffect, useRef, type ReactNode, type RefObject } from 'react';
import * as THREE from 'three';
import { create } from 'zustand';
import type { Recipe, StandingPart, Triple } from '@bramblemist/core/recipe/recipe';
import { change } from '../data/bench';
import { useSelection } from '../data/selection';

export const useHandle = create<{ readonly mode: 'move' | 'turn'; readonly snap: boolean }>(() => ({ mode: 'move', snap: false }));
const TURN_STEP = Math.PI / 12;

/** Where the chosen part is in the recipe; null where nothing with a place is chosen. */
export function chosenPart(recipe: Recipe, id: string | null): { list: 'sources' | 'obstacles'; index: number; part: StandingPart } | null {
  for (const list of ['sources', 'obstacles'] as const) {
    const index = recipe[list].findIndex((p) => p.id === id);
    if (index >= 0) return { list, index, part: recipe[list][index] };
  }
  return null;
}

export function Handle({ recipe }: { recipe: Recipe }): ReactNode {
  const id = useSelection((s) => s.id),
    { mode, snap } = useHandle(),
    invalidate = useThree((s) => s.invalidate);
  const object = useRef<THREE.Group>(null),
    chosen = chosenPart(recipe, id);
  useEffect(() => invalidate(), [invalidate, id, mode]);
  if (!chosen?.part.on) return null;
  const { list, index, part } = chosen,
    [x, y, z] = part.turn.map((d) => (d * Math.PI) / 180);
  const onChange = (): void => {
    const at = object.current;
    if (!at) return;
    const tidy = (v: number): number => Number(v.toFixed(4));
    if (mode === 'move') {
      const centre = at.position.toArray().map(tidy) as Triple;
      if (centre.some((v, a) => v !== tidy(part.centre[a]))) change(`move ${part.name}`, 'recipe', `${list}.${index}.centre`, centre);
    } else {
      const e = new THREE.Euler().setFromQuaternion(at.quaternion, 'ZYX'),
        turn = [e.x, e.y, e.z].map((r) => tidy((r * 180) / Math.PI)) as Triple;
      if (turn.some((v, a) => v !== tidy(part.turn[a]))) change(`turn ${part.name}`, 'recipe', `${list}.${index}.turn`, turn);
    }
  };
  return (
    <>
      <group ref={object} position={part.centre} rotation={[x, y, z, 'ZYX']} />
      <TransformControls
        key={`${id} ${mode}`}
        object={object as RefObject<THREE.Object3D>}
        mode={mode === 'move' ? 'translate' : 'rotate'}
        translationSnap={snap ? recipe.space.voxelSize : null}
        rotationSnap={snap ? TURN_STEP : null}
        size={0.7}
        onObjectChange={onChange}
      />
    </>
  );
}

// Obstacles that are seen otherwise than the rest, one by one.
import { Eye, EyeOff, Plus, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { LOOK, type SurfacePart } from '@bramblemist/core/look/look';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change } from '../../data/bench';
import { Ingredient } from '../../parts/Ingredient';
import { Plain, Quiet } from '../../parts/ui';
import { Actions, newId } from '../page-parts';
import { changeLook } from './change-look';
import type { LookPartsProps } from './Lights';

export function Surfaces({
  look,
  frameRate,
  keysFor,
  obstacles,
}: LookPartsProps & { obstacles: Recipe['obstacles'] }): ReactNode {
  const free = obstacles.filter(({ id }) => !look.surfaces.some((s) => s.of === id));
  const add = (): void => {
    const [{ id: of, name }] = free;
    const part = LOOK.defaultPart<SurfacePart>('surfaces', { id: newId(), name, of });
    changeLook(`${name} by itself`, (l) => ({ ...l, surfaces: [...l.surfaces, part] }));
  };

  return (
    <>
      {look.surfaces.map((surface, n) => (
        <Ingredient
          key={surface.id}
          part={partOf(LOOK.parts, 'surfaces')}
          values={surface}
          frameRate={frameRate}
          keysOf={keysFor('surfaces', surface.id)}
          targets={() =>
            [...obstacles.filter(({ id }) => id === surface.of), ...free].map(({ id, name }) => ({
              value: id,
              label: name,
            }))
          }
          onChange={(path, label, value) => change(label, 'look', `surfaces.${n}.${path}`, value)}
          under={
            surface.of !== '' &&
            !obstacles.some(({ id }) => id === surface.of) && (
              <Quiet>Its obstacle is no longer in the recipe.</Quiet>
            )
          }
          actions={
            <Actions>
              <Plain
                onPress={() =>
                  change(
                    `${surface.name} ${surface.on ? 'off' : 'on'}`,
                    'look',
                    `surfaces.${n}.on`,
                    !surface.on,
                  )
                }
              >
                {surface.on ? <EyeOff size={13} /> : <Eye size={13} />} {surface.on ? 'Turn off' : 'Turn on'}
              </Plain>
              <Plain
                onPress={() =>
                  changeLook(`remove ${surface.name}`, (l) => ({
                    ...l,
                    surfaces: l.surfaces.filter((s) => s.id !== surface.id),
                    curves: l.curves.filter((c) => !c.path.startsWith(`surfaces/${surface.id}/`)),
                  }))
                }
              >
                <Trash2 size={13} /> Remove
              </Plain>
            </Actions>
          }
        />
      ))}
      {free.length > 0 && (
        <Plain onPress={add}>
          <Plus size={13} /> {look.surfaces.length > 0 ? 'Another' : 'One obstacle'} by itself
        </Plain>
      )}
    </>
  );
}

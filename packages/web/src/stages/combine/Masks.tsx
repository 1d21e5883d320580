// The masks of a comp; the one that is chosen has its corners in the window.
import { Pentagon, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import { withMask, withoutMask } from '@bramblemist/core/combine/edit';
import { shapeAt } from '@bramblemist/core/combine/masks';
import { partOf } from '@bramblemist/core/recipe/settings';
import { useChosen } from '../../comp/use-comp';
import { change } from '../../data/bench';
import { useKeys } from '../../data/keyed';
import { usePlayhead } from '../../data/playhead';
import { Ingredient } from '../../parts/Ingredient';
import { Button, Heading, Plain, Quiet, Section } from '../../parts/ui';
import { Actions, newId } from '../page-parts';
import { changeComp } from './change-comp';
import type { Targets } from './targets';

export function Masks({ comp, targets }: { comp: Combine; targets: Targets }): ReactNode {
  const chosen = useChosen((s) => s.id);
  const frame = usePlayhead((s) => (comp.masks.length > 0 ? s.frame : 0));
  const keysFor = useKeys('combine', comp);
  return (
    <Section>
      <Heading>
        Masks
        <Button
          onPress={() => {
            const id = newId();
            changeComp('draw a mask', (c) => withMask(c, id, { name: `Mask ${c.masks.length + 1}` }));
            useChosen.setState({ id });
          }}
        >
          <Pentagon size={13} /> Draw a mask
        </Button>
      </Heading>
      {comp.masks.length === 0 && <Quiet>A mask keeps a layer or an operation to a part of the frame.</Quiet>}
      {comp.masks.map((mask, n) => {
        const isKeyed = mask.outline.some((s) => s.frame === frame);
        const shapes = mask.outline.length;
        return (
          <Ingredient
            key={mask.id}
            part={partOf(COMBINE.parts, 'masks')}
            values={mask}
            frameRate={comp.frame.rate}
            targets={targets.of}
            keysOf={keysFor('masks', mask.id)}
            selected={chosen === mask.id}
            onSelect={() => useChosen.setState({ id: mask.id })}
            onChange={(path, label, value) => {
              if (!targets.takes(`masks.${n}.${path}`, value))
                change(label, 'combine', `masks.${n}.${path}`, value);
            }}
            note={
              mask.kind === 'drawn' && shapes > 1
                ? `${shapes} shapes, at frames ${mask.outline.map((s) => s.frame).join(', ')}.`
                : undefined
            }
            actions={
              <Actions>
                {mask.kind === 'drawn' && (
                  <Plain
                    isDisabled={isKeyed && shapes === 1}
                    onPress={() =>
                      change(
                        isKeyed ? `remove a shape of ${mask.name}` : `key the shape of ${mask.name}`,
                        'combine',
                        `masks.${n}.outline`,
                        isKeyed
                          ? mask.outline.filter((s) => s.frame !== frame)
                          : [...mask.outline, { frame, points: shapeAt(mask.outline, frame) }].sort(
                              (a, b) => a.frame - b.frame,
                            ),
                      )
                    }
                  >
                    {isKeyed && shapes > 1 ? 'Remove the shape at this frame' : 'Key the shape at this frame'}
                  </Plain>
                )}
                <Plain onPress={() => changeComp(`remove ${mask.name}`, (c) => withoutMask(c, mask.id))}>
                  <Trash2 size={13} /> Remove
                </Plain>
              </Actions>
            }
          />
        );
      })}
    </Section>
  );
}

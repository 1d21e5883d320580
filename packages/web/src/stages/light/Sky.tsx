// What lights the medium from all round: a colour, or a picture of all directions.
import type { ReactNode } from 'react';
import { LOOK } from '@bramblemist/core/look/look';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change } from '../../data/bench';
import { Ingredient } from '../../parts/Ingredient';
import { Quiet } from '../../parts/ui';
import { Actions } from '../page-parts';
import type { LookPartsProps } from './Lights';
import { useLookPictures } from './pictures';

/** How many times as wide as high a picture of all directions is. */
const WIDE = 2;

export function Sky({ look, frameRate, keysFor }: LookPartsProps): ReactNode {
  const { targets, takes, infoOf, button, trouble } = useLookPictures(look);
  const isPicture = look.sky.kind === 'picture';
  const report = infoOf(look.sky.picture)?.report;
  const shape = report?.kind === 'picture' ? report.width / report.height : WIDE;
  return (
    <Ingredient
      part={partOf(LOOK.parts, 'sky')}
      values={look.sky}
      frameRate={frameRate}
      keysOf={keysFor('sky')}
      targets={targets}
      onChange={(path, label, value) => {
        if (path !== 'picture' || !takes('sky.picture', value)) change(label, 'look', `sky.${path}`, value);
      }}
      under={
        <>
          {isPicture && Math.abs(shape - WIDE) > 0.05 && (
            <Quiet>
              It is {shape.toFixed(2)} times as wide as high. A picture of all directions is twice as wide as
              high; this one is stretched over them.
            </Quiet>
          )}
          {trouble}
        </>
      }
      actions={isPicture ? <Actions>{button('sky.picture')}</Actions> : undefined}
    />
  );
}

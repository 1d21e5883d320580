// The media of a look: that of the bake that is lit, and those of further bakes that lie over it.
import { Eye, EyeOff, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import type { BakeInfo } from '@bramblemist/contracts/payloads/made';
import { LOOK, type MediumSettings } from '@bramblemist/core/look/look';
import { withMedium } from '@bramblemist/core/presets/looks';
import { partOf } from '@bramblemist/core/recipe/settings';
import { formatValue } from '@bramblemist/core/recipe/units';
import { change } from '../../data/bench';
import { AddMenu } from '../../parts/AddMenu';
import { Ingredient } from '../../parts/Ingredient';
import { Plain, Quiet } from '../../parts/ui';
import { Actions, newId } from '../page-parts';
import { changeLook } from './change-look';
import { DensitySpread } from './DensitySpread';
import type { LookPartsProps } from './Lights';
import { useLookPictures } from './pictures';

export function Media({
  look,
  frameRate,
  keysFor,
  bakes,
  lit,
}: LookPartsProps & {
  /** Of the shot. */
  bakes: readonly BakeInfo[];
  /** The one that is lit. */
  lit: number | undefined;
}): ReactNode {
  const { targets, takes, button, trouble } = useLookPictures(look);
  const picturesOf = (at: string, { colour }: MediumSettings): ReactNode =>
    colour === 'picture' && button(`${at}.picture`);
  const put =
    (at: string) =>
    (path: string, label: string, value: unknown): void => {
      if (path !== 'picture' || !takes(`${at}.picture`, value)) change(label, 'look', `${at}.${path}`, value);
    };

  const others = bakes.filter(({ id, frames }) => id !== lit && frames.length > 0);
  const isColoured = look.medium.colour === 'picture';
  return (
    <>
      <Ingredient
        part={partOf(LOOK.parts, 'medium')}
        values={look.medium}
        frameRate={frameRate}
        keysOf={keysFor('medium')}
        targets={targets}
        onChange={put('medium')}
        under={
          <>
            <DensitySpread medium={look.medium} />
            {trouble}
          </>
        }
        actions={isColoured ? <Actions>{picturesOf('medium', look.medium)}</Actions> : undefined}
      />
      {look.media.map((medium, n) => (
        <Ingredient
          key={medium.id}
          part={partOf(LOOK.parts, 'media')}
          values={medium}
          frameRate={frameRate}
          keysOf={keysFor('media', medium.id)}
          targets={targets}
          onChange={put(`media.${n}`)}
          under={
            medium.bake !== 0 &&
            medium.bake === lit && <Quiet>It is the bake that is lit: it lies over itself.</Quiet>
          }
          actions={
            <Actions>
              {picturesOf(`media.${n}`, medium)}
              <Plain
                onPress={() =>
                  change(`${medium.name} ${medium.on ? 'off' : 'on'}`, 'look', `media.${n}.on`, !medium.on)
                }
              >
                {medium.on ? <EyeOff size={13} /> : <Eye size={13} />} {medium.on ? 'Turn off' : 'Turn on'}
              </Plain>
              <Plain
                onPress={() =>
                  changeLook(`remove ${medium.name}`, (l) => ({
                    ...l,
                    media: l.media.filter(({ id }) => id !== medium.id),
                    curves: l.curves.filter((c) => !c.path.startsWith(`media/${medium.id}/`)),
                  }))
                }
              >
                <Trash2 size={13} /> Remove
              </Plain>
            </Actions>
          }
        />
      ))}
      <AddMenu
        label="Add a medium"
        starters={[
          ...others.map(({ id, voxelSizeM, frames }) => ({
            name: `Bake ${id}`,
            when: `${frames.length} frames of this shot, voxels of ${formatValue(voxelSizeM, 'm')}.`,
            bake: id,
          })),
          { name: 'Another bake', when: 'Of any shot, by its number in Storage.', bake: 0 },
        ]}
        onAdd={({ name, bake }) =>
          changeLook(`add ${name.toLowerCase()}`, (l) => withMedium(l, name, bake, newId()))
        }
      >
        another medium
      </AddMenu>
    </>
  );
}

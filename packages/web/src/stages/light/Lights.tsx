// The lights of a look, a sentence each.
import { CopyPlus, Eye, EyeOff, Focus, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { LIGHT_STARTERS, withLight } from '@bramblemist/core/presets/looks';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change } from '../../data/bench';
import type { useKeys } from '../../data/keyed';
import { select, useSelection } from '../../data/selection';
import { AddMenu } from '../../parts/AddMenu';
import { Ingredient } from '../../parts/Ingredient';
import { Heading, Plain, Quiet } from '../../parts/ui';
import { Actions, newId } from '../page-parts';
import { changeLook } from './change-look';

export interface LookPartsProps {
  readonly look: Look;
  readonly frameRate: number;
  readonly keysFor: ReturnType<typeof useKeys>;
}

export function Lights(props: LookPartsProps): ReactNode {
  const { look } = props;
  return (
    <>
      <Heading>
        Lights
        <AddMenu
          label="Add a light"
          starters={LIGHT_STARTERS}
          onAdd={(s) => {
            const id = newId();
            changeLook(`add ${s.name}`, (l) => withLight(l, s, id));
            select(id);
          }}
        />
      </Heading>
      {look.lights.length === 0 && <Quiet>No light but what comes from all round.</Quiet>}
      {look.lights.map((light, n) => (
        <LightLine key={light.id} n={n} {...props} />
      ))}
    </>
  );
}

function LightLine({ look, n, frameRate, keysFor }: LookPartsProps & { n: number }): ReactNode {
  const light = look.lights[n];
  const chosen = useSelection((s) => s.id === light.id);
  const set = (label: string, lights: (all: Look['lights']) => Look['lights']): void =>
    changeLook(`${label} ${light.name}`, (l) => ({ ...l, lights: lights(l.lights) }));
  const isAlone = light.on && look.lights.every((l) => l === light || !l.on);
  return (
    <Ingredient
      part={partOf(LOOK.parts, 'lights')}
      values={light}
      frameRate={frameRate}
      keysOf={keysFor('lights', light.id)}
      selected={chosen}
      onSelect={() => select(light.id)}
      onChange={(path, label, value) => change(label, 'look', `lights.${n}.${path}`, value)}
      actions={
        <Actions>
          <Plain
            onPress={() =>
              change(`${light.name} ${light.on ? 'off' : 'on'}`, 'look', `lights.${n}.on`, !light.on)
            }
          >
            {light.on ? <EyeOff size={13} /> : <Eye size={13} />} {light.on ? 'Turn off' : 'Turn on'}
          </Plain>
          <Plain
            onPress={() => set('only', (all) => all.map((l) => ({ ...l, on: isAlone || l.id === light.id })))}
          >
            <Focus size={13} /> {isAlone ? 'All on' : 'Only this'}
          </Plain>
          <Plain
            onPress={() =>
              set('duplicate', (all) => [...all, { ...light, id: newId(), name: `${light.name} copy` }])
            }
          >
            <CopyPlus size={13} /> Duplicate
          </Plain>
          <Plain
            onPress={() =>
              changeLook(`remove ${light.name}`, (l) => ({
                ...l,
                lights: l.lights.filter(({ id }) => id !== light.id),
                curves: l.curves.filter((c) => !c.path.startsWith(`lights/${light.id}/`)),
              }))
            }
          >
            <Trash2 size={13} /> Remove
          </Plain>
        </Actions>
      }
    />
  );
}

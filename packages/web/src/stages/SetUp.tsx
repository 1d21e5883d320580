// Set up: the recipe as a page of sentences.
import { ArrowDown, ArrowUp, ClipboardPaste, Copy, CopyPlus, Eye, EyeOff, Focus, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { added, moved, pasted, textOf, without, type ListName } from '@bramblemist/core/recipe/edit';
import { STARTERS } from '@bramblemist/core/recipe/starters';
import { RECIPE, type Recipe } from '@bramblemist/core/recipe/recipe';
import { targetOf, valueOf, withKey, type Curve } from '@bramblemist/core/recipe/keys';
import { getAt } from '@bramblemist/core/recipe/paths';
import { partOf, type ReferenceSetting, type Setting } from '@bramblemist/core/recipe/settings';
import { change, changeRecipe, useBench } from '../data/bench';
import { usePlayhead } from '../data/playhead';
import { select, useSelection } from '../data/selection';
import { AddMenu } from '../parts/AddMenu';
import type { Choice } from '../parts/controls';
import { Ingredient, type Keyed } from '../parts/Ingredient';
import { Heading, Plain, Quiet, Section, Trouble } from '../parts/ui';
import type { StageProps } from './context';
import { ROOM } from '../viewport/Handle';
import { Files } from './Files';
import { RoomLine } from './RoomLine';

const Actions = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  padding: 6px 0;
`;
const Under = styled.div`
  margin-left: 18px;
`;
const Tools = styled.span`
  display: inline-flex;
  gap: 10px;
`;

const AIR = ['buoyancy', 'wind', 'turbulence', 'vorticity', 'fading', 'spreading', 'method'] as const;
const newId = (): string => crypto.randomUUID().slice(0, 8);

/** The recipe as it is now: what an action that ends later must start from. */
const recipeNow = (): Recipe => useBench.getState().documents!.recipe;

export function SetUp({ documents }: StageProps): ReactNode {
  const { recipe } = documents,
    { space } = recipe;
  const chosen = useSelection((s) => s.id),
    aloneId = useSelection((s) => s.alone);
  const [wrong, setWrong] = useState<string | null>(null);
  const targets = (setting: ReferenceSetting): readonly Choice[] =>
    setting.to.flatMap((key) => recipe[key as ListName].map((p) => ({ value: p.id, label: p.name })));
  const frame = usePlayhead((s) => (recipe.curves.length > 0 ? s.frame : 0));
  /** What keys do to a number of a part. */
  const keysFor =
    (key: string, id?: string) =>
    (setting: Setting): Keyed | null => {
      if (!partOf(RECIPE.parts, key).keyable || setting.kind !== 'number') return null;
      const path = id === undefined ? `${key}/${setting.path}` : `${key}/${id}/${setting.path}`,
        n = recipe.curves.findIndex((c) => c.path === path),
        curve = n < 0 ? null : recipe.curves[n],
        target = targetOf(recipe, path);
      if ('wrong' in target) return null;
      const put = (label: string, next: Curve | null): void =>
        change(`${label} ${target.name}`, 'recipe', 'curves', [...recipe.curves.filter((c) => c.path !== path), ...(next ? [next] : [])]);
      const at = (): number => usePlayhead.getState().frame,
        here = curve?.keys.some((k) => k.frame === frame) ?? false;
      return {
        now: curve ? Number(valueOf(curve, frame).toPrecision(5)) : null,
        here,
        set: (value) => put('key', withKey(curve!, at(), value)),
        toggle: () => {
          if (!curve)
            return put('key', {
              id: `curve-${newId()}`,
              path,
              after: 'hold',
              keys: [{ frame: at(), value: getAt(recipe, target.at) as number, ease: 'smooth' }],
            });
          if (!here) return put('key', withKey(curve, at(), valueOf(curve, at())));
          const rest = curve.keys.filter((k) => k.frame !== at());
          put('remove a key of', rest.length ? { ...curve, keys: rest } : null);
        },
      };
    };
  const one = (key: 'space' | 'window' | 'keep' | (typeof AIR)[number]): ReactNode => (
    <Ingredient
      key={key}
      part={partOf(RECIPE.parts, key)}
      values={recipe[key]}
      frameRate={space.frameRate}
      targets={targets}
      keysOf={keysFor(key)}
      selected={key === ROOM && chosen === ROOM}
      onSelect={key === ROOM ? () => select(ROOM) : undefined}
      onChange={(path, label, value) => change(label, 'recipe', `${key}.${path}`, value)}
    />
  );
  const paste = async (): Promise<void> => {
    try {
      changeRecipe('paste', pasted(recipeNow(), await navigator.clipboard.readText(), newId));
      setWrong(null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  const item = (key: 'sources' | 'patterns' | 'obstacles' | 'particles' | 'currents', n: number): ReactNode => {
    const own = recipe[key][n];
    const act = (label: string, next: Recipe): void => changeRecipe(`${label} ${own.name}`, next);
    return (
      <Ingredient
        key={own.id}
        part={partOf(RECIPE.parts, key)}
        values={own}
        frameRate={space.frameRate}
        targets={targets}
        keysOf={keysFor(key, own.id)}
        selected={chosen === own.id}
        onSelect={() => select(own.id)}
        onChange={(path, label, value) => change(label, 'recipe', `${key}.${n}.${path}`, value)}
        actions={
          <Actions>
            <Plain onPress={() => change(`${own.name} ${own.on ? 'off' : 'on'}`, 'recipe', `${key}.${n}.on`, !own.on)}>
              {own.on ? <EyeOff size={13} /> : <Eye size={13} />} {own.on ? 'Turn off' : 'Turn on'}
            </Plain>
            {key === 'sources' && (
              <Plain onPress={() => useSelection.setState({ alone: aloneId === own.id ? null : own.id })}>
                <Focus size={13} /> {aloneId === own.id ? 'All again' : 'Alone'}
              </Plain>
            )}
            {key !== 'patterns' && (
              <>
                <Plain onPress={() => act('duplicate', pasted(recipe, textOf(recipe, key, own.id), newId))}>
                  <CopyPlus size={13} /> Duplicate
                </Plain>
                <Plain
                  onPress={() =>
                    void navigator.clipboard
                      .writeText(textOf(recipe, key, own.id))
                      .catch((e: Error) => setWrong(`It could not be copied: ${e.message}`))
                  }
                >
                  <Copy size={13} /> Copy
                </Plain>
              </>
            )}
            <Plain aria-label={`Move ${own.name} up`} isDisabled={n === 0} onPress={() => act('move', moved(recipe, key, own.id, -1))}>
              <ArrowUp size={13} />
            </Plain>
            <Plain
              aria-label={`Move ${own.name} down`}
              isDisabled={n === recipe[key].length - 1}
              onPress={() => act('move', moved(recipe, key, own.id, 1))}
            >
              <ArrowDown size={13} />
            </Plain>
            <Plain onPress={() => act('remove', without(recipe, key, own.id))}>
              <Trash2 size={13} /> Remove
            </Plain>
            {key === 'sources' && (
              <AddMenu
                label={`Add a pattern to ${own.name}`}
                starters={STARTERS.patterns}
                onAdd={(s) => changeRecipe(`add ${s.name}`, added(recipe, 'patterns', s, newId(), own.id))}
              >
                Pattern
              </AddMenu>
            )}
          </Actions>
        }
      />
    );
  };
  const add = (key: 'sources' | 'obstacles' | 'particles' | 'currents', word: string): ReactNode => (
    <Tools>
      <Plain aria-label={`Paste ${word}`} onPress={() => void paste()}>
        <ClipboardPaste size={13} />
      </Plain>
      <AddMenu
        label={`Add ${word}`}
        starters={STARTERS[key]}
        onAdd={(s) => {
          const id = newId();
          changeRecipe(`add ${s.name}`, added(recipe, key, s, id));
          select(id);
        }}
      />
    </Tools>
  );
  const loose = recipe.patterns.map((p, n) => ({ p, n })).filter(({ p }) => !recipe.sources.some((s) => s.id === p.source));
  return (
    <>
      <Section>
        <Heading>
          Space{' '}
          <small>
            {space.frameRate} fps · frames {space.firstFrame}–{space.lastFrame}
          </small>
        </Heading>
        {one('space')}
        <RoomLine recipe={recipe} />
        {one('window')}
      </Section>
      {wrong && <Trouble>{wrong}</Trouble>}
      <Section>
        <Heading>Sources {add('sources', 'a source')}</Heading>
        {recipe.sources.length === 0 && <Quiet>Nothing gives off the medium yet. Add a source: it starts in the middle of the room.</Quiet>}
        {aloneId !== null && recipe.sources.some((s) => s.id === aloneId) && (
          <Quiet role="status">Only {recipe.sources.find((s) => s.id === aloneId)!.name} plays here; a bake takes all.</Quiet>
        )}
        {recipe.sources.map((s, n) => (
          <div key={s.id}>
            {item('sources', n)}
            <Under>{recipe.patterns.map((p, m) => (p.source === s.id ? item('patterns', m) : null))}</Under>
          </div>
        ))}
        {loose.map(({ n }) => item('patterns', n))}
      </Section>
      <Section>
        <Heading>Obstacles {add('obstacles', 'an obstacle')}</Heading>
        {recipe.obstacles.length === 0 && <Quiet>Nothing stands in the way.</Quiet>}
        {recipe.obstacles.map((_, n) => item('obstacles', n))}
      </Section>
      <Section>
        <Heading>Particles {add('particles', 'particles')}</Heading>
        {recipe.particles.length === 0 && <Quiet>None fly. They can carry a source, or show how the air goes.</Quiet>}
        {recipe.particles.map((p, n) => (
          <div key={p.id}>
            {item('particles', n)}
            {!recipe.sources.some((s) => s.on && s.particles === p.id && s.shape === 'particles') && (
              <Under>
                <Plain
                  onPress={() => {
                    const id = newId();
                    const starter = STARTERS.sources.find((s) => s.name === 'Off particles')!;
                    changeRecipe(`let ${p.name} give off`, added(recipe, 'sources', starter, id, p.id));
                    select(id);
                  }}
                >
                  Let them give off the medium
                </Plain>
              </Under>
            )}
          </div>
        ))}
      </Section>
      <Files recipe={recipe} />
      <Section>
        <Heading>Air {add('currents', 'a current')}</Heading>
        {AIR.map(one)}
        {recipe.currents.map((_, n) => item('currents', n))}
      </Section>
      <Section>
        <Heading>Keep</Heading>
        {one('keep')}
      </Section>
    </>
  );
}

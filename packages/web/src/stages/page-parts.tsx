// The recipe's parts as they stand on the page: one that there is once, one of a list with what can be done
// to it, and the menus that add more. Everything that the sections of the page share.
import { ClipboardPaste, Eye, EyeOff, Focus } from 'lucide-react';
import { useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { added, moved, pasted, textOf, without, type ListName } from '@bramblemist/core/presets/edit';
import { type CopiedList, STARTERS } from '@bramblemist/core/presets/new-parts';
import { keptForFormulas } from '@bramblemist/core/recipe/kept';
import { setAt } from '@bramblemist/core/recipe/paths';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { partOf, type Part, type ReferenceSetting, type Setting } from '@bramblemist/core/recipe/settings';
import { change, changeRecipe, useBench } from '../data/bench';
import { useKeys } from '../data/keyed';
import { select, useSelection } from '../data/selection';
import { AddMenu } from '../parts/AddMenu';
import type { Choice } from '../parts/controls';
import type { FormulaPlace } from '../parts/formula-place';
import { Ingredient, type Keyed } from '../parts/Ingredient';
import { Ordered } from '../parts/Ordered';
import { MoreMenu, type Deed } from '../parts/MoreMenu';
import { Plain } from '../parts/ui';
import { useWish } from '../seeing/use-seeing';
import { DOMAIN } from '../viewport/chosen';

export const Actions = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  padding: 6px 0;
`;
export const Under = styled.div`
  margin-left: 18px;
`;
const Tools = styled.span`
  display: inline-flex;
  gap: 10px;
`;

export type Listed = Exclude<ListName, 'files' | 'changes'>;
export type Single = 'space' | 'window' | 'keep' | 'method' | AirKey;
export type AirKey =
  | 'gravity'
  | 'buoyancy'
  | 'settling'
  | 'wind'
  | 'drag'
  | 'turbulence'
  | 'edges'
  | 'vorticity'
  | 'dissipation'
  | 'diffusion';
/** What a choice of a region says for one that is not there yet. */
const NEW_REGION = '+';

export const newId = (): string => crypto.randomUUID().slice(0, 8);
/** The recipe as it is now: what an action that ends later must start from. */
export const recipeNow = (): Recipe => useBench.getState().documents!.recipe;

/** What stands beside the settings of a part, under them and among its actions. */
export interface Beside {
  readonly under?: ReactNode;
  readonly actions?: ReactNode;
}
export interface PageParts {
  readonly one: (key: Single, beside?: Beside) => ReactNode;
  readonly item: (key: Listed, n: number, beside?: Beside) => ReactNode;
  readonly add: (key: CopiedList, word: string) => ReactNode;
  readonly keysFor: (key: string, id?: string) => (setting: Setting) => Keyed | null;
  /** What went wrong with the last copy or paste. */
  readonly wrong: string | null;
}

/** Says whether a run takes a change up or has to start again. */
export const whenChanged = (part: Part): string =>
  part.live ? 'A run that plays takes a change up at once.' : 'A change starts the run again.';

export function usePageParts(recipe: Recipe): PageParts {
  const { space } = recipe;
  const chosen = useSelection((s) => s.id);
  const aloneId = useSelection((s) => s.alone);
  const [wrong, setWrong] = useState<string | null>(null);
  const keysFor = useKeys('recipe', recipe);

  const targets =
    (holder: string | null) =>
    (setting: ReferenceSetting): readonly Choice[] => {
      const there = setting.to.flatMap((key) =>
        recipe[key as ListName].filter((p) => p.id !== holder).map((p) => ({ value: p.id, label: p.name })),
      );
      return setting.path === 'where' ? [...there, { value: NEW_REGION, label: 'a new region' }] : there;
    };

  const put = (path: string, label: string, value: unknown): void => {
    if (value !== NEW_REGION) return change(label, 'recipe', path, value);
    const id = newId();
    const next = added(recipe, 'regions', STARTERS.regions[0], id);
    changeRecipe(`limit ${label}`, setAt(next, path, id));
    select(id);
  };

  const one = (key: Single, beside: Beside = {}): ReactNode => {
    const part = partOf(RECIPE.parts, key);
    return (
      <Ingredient
        key={key}
        part={part}
        values={recipe[key]}
        frameRate={space.frameRate}
        targets={targets(null)}
        keysOf={keysFor(key)}
        selected={key === DOMAIN && chosen === DOMAIN}
        onSelect={key === DOMAIN ? () => select(DOMAIN) : undefined}
        onChange={(path, label, value) => put(`${key}.${path}`, label, value)}
        note={key === 'keep' ? undefined : whenChanged(part)}
        under={beside.under}
        actions={beside.actions && <Actions>{beside.actions}</Actions>}
      />
    );
  };

  const { keep: kept, settling } = recipe;
  const keep = useMemo(() => keptForFormulas({ keep: kept, settling }), [kept, settling]);
  const formulaAt = (key: Listed, n: number): FormulaPlace | undefined => {
    if (key === 'regions') return { moment: null, keep };
    if (key !== 'formulas') return undefined;
    return {
      moment: recipe.formulas[n].when,
      keep,
      onDraft: (text) => useWish.setState({ formula: { index: n, text } }),
    };
  };

  const item = (key: Listed, n: number, beside: Beside = {}): ReactNode => {
    const own = recipe[key][n];
    const part = partOf(RECIPE.parts, key);
    const act = (label: string, next: Recipe): void => changeRecipe(`${label} ${own.name}`, next);
    const copies = (list: CopiedList): Deed[] => [
      {
        label: 'Duplicate',
        act: () => act('duplicate', pasted(recipe, textOf(recipe, list, own.id), newId)),
      },
      {
        label: 'Copy as text',
        act: () =>
          void navigator.clipboard
            .writeText(textOf(recipe, list, own.id))
            .catch((e: Error) => setWrong(`It could not be copied: ${e.message}`)),
      },
    ];
    const last = recipe[key].length - 1;
    const deeds: Deed[] = [
      ...(key === 'patterns' ? [] : copies(key)),
      ...(n > 0 ? [{ label: 'Move up', act: () => act('move', moved(recipe, key, own.id, n - 1)) }] : []),
      ...(n < last
        ? [{ label: 'Move down', act: () => act('move', moved(recipe, key, own.id, n + 1)) }]
        : []),
      { label: 'Remove', act: () => act('remove', without(recipe, key, own.id)) },
    ];
    const ingredient = (
      <Ingredient
        part={part}
        values={own}
        frameRate={space.frameRate}
        targets={targets(own.id)}
        keysOf={keysFor(key, own.id)}
        selected={chosen === own.id}
        onSelect={() => select(own.id)}
        onChange={(path, label, value) => put(`${key}.${n}.${path}`, label, value)}
        note={whenChanged(part)}
        under={beside.under}
        formulaAt={formulaAt(key, n)}
        actions={
          <Actions>
            {beside.actions}
            <Plain
              onPress={() =>
                change(`${own.name} ${own.on ? 'off' : 'on'}`, 'recipe', `${key}.${n}.on`, !own.on)
              }
            >
              {own.on ? <EyeOff size={13} /> : <Eye size={13} />} {own.on ? 'Turn off' : 'Turn on'}
            </Plain>
            {key === 'sources' && (
              <Plain onPress={() => useSelection.setState({ alone: aloneId === own.id ? null : own.id })}>
                <Focus size={13} /> {aloneId === own.id ? 'All again' : 'Alone'}
              </Plain>
            )}
            {key === 'sources' && (
              <AddMenu
                label={`Add a pattern to ${own.name}`}
                starters={STARTERS.patterns}
                onAdd={(s) => changeRecipe(`add ${s.name}`, added(recipe, 'patterns', s, newId(), own.id))}
              >
                Pattern
              </AddMenu>
            )}
            <MoreMenu label={`More of ${own.name}`} deeds={deeds} />
          </Actions>
        }
      />
    );
    // a pattern stays with its source
    const siblings = 'source' in own && key === 'patterns' ? `patterns-${own.source}` : key;
    return (
      <Ordered
        key={own.id}
        list={siblings}
        id={own.id}
        name={own.name}
        onDrop={(dragged) => {
          const now = recipeNow();
          const name = now[key].find((p) => p.id === dragged)?.name ?? '';
          changeRecipe(
            `move ${name}`,
            moved(
              now,
              key,
              dragged,
              now[key].findIndex((p) => p.id === own.id),
            ),
          );
        }}
      >
        {ingredient}
      </Ordered>
    );
  };

  const paste = async (): Promise<void> => {
    try {
      changeRecipe('paste', pasted(recipeNow(), await navigator.clipboard.readText(), newId));
      setWrong(null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };

  const add = (key: CopiedList, word: string): ReactNode => (
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
  return { one, item, add, keysFor, wrong };
}

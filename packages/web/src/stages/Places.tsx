// The page's sections on regions, with what is another one inside each, and on formulas.
import { Cloud } from 'lucide-react';
import { useEffect, useRef, type ReactNode } from 'react';
import { changeable, withChange, without } from '@bramblemist/core/presets/edit';
import { targetOf } from '@bramblemist/core/recipe/keys';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { ChangePart, Recipe } from '@bramblemist/core/recipe/types';
import { partOf, type NumberSetting, type Part } from '@bramblemist/core/recipe/settings';
import { change, changeRecipe } from '../data/bench';
import { GroupedMenu } from '../parts/AddMenu';
import { Ingredient } from '../parts/Ingredient';
import { Heading, Plain, Quiet, Section } from '../parts/ui';
import { FormulaSlice } from '../seeing/FormulaSlice';
import { useSeen, useWish } from '../seeing/use-seeing';
import { Actions, newId, Under, whenChanged, type PageParts } from './page-parts';

/** What a change is said as: the setting by its name, and its amount in the setting's unit. */
function partFor(setting: NumberSetting, name: string, how: ChangePart['how']): Part {
  const part = partOf(RECIPE.parts, 'changes');
  return {
    ...part,
    sentence: `${name} is {how} {amount} there.`,
    settings: part.settings
      .filter((s) => ['how', 'amount'].includes(s.path))
      .map((s) =>
        s.path !== 'amount' || s.kind !== 'number' || how === 'times' ? s : { ...s, unit: setting.unit },
      ),
  };
}

function Change({ recipe, n, parts }: { recipe: Recipe; n: number; parts: PageParts }): ReactNode {
  const own = recipe.changes[n];
  const target = targetOf(recipe, own.path);
  if ('wrong' in target) return <Quiet>This change points at nothing: {target.wrong}.</Quiet>;
  return (
    <Ingredient
      part={partFor(target.setting, target.name, own.how)}
      values={{ ...own, name: target.name }}
      frameRate={recipe.space.frameRate}
      keysOf={parts.keysFor('changes', own.id)}
      onChange={(path, label, value) => change(label, 'recipe', `changes.${n}.${path}`, value)}
      note={whenChanged(partOf(RECIPE.parts, 'changes'))}
      actions={
        <Actions>
          <Plain
            onPress={() =>
              change(`${own.name} ${own.on ? 'off' : 'on'}`, 'recipe', `changes.${n}.on`, !own.on)
            }
          >
            {own.on ? 'Turn off' : 'Turn on'}
          </Plain>
          <Plain onPress={() => changeRecipe(`remove ${own.name}`, without(recipe, 'changes', own.id))}>
            Remove
          </Plain>
        </Actions>
      }
    />
  );
}

function Veil({ id }: { id: string }): ReactNode {
  const shown = useWish((s) => s.veil === id);
  return (
    <Plain aria-pressed={shown} onPress={() => useWish.setState({ veil: shown ? null : id })}>
      <Cloud size={13} /> {shown ? 'Hide its veil' : 'Show its veil'}
    </Plain>
  );
}

/** What is limited to a region, by name. */
function limitedTo(recipe: Recipe, id: string): string[] {
  const limited = (where: string | undefined): boolean => where === id;
  return RECIPE.parts.flatMap((p) => {
    const own = recipe[p.key as 'currents'] as unknown;
    if (p.many)
      return (own as { name?: string; where?: string }[])
        .filter((q) => limited(q.where))
        .map((q) => q.name ?? p.title);
    return limited((own as { where?: string }).where) ? [p.title] : [];
  });
}

/** What the formula that is being written does at the frame that is shown. */
function Effect({ index }: { index: number }): ReactNode {
  const own = useWish((s) => s.formula?.index === index);
  const seen = useSeen((s) => s.seen?.formula ?? null);
  const place = useRef<HTMLDivElement>(null);
  const here = seen !== null;
  useEffect(() => {
    void place.current?.scrollIntoView({ block: 'nearest' });
  }, [own, here]);
  if (!own) return null;
  return (
    <Under ref={place}>
      {seen ? <FormulaSlice seen={seen} /> : <Quiet>looking …</Quiet>}
      <Plain onPress={() => useWish.setState({ formula: null })}>Hide what it does</Plain>
    </Under>
  );
}

export function Places({ recipe, parts }: { recipe: Recipe; parts: PageParts }): ReactNode {
  const { item, add } = parts;
  const settings = changeable(recipe);
  return (
    <>
      <Section>
        <Heading>Regions {add('regions', 'a region')}</Heading>
        {recipe.regions.length === 0 && (
          <Quiet>
            The air is the same everywhere. Add a region to limit a force to it, or to have a setting be
            another one inside.
          </Quiet>
        )}
        {recipe.regions.map((r, n) => {
          const limited = limitedTo(recipe, r.id);
          const changes = recipe.changes.map((c, m) => ({ c, m })).filter(({ c }) => c.region === r.id);
          return (
            <div key={r.id}>
              {item('regions', n, { actions: <Veil id={r.id} /> })}
              <Under>
                {limited.length > 0 && <Quiet>Only there: {limited.join(', ')}.</Quiet>}
                {changes.map(({ c, m }) => (
                  <Change key={c.id} recipe={recipe} n={m} parts={parts} />
                ))}
                {limited.length === 0 && changes.length === 0 && (
                  <Quiet>Nothing is limited to it or changed in it yet.</Quiet>
                )}
                <GroupedMenu
                  label={`Change a setting inside ${r.name}`}
                  groups={settings.map((g) => ({
                    title: g.part,
                    items: g.settings.map((s) => ({ id: s.path, name: s.label })),
                  }))}
                  onChoose={(path) =>
                    changeRecipe(`change in ${r.name}`, withChange(recipe, r.id, path, newId()))
                  }
                >
                  Change a setting there
                </GroupedMenu>
              </Under>
            </div>
          );
        })}
      </Section>
      <Section>
        <Heading>Formulas {add('formulas', 'a formula')}</Heading>
        {recipe.formulas.length === 0 && (
          <Quiet>None. A formula does to each voxel what the settings do not cover.</Quiet>
        )}
        {recipe.formulas.map((f, n) => (
          <div key={f.id}>
            {item('formulas', n)}
            <Effect index={n} />
          </div>
        ))}
      </Section>
    </>
  );
}

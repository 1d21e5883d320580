// Productions, shots and variants: made and saved, each use in one transaction. A save says which revision it
// began from; where another one came first it is refused with the newer text, and the page merges the two.
import type { Transaction } from 'sequelize';
import { COMBINE, frameFor, type Combine } from '@bramblemist/core/combine/combine';
import { sha256 } from '@bramblemist/core/io/node/files';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { example, EXAMPLES } from '@bramblemist/core/presets/examples';
import { startFrom } from '@bramblemist/core/presets/starting-points';
import { canonicalText } from '@bramblemist/core/recipe/document';
import { differences } from '@bramblemist/core/recipe/paths';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { Production, Shot, Variant } from '../models';
import { HttpError, StaleError } from '../http-error';

export function recipeHash(recipe: Recipe): string {
  return sha256(canonicalText(recipe));
}

/** Runs a use in one transaction: all of it is there afterwards, or nothing. */
export function inTransaction<T>(act: (transaction: Transaction) => Promise<T>): Promise<T> {
  return Variant.sequelize!.transaction(act);
}

/** The row, which nobody else changes until the transaction ends. @throws HttpError where there is none */
export async function locked<T>(row: Promise<T | null>, what: string): Promise<T> {
  const found = await row;
  if (!found) throw new HttpError(404, `There is no such ${what}.`);
  return found;
}

function checkRevision<T extends { revision: number }>(row: T, began: number): void {
  if (row.revision !== began) throw new StaleError(row);
}

/** A shot with its first variant. @param from name of an example; without, it is empty */
export async function createShot(productionId: number, name: string, from?: string): Promise<Shot> {
  if (from !== undefined && !EXAMPLES.includes(from))
    throw new HttpError(422, `There is no example called ${from}. There are: ${EXAMPLES.join(', ')}.`);
  const start = from === undefined ? null : startFrom(from);
  const recipe = { ...(start?.recipe ?? (from ? example(from) : parseRecipe({}))), name };
  const look = start ? { ...start.look, name } : LOOK.parse({});
  const note = start ? `${start.point.about} ${start.point.first}` : '';
  return inTransaction(async (transaction) => {
    await locked(Production.findByPk(productionId, { transaction }), 'production');
    const last = (await Shot.max('place', { where: { productionId }, transaction })) as number | null;
    const place = (last ?? 0) + 1;
    const shot = await Shot.create({ productionId, name, note, place }, { transaction });
    await Variant.create(
      {
        shotId: shot.id,
        number: 1,
        note: 'first',
        recipe,
        look,
        combine: COMBINE.parse({ name, frame: frameFor(recipe, look) }),
        recipeSha256: recipeHash(recipe),
      },
      { transaction },
    );
    return shot;
  });
}

/**
 * A try on another variant, by default on the last one.
 * @param changed its recipe where that differs
 */
export function createVariant(
  shotId: number,
  note: string,
  from?: number,
  changed?: unknown,
): Promise<Variant> {
  return inTransaction(async (transaction) => {
    // one at a time counts on for a shot
    const lock = transaction.LOCK.UPDATE;
    await locked(Shot.findByPk(shotId, { transaction, lock }), 'shot');
    const last = await locked(
      Variant.findOne({ where: { shotId }, order: [['number', 'DESC']], transaction }),
      'shot',
    );
    const parent =
      from === undefined
        ? last
        : await locked(Variant.findOne({ where: { id: from, shotId }, transaction }), 'variant of this shot');
    const recipe = changed === undefined ? parent.recipe : parseRecipe(changed);
    const { look, combine } = parent;
    return Variant.create(
      {
        shotId,
        number: last.number + 1,
        parentId: parent.id,
        note,
        recipe,
        look,
        combine,
        recipeSha256: recipeHash(recipe),
      },
      { transaction },
    );
  });
}

export interface VariantChange {
  readonly recipe?: unknown;
  readonly look?: unknown;
  readonly combine?: unknown;
  readonly note?: string;
}

/**
 * Saves what is given of a variant.
 * @param began the revision that its documents were changed from; null where only its note is new
 * @throws StaleError where another save came first
 */
export async function saveVariant(id: number, change: VariantChange, began: number | null): Promise<Variant> {
  // checked before the row is held
  const recipe = change.recipe === undefined ? null : parseRecipe(change.recipe);
  const look: Look | null = change.look === undefined ? null : LOOK.parse(change.look);
  const combine: Combine | null = change.combine === undefined ? null : COMBINE.parse(change.combine);
  return inTransaction(async (transaction) => {
    const lock = transaction.LOCK.UPDATE;
    const variant = await locked(Variant.findByPk(id, { transaction, lock }), 'variant');
    if (recipe ?? look ?? combine) {
      if (began === null)
        throw new HttpError(428, 'Say with If-Match which revision of the variant this began from.');
      checkRevision(variant, began);
      variant.set({ revision: began + 1 });
    }

    if (recipe) {
      const now = new Date().toISOString();
      const paths = differences(variant.recipe, recipe).map((d) => [d.path, now]);
      variant.set({
        recipe,
        recipeSha256: recipeHash(recipe),
        touched: { ...variant.touched, ...Object.fromEntries(paths) },
      });
    }

    if (look) variant.set({ look });
    if (combine) variant.set({ combine });
    if (change.note !== undefined) variant.set({ note: change.note });
    await variant.save({ transaction });
    const changed = { updatedAt: new Date() } as never;
    await Shot.update(changed, { where: { id: variant.shotId }, silent: true, transaction });
    return variant;
  });
}

/** Saves a shot's views and how its reference is used. @throws StaleError */
export function saveShot(
  id: number,
  change: Partial<Pick<Shot, 'views' | 'reference'>>,
  began: number,
): Promise<Shot> {
  return inTransaction(async (transaction) => {
    const shot = await locked(Shot.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE }), 'shot');
    checkRevision(shot, began);
    return shot.update({ ...change, revision: began + 1 }, { transaction });
  });
}

// What an artist does to the lists of a recipe: adding by name, copying, moving, removing, taking parts along
// as text.
import { CoreError } from '../base/error';
import { carriedChannels } from '../recipe/kept';
import { canonicalText } from '../recipe/document';
import { targetOf, type KeyedCurve } from '../recipe/keys';
import { getAt } from '../recipe/paths';
import { PARTS } from '../recipe/parts';
import { isPlaced } from '../recipe/settings';
import { round, STARTERS, type Starter, type CopiedList } from './new-parts';
import { parseRecipe, RECIPE } from '../recipe/recipe';
import type {
  ChangePart,
  CurrentPart,
  FilePart,
  FormulaPart,
  ObstaclePart,
  ParticlesPart,
  PatternPart,
  Recipe,
  RegionPart,
  SourcePart,
} from '../recipe/types';
import type { Triple } from '../math/vector';

export type ListName =
  | 'sources'
  | 'patterns'
  | 'obstacles'
  | 'particles'
  | 'currents'
  | 'regions'
  | 'changes'
  | 'formulas'
  | 'files';
type AnyPart =
  | SourcePart
  | ObstaclePart
  | ParticlesPart
  | CurrentPart
  | PatternPart
  | RegionPart
  | ChangePart
  | FormulaPart
  | FilePart;

/** A name that no part of the list has yet: the name, or with the next number behind it. */
function freeName(list: readonly { name: string }[], name: string): string {
  const stem = name.replace(/ \d+$/, '');
  if (!list.some((p) => p.name === stem)) return stem;
  for (let n = 2; ; n++) if (!list.some((p) => p.name === `${stem} ${n}`)) return `${stem} ${n}`;
}

/**
 * @param id new and unlike any other; @param of the source that a pattern belongs to, the particles that a
 * source takes
 */
export function added(
  recipe: Recipe,
  list: keyof typeof STARTERS,
  starter: Starter,
  id: string,
  of = '',
): Recipe {
  const { size, corner } = recipe.space;
  const e = round(Math.min(...size) * 0.1);
  const at = (up: number): Triple => [
    round(corner[0] + size[0] / 2),
    round(corner[1] + size[1] * up),
    round(corner[2] + size[2] / 2),
  ];
  const settings = starter.make(e, at(0.35), [at(0)[0], round(corner[1]), at(0)[2]]);
  // through the door, so that what a starter leaves out is filled in as everywhere
  const [part] = parseRecipe({ [list]: [{ ...settings, id }] })[list];
  const named = { ...part, name: freeName(recipe[list], starter.name), ...belonging(recipe, list, part, of) };
  return { ...recipe, [list]: [...recipe[list], named] };
}

/** What a new part belongs to: the one that was named, or the first that there is. */
function belonging(recipe: Recipe, list: keyof typeof STARTERS, part: AnyPart, of: string): object {
  const first = of || (recipe.particles[0]?.id ?? '');
  if (list === 'patterns') return { source: of };
  if (list === 'sources' && (part as SourcePart).shape === 'particles') return { particles: first };
  return list === 'particles' && (part as ParticlesPart).born === 'children' ? { parent: first } : {};
}

/** With a part of a list at another place of it; those between move up or down. */
export function moved(recipe: Recipe, list: ListName, id: string, to: number): Recipe {
  const parts = [...recipe[list]] as AnyPart[];
  const from = parts.findIndex((p) => p.id === id);
  if (from < 0 || to < 0 || to >= parts.length || to === from) return recipe;
  parts.splice(to, 0, ...parts.splice(from, 1));
  return { ...recipe, [list]: parts };
}

/** Without a part, its patterns, its changes and its keys; what pointed at it points at nothing. */
export function without(recipe: Recipe, list: ListName, id: string): Recipe {
  const gone = new Set([
    id,
    ...(list === 'sources' ? recipe.patterns.filter((p) => p.source === id).map((p) => p.id) : []),
    ...recipe.changes.filter((c) => c.region === id || c.path.split('/')[1] === id).map((c) => c.id),
  ]);
  const rest = Object.fromEntries(
    PARTS.map((part) => {
      const own = recipe[part.key as ListName] as unknown;
      const clear = (holder: object): object =>
        part.settings.reduce(
          (h, s) =>
            s.kind === 'reference' && gone.has((h as Record<string, string>)[s.path])
              ? { ...h, [s.path]: '' }
              : h,
          holder,
        );
      if (!part.many) return [part.key, clear(own as object)];
      return [part.key, (own as AnyPart[]).filter((p) => !gone.has(p.id)).map(clear)];
    }),
  );
  const curves = recipe.curves.filter((c) => !gone.has(c.path.split('/')[1]));
  return { ...recipe, ...rest, curves };
}

/**
 * With a change of one setting inside a region. @param path as in curves: `wind/speed`, `currents/ID/pull`
 */
export function withChange(recipe: Recipe, region: string, path: string, id: string): Recipe {
  const target = targetOf(recipe, path);
  if ('wrong' in target) throw new CoreError('settings', `${path}: ${target.wrong}`);
  const now = getAt(recipe, target.at) as number;
  const { unit } = target.setting;
  // half of what it is there; where it is nothing, something
  const part = RECIPE.defaultPart<ChangePart>('changes', {
    id,
    region,
    path,
    name: freeName(recipe.changes, target.name),
    ...(now === 0
      ? { how: 'is', amount: Math.min(1, target.setting.most) }
      : { how: 'times', amount: unit === '°' ? -1 : 0.5 }),
  });
  return { ...recipe, changes: [...recipe.changes, part] };
}

/** Every number that can be another one inside a region, by part. */
export function changeable(recipe: Recipe): { part: string; settings: { path: string; label: string }[] }[] {
  return PARTS.filter((p) => p.placed).flatMap((p) => {
    const settings = (id?: string): { path: string; label: string }[] =>
      p.settings
        .filter((s) => s.kind === 'number' && isPlaced(p, s.path))
        .map((s) => ({
          path: id === undefined ? `${p.key}/${s.path}` : `${p.key}/${id}/${s.path}`,
          label: s.label,
        }));
    if (!p.many) return [{ part: p.title, settings: settings() }];
    return (recipe[p.key as 'currents'] as readonly { id: string; name: string }[]).map((own) => ({
      part: own.name,
      settings: settings(own.id),
    }));
  });
}

/** Parts with all that they need, to be taken to another shot. */
export interface Parcel {
  readonly bramblemist: 'parts';
  readonly sources: readonly SourcePart[];
  readonly patterns: readonly PatternPart[];
  readonly obstacles: readonly ObstaclePart[];
  readonly particles: readonly ParticlesPart[];
  readonly currents: readonly CurrentPart[];
  readonly regions: readonly RegionPart[];
  readonly changes: readonly ChangePart[];
  readonly formulas: readonly FormulaPart[];
  readonly files: readonly FilePart[];
  readonly curves: readonly KeyedCurve[];
}

/** The particles and all that they spring from. */
function lineage(recipe: Recipe, id: string): ParticlesPart[] {
  const own = recipe.particles.find((p) => p.id === id);
  return own ? [own, ...(own.born === 'children' ? lineage(recipe, own.parent) : [])] : [];
}

/** The region and those that it is joined with. */
function joined(recipe: Recipe, id: string): RegionPart[] {
  const own = recipe.regions.find((r) => r.id === id);
  return own ? [own, ...(own.joins === 'alone' ? [] : joined(recipe, own.other))] : [];
}

/**
 * A part as text, with its patterns, particles, regions, files and keys; a region with what it changes of the
 * air as a whole.
 */
export function textOf(recipe: Recipe, list: CopiedList, id: string): string {
  const own = <P extends { id: string }>(name: CopiedList, parts: readonly P[]): P[] =>
    list === name ? parts.filter((p) => p.id === id) : [];
  const sources = own('sources', recipe.sources);
  const obstacles = own('obstacles', recipe.obstacles);
  const currents = own('currents', recipe.currents);
  const formulas = own('formulas', recipe.formulas);
  const patterns = recipe.patterns.filter((p) => sources.some((s) => s.id === p.source));
  const roots =
    list === 'particles' ? [id] : sources.filter((s) => s.shape === 'particles').map((s) => s.particles);
  const particles = roots.flatMap((root) => lineage(recipe, root));
  const regions = (
    list === 'regions' ? [id] : [...sources, ...currents, ...formulas].map((p) => p.where)
  ).flatMap((root) => joined(recipe, root));
  const changes =
    list === 'regions' ? recipe.changes.filter((c) => c.region === id && c.path.split('/').length === 2) : [];
  const all = [...sources, ...obstacles, ...patterns, ...particles, ...currents, ...regions, ...changes];
  const wanted = new Set([
    ...[...sources, ...obstacles, ...patterns, ...particles, ...currents, ...regions].map((p) => p.file),
    ...particles.map((p) => p.sequence),
  ]);
  const files = recipe.files.filter((f) => wanted.has(f.id));
  const curves = recipe.curves.filter((c) => all.some((p) => p.id === c.path.split('/')[1]));
  const parcel: Parcel = {
    bramblemist: 'parts',
    sources,
    patterns,
    obstacles,
    particles,
    currents,
    regions,
    changes,
    formulas,
    files,
    curves,
  };
  return JSON.stringify(parcel, null, 2);
}

const NO_PARTS = 'The text holds no parts of a recipe. Copy a source or an obstacle first.';

/**
 * With the parts of a text, under new ids and free names; files with the same content are not taken twice,
 * nor are regions that others are limited to and that are here already.
 * @throws Error that says what is wrong with the text
 */
export function pasted(recipe: Recipe, text: string, newId: () => string): Recipe {
  let parcel: Partial<Parcel>;
  try {
    parcel = JSON.parse(text) as Partial<Parcel>;
  } catch {
    throw new CoreError('settings', NO_PARTS);
  }

  if (parcel?.bramblemist !== 'parts') throw new CoreError('settings', NO_PARTS);
  const {
    sources = [],
    patterns = [],
    obstacles = [],
    particles = [],
    currents = [],
    changes = [],
    formulas = [],
    files = [],
  } = parcel;
  const { curves = [] } = parcel;
  const needed = sources.length + currents.length + formulas.length > 0;
  const here = (id: string): boolean => needed && recipe.regions.some((r) => r.id === id);
  const regions = (parcel.regions ?? []).filter((r) => !here(r.id));
  const ids = new Map<string, string>([
    ...[
      ...sources,
      ...patterns,
      ...obstacles,
      ...particles,
      ...currents,
      ...regions,
      ...changes,
      ...formulas,
    ].map((p): [string, string] => [p.id, newId()]),
    ...files.map((f): [string, string] => [
      f.id,
      recipe.files.find((own) => own.sha256 !== '' && own.sha256 === f.sha256)?.id ?? newId(),
    ]),
  ]);
  const now = (id: string): string => ids.get(id) ?? '';
  // what is not in the text stays what it is, where it is here
  const kept = (id: string, list: readonly { id: string }[]): string =>
    ids.get(id) ?? (list.some((p) => p.id === id) ? id : '');
  const carried = <P extends { follows: string }>(p: P): P => ({
    ...p,
    follows: kept(p.follows, recipe.obstacles),
  });
  const placed = <P extends { where: string }>(p: P): P => ({ ...p, where: kept(p.where, recipe.regions) });
  const add = <P extends { id: string; name: string }>(own: readonly P[], more: readonly P[]): P[] =>
    more.reduce(
      (list, p) => [
        ...list,
        {
          ...p,
          id: now(p.id),
          name: freeName(list, p.name),
          ...('file' in p ? { file: now(p.file as string) } : {}),
        },
      ],
      [...own],
    );
  return parseRecipe({
    ...recipe,
    sources: add(
      recipe.sources,
      sources.map((s) => ({ ...placed(carried(s)), particles: now(s.particles) })),
    ),
    obstacles: add(recipe.obstacles, obstacles),
    currents: add(
      recipe.currents,
      currents.map((c) => placed(carried(c))),
    ),
    regions: add(
      recipe.regions,
      regions.map((r) => ({ ...carried(r), other: kept(r.other, recipe.regions) })),
    ),
    changes: add(
      recipe.changes,
      changes.map((c) => ({ ...c, region: now(c.region) })),
    ),
    formulas: add(recipe.formulas, formulas.map(placed)),
    particles: add(
      recipe.particles,
      particles.map((p) => ({ ...carried(p), parent: now(p.parent), sequence: now(p.sequence) })),
    ),
    patterns: add(
      recipe.patterns,
      patterns.map((p) => ({ ...p, source: now(p.source) })),
    ),
    files: [
      ...recipe.files,
      ...files
        .filter((f) => !recipe.files.some((own) => own.id === now(f.id)))
        .map((f) => ({ ...f, id: now(f.id) })),
    ],
    curves: [
      ...recipe.curves,
      ...curves
        .filter((c) => ids.has(c.path.split('/')[1]))
        .map((c) => {
          const [part, id, setting] = c.path.split('/');
          return { ...c, id: newId(), path: `${part}/${now(id)}/${setting}` };
        }),
    ],
  });
}

/** With a file from the shelf; the same content is not taken twice. */
export function withFile(
  recipe: Recipe,
  file: { name: string; sha256: string; kind: FilePart['kind'] },
  id: string,
): { recipe: Recipe; id: string } {
  const known = recipe.files.find((f) => f.sha256 === file.sha256);
  if (known) return { recipe, id: known.id };
  const part = RECIPE.defaultPart<FilePart>('files', {
    id,
    name: file.name,
    sha256: file.sha256,
    kind: file.kind,
  });
  return { recipe: { ...recipe, files: [...recipe.files, part] }, id };
}

/**
 * Whether a run of one recipe can go on with another: only how the air moves differs, or keys of that, or
 * what is kept.
 */
export function canContinue(from: Recipe, to: Recipe): boolean {
  const differs = (a: unknown, b: unknown): boolean => canonicalText(a) !== canonicalText(b);
  const live = (key: string): boolean => PARTS.some((p) => p.key === key && p.live);
  // medium that begins to lie where it lands is one channel more
  if (differs(carriedChannels(from), carriedChannels(to))) return false;
  return PARTS.every(({ key }) => {
    if (live(key)) return true;
    if (key !== 'curves') return !differs(from[key as 'space'], to[key as 'space']);
    const still = (r: Recipe): KeyedCurve[] => r.curves.filter((c) => !live(c.path.split('/')[0]));
    return !differs(still(from), still(to));
  });
}

/** Only one source gives off: for looking at it alone. */
export function withoutOtherForces(recipe: Recipe, id: string | null): Recipe {
  if (id === null || !recipe.sources.some((s) => s.id === id)) return recipe;
  return { ...recipe, sources: recipe.sources.map((s) => ({ ...s, on: s.id === id })) };
}

// What an artist does to the lists of a recipe: adding by name, copying, moving, removing, taking parts along as text.
import type { Curve } from './keys';
import { PARTS } from './parts';
import {
  parseRecipe,
  RECIPE,
  type CurrentPart,
  type FilePart,
  type ObstaclePart,
  type ParticlesPart,
  type PatternPart,
  type Recipe,
  type SourcePart,
  type Triple,
} from './recipe';

export type ListName = 'sources' | 'patterns' | 'obstacles' | 'particles' | 'currents' | 'files';
type AnyPart = SourcePart | ObstaclePart | ParticlesPart | CurrentPart | PatternPart | FilePart;

/** Something that can be added by name. */
export interface Starter {
  readonly name: string;
  /** When to use it. */
  readonly when: string;
  /** Its settings, for a room of that size; e is a comfortable edge in it, m. */
  readonly make: (e: number, middle: Triple, floor: Triple) => object;
}

export const STARTERS: Readonly<Record<'sources' | 'obstacles' | 'particles' | 'currents' | 'patterns', readonly Starter[]>> = {
  sources: [
    { name: 'Puff', when: 'A ball in the air. The quickest start.', make: (e, middle) => ({ shape: 'sphere', centre: middle, radius: e }) },
    {
      name: 'Cold spill',
      when: 'A box that gives off cold, heavy vapour: dry ice, fog over a sill.',
      make: (e, middle) => ({
        shape: 'box',
        centre: middle,
        size: [2 * e, e / 2, 2 * e],
        density: { amount: 1.5 },
        temperature: { amount: -12 },
      }),
    },
    {
      name: 'Vent',
      when: 'A flat disc that blows warm air and medium upward: a flue, a grating.',
      make: (e, _m, floor) => ({
        ...{ shape: 'disc', centre: floor, radius: e, size: [e, e / 3, e], density: { amount: 4 }, temperature: { amount: 30 } },
        push: { how: 'blend', mode: 'along', speed: 1 },
      }),
    },
    {
      name: 'Burst',
      when: 'A ball that is thrown outward within a few frames: a sack that lands, a tap on a dusty thing.',
      make: (e, _m, floor) => ({
        ...{ shape: 'sphere', centre: floor, radius: e, density: { amount: 20 }, temperature: { how: 'none' }, until: 3 },
        push: { how: 'raise', mode: 'normal', speed: 2, spread: 25, lump: e / 2 },
      }),
    },
    {
      name: 'Ring',
      when: 'A tube in a circle: a rim, a coil, the edge of a lid.',
      make: (e, middle) => ({ shape: 'ring', centre: middle, radius: e, tube: e / 5 }),
    },
    {
      name: 'Patch',
      when: 'A thin layer, flat: mist over water, dust on a floor.',
      make: (e, _m, floor) => ({ shape: 'plane', centre: floor, size: [4 * e, e / 4, 4 * e] }),
    },
    {
      name: 'Path',
      when: 'A tube along corners: a crack, a pipe that leaks, a pen that is drawn through ink.',
      make: (e, middle) => ({
        shape: 'path',
        centre: middle,
        radius: e / 4,
        points: [
          [-2 * e, 0, 0],
          [0, e, 0],
          [2 * e, 0, 0],
        ],
      }),
    },
    {
      name: 'Mesh',
      when: 'A mesh from a file: its inside, or a layer along its surface.',
      make: (_e, _m, floor) => ({ shape: 'mesh', centre: floor }),
    },
    {
      name: 'Off particles',
      when: 'Each particle is a ball of the medium along its way: trails of dust, spray that mists.',
      make: () => ({ shape: 'particles', swell: 2, density: { amount: 4 }, temperature: { how: 'none' } }),
    },
    {
      name: 'Draught',
      when: 'Air only: pushes what is there and gives nothing off.',
      make: (e, middle) => ({
        ...{ shape: 'sphere', centre: middle, radius: e, density: { how: 'none' }, temperature: { how: 'none' } },
        push: { how: 'blend', mode: 'along', direction: [1, 0, 0], speed: 1 },
      }),
    },
  ],
  obstacles: [
    {
      name: 'Ground',
      when: 'All under a level is solid. Turn it for a slope.',
      make: (_e, _m, floor) => ({ shape: 'ground', centre: floor }),
    },
    {
      name: 'Block',
      when: 'A box: walls, steps, sills.',
      make: (e, _m, floor) => ({ shape: 'box', centre: [floor[0], floor[1] + e, floor[2]], size: [2 * e, 2 * e, 2 * e] }),
    },
    { name: 'Ball', when: 'A sphere.', make: (e, middle) => ({ shape: 'sphere', centre: middle, radius: e }) },
    {
      name: 'Post',
      when: 'A cylinder: posts, pipes, barrels.',
      make: (e, _m, floor) => ({ shape: 'cylinder', centre: [floor[0], floor[1] + 2 * e, floor[2]], radius: e / 2, size: [e, 4 * e, e] }),
    },
    { name: 'Hoop', when: 'A ring.', make: (e, middle) => ({ shape: 'ring', centre: middle, radius: e, tube: e / 4 }) },
    { name: 'Mesh', when: 'A mesh from a file.', make: (_e, _m, floor) => ({ shape: 'mesh', centre: floor }) },
    {
      name: 'Vessel',
      when: 'A box turned inside-out: a tank, a room of its own inside the room.',
      make: (e, middle) => ({ shape: 'box', facing: 'vessel', centre: middle, size: [5 * e, 5 * e, 5 * e] }),
    },
  ],
  particles: [
    {
      name: 'Throw',
      when: 'Many at once that fly apart: grains off a blow, splinters, spray.',
      make: (e, _m, floor) => ({
        ...{ born: 'burst', count: 600, until: 2, centre: floor, radius: e / 2, spread: 70, speed: 3, vary: 40, ball: e / 10 },
        drag: 0.4,
      }),
    },
    {
      name: 'Stream',
      when: 'So many a second: a spout, a sieve, a grindstone.',
      make: (e, middle) => ({ born: 'rate', rate: 400, centre: middle, radius: e / 3, spread: 15, ball: e / 12, drag: 0.3 }),
    },
    {
      name: 'Floating motes',
      when: 'Light ones that drift with the air and show how it goes.',
      make: (e, middle) => ({
        ...{ born: 'burst', count: 2000, until: 1, shape: 'box', centre: middle, size: [6 * e, 6 * e, 6 * e], speed: 0, ball: e / 30 },
        ...{ gravity: 0, drag: 0.05, life: 0 },
      }),
    },
    {
      name: 'Trails',
      when: 'Children that others leave behind along their way. Choose their parents.',
      make: (e) => ({ born: 'children', rate: 40, speed: 0.1, spread: 180, inherit: 10, gravity: 0.5, drag: 0.1, life: 1, ball: e / 12 }),
    },
    { name: 'From a file', when: 'A sequence of PLY or CSV files that was made elsewhere.', make: (e) => ({ born: 'file', ball: e / 10 }) },
  ],
  currents: [
    {
      name: 'Jet',
      when: 'A fan, a draught, a wind that blows in one place only.',
      make: (e, middle) => ({ does: 'jet', shape: 'cylinder', centre: middle, radius: e, size: [e, 3 * e, e], soft: e / 2 }),
    },
    {
      name: 'Whirl',
      when: 'Spins the air about an axis: a stirred tank, chaff in a yard.',
      make: (e, middle) => ({ does: 'spin', shape: 'cylinder', centre: middle, radius: 2 * e, size: [e, 6 * e, e], soft: e }),
    },
    {
      name: 'Pull',
      when: 'Draws everything to a point, or with a negative pull drives it away.',
      make: (e, middle) => ({ does: 'point', shape: 'sphere', centre: middle, radius: 3 * e, soft: e }),
    },
    {
      name: 'Lee',
      when: 'Brings the air to rest: shelter behind a roof, a corner where mist gathers.',
      make: (e, middle) => ({ does: 'still', shape: 'box', centre: middle, size: [3 * e, 3 * e, 3 * e], soft: e }),
    },
    {
      name: 'Shear',
      when: 'Layers that slide over each other, which tears a plume into billows.',
      make: (e, middle) => ({ does: 'shear', shape: 'box', centre: middle, size: [8 * e, 4 * e, 8 * e], direction: [1, 0, 0], soft: e }),
    },
    {
      name: 'Path',
      when: 'Leads the air along corners that you set, turning about them as it goes.',
      make: (e, middle) => ({
        ...{ does: 'path', shape: 'path', centre: middle, radius: 1.5 * e, soft: e, turning: 0 },
        points: [
          [-3 * e, -e, 0],
          [0, e, 0],
          [3 * e, 0, 0],
        ],
      }),
    },
  ],
  patterns: [
    { name: 'Billows', when: 'Lumps with creases between them: mist, boiling vapour.', make: (e) => ({ noise: 'billow', size: e }) },
    { name: 'Soft noise', when: 'Thicker here, thinner there.', make: (e) => ({ noise: 'value', size: e }) },
    {
      name: 'Cells',
      when: 'Round spots apart from each other: vents, drops, holes.',
      make: (e) => ({ noise: 'cellular', size: e, low: 0.3 }),
    },
    {
      name: 'Picture',
      when: 'A picture laid on from above, as the amount or the colour.',
      make: (e) => ({ noise: 'picture', across: 4 * e }),
    },
  ],
};

const round = (v: number): number => Number(v.toPrecision(3));
/** A name that no part of the list has yet: the name, or with the next number behind it. */
function freeName(list: readonly { name: string }[], name: string): string {
  const stem = name.replace(/ \d+$/, '');
  if (!list.some((p) => p.name === stem)) return stem;
  for (let n = 2; ; n++) if (!list.some((p) => p.name === `${stem} ${n}`)) return `${stem} ${n}`;
}

/** @param id new and unlike any other; @param of the source that a pattern belongs to, the particles that a source takes */
export function added(recipe: Recipe, list: keyof typeof STARTERS, starter: Starter, id: string, of = ''): Recipe {
  const { size, corner } = recipe.space,
    e = round(Math.min(...size) * 0.1),
    at = (up: number): Triple => [round(corner[0] + size[0] / 2), round(corner[1] + size[1] * up), round(corner[2] + size[2] / 2)];
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

/** Up or down in its list by one; the order of patterns is the order in which they multiply. */
export function moved(recipe: Recipe, list: ListName, id: string, by: -1 | 1): Recipe {
  const parts = [...recipe[list]] as AnyPart[],
    n = parts.findIndex((p) => p.id === id),
    to = n + by;
  if (n < 0 || to < 0 || to >= parts.length) return recipe;
  [parts[n], parts[to]] = [parts[to], parts[n]];
  return { ...recipe, [list]: parts };
}

/** Without a part, its patterns and its keys; what pointed at it points at nothing. */
export function without(recipe: Recipe, list: ListName, id: string): Recipe {
  const gone = new Set([id, ...(list === 'sources' ? recipe.patterns.filter((p) => p.source === id).map((p) => p.id) : [])]);
  const rest = Object.fromEntries(
    PARTS.map((part) => {
      const own = recipe[part.key as ListName] as unknown;
      const clear = (holder: object): object =>
        part.settings.reduce(
          (h, s) => (s.kind === 'reference' && gone.has((h as Record<string, string>)[s.path]) ? { ...h, [s.path]: '' } : h),
          holder,
        );
      if (!part.many) return [part.key, clear(own as object)];
      return [part.key, (own as AnyPart[]).filter((p) => !gone.has(p.id)).map(clear)];
    }),
  );
  const curves = recipe.curves.filter((c) => !gone.has(c.path.split('/')[1]));
  return { ...recipe, ...rest, curves };
}

/** Parts with all that they need, to be taken to another shot. */
export interface Parcel {
  readonly bramblemist: 'parts';
  readonly sources: readonly SourcePart[];
  readonly patterns: readonly PatternPart[];
  readonly obstacles: readonly ObstaclePart[];
  readonly particles: readonly ParticlesPart[];
  readonly currents: readonly CurrentPart[];
  readonly files: readonly FilePart[];
  readonly curves: readonly Curve[];
}

/** The particles and all that they spring from. */
function lineage(recipe: Recipe, id: string): ParticlesPart[] {
  const own = recipe.particles.find((p) => p.id === id);
  return own ? [own, ...(own.born === 'children' ? lineage(recipe, own.parent) : [])] : [];
}

/** A part as text, with its patterns, particles, files and keys. */
export function textOf(recipe: Recipe, list: 'sources' | 'obstacles' | 'particles' | 'currents', id: string): string {
  const sources = list === 'sources' ? recipe.sources.filter((s) => s.id === id) : [],
    obstacles = list === 'obstacles' ? recipe.obstacles.filter((o) => o.id === id) : [],
    currents = list === 'currents' ? recipe.currents.filter((c) => c.id === id) : [],
    patterns = recipe.patterns.filter((p) => sources.some((s) => s.id === p.source)),
    roots = list === 'particles' ? [id] : sources.filter((s) => s.shape === 'particles').map((s) => s.particles);
  const particles = roots.flatMap((root) => lineage(recipe, root));
  const all = [...sources, ...obstacles, ...patterns, ...particles, ...currents],
    wanted = new Set([...[...sources, ...obstacles, ...patterns, ...particles].map((p) => p.file), ...particles.map((p) => p.sequence)]);
  const files = recipe.files.filter((f) => wanted.has(f.id));
  const curves = recipe.curves.filter((c) => all.some((p) => p.id === c.path.split('/')[1]));
  const parcel: Parcel = { bramblemist: 'parts', sources, patterns, obstacles, particles, currents, files, curves };
  return JSON.stringify(parcel, null, 2);
}

/**
 * With the parts of a text, under new ids and free names; files with the same content are not taken twice.
 * @throws Error that says what is wrong with the text
 */
export function pasted(recipe: Recipe, text: string, newId: () => string): Recipe {
  let parcel: Partial<Parcel>;
  try {
    parcel = JSON.parse(text) as Partial<Parcel>;
  } catch {
    throw new Error('The text holds no parts of a recipe. Copy a source or an obstacle first.');
  }
  if (parcel?.bramblemist !== 'parts') throw new Error('The text holds no parts of a recipe. Copy a source or an obstacle first.');
  const { sources = [], patterns = [], obstacles = [], particles = [], currents = [], files = [], curves = [] } = parcel;
  const ids = new Map<string, string>([
    ...[...sources, ...patterns, ...obstacles, ...particles, ...currents].map((p): [string, string] => [p.id, newId()]),
    ...files.map((f): [string, string] => [f.id, recipe.files.find((own) => own.sha256 !== '' && own.sha256 === f.sha256)?.id ?? newId()]),
  ]);
  const now = (id: string): string => ids.get(id) ?? '';
  const add = <P extends { id: string; name: string; file: string }>(own: readonly P[], more: readonly P[]): P[] =>
    more.reduce((list, p) => [...list, { ...p, id: now(p.id), name: freeName(list, p.name), file: now(p.file) }], [...own]);
  return parseRecipe({
    ...recipe,
    sources: add(
      recipe.sources,
      sources.map((s) => ({ ...s, particles: now(s.particles) })),
    ),
    obstacles: add(recipe.obstacles, obstacles),
    currents: currents.reduce((list, c) => [...list, { ...c, id: now(c.id), name: freeName(list, c.name) }], [...recipe.currents]),
    particles: add(
      recipe.particles,
      particles.map((p) => ({ ...p, parent: now(p.parent), sequence: now(p.sequence) })),
    ),
    patterns: add(
      recipe.patterns,
      patterns.map((p) => ({ ...p, source: now(p.source) })),
    ),
    files: [
      ...recipe.files,
      ...files.filter((f) => !recipe.files.some((own) => own.id === now(f.id))).map((f) => ({ ...f, id: now(f.id) })),
    ],
    curves: [
      ...recipe.curves,
      ...curves.map((c) => {
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
  const part = RECIPE.defaultPart<FilePart>('files', { id, name: file.name, sha256: file.sha256, kind: file.kind });
  return { recipe: { ...recipe, files: [...recipe.files, part] }, id };
}

/** Only one source gives off: for looking at it alone. */
export function alone(recipe: Recipe, id: string | null): Recipe {
  if (id === null || !recipe.sources.some((s) => s.id === id)) return recipe;
  return { ...recipe, sources: recipe.sources.map((s) => ({ ...s, on: s.id === id })) };
}

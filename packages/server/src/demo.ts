// Loads the demo production into an empty database: recipes from the core, pictures from the demo folder.
import { copyFileSync, existsSync, mkdirSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import type { Combine } from '@bramblemist/core/combine/combine';
import { sha256 } from '@bramblemist/core/io/node/files';
import { readPng } from '@bramblemist/core/io/node/png';
import type { Matte } from '@bramblemist/core/analysis/measures';
import { exampleComp } from '@bramblemist/core/presets/comps';
import { example, exampleLook, triesOf } from '@bramblemist/core/presets/examples';
import { voxelSizeAt, type Size } from '@bramblemist/core/recipe/sizes';
import type { JobEngine } from './jobs/engine';
import { Asset, Job, Production, Shot, Variant } from './models';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { shelve } from './routes/files';
import { beginBake } from './services/bakes';
import { recipeHash } from './services/documents';
import type { Storage } from './storage/storage';

const SHOTS = [
  {
    example: 'weir-at-dawn',
    note: 'Mist pours over the weir lip and crawls along the leat, gusts from the left.',
    variant: 'colder, slower spill',
    status: 'review',
    assignee: 'Mara Voss',
  },
  {
    example: 'sack-drop',
    note: 'A sack lands on planks and throws up flour dust.',
    variant: 'a burst from under it, crumbs that trail dust, the seam follows',
    status: 'work',
    assignee: 'Tobin Hale',
  },
  {
    example: 'ice-cellar',
    note: 'Cold vapour rolls over the sill of the cellar hatch and down three steps.',
    variant: 'a slow, even pour',
    status: 'approved',
    assignee: 'Mara Voss',
  },
  {
    example: 'quill',
    note: 'Two inks drop into a glass of water and mix.',
    variant: 'the red a breath later',
    status: 'work',
    assignee: '',
  },
  {
    example: 'drying-kiln',
    note: 'Cool grey smoke leaves a flue and bends over a slate roof, past a turning weathercock.',
    variant: 'gusts from the left, shelter behind the roof',
    status: 'work',
    assignee: 'Tobin Hale',
  },
  {
    example: 'lantern-jetty',
    note: 'Mist lies on the millpond at night and keeps off a warm lantern on the jetty.',
    variant: 'mist keeps off the lantern',
    status: 'review',
    assignee: 'Mara Voss',
  },
] as const;

/** A picture to hold the run against, and where the medium lies in it: other things are bright too. */
interface Reference {
  readonly file: string;
  readonly matte: Matte;
}

type Outline = Extract<Matte, { by: 'outline' }>;

const outlined = (from: number, to: number, points: Outline['points']): Outline => ({
  ...{ by: 'outline', from, to, points },
});
const REFERENCES: Readonly<Record<string, Reference>> = {
  'weir-at-dawn': {
    file: 'weir_still_02.png',
    matte: outlined(0.42, 0.85, [
      [0, 0.34],
      [0.2, 0.33],
      [0.45, 0.36],
      [0.55, 0.5],
      [0.7, 0.68],
      [1, 0.84],
      [1, 1],
      [0.4, 1],
      [0.33, 0.78],
      [0, 0.72],
    ]),
  },
  'sack-drop': {
    file: 'sack_still.png',
    matte: outlined(0.25, 0.62, [
      [0.04, 0.42],
      [0.88, 0.42],
      [0.92, 0.66],
      [0.5, 0.78],
      [0.06, 0.76],
    ]),
  },
  'ice-cellar': {
    file: 'cellar_still.png',
    matte: outlined(0.25, 0.6, [
      [0.02, 0.26],
      [0.2, 0.26],
      [0.86, 0.66],
      [0.84, 0.84],
      [0.5, 0.8],
      [0.02, 0.66],
    ]),
  },
  // dark ink in front of bright glass: the darker, the more of it
  quill: {
    file: 'quill_still.png',
    matte: outlined(0.72, 0.3, [
      [0.38, 0.05],
      [0.66, 0.05],
      [0.66, 0.8],
      [0.34, 0.8],
    ]),
  },
  'drying-kiln': {
    file: 'kiln_still.png',
    matte: outlined(0.45, 0.8, [
      [0.28, 0.28],
      [0.5, 0.08],
      [1, 0.02],
      [1, 0.36],
      [0.4, 0.42],
      [0.28, 0.42],
    ]),
  },
  'lantern-jetty': {
    file: 'jetty_still.png',
    matte: outlined(0.2, 0.55, [
      [0, 0.6],
      [0.64, 0.58],
      [1, 0.6],
      [1, 0.92],
      [0, 0.92],
    ]),
  },
};

/** A document with its files from the demo folder, which go onto the shelf. */
async function withFiles<T extends Pick<Recipe | Combine, 'files'>>(
  document: T,
  storage: Storage,
  folder: string,
  cli: string,
): Promise<T> {
  const files = [];
  for (const file of document.files) {
    const path = join(folder, file.name);
    if (!existsSync(path)) throw new Error(`${path} is missing. Make it with: npm run demo:make`);
    files.push({ ...file, sha256: (await shelve(storage, cli, path, file.name)).file.sha256 });
  }

  return { ...document, files };
}

/** @throws Error where the picture is missing */
async function putReference(storage: Storage, shotId: number, path: string): Promise<void> {
  if (!existsSync(path)) throw new Error(`${path} is missing. Make it with: npm run demo:make`);
  const hash = sha256(readFileSync(path));
  const target = storage.assetFile(hash);
  const { width, height } = readPng(path);
  mkdirSync(dirname(target), { recursive: true });
  copyFileSync(path, target);
  const bytes = statSync(path).size;
  await Asset.create({ shotId, name: basename(path), kind: 'reference', sha256: hash, bytes, width, height });
}

/** @returns whether it was loaded now */
export async function loadDemo(storage: Storage, folder: string, cli: string): Promise<boolean> {
  if ((await Production.count()) > 0) return false;
  const production = await Production.create({
    name: 'The Heron Mill',
    note: 'A stop-motion short about an old watermill.',
  });
  let place = 0;
  for (const { example: name, note, variant, status, assignee } of SHOTS) {
    const recipe = await withFiles(example(name), storage, folder, cli);
    const look = exampleLook(name);
    const combine = await withFiles(exampleComp(name, recipe, look), storage, folder, cli);
    const shot = await Shot.create({
      productionId: production.id,
      name: recipe.name,
      note,
      status,
      assignee,
      place: ++place,
      ...(name in REFERENCES ? { reference: { matte: REFERENCES[name].matte } } : {}),
    });
    if (name in REFERENCES) await putReference(storage, shot.id, join(folder, REFERENCES[name].file));
    let firstId: number | null = null;
    let lastId: number | null = null;
    for (const [n, tried] of [{ note: variant, ofFirst: false, recipe }, ...triesOf(name)].entries()) {
      const own = await withFiles(tried.recipe, storage, folder, cli);
      const made: Variant = await Variant.create({
        shotId: shot.id,
        number: n + 1,
        parentId: tried.ofFirst ? firstId : lastId,
        note: tried.note,
        recipe: own,
        look,
        combine,
        recipeSha256: recipeHash(own),
      });
      firstId ??= made.id;
      lastId = made.id;
    }
  }

  return true;
}

/** The shot whose drift check a newcomer finds done. */
const CHECKED = 'Lantern jetty';

/** Priority of a job that goes after whatever an artist asks for. */
const BEHIND_ALL = -1;

/**
 * Bakes the first variant of each shot at live size, so that a newcomer finds pictures on the board and
 * frames to play, light and combine. Whatever else is asked for goes first.
 */
export async function bakeDemo(engine: JobEngine): Promise<void> {
  const bakeAt = async (variant: Variant, size: Size): Promise<void> => {
    const { recipe } = variant;
    const { firstFrame: first, lastFrame: last } = recipe.space;
    const { id } = await beginBake(engine, variant, voxelSizeAt(recipe, size), { first, last });
    await Job.update({ priority: BEHIND_ALL }, { where: { kind: 'bake', targetId: id } });
  };

  for (const variant of await Variant.findAll({ where: { number: 1 }, order: [['id', 'ASC']] }))
    await bakeAt(variant, 'live');
  // one shot has its drift check done: its newest variant at both sizes
  const shot = await Shot.findOne({ where: { name: CHECKED } });
  const newest = shot && (await Variant.findOne({ where: { shotId: shot.id }, order: [['number', 'DESC']] }));
  if (newest) for (const size of ['rough', 'working'] as const) await bakeAt(newest, size);
}

// Loads the demo production into an empty database: recipes from the core, pictures from the demo folder.
import { copyFileSync, existsSync, mkdirSync, readFileSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { COMBINE } from '@bramblemist/core/combine/combine';
import { sha256 } from '@bramblemist/core/io/node/files';
import { readPng } from '@bramblemist/core/io/node/png';
import { LOOK } from '@bramblemist/core/look/look';
import { example } from '@bramblemist/core/recipe/examples';
import { Asset, Production, Shot, Variant } from './models';
import { recipeHash } from './routes/shots';
import type { Storage } from './storage/storage';

const PICTURES = [
  { file: 'weir_plate.png', kind: 'plate' },
  { file: 'weir_still_02.png', kind: 'reference' },
] as const;

/** @returns whether it was loaded now */
export async function loadDemo(storage: Storage, folder: string): Promise<boolean> {
  if ((await Production.count()) > 0) return false;
  const production = await Production.create({ name: 'The Heron Mill', note: 'A stop-motion short about an old watermill.' });
  const recipe = example('weir-at-dawn');
  const shot = await Shot.create({
    productionId: production.id,
    name: recipe.name,
    note: 'Mist pours over the weir lip and crawls along the leat, gusts from the left.',
  });
  await Variant.create({
    shotId: shot.id,
    number: 1,
    note: 'colder, slower spill',
    recipe,
    look: LOOK.parse({ name: recipe.name }),
    combine: COMBINE.parse({ name: recipe.name }),
    recipeSha256: recipeHash(recipe),
  });
  for (const { file, kind } of PICTURES) {
    const path = join(folder, file);
    if (!existsSync(path)) throw new Error(`${path} is missing. Make it with: npm run demo:make`);
    const hash = sha256(readFileSync(path)),
      target = storage.assetFile(hash),
      picture = readPng(path);
    mkdirSync(dirname(target), { recursive: true });
    copyFileSync(path, target);
    await Asset.create({
      shotId: shot.id,
      name: file,
      kind,
      sha256: hash,
      bytes: statSync(path).size,
      width: picture.width,
      height: picture.height,
    });
  }
  return true;
}

// `scene`: the cache of a folder as a scene that other programs open, in OpenUSD and glTF.
import { join, relative, resolve, sep, dirname } from 'node:path';
import { framePath } from '@bramblemist/core/cache/file-names';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import { writeSceneGlb } from '@bramblemist/core/files/gltf/writer';
import { writeUsda } from '@bramblemist/core/files/usd/writer';
import { readJson, writeWhole } from '@bramblemist/core/io/node/files';
import { LOOK } from '@bramblemist/core/look/look';
import { sceneOf } from '@bramblemist/core/look/scene';
import { compile } from '@bramblemist/core/plan/compile';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { UsageError } from '../failure';
import { filesFor, loadDocument, parseFrames } from './bake';

export interface SceneArguments {
  out: string;
  look?: string;
  files?: string;
  volumes?: string;
  pictures: string;
  frames?: string;
  json?: boolean;
}

/** Writes NAME.usda and NAME.glb. */
export async function sceneCommand(folder: string, args: SceneArguments): Promise<void> {
  const path = join(folder, 'manifest.json');
  const manifest = readJson(path) as Manifest;
  if (manifest.format !== 'bramblemist-cache' || manifest.frames.length === 0)
    throw new UsageError(`${path}: is no cache with finished frames.`);
  const recipe = parseRecipe(manifest.recipe);
  const look = loadDocument(LOOK, args.look);
  const { plan } = compile(recipe, { assets: await filesFor(recipe, path, args.files) });
  const out = args.out.replace(/\.(usda|glb)$/i, '');
  const volumes = args.volumes ?? plainPath(relative(dirname(resolve(out)), resolve(folder)));
  const only = args.frames === undefined ? null : parseFrames(args.frames);
  const frames = manifest.frames.filter(({ frame }) => !only || (frame >= only.first && frame <= only.last));
  if (frames.length === 0)
    throw new UsageError(`${path}: none of its frames is among --frames ${args.frames}.`);
  const scene = sceneOf({ ...manifest, recipe, frames }, plan, look, {
    volume: (file, frame) =>
      volumes.includes('#') ? inFolder('', framePath(volumes, frame)) : inFolder(volumes, file),
    picture: (file) => inFolder(args.pictures, file),
  });
  const { bytes, remarks } = await writeSceneGlb(scene);
  writeWhole(`${out}.usda`, writeUsda(scene));
  writeWhole(`${out}.glb`, bytes);
  const made = {
    usda: `${out}.usda`,
    glb: `${out}.glb`,
    frames: scene.frames.length,
    cameras: scene.cameras.length,
    lights: scene.lights.length,
    obstacles: scene.obstacles.length,
    picture: scene.sky.picture,
    remarks: [...scene.remarks, ...remarks.map((r) => `glTF: ${r}`)],
  };
  if (args.json) process.stdout.write(`${JSON.stringify(made)}\n`);
  else
    process.stdout.write(
      `${made.usda} and ${made.glb}: ${made.frames} frames, ${made.cameras} cameras, ` +
        `${made.lights} lights, ${made.obstacles} obstacles\n${made.remarks.map((r) => `  ${r}\n`).join('')}`,
    );
}

/** As the formats have it on every system; relative to the scene. */
const plainPath = (path: string): string => path.split(sep).join('/');
const inFolder = (folder: string, file: string): string => {
  const own = folder === '' ? file : `${folder}/${file}`;
  return own.startsWith('/') || own.startsWith('.') ? own : `./${own}`;
};

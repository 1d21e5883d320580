// `scene`: the cache of a folder as a scene that other programs open, in OpenUSD and glTF.
import { join, relative, resolve, sep, dirname } from 'node:path';
import { framePath } from '@bramblemist/core/cache/file-names';
import { checkChannelNames, parseChannelNames } from '@bramblemist/core/cache/channel-names';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import { writeSceneGlb } from '@bramblemist/core/files/gltf/writer';
import { writeUsda } from '@bramblemist/core/files/usd/writer';
import { renamedManifest } from '@bramblemist/core/io/node/channels';
import { readJson, writeWhole } from '@bramblemist/core/io/node/files';
import { sceneParticles } from '@bramblemist/core/io/node/particles';
import { LOOK } from '@bramblemist/core/look/look';
import { sceneOf } from '@bramblemist/core/look/scene';
import { compile } from '@bramblemist/core/plan/compile';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { UsageError } from '../failure';
import { filesFor, loadDocument, parseFrames } from './bake';
import { asUsage } from './tool';

export interface SceneArguments {
  out: string;
  look?: string;
  files?: string;
  volumes?: string;
  pictures: string;
  particles: string[];
  names?: string;
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
  const flown = args.particles.map((at) => asUsage(() => sceneParticles(at, manifest.voxelSizeM)));
  const names = args.names === undefined ? null : asUsage(() => parseChannelNames(args.names!));
  if (names) asUsage(() => checkChannelNames(names, manifest.channels));
  const named = names ? renamedManifest(manifest, names) : manifest;
  const scene = sceneOf(
    { ...named, recipe, frames },
    plan,
    look,
    {
      volume: (file, frame) =>
        volumes.includes('#') ? inFolder('', framePath(volumes, frame)) : inFolder(volumes, file),
      picture: (file) => inFolder(args.pictures, file),
    },
    flown.map(({ particles }) => particles),
  );
  const thinned = flown.flatMap(({ kept }) =>
    kept < 1 ? [`of particles every ${Math.round(1 / kept)}th is in it; their own files hold all`] : [],
  );
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
    particles: scene.particles.length,
    picture: scene.sky.picture,
    remarks: [...scene.remarks, ...thinned, ...remarks.map((r) => `glTF: ${r}`)],
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

// Particles through a cache on disk: a PLY or CSV file a frame, trails as PLY lines, and what made them.
import type { Plan } from '../../plan/plan';
import { CoreError } from '../../base/error';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileStem, frameName, type Made } from '../../cache/manifest';
import { readCsvCloud, writeCsvCloud } from '../../files/csv/particles';
import { readPlyCloud } from '../../files/ply/ply';
import { writePlyCloud, writePlyLines } from '../../files/ply/writer';
import type { SceneParticles } from '../../files/scene';
import type { Assets } from '../../assets/assets';
import { advectParticles, type SeedPlaces } from '../../analysis/advect-particles';
import type { ParticleAdvection } from '../../analysis/particle-settings';
import { compile } from '../../plan/compile';
import { shapeAt } from '../../plan/placement';
import type { Recipe } from '../../recipe/types';
import type { OpenCache } from './cache';
import { dropParts, readJson, sha256, writeWhole } from './files';
import { madeOf } from './tool';

export interface ParticleFrame {
  readonly frame: number;
  readonly count: number;
  readonly file: string;
  readonly bytes: number;
  readonly sha256: string;
  /** The file with trails; missing without. */
  readonly trails?: string;
}
export interface ParticleManifest {
  readonly format: 'bramblemist-particles';
  readonly version: 1;
  readonly made: Made;
  readonly columns: readonly string[];
  readonly complete: boolean;
  readonly frames: readonly ParticleFrame[];
}
const PARTICLES_MANIFEST = 'particles.json';

/** Places of all frames of a scene together, beyond which they are thinned. */
const MOST_PLACES = 2_000_000;

/**
 * Particles that were written to a folder, for a scene that other programs open. Of too many, every second,
 * third … stays, by their numbers, so that one that is there is there in all of its frames.
 * @throws CoreError where the folder holds none, or a file of them cannot be read
 */
export function sceneParticles(folder: string, wideM: number): { particles: SceneParticles; kept: number } {
  const path = join(folder, PARTICLES_MANIFEST);
  const manifest = existsSync(path) ? (readJson(path) as Partial<ParticleManifest>) : null;
  if (manifest?.format !== 'bramblemist-particles' || !manifest.frames)
    throw new CoreError('file', `${folder}: holds no particles (there is no ${PARTICLES_MANIFEST} of ours).`);
  const all = manifest.frames.reduce((sum, { count }) => sum + count, 0);
  const every = Math.max(1, Math.ceil(all / MOST_PLACES));
  const frames = manifest.frames.map(({ frame, file }) => {
    const bytes = readFileSync(join(folder, file));
    const { positions, ids, count } = file.endsWith('.csv') ? readCsvCloud(bytes) : readPlyCloud(bytes);
    const kept = Array.from({ length: count }, (_, n) => n).filter((n) => (ids?.[n] ?? n) % every === 0);
    const places = new Float32Array(3 * kept.length);
    kept.forEach((n, at) => places.set(positions.subarray(3 * n, 3 * n + 3), 3 * at));
    return { frame, places, ids: ids && kept.map((n) => ids[n]) };
  });
  return { particles: { name: 'Particles', frames, wideM }, kept: 1 / every };
}

/** Where the recipe's sources are; compiled when it is first asked for. */
export function seedPlaces(recipe: Recipe, assets: Assets | undefined): SeedPlaces {
  let plan: Plan | null = null;
  return {
    sources(timeS) {
      plan ??= compile(recipe, { assets }).plan;
      const p = plan;
      return {
        shapes: p.sources.map((s) => shapeAt(p, 'sources', s, timeS, true)),
        cellM: p.window.voxelSizeM,
      };
    },
  };
}

/**
 * Frames are written as they come: of particles that go back, the last one first. What was begun before is
 * begun anew, with the same bits.
 * @throws Error in words where the folder holds others, or the cache cannot carry them
 */
export function writeParticles(
  source: OpenCache,
  settings: ParticleAdvection,
  places: SeedPlaces,
  options: {
    readonly folder: string;
    readonly format: 'ply' | 'csv';
    readonly onStart?: (total: number) => void;
    readonly onFrame: (frame: ParticleFrame, done: number, total: number) => void;
  },
): ParticleManifest {
  const { folder, format } = options;
  const path = join(folder, PARTICLES_MANIFEST);
  const made = madeOf(source, 'particles', { ...settings, format });
  if (existsSync(path)) {
    const earlier = readJson(path) as ParticleManifest;
    if (JSON.stringify(earlier.made) !== JSON.stringify(made))
      throw new CoreError(
        'cache',
        `${folder}: already holds other particles. Nothing is overwritten: choose another folder, or ` +
          'remove it.',
      );
    if (earlier.complete) return earlier;
    for (const f of earlier.frames) rmSync(join(folder, f.file), { force: true });
  }

  mkdirSync(folder, { recursive: true });
  dropParts(folder);
  const total = source.last - source.first + 1;
  const stem = fileStem(source.manifest.recipe.name);
  const frames: ParticleFrame[] = [];
  let columns: string[] = [];
  const manifest = (): ParticleManifest => ({
    format: 'bramblemist-particles',
    version: 1,
    made,
    columns,
    complete: frames.length === total,
    frames: [...frames].sort((a, b) => a.frame - b.frame),
  });
  options.onStart?.(total);
  for (const { frame, count, columns: own, trails } of advectParticles(source, settings, places)) {
    const file = frameName(stem, frame, format);
    const data = format === 'ply' ? writePlyCloud(own) : new TextEncoder().encode(writeCsvCloud(own));
    const lines = frameName(`${stem}_trails`, frame, 'ply');
    writeWhole(join(folder, file), data);
    if (trails) writeWhole(join(folder, 'trails', lines), writePlyLines(trails.places, trails.lengths));
    columns = [...own.keys()];
    frames.push({
      frame,
      count,
      file,
      bytes: data.length,
      sha256: sha256(data),
      ...(trails ? { trails: join('trails', lines) } : {}),
    });
    writeWhole(path, JSON.stringify(manifest(), null, 1));
    options.onFrame(frames[frames.length - 1], frames.length, total);
  }

  return manifest();
}

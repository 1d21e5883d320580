// Particles through a cache.
import { join } from 'node:path';
import { seedPlaces, writeParticles } from '@bramblemist/core/io/node/particles';
import { readJson } from '@bramblemist/core/io/node/files';
import { PARTICLE_ADVECTION } from '@bramblemist/core/analysis/particle-settings';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { filesFor } from './bake';
import { asUsage, open, parseSettings } from './tool';

export interface ParticlesArguments {
  out: string;
  set: string[];
  settings?: string;
  format: string;
  files?: string;
  json?: boolean;
}

export async function particlesCommand(folder: string, args: ParticlesArguments): Promise<void> {
  const source = open(folder);
  const { recipe } = source.manifest;
  const { format } = args;
  if (format !== 'ply' && format !== 'csv')
    throw new UsageError(`--format must be ply or csv, not “${format}”.`);
  const settings = asUsage(() =>
    PARTICLE_ADVECTION.parse(
      parseSettings(
        args.set,
        args.settings ? (readJson(args.settings) as object) : PARTICLE_ADVECTION.start(),
      ),
    ),
  );
  const assets =
    settings.seeds === 'source'
      ? await filesFor(recipe, join(folder, 'manifest.json'), args.files)
      : undefined;
  const show = progress(args.json ?? false);
  const start = performance.now();
  const made = asUsage(() =>
    writeParticles(source, settings, seedPlaces(recipe, assets), {
      folder: args.out,
      format,
      onStart: (total) => show.start(total, {}),
      onFrame: (f, done, total) => show.frame(done, total, { ...f }),
    }),
  );
  const seconds = (performance.now() - start) / 1000;
  show.end(
    { frames: made.frames.length, seconds },
    `${made.frames.length} frames of particles in ${args.out}, ${seconds.toFixed(1)} s.`,
  );
}

// A bake: every frame of a recipe onto disk, with a manifest that grows by one frame at a time.
import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { encodeBrick, takeBrick } from '../../cache/brick';
import { frameGrids } from '../../cache/frame';
import { fileStem, frameName, type CachedFrame, type Manifest } from '../../cache/manifest';
import { writeVdb } from '../../files/vdb/writer';
import { canonicalText } from '../../recipe/document';
import type { Recipe } from '../../recipe/recipe';
import { compile } from '../../step/compile';
import { Simulation } from '../../step/simulation';
import { nodeZip, sha256, writeWhole } from './files';
import { startTeam } from './team';

export const PROGRAM = 'bramblemist 0.1.0';

export interface BakeOptions {
  readonly folder: string;
  readonly voxelSizeM?: number;
  readonly frames?: { readonly first: number; readonly last: number };
  readonly threads: number;
  /** Small pictures of the volumes for a screen, in the folder preview/. */
  readonly bricks: boolean;
  readonly onFrame: (frame: CachedFrame, done: number, total: number) => void;
  readonly onStart?: (info: { readonly total: number; readonly voxels: number; readonly bytes: number }) => void;
}

/**
 * Frames before the first wanted one are simulated and not written.
 * @returns the manifest; it is on disk too, as is every frame that was reported
 * @throws Error where the folder already holds another cache; StepTrouble where the run goes wrong (frames so far are kept)
 */
export function bake(recipe: Recipe, options: BakeOptions): Manifest {
  const plan = compile(recipe, { voxelSizeM: options.voxelSizeM });
  const range = options.frames ?? plan.frames;
  const { folder } = options,
    manifestPath = join(folder, 'manifest.json');
  if (existsSync(manifestPath))
    throw new Error(`${folder}: already holds a cache (manifest.json). Nothing is overwritten: choose another folder or remove it.`);

  const stem = fileStem(recipe.name),
    { lattice, origin, voxelSizeM } = plan.window;
  const team = startTeam(Simulation.pages(plan, options.threads), options.threads); // before the folder: it refuses what is too large
  mkdirSync(folder, { recursive: true });
  for (const name of readdirSync(folder)) if (/\.part-\d+$/.test(name)) rmSync(join(folder, name));
  const frames: CachedFrame[] = [];
  const manifest = (complete: boolean): Manifest => ({
    format: 'bramblemist-cache',
    version: 1,
    program: PROGRAM,
    recipe,
    recipeSha256: sha256(canonicalText(recipe)),
    voxelSizeM,
    window: { cells: [lattice.nx, lattice.ny, lattice.nz], origin },
    channels: ['density', ...(recipe.keep.temperature ? ['temperature'] : []), ...(recipe.keep.velocity ? ['velocity'] : [])],
    precision: recipe.keep.precision,
    range,
    complete,
    frames,
  });
  try {
    const simulation = new Simulation(plan, team),
      total = range.last - range.first + 1;
    options.onStart?.({ total, voxels: lattice.nx * lattice.ny * lattice.nz, bytes: simulation.layout.bytes });
    while (simulation.frame < range.last) {
      const report = simulation.advanceFrame();
      if (report.frame < range.first) continue;
      const data = writeVdb(frameGrids(simulation), { zip: nodeZip, metadata: { creator: PROGRAM } });
      const file = frameName(stem, report.frame, 'vdb');
      writeWhole(join(folder, file), data);
      if (options.bricks)
        writeWhole(join(folder, 'preview', frameName(stem, report.frame, 'brick')), encodeBrick(takeBrick(simulation), nodeZip));
      const entry: CachedFrame = {
        frame: report.frame,
        file,
        bytes: data.length,
        sha256: sha256(data),
        state: simulation.checksum(),
        readings: report.readings,
      };
      frames.push(entry);
      writeWhole(manifestPath, JSON.stringify(manifest(frames.length === total), null, 1));
      options.onFrame(entry, frames.length, total);
    }
  } finally {
    team.close();
  }
  return manifest(true);
}

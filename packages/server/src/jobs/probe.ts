// What a bake will take: the command line's probe in a process of its own, one at a time.
import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CostInfo } from '@bramblemist/contracts/payloads';
import type { Recipe } from '@bramblemist/core/recipe/types';

const LONGEST_MS = 60_000;
let last: Promise<unknown> = Promise.resolve();

/** @throws Error with the command line's own words where it refuses */
export function probeCost(cli: string, files: string, recipe: Recipe, voxelSizeM: number): Promise<CostInfo> {
  const mine = last.then(() => probe(cli, files, recipe, voxelSizeM));
  last = mine.catch(() => undefined);
  return mine;
}

function probe(cli: string, files: string, recipe: Recipe, voxelSizeM: number): Promise<CostInfo> {
  const folder = mkdtempSync(join(tmpdir(), 'cost-'));
  const file = join(folder, 'recipe.json');
  writeFileSync(file, JSON.stringify(recipe));
  return new Promise<CostInfo>((done, fail) => {
    execFile(
      process.execPath,
      [cli, 'cost', file, '--files', files, '--voxel', String(voxelSizeM), '--json'],
      { timeout: LONGEST_MS },
      (error, out, said) => {
        if (error)
          return fail(new Error(said.trim().split(file).join('The recipe') || 'The probe took too long.'));
        done(JSON.parse(out) as CostInfo);
      },
    );
  }).finally(() => rmSync(folder, { recursive: true, force: true }));
}

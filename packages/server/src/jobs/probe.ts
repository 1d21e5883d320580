// What a bake will take: the command line's probe in a process of its own.
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CostInfo } from '@bramblemist/contracts/payloads';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { withoutPaths } from '../words';
import { answerOf, NoAnswer, TRY_BOUNDS } from './children';

/**
 * @param signal ends it when the question is given up
 * @throws Error with the command line's own words where it refuses
 */
export async function probeCost(
  cli: string,
  files: string,
  recipe: Recipe,
  voxelSizeM: number,
  signal: AbortSignal,
): Promise<CostInfo> {
  const folder = await mkdtemp(join(tmpdir(), 'cost-'));
  const file = join(folder, 'recipe.json');
  try {
    await writeFile(file, JSON.stringify(recipe));
    const args = ['cost', file, '--files', files, '--voxel', String(voxelSizeM), '--json'];
    return JSON.parse(await answerOf(cli, args, { ...TRY_BOUNDS, signal })) as CostInfo;
  } catch (error) {
    if (!(error instanceof NoAnswer)) throw error;
    const said = withoutPaths(error.message.split(file).join('The recipe'));
    throw new Error(error.why === 'said' ? said : 'The probe took too long or too much memory.');
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

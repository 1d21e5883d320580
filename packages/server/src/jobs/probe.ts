// What a bake or a render will take: the command line's probe in a process of its own.
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CostInfo, RenderCostInfo } from '@bramblemist/contracts/payloads/made';
import type { Look } from '@bramblemist/core/look/look';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { withoutPaths } from '../words';
import { answerOf, NoAnswer, TRY_BOUNDS } from './children';

/**
 * @param signal ends it when the question is given up
 * @throws Error with the command line's own words where it refuses
 */
export const probeCost = (
  cli: string,
  files: string,
  recipe: Recipe,
  voxelSizeM: number,
  signal: AbortSignal,
): Promise<CostInfo> =>
  probe(cli, 'The recipe', recipe, signal, (file) => [
    ...['cost', file, '--files', files, '--voxel', String(voxelSizeM), '--json'],
  ]);

/** The same of a render of all frames of a bake. */
export const probeRenderCost = (
  cli: string,
  folders: { readonly bake: string; readonly files: string },
  look: Look,
  signal: AbortSignal,
): Promise<RenderCostInfo> =>
  probe(cli, 'The look', look, signal, (file) => [
    ...['cost', folders.bake, '--render', '--look', file, '--files', folders.files, '--json'],
  ]);

async function probe<T>(
  cli: string,
  what: string,
  document: unknown,
  signal: AbortSignal,
  argsFor: (file: string) => string[],
): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'cost-'));
  const file = join(folder, 'document.json');
  try {
    await writeFile(file, JSON.stringify(document));
    return JSON.parse(await answerOf(cli, argsFor(file), { ...TRY_BOUNDS, signal })) as T;
  } catch (error) {
    if (!(error instanceof NoAnswer)) throw error;
    const said = withoutPaths(error.message.split(file).join(what));
    throw new Error(error.why === 'said' ? said : 'The probe took too long or too much memory.');
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

// Bakes and what is made of them: tools, refining, particles, trial sheets.
import { keepPreviousData, useQueries, useQuery, type UseQueryResult } from '@tanstack/react-query';
import { canonicalText } from '@bramblemist/core/recipe/document';
import type { Refine } from '@bramblemist/core/cache/refine-settings';
import type { ToolStep } from '@bramblemist/core/volume/tools/tools';
import type { ParticleAdvection } from '@bramblemist/core/analysis/particle-settings';
import type { Varied } from '@bramblemist/core/analysis/sheet';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type {
  BroughtBack,
  BakeInfo,
  CostInfo,
  FrameInfo,
  VolumesFolder,
} from '@bramblemist/contracts/payloads/made';
import { routes } from '@bramblemist/contracts/routes';
import { ask, send } from '../api';
import { keys, useAsk, whenSaved, shotTouched } from './ask';

const NO_FRAMES: readonly FrameInfo[] = [];

const dataOf = (results: readonly { readonly data?: readonly FrameInfo[] }[]): (readonly FrameInfo[])[] =>
  results.map((r) => r.data ?? NO_FRAMES);

/** What the run said of the frames of bakes, in their order; asked for anew as more of them are finished. */
export function useBakeFrames(bakes: readonly (BakeInfo | null)[]): readonly (readonly FrameInfo[])[] {
  return useQueries({
    queries: bakes.map((b) => ({
      queryKey: [...keys.frames(b?.id ?? 0), b?.frames.length ?? 0],
      queryFn: () => ask<FrameInfo[]>(routes.bakeFrames(b!.id)),
      enabled: b !== null && b.frames.length > 0,
      staleTime: Infinity,
      placeholderData: keepPreviousData,
    })),
    combine: dataOf,
  });
}

/** Measured once for each recipe and size; an older answer stands until the new one is there. */
export function useCost(recipe: Recipe, voxelSizeM: number): UseQueryResult<CostInfo> {
  return useQuery({
    queryKey: ['cost', canonicalText(recipe), voxelSizeM],
    queryFn: () => ask<CostInfo>(routes.cost, { body: { recipe, voxelSizeM } }),
    staleTime: Infinity,
    retry: false,
    placeholderData: (before) => before,
  });
}

export const useStartBake = (shotId: number) =>
  useAsk(
    whenSaved((input: { variantId: number; voxelSizeM: number; frames: { first: number; last: number } }) =>
      ask<{ id: number }>(routes.bakes(input.variantId), {
        body: { voxelSizeM: input.voxelSizeM, frames: input.frames },
      }),
    ),
    shotTouched(shotId),
  );

const useStart = <B extends object>(shotId: number, path: (id: number) => string) =>
  useAsk(
    ({ bakeId, ...body }: { bakeId: number } & B) => ask<{ id: number }>(path(bakeId), { body }),
    shotTouched(shotId),
  );

export const useStartTool = (shotId: number) =>
  useStart<{ steps: readonly ToolStep[] }>(shotId, routes.tools);

export const useStartRefine = (shotId: number) => useStart<{ settings: Refine }>(shotId, routes.refines);

export const useStartParticles = (shotId: number) =>
  useStart<{ settings: ParticleAdvection; format: 'ply' | 'csv' }>(shotId, routes.particles);

export const useVerify = (shotId: number) => useStart<object>(shotId, routes.verify);

export const useLock = (shotId: number) =>
  useAsk(
    ({ bakeId, locked }: { bakeId: number; locked: boolean }) =>
      ask<object>(routes.bake(bakeId), { method: 'PATCH', body: { locked } }),
    shotTouched(shotId),
  );

/**
 * Volumes from elsewhere: a .vdb file or a ZIP of them, or a name in the folder that the server may read; or
 * the result of a bundle.
 */
type Brought = { readonly id: number } | (BroughtBack & { readonly isResult: true });

export const useBringVolumes = (shotId: number) =>
  useAsk(({ file, name, onPart }: { file?: File; name?: string; onPart?: (part: number) => void }) => {
    if (!file) return ask<Brought>(routes.bring(shotId), { body: { name } });
    const form = new FormData();
    form.append('file', file);
    return send<Brought>(routes.bring(shotId), form, onPart ?? (() => {}));
  }, shotTouched(shotId));

export function useVolumesFolder(): UseQueryResult<VolumesFolder> {
  return useQuery({ queryKey: ['volumes-folder'], queryFn: () => ask<VolumesFolder>(routes.volumesFolder) });
}

export const useStartSheet = (shotId: number) =>
  useAsk(
    whenSaved(
      ({
        variantId,
        ...body
      }: {
        variantId: number;
        varied: readonly Varied[];
        voxelSizeM: number;
        last: number;
      }) => ask<{ id: number }>(routes.sheets(variantId), { body }),
    ),
    shotTouched(shotId),
  );

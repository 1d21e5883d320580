// Renders, savings, movies and comps.
import { useQuery, type UseQueryResult } from '@tanstack/react-query';
import type { Combine } from '@bramblemist/core/combine/combine';
import { canonicalText } from '@bramblemist/core/recipe/document';
import type { Look } from '@bramblemist/core/look/look';
import type { SavingsSheet } from '@bramblemist/core/look/savings';
import type { CompWritten, MovieWanted, RenderFeed } from '@bramblemist/contracts/payloads/comp';
import type { RenderCostInfo } from '@bramblemist/contracts/payloads/made';
import { routes } from '@bramblemist/contracts/routes';
import { ask } from '../api';
import { useAsk, whenSaved, shotTouched } from './ask';

export const useStartRender = (shotId: number) =>
  useAsk(
    whenSaved((input: { bakeId: number; look: unknown; frames: { first: number; last: number } }) =>
      ask<{ id: number }>(routes.renders(input.bakeId), { body: { look: input.look, frames: input.frames } }),
    ),
    shotTouched(shotId),
  );

/** What a render of all frames of a bake will take. */
export function useRenderCost(bakeId: number | undefined, look: Look): UseQueryResult<RenderCostInfo> {
  return useQuery({
    queryKey: ['render-cost', bakeId, canonicalText(look)],
    queryFn: () => ask<RenderCostInfo>(routes.renderCost(bakeId!), { body: { look } }),
    enabled: bakeId !== undefined,
    staleTime: Infinity,
    retry: false,
  });
}

export const useStartSavings = (shotId: number) =>
  useAsk(
    ({ bakeId, ...wanted }: { bakeId: number; look: Look; frame: number }) =>
      ask<{ id: number }>(routes.savings(bakeId), { body: wanted }),
    shotTouched(shotId),
  );

/** A sheet of savings as it lies with its bake. */
export interface MeasuredSheet extends SavingsSheet {
  readonly frame: number;
  readonly look: Look;
}

export const useSavings = (id: number, isThere: boolean): UseQueryResult<MeasuredSheet> =>
  useQuery({
    queryKey: ['savings', id],
    queryFn: () => ask<MeasuredSheet>(routes.savingsSheet(id)),
    enabled: isThere,
    staleTime: Infinity,
  });

export const useStartMovie = (shotId: number) =>
  useAsk(
    ({ of, id, ...wanted }: { of: 'renders' | 'combines'; id: number } & MovieWanted) =>
      ask<{ id: number }>(routes.movies(of, id), { body: wanted }),
    shotTouched(shotId),
  );

export const useStartCombine = (shotId: number) =>
  useAsk(
    whenSaved((input: { settings: Combine; frames: { first: number; last: number }; output: CompWritten }) =>
      ask<{ id: number }>(routes.combines(shotId), { body: input }),
    ),
    shotTouched(shotId),
  );

export const usePutAside = (shotId: number) =>
  useAsk(
    (input: { settings: Combine; note: string }) =>
      ask<{ id: number; number: number }>(routes.comps(shotId), { body: input }),
    shotTouched(shotId),
  );

export const useNoteComp = (shotId: number) =>
  useAsk(
    ({ id, note }: { id: number; note: string }) => ask(routes.comp(id), { method: 'PATCH', body: { note } }),
    shotTouched(shotId),
  );

export const useDropComp = (shotId: number) =>
  useAsk((id: number) => ask(routes.comp(id), { method: 'DELETE' }), shotTouched(shotId));

/** What a render gives to a comp; asked again while it may be made. */
export const useRenderFeed = (id: number): UseQueryResult<RenderFeed> =>
  useQuery({
    queryKey: ['render-feed', id],
    queryFn: () => ask<RenderFeed>(routes.renderFeed(id)),
    enabled: id > 0,
    staleTime: 10_000,
    retry: false,
  });

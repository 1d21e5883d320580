// Productions and the shots on the board.
import {
  useMutation,
  useQuery,
  useQueryClient,
  type QueryClient,
  type UseMutationResult,
  type UseQueryResult,
} from '@tanstack/react-query';
import type { ProductionCard, ShotCard } from '@bramblemist/contracts/payloads/board';
import { routes } from '@bramblemist/contracts/routes';
import { ask } from '../api';
import { keys, useAsk } from './ask';

export function useBoard(): UseQueryResult<ProductionCard[]> {
  return useQuery({ queryKey: keys.board, queryFn: () => ask<ProductionCard[]>(routes.productions) });
}

const boardTouched = (client: QueryClient): void => void client.invalidateQueries({ queryKey: keys.board });

export const useNewProduction = () =>
  useAsk((name: string) => ask<{ id: number }>(routes.productions, { body: { name } }), boardTouched);

type Named = { readonly name?: string; readonly note?: string; readonly archived?: boolean };

export const useChangeProduction = () =>
  useAsk(
    ({ id, ...body }: Named & { id: number }) => ask<void>(routes.production(id), { method: 'PATCH', body }),
    boardTouched,
  );

export type CardChange = Named & Partial<Pick<ShotCard, 'status' | 'assignee' | 'due'>>;

export const useChangeCard = () =>
  useAsk(
    ({ id, ...body }: CardChange & { id: number }) => ask<void>(routes.card(id), { method: 'PATCH', body }),
    (c) => boardTouched(c),
  );

/** Puts the shots of a production into an order, on the page at once. */
export function useOrderShots(productionId: number): UseMutationResult<void, Error, readonly ShotCard[]> {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (shots) =>
      ask<void>(routes.shotOrder(productionId), { method: 'PUT', body: { shots: shots.map((s) => s.id) } }),
    onMutate: (shots) => {
      client.setQueryData<ProductionCard[]>(keys.board, (board) =>
        board?.map((p) => (p.id === productionId ? { ...p, shots: [...shots] } : p)),
      );
    },
    onSettled: () => boardTouched(client),
  });
}

export const useNewShot = () =>
  useAsk(
    (input: { productionId: number; name: string; example?: string }) =>
      ask<{ id: number }>(routes.shots, { body: input }),
    boardTouched,
  );

// What is handed over.
import { keepPreviousData, useQuery, type QueryClient, type UseQueryResult } from '@tanstack/react-query';
import type { ChannelNames } from '@bramblemist/core/cache/channel-names';
import type {
  ChannelPreset,
  FolderState,
  PackageWanted,
  PackingInfo,
} from '@bramblemist/contracts/payloads/hand-over';
import { routes } from '@bramblemist/contracts/routes';
import { ask } from '../api';
import { keys, useAsk } from './ask';

/** What a bake can hand over; asked for anew whenever more of it is there. */
export function usePacking(bakeId: number | null, there: string): UseQueryResult<PackingInfo> {
  return useQuery({
    queryKey: [...keys.packing(bakeId ?? 0), there],
    queryFn: () => ask<PackingInfo>(routes.packing(bakeId!)),
    enabled: bakeId !== null,
    placeholderData: keepPreviousData,
  });
}

export const useNewPackage = (bakeId: number) =>
  useAsk(
    (body: PackageWanted & { names: string; note: string }) =>
      ask<{ id: number; version: number }>(routes.packages(bakeId), { body }),
    (c) => void c.invalidateQueries({ queryKey: keys.packing(bakeId) }),
  );

/** A package in the server’s folder; how far it is comes by itself. */
export const usePackageFolder = () => ({
  write: useAsk(
    (id: number) => ask<FolderState>(routes.packageFolder(id), { method: 'POST' }),
    (c) => void c.invalidateQueries({ queryKey: ['packing'] }),
  ),
  stop: useAsk(
    (id: number) => ask<FolderState | null>(routes.packageFolder(id), { method: 'DELETE' }),
    (c) => void c.invalidateQueries({ queryKey: ['packing'] }),
  ),
});

export function useChannelPresets(bakeId: number) {
  const touched = (c: QueryClient): void => void c.invalidateQueries({ queryKey: keys.packing(bakeId) });
  return {
    save: useAsk(
      (body: { name: string; channels: ChannelNames }) =>
        ask<ChannelPreset>(routes.channelPresets(), { body }),
      touched,
    ),
    remove: useAsk((id: number) => ask<object>(routes.channelPreset(id), { method: 'DELETE' }), touched),
  };
}

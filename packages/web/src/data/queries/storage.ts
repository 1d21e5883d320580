// What lies on the disk.
import { useQuery, type UseQueryResult } from '@tanstack/react-query';
import type { StorageInfo, StoredKind } from '@bramblemist/contracts/payloads/storage';
import { routes } from '@bramblemist/contracts/routes';
import { ask } from '../api';
import { keys, useAsk } from './ask';

export function useStorage(): UseQueryResult<StorageInfo> {
  return useQuery({ queryKey: keys.storage, queryFn: () => ask<StorageInfo>(routes.storage), staleTime: 0 });
}

/** Clears or brings back, or empties the bin without an item; everything that shows it is asked for again. */
export const useKeeping = () =>
  useAsk(
    ({ act, kind, id }: { act: 'clear' | 'restore' | 'empty'; kind?: StoredKind; id?: number }) =>
      ask<StorageInfo>(act === 'empty' ? routes.emptyBin : routes[act](kind!, id!), { body: {} }),
    (c) => void c.invalidateQueries(),
  );

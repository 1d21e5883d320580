// Files on the shelf.
import { useQuery, type UseQueryResult } from '@tanstack/react-query';
import type { FileInfo } from '@bramblemist/contracts/payloads/storage';
import { routes } from '@bramblemist/contracts/routes';
import { ask, send } from '../api';
import { keys, useAsk } from './ask';

export function useFiles(): UseQueryResult<FileInfo[]> {
  return useQuery({ queryKey: keys.files, queryFn: () => ask<FileInfo[]>(routes.files) });
}

/** Brings a file to the shelf; `onPart` hears how much of it has been sent, 0…1. */
export const useBringFile = () =>
  useAsk(
    ({ file, onPart }: { file: File; onPart: (part: number) => void }) => {
      const form = new FormData();
      form.append('file', file);
      return send<FileInfo>(routes.files, form, onPart);
    },
    (c) => void c.invalidateQueries({ queryKey: keys.files }),
  );

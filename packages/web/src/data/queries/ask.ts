// What all that is asked of the server shares: keys, and what is asked again after a change.
import { useMutation, useQueryClient, type QueryClient, type UseMutationResult } from '@tanstack/react-query';
import { flush } from '../bench';

export const keys = {
  files: ['files'],
  board: ['board'],
  shot: (id: number) => ['shot', id],
  jobs: ['jobs'],
  storage: ['storage'],
  present: (id: number) => ['present', id],
  frames: (id: number) => ['bake-frames', id],
  review: (shotId: number) => ['review', shotId],
  packing: (bakeId: number) => ['packing', bakeId],
} as const;

/** What uses the open variant's documents on the server waits until they are saved, or says why it cannot. */
export const whenSaved =
  <I, O>(make: (input: I) => Promise<O>) =>
  async (input: I): Promise<O> => {
    await flush();
    return make(input);
  };

export function useAsk<I, O>(
  make: (input: I) => Promise<O>,
  touched: (client: QueryClient) => void,
): UseMutationResult<O, Error, I> {
  const client = useQueryClient();
  return useMutation({ mutationFn: make, onSuccess: () => touched(client) });
}

export const shotTouched =
  (id: number) =>
  (client: QueryClient): void => {
    void client.invalidateQueries({ queryKey: keys.shot(id) });
    void client.invalidateQueries({ queryKey: keys.board });
  };

// Versions of a shot in review.
import { useQuery, type QueryClient, type UseQueryResult } from '@tanstack/react-query';
import type { ReviewInfo, ReviewNoteInfo } from '@bramblemist/contracts/payloads/review';
import { routes } from '@bramblemist/contracts/routes';
import { ask } from '../api';
import { keys, useAsk } from './ask';

export function useReview(shotId: number): UseQueryResult<ReviewInfo> {
  return useQuery({ queryKey: keys.review(shotId), queryFn: () => ask<ReviewInfo>(routes.review(shotId)) });
}

const reviewTouched =
  (shotId: number) =>
  (client: QueryClient): void =>
    void client.invalidateQueries({ queryKey: keys.review(shotId) });

export const useAddReviewNote = (shotId: number) =>
  useAsk(
    (body: Omit<ReviewNoteInfo, 'id' | 'done' | 'createdAt'>) =>
      ask<ReviewNoteInfo>(routes.review(shotId), { body }),
    reviewTouched(shotId),
  );

export const useChangeReviewNote = (shotId: number) =>
  useAsk(
    ({ id, ...body }: { id: number; done?: boolean; text?: string }) =>
      ask<ReviewNoteInfo>(routes.reviewNote(id), { method: 'PATCH', body }),
    reviewTouched(shotId),
  );

export const useRemoveReviewNote = (shotId: number) =>
  useAsk((id: number) => ask<object>(routes.reviewNote(id), { method: 'DELETE' }), reviewTouched(shotId));

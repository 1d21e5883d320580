// What the review said, in the notebook of whoever works on the shot.
import type { ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { useReview } from '../data/queries/review';
import { Plain, Quiet } from '../parts/ui';
import { ReviewNotes } from './ReviewNotes';

export function ReviewInNotebook({ shotId }: { shotId: number }): ReactNode {
  const review = useReview(shotId).data;
  const navigate = useNavigate();
  const look = (): void => void navigate(`/shots/${shotId}/review`);
  if (!review || review.versions.length === 0) return null;
  if (review.notes.length === 0)
    return (
      <Quiet style={{ padding: '8px 0' }}>
        <Plain onPress={look}>Review versions in motion</Plain>
      </Quiet>
    );
  return (
    <ReviewNotes
      review={review}
      shotId={shotId}
      onShow={(n) => void navigate(`/shots/${shotId}/review?of=${n.kind}:${n.of}&frame=${n.frame}`)}
    />
  );
}

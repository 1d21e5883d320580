// What was said of a shot's versions, open ones first.
import { Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import type { ReviewInfo, ReviewNoteInfo } from '@bramblemist/contracts/payloads/review';
import { useChangeReviewNote, useRemoveReviewNote } from '../data/queries/review';
import { Heading, Plain, Quiet, Section, Trouble } from '../parts/ui';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  li {
    border-top: 1px solid ${({ theme }) => theme.line};
    padding: 8px 0;
  }
  .text {
    font: 15px/1.45 ${({ theme }) => theme.serif};
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  .foot {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 8px;
    color: ${({ theme }) => theme.quiet};
  }
  label {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    cursor: pointer;
  }
  input {
    accent-color: ${({ theme }) => theme.thorn};
  }
  button.frame {
    border: 1px solid ${({ theme }) => theme.line};
    border-radius: 12px;
    background: none;
    padding: 1px 9px;
    cursor: pointer;
  }
`;

/** Those that are to be done first, each kind in the order in which they were said. */
export const inOrder = (notes: readonly ReviewNoteInfo[]): ReviewNoteInfo[] =>
  [...notes].sort((a, b) => Number(a.done) - Number(b.done) || a.id - b.id);

export function ReviewNotes({
  review,
  shotId,
  onShow,
}: {
  review: ReviewInfo;
  shotId: number;
  onShow: (note: ReviewNoteInfo) => void;
}): ReactNode {
  const change = useChangeReviewNote(shotId);
  const remove = useRemoveReviewNote(shotId);
  const open = review.notes.filter((n) => !n.done).length;
  const error = change.error ?? remove.error;
  return (
    <Section>
      <Heading>
        Notes <small>{open === 0 ? 'none open' : `${open} open`}</small>
      </Heading>
      {review.notes.length === 0 && <Quiet>Nothing was said yet.</Quiet>}
      {error && <Trouble>{error.message}</Trouble>}
      <List aria-label="Notes of the review">
        {inOrder(review.notes).map((n) => (
          <li key={n.id} style={{ opacity: n.done ? 0.65 : 1 }}>
            <p className="text">{n.text}</p>
            <div className="foot">
              <span>
                <button type="button" className="frame" onClick={() => onShow(n)}>
                  {n.kind} {n.of}, frame {n.frame}
                </button>{' '}
                {n.author}
                {n.strokes.length > 0 && ' · drawn on'}
              </span>
              <span style={{ display: 'inline-flex', gap: 8 }}>
                <label>
                  <input
                    type="checkbox"
                    checked={n.done}
                    aria-label={`Done: ${n.text.slice(0, 40)}`}
                    onChange={(e) => change.mutate({ id: n.id, done: e.target.checked })}
                  />
                  done
                </label>
                <Plain aria-label={`Remove note: ${n.text.slice(0, 40)}`} onPress={() => remove.mutate(n.id)}>
                  <Trash2 size={13} />
                </Plain>
              </span>
            </div>
          </li>
        ))}
      </List>
    </Section>
  );
}

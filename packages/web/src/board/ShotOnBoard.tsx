// One shot on the board: its newest picture, how far it is, whose it is, when it is due, what it holds.
import { useState, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import type { ShotCard, ShotStatus } from '@bramblemist/contracts/payloads/board';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import { useChangeCard } from '../data/queries/board';
import { Mark, Quiet, duration } from '../parts/ui';
import { ShotForm } from './CardForm';
import { daysUntil, dueWords, STATUS_WORDS } from './filter';
import { MoreMenu } from '../parts/MoreMenu';
import { MovingCard } from './MovingCard';

const Card = styled.article<{ $archived: boolean }>`
  position: relative;
  background: ${({ theme }) => theme.panel};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 8px;
  overflow: hidden;
  height: 100%;
  opacity: ${({ $archived }) => ($archived ? 0.65 : 1)};
  &:hover,
  &:focus-within {
    border-color: ${({ theme }) => theme.thorn};
  }
  > a {
    display: block;
    text-decoration: none;
  }
  h2 {
    font: 600 18px/1.3 ${({ theme }) => theme.serif};
    padding-right: 34px;
  }
  .text {
    padding: 10px 14px 14px;
    display: grid;
    gap: 2px;
  }
  .standing {
    display: flex;
    flex-wrap: wrap;
    gap: 0 12px;
  }
`;
const Corner = styled.div`
  position: absolute;
  z-index: 1;
  top: 8px;
  right: 8px;
`;

const MARKS = { work: 'idle', review: 'busy', approved: 'well' } as const;

/** What is there of a shot: its bakes, or what is being made of it now. */
function bakesOf({ id, bakes }: ShotCard, jobs: readonly JobInfo[]): string {
  const own = jobs.filter((j) => j.shotId === id);
  const running = own.find((j) => j.state === 'running');
  const what = running?.kind === 'bake' ? 'baking' : 'working';
  if (running) return `${what}, ${running.done} of ${running.total}`;
  if (own.some((j) => j.state === 'queued')) return 'waits in the queue';
  return `${bakes} ${bakes === 1 ? 'bake' : 'bakes'}`;
}

function Due({ shot, now }: { shot: ShotCard; now: Date }): ReactNode {
  if (shot.due === null) return null;
  const words = dueWords(shot.due, now);
  if (shot.status === 'approved' || daysUntil(shot.due, now) > 1) return <span>{words}</span>;
  return <Mark state={daysUntil(shot.due, now) < 0 ? 'trouble' : 'stale'}>{words}</Mark>;
}

export function ShotOnBoard({ shot, jobs }: { shot: ShotCard; jobs: readonly JobInfo[] }): ReactNode {
  const change = useChangeCard();
  const navigate = useNavigate();
  const [isWritten, setIsWritten] = useState(false);
  const [isPointedAt, setIsPointedAt] = useState(false);
  const to = (status: ShotStatus) => ({
    label: { work: 'Back to work', review: 'Send to review', approved: 'Approve' }[status],
    act: () => change.mutate({ id: shot.id, status }),
  });
  const others = (['work', 'review', 'approved'] as const).filter((s) => s !== shot.status);
  return (
    <Card
      $archived={shot.archived}
      aria-label={shot.name}
      onPointerEnter={() => setIsPointedAt(true)}
      onPointerLeave={() => setIsPointedAt(false)}
      onFocus={() => setIsPointedAt(true)}
      onBlur={() => setIsPointedAt(false)}
    >
      <Link to={`/shots/${shot.id}/set-up`}>
        <MovingCard shot={shot} moves={isPointedAt} />
        <div className="text">
          <h2>{shot.name}</h2>
          <Quiet>{shot.note || 'No note yet.'}</Quiet>
          <Quiet as="div" className="standing">
            <Mark state={MARKS[shot.status]}>{STATUS_WORDS[shot.status]}</Mark>
            {shot.archived && <span>archived</span>}
            {shot.assignee && <span>{shot.assignee}</span>}
            <Due shot={shot} now={new Date()} />
          </Quiet>
          <Quiet>
            {shot.variants} {shot.variants === 1 ? 'variant' : 'variants'} · {bakesOf(shot, jobs)}
            {shot.computedS > 0 && ` · ${duration(shot.computedS)} computed`}
          </Quiet>
        </div>
      </Link>
      <Corner>
        <MoreMenu
          label={`More for ${shot.name}`}
          deeds={[
            { label: 'Edit …', act: () => setIsWritten(true) },
            { label: 'Review in motion', act: () => void navigate(`/shots/${shot.id}/review`) },
            ...others.map(to),
            {
              label: shot.archived ? 'Bring back' : 'Archive',
              act: () => change.mutate({ id: shot.id, archived: !shot.archived }),
            },
          ]}
        />
      </Corner>
      {change.error && <Quiet role="alert">{change.error.message}</Quiet>}
      {isWritten && <ShotForm shot={shot} onClose={() => setIsWritten(false)} />}
    </Card>
  );
}

// What would make a look's pictures cheaper: measured pairs, side by side, with what each changes and saves.
import { Check } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import styled from 'styled-components';
import type { SavingsInfo } from '@bramblemist/contracts/payloads/made';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import type { MeasuredSaving } from '@bramblemist/core/look/savings';
import { formatValue } from '@bramblemist/core/recipe/units';
import { TopBar } from '../../app/TopBar';
import { useSavings } from '../../data/queries/pictures';
import { useShot } from '../../data/queries/shot';
import { useStopJob } from '../../data/queries/jobs';
import { Bar, Button, Plain, Primary, Quiet, TablePage, Trouble } from '../../parts/ui';
import { jobMark } from '../../parts/Job';

const Row = styled.article`
  display: grid;
  grid-template-columns: minmax(200px, 260px) 1fr 1fr 1fr;
  gap: 14px;
  padding: 14px 0;
  border-top: 1px solid ${({ theme }) => theme.line};
  figure {
    margin: 0;
  }
  img {
    display: block;
    width: 100%;
    border-radius: 3px;
    background: ${({ theme }) => theme.surround};
  }
  h2 {
    margin: 0 0 4px;
    font: italic 17px/1.3 ${({ theme }) => theme.serif};
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 2px 10px;
    margin: 6px 0 10px;
    font-variant-numeric: tabular-nums;
  }
  dd {
    margin: 0;
  }
`;
const Others = styled.nav`
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  margin-bottom: 10px;
`;

/** From which difference on it is seen in what way. */
const SEEN = [
  [0.01, 'cannot be seen'],
  [0.03, 'hardly seen'],
  [0.08, 'seen when compared'],
  [0.2, 'plainly seen'],
  [Infinity, 'another picture'],
] as const;
const seenAs = (difference: number): string => SEEN.find(([most]) => difference < most)![1];
/** What such a measurement is sure of, part of its time. */
const SURE = 0.1;
const told = (seconds: number): string => formatValue(Number(seconds.toPrecision(2)), 's');

export function Savings(): ReactNode {
  const { id } = useParams();
  const shot = useShot(Number(id));
  if (shot.error)
    return (
      <>
        <TopBar crumbs={[{ label: 'Savings' }]} />
        <Trouble>{shot.error.message}</Trouble>
      </>
    );
  if (!shot.data) return <TopBar crumbs={[{ label: 'Fetching the shot …' }]} />;
  return <OpenSavings shot={shot.data} />;
}

function OpenSavings({ shot }: { shot: ShotInfo }): ReactNode {
  const [params, setParams] = useSearchParams();
  const all = [...shot.savings].reverse();
  const chosen = all.find((s) => s.id === Number(params.get('sheet'))) ?? all[0] ?? null;
  return (
    <>
      <TopBar
        crumbs={[
          { label: shot.production.name, to: '/board' },
          { label: shot.name, to: `/shots/${shot.id}/light` },
          { label: 'Savings' },
        ]}
      />
      <TablePage>
        {all.length > 1 && (
          <Others aria-label="Sheets of savings">
            {all.map((s) => (
              <Plain
                key={s.id}
                aria-pressed={s === chosen}
                onPress={() => setParams({ sheet: String(s.id) })}
              >
                Sheet {s.id}, frame {s.frame}
              </Plain>
            ))}
          </Others>
        )}
        {chosen ? (
          <Sheet key={chosen.id} sheet={chosen} shotId={shot.id} />
        ) : (
          <Quiet>
            Nothing is measured yet. In Light, press <em>What would make it cheaper?</em> on a frame that is
            baked.
          </Quiet>
        )}
      </TablePage>
    </>
  );
}

function Sheet({ sheet, shotId }: { sheet: SavingsInfo; shotId: number }): ReactNode {
  const { id, job } = sheet;
  const measured = useSavings(id, job?.state === 'done');
  const stop = useStopJob();
  if (job && job.state !== 'done')
    return (
      <div>
        <p>
          Measuring on frame {sheet.frame}: {job.done} of {Math.max(job.total, job.done)} {jobMark(job)}
        </p>
        {job.state === 'running' && (
          <>
            <Bar $part={job.total > 1 ? job.done / job.total : 0} />
            <Button onPress={() => stop.mutate(job.id)}>Stop</Button>
          </>
        )}
        {job.message && <Trouble>{job.message}</Trouble>}
      </div>
    );
  if (measured.error) return <Trouble>{measured.error.message}</Trouble>;
  if (!measured.data) return <Quiet>Fetching …</Quiet>;
  const { seconds, fixedSeconds, savings, picture, frame } = measured.data;
  // the cheapest that is hardly seen
  const best = savings
    .filter((s) => s.difference < SEEN[1][0] && s.seconds < (1 - SURE) * seconds)
    .reduce<MeasuredSaving | null>((a, s) => (a === null || s.seconds < a.seconds ? s : a), null);
  return (
    <>
      <Quiet as="p">
        A whole picture of frame {frame} takes {told(seconds)} as the look is; {told(fixedSeconds)} of it, for
        laying out the medium{fixedSeconds > 0.05 ? ' and its light' : ''}, would stay at any size. Each
        saving alone:
      </Quiet>
      {savings.map((saving) => (
        <Pair key={saving.name} {...{ saving, seconds, picture, id, shotId }} isBest={saving === best} />
      ))}
    </>
  );
}

function Pair({
  saving,
  seconds,
  picture,
  id,
  shotId,
  isBest,
}: {
  saving: MeasuredSaving;
  seconds: number;
  picture: string;
  id: number;
  shotId: number;
  isBest: boolean;
}): ReactNode {
  const navigate = useNavigate();
  const [isHeld, setHeld] = useState(false);
  const part = 1 - saving.seconds / seconds;
  const Adopt = isBest ? Primary : Button;
  const shown = (name: string, what: string): ReactNode => (
    <figure>
      <img src={routes.savingsPicture(id, name)} alt={what} loading="lazy" />
      <Quiet as="figcaption">{what}</Quiet>
    </figure>
  );
  return (
    <Row aria-label={saving.name}>
      <div>
        <h2>{saving.name}</h2>
        <Quiet as="div">Costs {saving.costs}.</Quiet>
        <dl>
          <dt>Takes</dt>
          <dd>
            {told(saving.seconds)},{' '}
            {Math.abs(part) < SURE
              ? 'about as long as before'
              : `${Math.round(100 * Math.abs(part))} % ${part > 0 ? 'less' : 'more'}`}
          </dd>
          <dt>Difference</dt>
          <dd>
            {saving.difference.toFixed(3)}, {seenAs(saving.difference)}
          </dd>
        </dl>
        <Adopt
          onPress={() =>
            void navigate(`/shots/${shotId}/light`, {
              state: { adopt: { name: saving.name, changes: saving.changes } },
            })
          }
        >
          <Check size={13} /> Adopt
        </Adopt>
      </div>
      {shown(picture, 'As it is')}
      <div
        onPointerEnter={() => setHeld(true)}
        onPointerLeave={() => setHeld(false)}
        title="Hold the pointer here to see it as it is"
      >
        {shown(isHeld ? picture : saving.picture, isHeld ? 'As it is' : saving.name)}
      </div>
      {shown(saving.map, 'Where it differs')}
    </Row>
  );
}

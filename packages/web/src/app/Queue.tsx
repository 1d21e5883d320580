// All jobs, newest first.
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import type { JobInfo, JobKind } from '@bramblemist/contracts/payloads/jobs';
import { routes } from '@bramblemist/contracts/routes';
import { useFirstJob, useGoOnJob, useJobLog, useJobs, usePauseJob, useStopJob } from '../data/queries/jobs';
import { Bar, Button, Plain, Quiet, TablePage as Page } from '../parts/ui';
import { jobMark, pace, timeLeft } from '../parts/Job';
import { TopBar } from './TopBar';

const Acts = styled.span`
  display: flex;
  gap: 6px;
  justify-content: flex-end;
`;

const Newest = styled.img`
  width: 96px;
  height: 60px;
  object-fit: contain;
  background: ${({ theme }) => theme.surround};
  border-radius: 3px;
  display: block;
`;
const Log = styled.pre`
  margin: 4px 0 0;
  max-height: 220px;
  overflow: auto;
  font:
    12px/1.5 ui-monospace,
    monospace;
  color: ${({ theme }) => theme.quiet};
  white-space: pre-wrap;
`;
const newestFirst = (log: string): string => log.trim().split('\n').reverse().join('\n');
const NAMES: Readonly<Record<JobKind, (id: number) => string>> = {
  bake: (id) => `bake ${id}`,
  tool: (id) => `bake ${id}, by tools`,
  refine: (id) => `bake ${id}, refined`,
  bring: (id) => `bake ${id}, brought in`,
  verify: (id) => `bake ${id}, verified`,
  particles: (id) => `particles ${id}`,
  render: (id) => `render ${id}`,
  combine: (id) => `comp ${id}`,
  movie: (id) => `movie ${id}`,
  savings: (id) => `savings ${id}`,
  sheet: (id) => `sheet ${id}`,
};

/** Jobs whose pictures, if any, are not of their own making. */
const WITHOUT_PICTURE: ReadonlySet<JobKind> = new Set(['particles', 'verify', 'movie', 'savings']);

export function Queue(): ReactNode {
  const jobs = useJobs();
  return (
    <>
      <TopBar crumbs={[{ label: 'Queue' }]} />
      <Page>
        {jobs.data?.length === 0 && (
          <Quiet>
            Nothing has run yet. Bakes, renders, comps and trial sheets that you start in a shot appear here.
          </Quiet>
        )}
        {jobs.data && jobs.data.length > 0 && (
          <table>
            <thead>
              <tr>
                <th>Newest</th>
                <th>Job</th>
                <th>Shot</th>
                <th>State</th>
                <th>Frames</th>
                <th>Started</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {jobs.data.map((j) => (
                <JobRow
                  key={j.id}
                  job={j}
                  later={jobs.data.some((o) => o.state === 'queued' && o.id < j.id)}
                />
              ))}
            </tbody>
          </table>
        )}
      </Page>
    </>
  );
}

/** @param later others wait before it */
function JobRow({ job: j, later }: { job: JobInfo; later: boolean }): ReactNode {
  const stop = useStopJob();
  const pause = usePauseJob();
  const goOn = useGoOnJob();
  const first = useFirstJob();
  const [open, setOpen] = useState(false);
  const log = useJobLog(j.id, open);
  return (
    <>
      <tr>
        <td>
          {j.done > 0 && !WITHOUT_PICTURE.has(j.kind) && (
            // another picture with every few frames, and none where there is none
            <Newest
              src={`${routes.jobPicture(j.id)}?${Math.floor(j.done / 4)}${j.state}`}
              alt=""
              onLoad={(e) => (e.currentTarget.style.visibility = 'visible')}
              onError={(e) => (e.currentTarget.style.visibility = 'hidden')}
            />
          )}
        </td>
        <td>
          {NAMES[j.kind](j.targetId)}
          <br />
          <Plain aria-expanded={open} onPress={() => setOpen(!open)}>
            {open ? 'close the log' : 'log'}
          </Plain>
        </td>
        <td>
          <Link to={`/shots/${j.shotId}/${j.kind === 'sheet' ? 'sheets' : 'run'}`}>{j.shotName}</Link>
        </td>
        <td>
          {jobMark(j)}
          {j.message && <Quiet>{j.message}</Quiet>}
        </td>
        <td style={{ minWidth: 180 }}>
          {j.done} of {j.total}{' '}
          {j.state === 'running' && (
            <>
              <Bar $part={j.done / Math.max(1, j.total)} />
              <Quiet>{[timeLeft(j), pace(j)].filter(Boolean).join(' · ')}</Quiet>
            </>
          )}
        </td>
        <td>{j.startedAt ? new Date(j.startedAt).toLocaleTimeString() : '–'}</td>
        <td>
          <Acts>
            {j.state === 'queued' && later && <Button onPress={() => first.mutate(j.id)}>First</Button>}
            {(j.state === 'queued' || j.state === 'running') && (
              <Button onPress={() => pause.mutate(j.id)}>Pause</Button>
            )}
            {(j.state === 'paused' || j.state === 'stopped' || j.state === 'failed') && (
              <Button onPress={() => goOn.mutate(j.id)}>
                {j.state === 'failed' ? 'Try again' : 'Go on'}
              </Button>
            )}
            {(j.state === 'queued' || j.state === 'running' || j.state === 'paused') && (
              <Button onPress={() => stop.mutate(j.id)}>Stop</Button>
            )}
          </Acts>
        </td>
      </tr>
      {open && (
        <tr>
          <td colSpan={7}>
            <Log aria-label={`Log of ${NAMES[j.kind](j.targetId)}`} tabIndex={0}>
              {log.isPending ? '…' : log.data && newestFirst(log.data)}
              {!log.isPending && !log.data && 'Nothing is written in it.'}
            </Log>
          </td>
        </tr>
      )}
    </>
  );
}

// All jobs, newest first.
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { useFirstJob, useGoOnJob, useJobs, usePauseJob, useStopJob } from '../data/queries';
import { Bar, Button, Quiet } from '../parts/ui';
import { jobMark, timeLeft } from '../stages/Run';
import { TopBar } from './TopBar';

const Page = styled.main`
  height: calc(100% - 46px);
  overflow: auto;
  padding: 28px 32px;
  h1 {
    font: italic 30px/1.2 ${({ theme }) => theme.serif};
    margin-bottom: 16px;
  }
  table {
    border-collapse: collapse;
    width: 100%;
    max-width: 1100px;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: ${({ theme }) => theme.quiet};
  }
  th,
  td {
    padding: 6px 14px 6px 0;
    border-bottom: 1px solid ${({ theme }) => theme.line};
    vertical-align: top;
  }
`;

const Acts = styled.span`
  display: flex;
  gap: 6px;
  justify-content: flex-end;
`;

export function Queue(): ReactNode {
  const jobs = useJobs(),
    stop = useStopJob(),
    pause = usePauseJob(),
    goOn = useGoOnJob(),
    first = useFirstJob();
  return (
    <>
      <TopBar crumbs={[{ label: 'Queue' }]} />
      <Page>
        {jobs.data?.length === 0 && (
          <Quiet>Nothing has run yet. Bakes, renders, combines and trial sheets that you start in a shot appear here.</Quiet>
        )}
        {jobs.data && jobs.data.length > 0 && (
          <table>
            <thead>
              <tr>
                <th>Job</th>
                <th>Shot</th>
                <th>State</th>
                <th>Frames</th>
                <th>Started</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {jobs.data.map((j) => (
                <tr key={j.id}>
                  <td>
                    {j.kind} {j.targetId}
                  </td>
                  <td>
                    <Link to={`/shots/${j.shotId}/${j.kind === 'sheet' ? 'sheets' : 'run'}`}>{j.shotName}</Link>
                  </td>
                  <td>
                    {jobMark(j)}
                    {j.message && <Quiet>{j.message}</Quiet>}
                  </td>
                  <td style={{ minWidth: 140 }}>
                    {j.done} of {j.total}{' '}
                    {j.state === 'running' && (
                      <>
                        <Bar $part={j.done / Math.max(1, j.total)} />
                        <Quiet>{timeLeft(j)}</Quiet>
                      </>
                    )}
                  </td>
                  <td>{j.startedAt ? new Date(j.startedAt).toLocaleTimeString() : '–'}</td>
                  <td>
                    <Acts>
                      {j.state === 'queued' && jobs.data.some((o) => o.state === 'queued' && o.id < j.id) && (
                        <Button onPress={() => first.mutate(j.id)}>First</Button>
                      )}
                      {(j.state === 'queued' || j.state === 'running') && <Button onPress={() => pause.mutate(j.id)}>Pause</Button>}
                      {(j.state === 'paused' || j.state === 'stopped' || j.state === 'failed') && (
                        <Button onPress={() => goOn.mutate(j.id)}>{j.state === 'failed' ? 'Try again' : 'Go on'}</Button>
                      )}
                      {(j.state === 'queued' || j.state === 'running' || j.state === 'paused') && (
                        <Button onPress={() => stop.mutate(j.id)}>Stop</Button>
                      )}
                    </Acts>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Page>
    </>
  );
}

// The production's shots.
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { JobInfo, ShotCard } from '@bramblemist/contracts/payloads';
import styled from 'styled-components';
import { useBoard, useJobs } from '../data/queries';
import { Quiet, Trouble } from '../parts/ui';
import { NewShot } from './NewShot';
import { TopBar } from './TopBar';

const Page = styled.main`
  height: calc(100% - 46px);
  overflow: auto;
  padding: 28px 32px;
  h1 {
    font: italic 30px/1.2 ${({ theme }) => theme.serif};
  }
`;
const Grid = styled.ul`
  list-style: none;
  padding: 0;
  margin: 20px 0;
  display: grid;
  gap: 20px;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
`;
const Card = styled(Link)`
  display: block;
  text-decoration: none;
  background: ${({ theme }) => theme.panel};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 8px;
  overflow: hidden;
  height: 100%;
  &:hover {
    border-color: ${({ theme }) => theme.thorn};
  }
  img,
  .empty {
    display: block;
    width: 100%;
    aspect-ratio: 16 / 9;
    object-fit: cover;
    background: ${({ theme }) => theme.surround};
  }
  h2 {
    font: 600 18px/1.3 ${({ theme }) => theme.serif};
  }
  div.text {
    padding: 10px 14px 14px;
  }
`;

/** What is there of a shot: its bakes, or what is being made of it now. */
function bakesOf({ id, bakes }: ShotCard, jobs: readonly JobInfo[]): string {
  const own = jobs.filter((j) => j.shotId === id);
  const running = own.find((j) => j.state === 'running');
  const what = running?.kind === 'bake' ? 'baking' : 'working';
  if (running) return `${what}, ${running.done} of ${running.total}`;
  if (own.some((j) => j.state === 'queued')) return 'waits in the queue';
  return `${bakes} ${bakes === 1 ? 'bake' : 'bakes'}`;
}

export function Board(): ReactNode {
  const board = useBoard();
  const jobs = useJobs().data ?? [];
  return (
    <>
      <TopBar crumbs={[]} />
      <Page>
        {board.error && <Trouble>{board.error.message}</Trouble>}
        {board.isPending && <Quiet>Fetching the productions …</Quiet>}
        {board.data?.map((p) => (
          <section key={p.id} aria-label={p.name}>
            <h1>{p.name}</h1>
            <Quiet>{p.note}</Quiet>
            <Grid>
              {p.shots.map((s) => (
                <li key={s.id}>
                  <Card to={`/shots/${s.id}/set-up`}>
                    {s.picture ? <img src={s.picture} alt="" /> : <div className="empty" />}
                    <div className="text">
                      <h2>{s.name}</h2>
                      <Quiet>{s.note || 'No note yet.'}</Quiet>
                      <Quiet>
                        {s.variants} {s.variants === 1 ? 'variant' : 'variants'} · {bakesOf(s, jobs)}
                      </Quiet>
                    </div>
                  </Card>
                </li>
              ))}
            </Grid>
            {p.shots.length === 0 && (
              <Quiet>No shots yet. Name the first one and choose what it starts from.</Quiet>
            )}
            <NewShot productionId={p.id} />
          </section>
        ))}
      </Page>
    </>
  );
}

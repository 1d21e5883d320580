// The productions and their shots: found, ordered, put aside.
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { ProductionCard, ShotStatus } from '@bramblemist/contracts/payloads/board';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import { movedTo } from '@bramblemist/core/combine/edit';
import { TopBar } from '../app/TopBar';
import { useBoard, useChangeProduction, useOrderShots } from '../data/queries/board';
import { useJobs } from '../data/queries/jobs';
import { Ordered } from '../parts/Ordered';
import { Button, Quiet, roundFieldStyle, Trouble } from '../parts/ui';
import { ProductionForm } from './CardForm';
import {
  assigneesOf,
  EVERYTHING,
  narrows,
  ORDERS,
  STATUS_WORDS,
  wantedOf,
  type Order,
  type Wanted,
} from './filter';
import { MoreMenu } from '../parts/MoreMenu';
import { NewProduction } from './NewProduction';
import { NewShot } from './NewShot';
import { ShotOnBoard } from './ShotOnBoard';

const Page = styled.main`
  height: calc(100% - 46px);
  overflow: auto;
  padding: 20px 32px 28px;
  section + section {
    margin-top: 36px;
  }
`;
const Title = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
  h1 {
    font: italic 30px/1.2 ${({ theme }) => theme.serif};
  }
`;
const Grid = styled.ul`
  list-style: none;
  padding: 0;
  margin: 16px 0 20px;
  display: grid;
  gap: 20px;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
`;
const Filters = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 14px;
  margin-bottom: 20px;
  label {
    display: flex;
    align-items: center;
    gap: 6px;
    color: ${({ theme }) => theme.quiet};
  }
  input[type='search'] {
    width: 240px;
  }
  input[type='search'],
  select {
    ${roundFieldStyle}
  }
`;

function FilterLine({
  board,
  wanted,
  onWant,
}: {
  board: readonly ProductionCard[];
  wanted: Wanted;
  onWant: (change: Partial<Wanted>) => void;
}): ReactNode {
  const assignees = assigneesOf(board);
  const archived =
    board.filter((p) => p.archived).length + board.flatMap((p) => p.shots).filter((s) => s.archived).length;
  return (
    <Filters role="search" aria-label="Shots">
      <input
        type="search"
        aria-label="Find a shot"
        placeholder="Find a shot"
        value={wanted.text}
        onChange={(e) => onWant({ text: e.target.value })}
      />
      <label>
        Status
        <select
          value={wanted.status}
          onChange={(e) => onWant({ status: e.target.value as ShotStatus | 'any' })}
        >
          <option value="any">any</option>
          {Object.entries(STATUS_WORDS).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </label>
      {assignees.length > 0 && (
        <label>
          Assigned to
          <select value={wanted.assignee} onChange={(e) => onWant({ assignee: e.target.value })}>
            <option value="">anybody</option>
            {assignees.map((a) => (
              <option key={a}>{a}</option>
            ))}
          </select>
        </label>
      )}
      <label>
        Order
        <select value={wanted.order} onChange={(e) => onWant({ order: e.target.value as Order })}>
          {Object.entries(ORDERS).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </label>
      {archived > 0 && (
        <label>
          <input
            type="checkbox"
            checked={wanted.archived}
            onChange={(e) => onWant({ archived: e.target.checked })}
          />
          archived too ({archived})
        </label>
      )}
    </Filters>
  );
}

function Production({
  production,
  wanted,
  jobs,
  onShowAll,
}: {
  production: ProductionCard;
  wanted: Wanted;
  jobs: readonly JobInfo[];
  onShowAll: () => void;
}): ReactNode {
  const change = useChangeProduction();
  const order = useOrderShots(production.id);
  const [isWritten, setIsWritten] = useState(false);
  const { id, name, note, shots, archived } = production;
  const shown = wantedOf(shots, wanted);
  const drop = (dragged: string, on: number): void => order.mutate(movedTo(shots, Number(dragged), on));
  return (
    <section aria-label={name}>
      <Title>
        <h1>{name}</h1>
        <MoreMenu
          label={`More for ${name}`}
          deeds={[
            { label: 'Edit …', act: () => setIsWritten(true) },
            {
              label: archived ? 'Bring back' : 'Archive',
              act: () => change.mutate({ id, archived: !archived }),
            },
          ]}
        />
        {archived && <Quiet>archived</Quiet>}
      </Title>
      {note && <Quiet>{note}</Quiet>}
      {(change.error ?? order.error) && <Trouble>{(change.error ?? order.error)!.message}</Trouble>}
      <Grid>
        {shown.map((s) => (
          <li key={s.id}>
            {wanted.order === 'placed' ? (
              <Ordered
                list={`shots-${id}`}
                id={String(s.id)}
                name={s.name}
                across
                onDrop={(dragged) => drop(dragged, s.id)}
              >
                <ShotOnBoard shot={s} jobs={jobs} />
              </Ordered>
            ) : (
              <ShotOnBoard shot={s} jobs={jobs} />
            )}
          </li>
        ))}
      </Grid>
      {shown.length === 0 && narrows(wanted) && (
        <Quiet>
          No shot of this production is like that. <Button onPress={onShowAll}>Show all</Button>
        </Quiet>
      )}
      {shown.length === 0 && !narrows(wanted) && (
        <Quiet>
          {shots.length === 0
            ? 'No shots yet. Name the first one and choose what it starts from.'
            : 'All shots of this production are archived.'}
        </Quiet>
      )}
      {!narrows(wanted) && !archived && <NewShot productionId={id} />}
      {isWritten && <ProductionForm production={production} onClose={() => setIsWritten(false)} />}
    </section>
  );
}

export function Board(): ReactNode {
  const board = useBoard();
  const jobs = useJobs().data ?? [];
  const [wanted, setWanted] = useState(EVERYTHING);
  const want = (change: Partial<Wanted>): void => setWanted((w) => ({ ...w, ...change }));
  return (
    <>
      <TopBar crumbs={[]} />
      <Page>
        {board.error && <Trouble>{board.error.message}</Trouble>}
        {board.isPending && <Quiet>Fetching the productions …</Quiet>}
        {board.data && <FilterLine board={board.data} wanted={wanted} onWant={want} />}
        {board.data
          ?.filter((p) => wanted.archived || !p.archived)
          .map((p) => (
            <Production
              key={p.id}
              production={p}
              wanted={wanted}
              jobs={jobs}
              onShowAll={() => setWanted(EVERYTHING)}
            />
          ))}
        {board.data && <NewProduction isFirst={board.data.length === 0} />}
      </Page>
    </>
  );
}

// What is on the disk, in a table that sorts by any of its columns.
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Cell, Column, Row, Table, TableBody, TableHeader, type SortDescriptor } from 'react-aria-components';
import { Link } from 'react-router';
import styled from 'styled-components';
import type { StoredItem } from '@bramblemist/contracts/payloads/storage';
import { Button, bytes, Mark, Plain, Quiet } from '../parts/ui';
import { place } from './stored';

const Sorted = styled(Table)`
  [role='columnheader'][aria-sort] {
    cursor: pointer;
  }
  [role='columnheader'][data-hovered] {
    color: ${({ theme }) => theme.text};
  }
  [data-focus-visible] {
    outline: 2px solid ${({ theme }) => theme.thorn};
    outline-offset: -2px;
  }
`;

type By = 'name' | 'place' | 'made' | 'bytes' | 'safe';
const safety = (i: StoredItem): number => Number(i.kept === null) + Number(i.safe !== null);
const COMPARED: Readonly<Record<By, (a: StoredItem, b: StoredItem) => number>> = {
  name: (a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }),
  place: (a, b) => place(a).localeCompare(place(b)) || b.bytes - a.bytes,
  made: (a, b) => a.createdAt.localeCompare(b.createdAt),
  bytes: (a, b) => a.bytes - b.bytes,
  safe: (a, b) => safety(a) - safety(b) || a.bytes - b.bytes,
};

function Head({ by, children }: { by: By; children: string }): ReactNode {
  return (
    <Column id={by} allowsSorting isRowHeader={by === 'name'} className={by === 'bytes' ? 'size' : ''}>
      {({ sortDirection }) => (
        <>
          {children} {sortDirection === 'ascending' && <ArrowUp size={12} />}
          {sortDirection === 'descending' && <ArrowDown size={12} />}
        </>
      )}
    </Column>
  );
}

export function StoredTable({
  items,
  onClear,
}: {
  items: readonly StoredItem[];
  onClear: (item: StoredItem) => void;
}): ReactNode {
  const [sort, setSort] = useState<SortDescriptor>({ column: 'bytes', direction: 'descending' });
  const [asked, setAsked] = useState<string | null>(null);
  const compared = COMPARED[sort.column as By];
  const sign = sort.direction === 'ascending' ? 1 : -1;
  const rows = items.map((i) => ({ ...i, key: `${i.kind}/${i.id}` })).sort((a, b) => sign * compared(a, b));
  return (
    <Sorted aria-label="On the disk" sortDescriptor={sort} onSortChange={setSort}>
      <TableHeader>
        <Head by="name">What</Head>
        <Head by="place">Where</Head>
        <Head by="made">Made</Head>
        <Head by="bytes">Size</Head>
        <Head by="safe">Safe to go?</Head>
        <Column>Clear</Column>
      </TableHeader>
      <TableBody items={rows} dependencies={[asked]}>
        {(i) => (
          <Row id={i.key}>
            <Cell>{i.name}</Cell>
            <Cell>
              {i.shotId === null ? (
                <Quiet as="span">{place(i)}</Quiet>
              ) : (
                <Link to={`/shots/${i.shotId}/run`}>{place(i)}</Link>
              )}
            </Cell>
            <Cell>{new Date(i.createdAt).toLocaleDateString()}</Cell>
            <Cell className="size">{bytes(i.bytes)}</Cell>
            <Cell>
              <MayGo kept={i.kept} safe={i.safe} />
            </Cell>
            <Cell>
              {asked === i.key ? (
                <>
                  <Button
                    onPress={() => {
                      onClear(i);
                      setAsked(null);
                    }}
                  >
                    Clear, {bytes(i.bytes)}
                  </Button>{' '}
                  <Plain onPress={() => setAsked(null)}>leave it</Plain>
                </>
              ) : (
                <Plain
                  aria-label={`Clear ${i.name}`}
                  isDisabled={i.kept !== null}
                  onPress={() => setAsked(i.key)}
                >
                  clear
                </Plain>
              )}
            </Cell>
          </Row>
        )}
      </TableBody>
    </Sorted>
  );
}

/** Whether something may be cleared, and why. */
function MayGo({ kept, safe }: { kept: string | null; safe: string | null }): ReactNode {
  if (kept) return <Mark state="idle">{kept}</Mark>;
  return safe ? (
    <Mark state="well">{safe}</Mark>
  ) : (
    <Quiet as="span">Not safe to clear: nothing replaces it</Quiet>
  );
}

// What fills the disk: by production and shot, by kind and age, with what is safe to go; and the bin.
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { StoredItem } from '@bramblemist/contracts/payloads/storage';
import { useKeeping, useStorage } from '../data/queries/storage';
import { ChoiceWord } from '../parts/controls';
import { Button, bytes, Heading, Plain, Quiet, TablePage, Trouble } from '../parts/ui';
import { place } from './stored';
import { StoredTable } from './StoredTable';
import { TopBar } from './TopBar';

const Page = styled(TablePage)`
  table {
    margin-bottom: 22px;
  }
  th:last-child,
  td:last-child {
    text-align: right;
    padding-right: 0;
  }
  .size {
    text-align: right;
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
`;
const Top = styled.div`
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  gap: 24px;
  max-width: 1180px;
  margin-bottom: 14px;
`;
const Sentence = styled.div`
  font: 15px/1.6 ${({ theme }) => theme.serif};
`;
const Totals = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 2px 22px;
  max-width: 1180px;
  margin-bottom: 14px;
  color: ${({ theme }) => theme.quiet};
  b {
    color: ${({ theme }) => theme.text};
    font-weight: 600;
  }
`;
const Disk = styled.div<{ $used: number; $own: number }>`
  width: 220px;
  height: 8px;
  border-radius: 4px;
  background: linear-gradient(
    to right,
    ${({ theme }) => theme.thorn} 0 ${({ $own }) => $own}%,
    ${({ theme }) => theme.quiet} ${({ $own }) => $own}% ${({ $used }) => $used}%,
    ${({ theme }) => theme.raised} ${({ $used }) => $used}% 100%
  );
`;

const KINDS = [
  { value: '', label: 'everything' },
  { value: 'bakes', label: 'bakes' },
  { value: 'renders', label: 'renders' },
  { value: 'combines', label: 'comps' },
  { value: 'sheets', label: 'trial sheets' },
  { value: 'particles', label: 'particles' },
  { value: 'files', label: 'brought files' },
];
const sum = (items: readonly StoredItem[]): number => items.reduce((n, i) => n + i.bytes, 0);

function by(items: readonly StoredItem[], name: (i: StoredItem) => string): [string, number][] {
  const out = new Map<string, number>();
  for (const i of items) out.set(name(i), (out.get(name(i)) ?? 0) + i.bytes);
  return [...out].sort((a, b) => b[1] - a[1]);
}

export function Storage(): ReactNode {
  const storage = useStorage();
  const keep = useKeeping();
  const [kind, setKind] = useState('');
  const [asked, setAsked] = useState<string | null>(null);
  const data = storage.data;
  if (!data)
    return (
      <>
        <TopBar crumbs={[{ label: 'Storage' }]} />
        <Page>
          {storage.error ? (
            <Trouble>{storage.error.message}</Trouble>
          ) : (
            <Quiet>Adding up what is on the disk …</Quiet>
          )}
        </Page>
      </>
    );
  const shown = data.items.filter((i) => kind === '' || i.kind === kind);
  const safe = shown.filter((i) => i.safe !== null && i.kept === null);
  const own = sum(data.items) + sum(data.bin);
  const clearAll = async (items: readonly StoredItem[]): Promise<void> => {
    for (const { kind: k, id } of items)
      await keep.mutateAsync({ act: 'clear', kind: k, id }).catch(() => {});
    setAsked(null);
  };

  return (
    <>
      <TopBar crumbs={[{ label: 'Storage' }]} />
      <Page>
        <Top>
          <Sentence>
            Showing <ChoiceWord name="What is shown" value={kind} options={KINDS} onChange={setKind} />:{' '}
            {bytes(sum(shown))} in {shown.length}.
          </Sentence>
          <span style={{ display: 'flex', gap: 12, alignItems: 'center' }}>
            <Disk
              role="img"
              aria-label={`${bytes(data.freeBytes)} free of ${bytes(data.diskBytes)}`}
              $own={(100 * own) / data.diskBytes}
              $used={100 * (1 - data.freeBytes / data.diskBytes)}
            />
            <Quiet as="span">
              {bytes(own)} ours · {bytes(data.freeBytes)} free
            </Quiet>
          </span>
        </Top>
        {data.items.length === 0 && (
          <Quiet>Nothing is kept yet. What you bake, render and bring in appears here with its size.</Quiet>
        )}
        {shown.length > 0 && (
          <Totals role="group" aria-label="Totals">
            {by(shown, kind === '' ? (i) => KINDS.find((k) => k.value === i.kind)!.label : place).map(
              ([name, n]) => (
                <span key={name}>
                  {name} <b>{bytes(n)}</b>
                </span>
              ),
            )}
          </Totals>
        )}
        {keep.error && <Trouble>{keep.error.message}</Trouble>}
        {safe.length > 0 && (
          <p style={{ marginBottom: 12 }}>
            {asked === 'safe' ? (
              <>
                {safe.length} of them go into the bin and can be brought back until it is emptied; then{' '}
                {`${bytes(sum(safe))} come free. `}
                <Button onPress={() => void clearAll(safe)}>Clear them</Button>{' '}
                <Plain onPress={() => setAsked(null)}>leave them</Plain>
              </>
            ) : (
              <Button onPress={() => setAsked('safe')}>
                Clear what is safe to go: {safe.length}, {bytes(sum(safe))}
              </Button>
            )}
          </p>
        )}
        {shown.length > 0 && (
          <StoredTable
            items={shown}
            onClear={({ kind: k, id }) => keep.mutate({ act: 'clear', kind: k, id })}
          />
        )}
        {data.bin.length > 0 && (
          <section aria-label="The bin">
            <Heading>
              The bin <small>{bytes(sum(data.bin))} come free when it is emptied</small>
            </Heading>
            <table>
              <tbody>
                {data.bin.map((i) => (
                  <tr key={`${i.kind}/${i.id}`}>
                    <td>{i.name}</td>
                    <td>{place(i)}</td>
                    <td className="size">{bytes(i.bytes)}</td>
                    <td>
                      <Plain
                        aria-label={`Bring back ${i.name}`}
                        onPress={() => keep.mutate({ act: 'restore', kind: i.kind, id: i.id })}
                      >
                        bring back
                      </Plain>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {asked === 'empty' ? (
              <>
                Nothing of it can be brought back then.{' '}
                <Button
                  onPress={() => {
                    keep.mutate({ act: 'empty' });
                    setAsked(null);
                  }}
                >
                  Empty it for good
                </Button>{' '}
                <Plain onPress={() => setAsked(null)}>leave it</Plain>
              </>
            ) : (
              <Button onPress={() => setAsked('empty')}>Empty the bin, {bytes(sum(data.bin))}</Button>
            )}
          </section>
        )}
      </Page>
    </>
  );
}

// Packages so far: fetched again, or written into the folder that the server offers.
import { Copy, Download, FolderOutput } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import type { FolderState, PackageInfo, PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import { routes } from '@bramblemist/contracts/routes';
import { usePackageFolder } from '../../data/queries/packages';
import { Bar, Heading, LinkButton, Mark, Plain, Quiet, Section, Trouble } from '../../parts/ui';

export const List = styled.ul`
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
  li {
    padding: 5px 0;
    border-top: 1px solid ${({ theme }) => theme.line};
  }
  label {
    display: grid;
    grid-template-columns: auto 1fr auto;
    gap: 2px 8px;
    align-items: baseline;
    cursor: pointer;
  }
  input[type='checkbox'] {
    accent-color: ${({ theme }) => theme.thorn};
  }
  code {
    grid-column: 2 / -1;
    font:
      12px ui-monospace,
      monospace;
    color: ${({ theme }) => theme.quiet};
    overflow-wrap: anywhere;
  }
`;
const Acts = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  margin-top: 4px;
`;

const day = (iso: string): string =>
  new Date(iso).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });

export function Earlier({ packing }: { packing: PackingInfo }): ReactNode {
  const { packages, handOverFolder } = packing;
  if (packages.length === 0) return null;
  return (
    <Section>
      <Heading>Handed over</Heading>
      <List aria-label="Handed over">
        {packages.map((p) => (
          <li key={p.id}>
            <strong>Version {p.version}</strong> · bake {p.bakeId} · {day(p.createdAt)}
            {p.wanted.frames && ` · frames ${p.wanted.frames.first}–${p.wanted.frames.last}`}
            {p.note && <Quiet>{p.note}</Quiet>}
            {p.gone ? <Quiet>{p.gone}</Quiet> : <Ways own={p} folder={handOverFolder} />}
          </li>
        ))}
      </List>
    </Section>
  );
}

function Ways({ own, folder }: { own: PackageInfo; folder: string }): ReactNode {
  const { write, stop } = usePackageFolder();
  const state = own.folder;
  const isBusy = state?.state === 'writing' || state?.state === 'checking';
  return (
    <>
      <Acts>
        <LinkButton href={routes.package(own.id)} aria-label={`Download version ${own.version}`}>
          <Download size={14} /> Download
        </LinkButton>
        {isBusy ? (
          <Plain onPress={() => stop.mutate(own.id)}>Stop</Plain>
        ) : (
          <Plain
            aria-label={`Write version ${own.version} to ${folder}`}
            isDisabled={write.isPending}
            onPress={() => write.mutate(own.id)}
          >
            <FolderOutput size={14} /> {state?.state === 'done' ? 'Write again' : 'Write to folder'}
          </Plain>
        )}
      </Acts>
      {state && <InFolder state={state} folder={folder} />}
      {write.error && <Trouble>{write.error.message}</Trouble>}
    </>
  );
}

function InFolder({ state, folder }: { state: FolderState; folder: string }): ReactNode {
  const path = `${folder}/${state.path}`;
  if (state.state === 'failed') return <Trouble>{state.message}</Trouble>;
  if (state.state !== 'done')
    return (
      <div role="status">
        <Quiet>
          {state.state === 'checking'
            ? 'Every file is read again …'
            : `${state.done} of ${state.total} files written`}
        </Quiet>
        <Bar $part={state.state === 'checking' ? 1 : state.done / Math.max(1, state.total)} />
      </div>
    );
  return (
    <Acts>
      <Mark state="well">written and verified</Mark>
      <Plain aria-label={`Copy the path ${path}`} onPress={() => void navigator.clipboard.writeText(path)}>
        <Copy size={13} />
      </Plain>
      <code>{path}</code>
    </Acts>
  );
}

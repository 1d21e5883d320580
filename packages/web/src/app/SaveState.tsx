// Whether what stands here is saved, and what to choose where another window changed the same settings.
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { labelOf } from '@bramblemist/core/recipe/tell';
import type { Clash } from '@bramblemist/core/recipe/merge';
import { settleClash, useBench, type Documents } from '../data/bench';
import { Heading, Plain } from '../parts/ui';

export function SaveState(): ReactNode {
  const saving = useBench((b) => b.saving);
  const saveError = useBench((b) => b.saveError);
  const elsewhere = useBench((b) => b.unsavedElsewhere);
  const told = {
    saved: 'saved',
    waiting: 'saving …',
    saving: 'saving …',
    failed: `not saved, kept in this browser: ${saveError ?? ''}`,
    asking: 'not saved: choose below',
  }[saving];
  const others = elsewhere === 1 ? 'another variant is not saved yet' : `${elsewhere} other variants are not`;
  return <span role="status">{elsewhere > 0 ? `${told} · ${others}` : told}</span>;
}

const Panel = styled.section`
  position: fixed;
  top: 46px;
  left: 0;
  right: 0;
  z-index: 20;
  padding: 8px 16px 10px;
  border-bottom: 1px solid ${({ theme }) => theme.straw};
  background: ${({ theme }) => theme.raised};
  max-height: 30vh;
  overflow: auto;
  li {
    display: flex;
    gap: 12px;
    align-items: baseline;
    padding: 2px 0;
  }
`;

/** What a place in the documents is called. */
function called([name, ...path]: readonly string[], { recipe }: Documents): string {
  if (name !== 'recipe') return [name, ...path].join(': ');
  const list = Array.isArray(recipe[path[0] as 'sources']);
  const head = path.slice(0, list ? 2 : 1);
  const setting = path.slice(head.length).join('.');
  if (setting) return labelOf(recipe, [...head, setting].join('/'));
  const part = list && recipe[path[0] as 'sources'].find((one) => one.id === path[1]);
  return part ? part.name : path.join(': ');
}

function told(value: Clash['mine']): string {
  if (value === undefined) return 'taken away';
  if (value !== null && typeof value === 'object') return 'as it is there';
  return String(value);
}

export function Clashes(): ReactNode {
  const clashes = useBench((b) => b.clashes);
  const documents = useBench((b) => b.documents);
  if (clashes.length === 0 || !documents) return null;
  return (
    <Panel aria-label="Changed in two windows">
      <Heading>Another window changed the same settings. Which value stays?</Heading>
      <ul>
        {clashes.map((clash) => (
          <li key={clash.path.join('/')}>
            <span>{called(clash.path, documents)}</span>
            <Plain onPress={() => settleClash(clash, 'mine')}>keep this one: {told(clash.mine)}</Plain>
            <Plain onPress={() => settleClash(clash, 'theirs')}>take the other: {told(clash.theirs)}</Plain>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

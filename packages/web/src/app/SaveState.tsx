// Whether what stands here is saved, who else has it open, and what to choose where another window changed
// the same settings.
import { AppWindow } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { differencesTold } from '@bramblemist/core/recipe/tell';
import { settle, type Clash } from '@bramblemist/core/recipe/merge';
import { settleClash, tryAgain, useBench, type Documents } from '../data/bench';
import { Button } from '../parts/ui';

/** In a word or two; what is wrong is told below, see SaveTrouble. */
export function SaveState(): ReactNode {
  const saving = useBench((b) => b.saving);
  const elsewhere = useBench((b) => b.unsavedElsewhere);
  const told = {
    saved: 'saved',
    waiting: 'saving …',
    saving: 'saving …',
    failed: 'not saved',
    asking: 'not saved',
  }[saving];
  const others = elsewhere === 1 ? 'another variant is not' : `${elsewhere} other variants are not`;
  return <span role="status">{elsewhere > 0 ? `${told}, ${others}` : told}</span>;
}

const Others = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 4px;
`;

export function OthersHere({ count }: { count: number }): ReactNode {
  if (count === 0) return null;
  const told = count === 1 ? 'Open in another window too' : `Open in ${count} other windows too`;
  return (
    <Others
      role="img"
      aria-label={told}
      title={`${told}. What is changed there arrives here as it is saved, setting by setting.`}
    >
      <AppWindow size={15} />
      {count > 1 && count}
    </Others>
  );
}

const Strip = styled.section`
  position: fixed;
  top: 46px;
  left: 0;
  right: 0;
  z-index: 20;
  max-height: 30vh;
  overflow: auto;
  padding: 6px 18px 8px;
  display: grid;
  gap: 6px;
  border-bottom: 1px solid ${({ theme }) => theme.straw};
  background: ${({ theme }) => theme.raised};
  font: 15px/1.4 ${({ theme }) => theme.serif};
  p,
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: center;
    margin: 0;
  }
  ul {
    display: grid;
    gap: 4px;
    margin: 0;
    padding: 0;
    list-style: none;
  }
`;

interface Told {
  readonly what: string;
  readonly mine: string;
  readonly theirs: string;
}

const plain = (value: Clash['mine']): string => {
  if (value === undefined) return 'taken away';
  return value !== null && typeof value === 'object' ? 'as it is there' : String(value);
};

/** A clash in the words of the page. */
function inWords({ path: [name, ...path], mine, theirs }: Clash, { recipe }: Documents): Told {
  const other = { what: [name, ...path].join(': '), mine: plain(mine), theirs: plain(theirs) };
  if (name !== 'recipe') return other;
  const [told] = differencesTold(settle(recipe, path, mine), settle(recipe, path, theirs));
  if (!told) return other;
  return {
    what: told.setting ? `${told.part}: ${told.setting}` : told.part,
    mine: told.from ?? 'taken away',
    theirs: told.to ?? 'taken away',
  };
}

/** What stands in the way of saving, and what to do. */
export function SaveTrouble(): ReactNode {
  const clashes = useBench((b) => b.clashes);
  const documents = useBench((b) => b.documents);
  const failed = useBench((b) => b.saving === 'failed');
  const error = useBench((b) => b.saveError);
  if (documents && clashes.length > 0)
    return (
      <Strip aria-label="Changed in two windows">
        <p>Another window changed the same settings. Which value stays?</p>
        <ul>
          {clashes.map((clash) => {
            const { what, mine, theirs } = inWords(clash, documents);
            return (
              <li key={clash.path.join('/')}>
                <strong>{what}</strong>
                <Button onPress={() => settleClash(clash, 'mine')}>Keep this one: {mine}</Button>
                <Button onPress={() => settleClash(clash, 'theirs')}>Take the other: {theirs}</Button>
              </li>
            );
          })}
        </ul>
      </Strip>
    );
  if (!failed) return null;
  return (
    <Strip aria-label="Not saved">
      <p>
        {error} Your changes are kept in this browser, and saved as soon as they can be.
        <Button onPress={tryAgain}>Save now</Button>
      </p>
    </Strip>
  );
}

// What was changed, the latest first: to go back to before any of it at once.
import { History as Clock } from 'lucide-react';
import type { ReactNode } from 'react';
import { Menu, MenuItem, MenuTrigger, Popover } from 'react-aria-components';
import styled from 'styled-components';
import { undoTo, useBench } from '../data/bench';
import { chosenFrom, Plain, unfolded } from '../parts/ui';

const List = styled(Popover)`
  ${unfolded}
  width: 260px;
  max-height: 60vh;
  overflow: auto;
`;
const Item = styled(MenuItem)`
  ${chosenFrom}
`;
/** Steps that are listed. */
const MOST = 40;

export function History(): ReactNode {
  const past = useBench((b) => b.past);
  const steps = past.map((s, n) => ({ n, label: s.label })).slice(-MOST);
  return (
    <MenuTrigger>
      <Plain aria-label="What was changed" isDisabled={past.length === 0}>
        <Clock size={15} />
      </Plain>
      <List>
        <Menu aria-label="Go back to before" onAction={(key) => undoTo(Number(key))}>
          {steps.reverse().map(({ n, label }) => (
            <Item key={n} id={n} textValue={label}>
              before: {label}
            </Item>
          ))}
        </Menu>
      </List>
    </MenuTrigger>
  );
}

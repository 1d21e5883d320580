// What is done seldom to a thing of the board, folded into one button.
import { EllipsisVertical } from 'lucide-react';
import type { ReactNode } from 'react';
import { Button, Menu, MenuTrigger, Popover } from 'react-aria-components';
import styled from 'styled-components';
import { MenuLine, unfolded } from './ui';

const Trigger = styled(Button)`
  display: inline-grid;
  place-items: center;
  width: 26px;
  height: 26px;
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 13px;
  background: ${({ theme }) => theme.panel};
  color: ${({ theme }) => theme.text};
  cursor: pointer;
  flex: none;
  &[data-hovered] {
    background: ${({ theme }) => theme.raised};
  }
`;
const List = styled(Popover)`
  ${unfolded}
  min-width: 180px;
`;

export interface Deed {
  readonly label: string;
  readonly act: () => void;
}

export function MoreMenu({ label, deeds }: { label: string; deeds: readonly Deed[] }): ReactNode {
  return (
    <MenuTrigger>
      <Trigger aria-label={label}>
        <EllipsisVertical size={15} />
      </Trigger>
      <List>
        <Menu aria-label={label} onAction={(key) => deeds.find((d) => d.label === key)!.act()}>
          {deeds.map((d) => (
            <MenuLine key={d.label} id={d.label}>
              {d.label}
            </MenuLine>
          ))}
        </Menu>
      </List>
    </MenuTrigger>
  );
}

// What can be added, by name, with a line on when to use it.
import { Plus } from 'lucide-react';
import type { ReactNode } from 'react';
import { Button, Menu, MenuItem, MenuTrigger, Popover, Text } from 'react-aria-components';
import styled from 'styled-components';
import type { Starter } from '@bramblemist/core/recipe/starters';

const Trigger = styled(Button)`
  background: none;
  border: none;
  padding: 2px 4px;
  color: ${({ theme }) => theme.quiet};
  font: 13px/1.3 ${({ theme }) => theme.sans};
  display: inline-flex;
  gap: 4px;
  align-items: center;
  border-radius: 3px;
  cursor: pointer;
  &[data-hovered] {
    color: ${({ theme }) => theme.text};
  }
`;
const List = styled(Popover)`
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 6px;
  padding: 4px;
  width: 320px;
  max-height: 70vh;
  overflow: auto;
  box-shadow: 0 8px 24px #0008;
`;
const Item = styled(MenuItem)`
  padding: 5px 10px;
  border-radius: 4px;
  cursor: pointer;
  outline: none;
  display: grid;
  span:first-child {
    font: 600 15px/1.3 ${({ theme }) => theme.serif};
  }
  span:last-child {
    color: ${({ theme }) => theme.quiet};
    font-size: 12px;
    line-height: 1.35;
  }
  &[data-focused] {
    background: ${({ theme }) => theme.thorn};
    color: ${({ theme }) => theme.onThorn};
    span:last-child {
      color: ${({ theme }) => theme.onThorn};
    }
  }
`;

export function AddMenu({
  label,
  starters,
  onAdd,
  children = 'add',
}: {
  label: string;
  starters: readonly Starter[];
  onAdd: (starter: Starter) => void;
  children?: string;
}): ReactNode {
  return (
    <MenuTrigger>
      <Trigger aria-label={label}>
        <Plus size={13} /> {children}
      </Trigger>
      <List>
        <Menu aria-label={label} onAction={(key) => onAdd(starters.find((s) => s.name === key)!)}>
          {starters.map((s) => (
            <Item key={s.name} id={s.name} textValue={s.name}>
              <Text slot="label">{s.name}</Text>
              <Text slot="description">{s.when}</Text>
            </Item>
          ))}
        </Menu>
      </List>
    </MenuTrigger>
  );
}

// What can be added, by name, with a line on when to use it.
import { Plus } from 'lucide-react';
import type { ReactNode } from 'react';
import { Button, Header, Menu, MenuSection, MenuTrigger, Popover, Text } from 'react-aria-components';
import styled from 'styled-components';
import { MenuLine, plainStyle, unfolded } from './ui';

const Trigger = styled(Button)`
  ${plainStyle}
`;
const List = styled(Popover)`
  ${unfolded}
  width: 320px;
  max-height: 70vh;
  overflow: auto;
`;
const Item = styled(MenuLine)`
  span:first-child {
    font: 600 15px/1.3 ${({ theme }) => theme.serif};
  }
`;

const Group = styled(Header)`
  padding: 6px 10px 2px;
  color: ${({ theme }) => theme.quiet};
  font: italic 14px/1.3 ${({ theme }) => theme.serif};
`;

/** Something with a name and a line on when to take it. */
interface Named {
  readonly name: string;
  readonly when: string;
}

export function AddMenu<T extends Named>({
  label,
  starters,
  onAdd,
  icon = <Plus size={13} />,
  children = 'add',
}: {
  label: string;
  starters: readonly T[];
  onAdd: (starter: T) => void;
  icon?: ReactNode;
  children?: string;
}): ReactNode {
  return (
    <MenuTrigger>
      <Trigger aria-label={label}>
        {icon} {children}
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

/** The same of things that stand in groups. */
export function GroupedMenu({
  label,
  groups,
  onChoose,
  children,
}: {
  label: string;
  groups: readonly {
    readonly title: string;
    readonly items: readonly { readonly id: string; readonly name: string }[];
  }[];
  onChoose: (id: string) => void;
  children: string;
}): ReactNode {
  return (
    <MenuTrigger>
      <Trigger aria-label={label}>
        <Plus size={13} /> {children}
      </Trigger>
      <List>
        <Menu aria-label={label} onAction={(key) => onChoose(String(key))}>
          {groups.map((g, n) => (
            <MenuSection key={`${n} ${g.title}`}>
              <Group>{g.title}</Group>
              {g.items.map((item) => (
                <Item key={item.id} id={item.id} textValue={`${g.title} ${item.name}`}>
                  <Text slot="label">{item.name}</Text>
                </Item>
              ))}
            </MenuSection>
          ))}
        </Menu>
      </List>
    </MenuTrigger>
  );
}

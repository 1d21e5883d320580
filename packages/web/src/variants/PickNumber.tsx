// Picks one of a recipe's numbers by name.
import type { ReactNode } from 'react';
import { Button, ComboBox, Input, Label, ListBox, ListBoxItem, Popover } from 'react-aria-components';
import { ChevronDown } from 'lucide-react';
import styled from 'styled-components';
import type { NamedNumber } from '@bramblemist/core/recipe/tell';
import { formatValue } from '@bramblemist/core/recipe/units';
import { chosenFrom, unfolded } from '../parts/ui';

const Box = styled(ComboBox)`
  label {
    color: ${({ theme }) => theme.quiet};
    font-size: 12px;
  }
  > div {
    display: flex;
    margin-bottom: 4px;
  }
  input {
    flex: 1;
    min-width: 0;
    background: ${({ theme }) => theme.raised};
    color: ${({ theme }) => theme.text};
    border: none;
    border-radius: 4px 0 0 4px;
    padding: 4px 8px;
    font: 500 13px/1.4 ${({ theme }) => theme.sans};
  }
  button {
    border: none;
    border-radius: 0 4px 4px 0;
    background: ${({ theme }) => theme.raised};
    color: ${({ theme }) => theme.quiet};
  }
`;
const List = styled(Popover)`
  width: var(--trigger-width);
  max-height: 50vh;
  overflow: auto;
  ${unfolded}
`;
const Item = styled(ListBoxItem)`
  ${chosenFrom}
`;

export function PickNumber({
  label,
  numbers,
  path,
  onPick,
}: {
  label: string;
  numbers: readonly NamedNumber[];
  path: string;
  onPick: (path: string) => void;
}): ReactNode {
  return (
    <Box
      defaultItems={numbers}
      selectedKey={path}
      onSelectionChange={(key) => key !== null && key !== path && onPick(String(key))}
      menuTrigger="focus"
    >
      <Label>{label}</Label>
      <div>
        <Input />
        <Button aria-label={`All settings for: ${label}`}>
          <ChevronDown size={14} />
        </Button>
      </div>
      <List>
        <ListBox<NamedNumber>>
          {(n) => (
            <Item id={n.path} textValue={`${n.part}: ${n.setting.label}`}>
              {n.part}: {n.setting.label}, {formatValue(n.value, n.setting.unit)}
            </Item>
          )}
        </ListBox>
      </List>
    </Box>
  );
}

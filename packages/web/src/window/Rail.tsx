// The rail at the window's edge: what is seen and from where, an icon each; one with choices opens a panel
// beside it, which stays until it is closed.
import { X } from 'lucide-react';
import { useState, type KeyboardEvent, type ReactNode } from 'react';
import { Button, Toolbar, Tooltip, TooltipTrigger } from 'react-aria-components';
import styled from 'styled-components';

const Column = styled(Toolbar)`
  position: absolute;
  left: 8px;
  top: 8px;
  display: grid;
  gap: 2px;
  padding: 3px;
  border-radius: 16px;
  background: ${({ theme }) => theme.panel}e6;
`;
const Icon = styled(Button)`
  display: grid;
  place-items: center;
  width: 28px;
  height: 28px;
  padding: 0;
  border: none;
  border-radius: 14px;
  background: none;
  color: ${({ theme }) => theme.text};
  cursor: pointer;
  &[data-hovered] {
    background: ${({ theme }) => theme.raised};
  }
  &[aria-pressed='true'] {
    color: ${({ theme }) => theme.thorn};
  }
  &[aria-expanded='true'] {
    background: ${({ theme }) => theme.raised};
  }
`;
const Words = styled(Tooltip)`
  padding: 4px 10px;
  border-radius: 6px;
  border: 1px solid ${({ theme }) => theme.line};
  background: ${({ theme }) => theme.raised};
  color: ${({ theme }) => theme.text};
`;
const Gap = styled.hr`
  width: 16px;
  margin: 2px auto;
  border: none;
  border-top: 1px solid ${({ theme }) => theme.line};
`;
const Panel = styled.div`
  position: absolute;
  left: 48px;
  top: 8px;
  display: grid;
  gap: 6px;
  width: min(330px, calc(100% - 60px));
  max-height: calc(100% - 16px);
  overflow: auto;
  padding: 8px 12px 10px;
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 8px;
  background: ${({ theme }) => theme.panel};
  > header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    font: italic 16px/1.2 ${({ theme }) => theme.serif};
    color: ${({ theme }) => theme.thorn};
  }
`;
const Close = styled(Icon)`
  width: 24px;
  height: 24px;
`;

export interface RailItem {
  readonly key: string;
  /** What it is, in words: its name and its tooltip. */
  readonly label: string;
  readonly icon: ReactNode;
  /** Whether it is on, or shows something now. */
  readonly isOn?: boolean;
  /** What it opens; without, it acts. */
  readonly panel?: ReactNode;
  readonly onPress?: () => void;
}

/** @param groups of items, parted by a line */
export function Rail({ groups }: { groups: readonly (readonly RailItem[])[] }): ReactNode {
  const [openKey, setOpen] = useState<string | null>(null);
  const open = groups.flat().find(({ key, panel }) => key === openKey && panel) ?? null;
  const shown = groups.filter((items) => items.length > 0);
  if (shown.length === 0) return null;
  const onKey = (e: KeyboardEvent): void => {
    if (e.key === 'Escape' && open) setOpen(null);
  };

  return (
    <div onKeyDown={onKey}>
      <Column aria-label="What is seen" orientation="vertical">
        {shown.map((items, n) => [
          n > 0 && <Gap key={n} />,
          ...items.map(({ key, label, icon, isOn, panel, onPress }) => (
            <TooltipTrigger key={key} delay={300}>
              <Icon
                aria-label={label}
                aria-pressed={isOn}
                aria-expanded={panel ? open?.key === key : undefined}
                onPress={() => (panel ? setOpen(open?.key === key ? null : key) : onPress?.())}
              >
                {icon}
              </Icon>
              <Words placement="right">{label}</Words>
            </TooltipTrigger>
          )),
        ])}
      </Column>
      {open && (
        <Panel role="group" aria-label={open.label}>
          <header>
            {open.label}
            <Close aria-label={`Close ${open.label}`} onPress={() => setOpen(null)}>
              <X size={14} />
            </Close>
          </header>
          {open.panel}
        </Panel>
      )}
    </div>
  );
}

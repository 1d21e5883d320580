// One control for each kind of setting.
import { useState, type ReactNode } from 'react';
import { Button, ListBox, ListBoxItem, Popover, Select, SelectValue } from 'react-aria-components';
import styled from 'styled-components';
import type { ReferenceSetting, Setting } from '@bramblemist/core/recipe/settings';
import type { Profile } from '@bramblemist/core/recipe/profile';
import { FormulaField, type FormulaPlace } from './Formula';
import { NumberControl } from './NumberControl';
import { Points } from './Points';
import { ProfileField } from './Profile';

const UNPLACED: FormulaPlace = { moment: null, keep: { colour: false, age: false } };

const WordButton = styled(Button)`
  background: none;
  border: none;
  padding: 0 1px;
  color: ${({ theme }) => theme.text};
  font: 500 13px/1.3 ${({ theme }) => theme.sans};
  border-bottom: 1px dotted ${({ theme }) => theme.thorn};
  cursor: pointer;
  &[data-hovered] {
    background: ${({ theme }) => theme.raised};
  }
`;
const List = styled(Popover)`
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 6px;
  padding: 4px;
  min-width: 110px;
  box-shadow: 0 8px 24px #0008;
`;
const Item = styled(ListBoxItem)`
  padding: 4px 10px;
  border-radius: 4px;
  cursor: pointer;
  outline: none;
  &[data-focused] {
    background: ${({ theme }) => theme.thorn};
    color: ${({ theme }) => theme.onThorn};
  }
`;
const NameField = styled.input`
  font: 600 15px/1.3 ${({ theme }) => theme.serif};
  color: ${({ theme }) => theme.text};
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.thorn};
  border-radius: 3px;
  width: 150px;
`;
const NameButton = styled(Button)`
  background: none;
  border: none;
  padding: 0;
  font: 600 15px/1.3 ${({ theme }) => theme.serif};
  color: ${({ theme }) => theme.text};
  cursor: text;
`;

export interface Choice {
  readonly value: string;
  readonly label: string;
}

export function ChoiceWord({
  name,
  value,
  options,
  onChange,
}: {
  name: string;
  value: string;
  options: readonly Choice[];
  onChange: (value: string) => void;
}): ReactNode {
  return (
    <Select aria-label={name} selectedKey={value} onSelectionChange={(key) => onChange(String(key))} style={{ display: 'inline' }}>
      <WordButton>
        <SelectValue>{options.find((o) => o.value === value)?.label ?? value}</SelectValue>
      </WordButton>
      <List>
        <ListBox>
          {options.map((o) => (
            <Item key={o.value} id={o.value}>
              {o.label}
            </Item>
          ))}
        </ListBox>
      </List>
    </Select>
  );
}

function NameWord({ name, value, onChange }: { name: string; value: string; onChange: (value: string) => void }): ReactNode {
  const [text, setText] = useState<string | null>(null);
  if (text === null) {
    return (
      <NameButton aria-label={`${name}: ${value}`} onPress={() => setText(value)}>
        {value}
      </NameButton>
    );
  }
  const commit = (): void => {
    if (text.trim() && text.trim() !== value) onChange(text.trim().slice(0, 120));
    setText(null);
  };
  return (
    <NameField
      autoFocus
      aria-label={name}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={commit}
      onKeyDown={(e) => {
        if (e.key === 'Enter') commit();
        if (e.key === 'Escape') setText(null);
        e.stopPropagation();
      }}
    />
  );
}

export interface ControlProps {
  readonly setting: Setting;
  /** For screen readers: which part this belongs to and what it is. */
  readonly name: string;
  readonly value: unknown;
  readonly frameRate: number;
  /** Moved by keys: it shows what it is at the frame that is shown. */
  readonly keyed?: boolean;
  /** What a reference may point at. */
  readonly targets?: (setting: ReferenceSetting) => readonly Choice[];
  /** Of a formula: when and with what it is worked out. */
  readonly formulaAt?: FormulaPlace;
  readonly onChange: (value: unknown) => void;
}

export function Control({ setting, name, value, frameRate, keyed, targets, formulaAt, onChange }: ControlProps): ReactNode {
  switch (setting.kind) {
    case 'number':
    case 'integer':
      return (
        <NumberControl setting={setting} name={name} value={value as number} frameRate={frameRate} keyed={keyed} onChange={onChange} />
      );
    case 'choice':
      return <ChoiceWord name={name} value={value as string} options={setting.options} onChange={onChange} />;
    case 'flag':
      return (
        <WordButton aria-label={`${name}: ${value ? 'on' : 'off'}`} onPress={() => onChange(!value)}>
          {value ? 'on' : 'off'}
        </WordButton>
      );
    case 'reference':
      return (
        <ChoiceWord
          name={name}
          value={value as string}
          options={[
            { value: '', label: setting.none ?? 'nothing' },
            ...(targets?.(setting) ?? []).map((c) => ({ ...c, label: `${setting.prefix ?? ''}${c.label}` })),
          ]}
          onChange={onChange}
        />
      );
    case 'points':
      return <Points name={name} value={value as never} frameRate={frameRate} onChange={onChange} />;
    case 'dabs': {
      const dabs = value as readonly unknown[];
      return (
        <span>
          {dabs.length === 0 ? 'nothing yet: paint in the window' : `${dabs.length} dabs`}{' '}
          {dabs.length > 0 && (
            <WordButton aria-label={`${name}: wipe all away`} onPress={() => onChange([])}>
              wipe all away
            </WordButton>
          )}
        </span>
      );
    }
    case 'profile':
      return <ProfileField name={name} value={value as Profile} onChange={onChange} />;
    case 'formula':
      return <FormulaField name={name} value={value as string} place={formulaAt ?? UNPLACED} onChange={onChange} />;
    case 'keys':
      return null; // curves are drawn on the reel, not in a sentence
    case 'text':
      return <NameWord name={name} value={value as string} onChange={onChange} />;
  }
}

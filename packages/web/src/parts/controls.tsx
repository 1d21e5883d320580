// One control for each kind of setting.
import { memo, useEffect, useRef, useState, type ReactNode } from 'react';
import { Button, ListBox, ListBoxItem, Popover, Select, SelectValue } from 'react-aria-components';
import styled from 'styled-components';
import type { ReferenceSetting, Setting } from '@bramblemist/core/recipe/settings';
import type { Profile } from '@bramblemist/core/recipe/profile';
import type { FormulaPlace } from './formula-place';
import { later } from './later';
import { NumberControl } from './NumberControl';
import { Points } from './Points';
import { ProfileField } from './Profile';
import { chosenFrom, unfolded } from './ui';

const FormulaField = later(() => import('./Formula'), 'FormulaField');
const UNPLACED: FormulaPlace = { moment: null, keep: { colour: false, age: false, deposit: false } };

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
  ${unfolded}
  min-width: 110px;
`;
const Item = styled(ListBoxItem)`
  ${chosenFrom}
`;
const NameField = styled.input`
  font: 600 15px/1.3 ${({ theme }) => theme.serif};
  color: ${({ theme }) => theme.text};
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.thorn};
  border-radius: 3px;
  width: 150px;
`;
const LinesField = styled.textarea`
  display: block;
  width: 100%;
  box-sizing: border-box;
  resize: vertical;
  padding: 4px 6px;
  font: 500 13px/1.35 ${({ theme }) => theme.sans};
  color: ${({ theme }) => theme.text};
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.thorn};
  border-radius: 3px;
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

/** A word to be changed for another. It is drawn anew only where something of it changed: lists are dear. */
export function ChoiceWord({
  onChange,
  ...word
}: ChoiceWordProps & { onChange: (value: string) => void }): ReactNode {
  const latest = useRef(onChange);
  useEffect(() => {
    latest.current = onChange;
  });
  const [choose] = useState(
    () =>
      (v: string): void =>
        latest.current(v),
  );
  return <Word {...word} choose={choose} />;
}

interface ChoiceWordProps {
  readonly name: string;
  readonly value: string;
  readonly options: readonly Choice[];
}
const Word = memo(
  function Word({
    name,
    value,
    options,
    choose,
  }: ChoiceWordProps & { choose: (value: string) => void }): ReactNode {
    return (
      <Select
        aria-label={name}
        selectedKey={value}
        onSelectionChange={(key) => choose(String(key))}
        style={{ display: 'inline' }}
      >
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
  },
  (a, b) =>
    a.name === b.name &&
    a.value === b.value &&
    a.options.length === b.options.length &&
    a.options.every((o, n) => o.value === b.options[n].value && o.label === b.options[n].label),
);

function NameWord({
  name,
  value,
  isOptional = false,
  onChange,
}: {
  name: string;
  value: string;
  /** It may be left empty. */
  isOptional?: boolean;
  onChange: (value: string) => void;
}): ReactNode {
  const [text, setText] = useState<string | null>(null);
  if (text === null) {
    return (
      <NameButton aria-label={`${name}: ${value}`} onPress={() => setText(value)}>
        {value || 'none'}
      </NameButton>
    );
  }

  const commit = (): void => {
    const next = text.trim().slice(0, 120);
    if ((next || isOptional) && next !== value) onChange(next);
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

/** Text of several lines, which is taken as it is written. */
function Lines({
  name,
  value,
  onChange,
}: {
  name: string;
  value: string;
  onChange: (value: string) => void;
}): ReactNode {
  return (
    <LinesField
      aria-label={name}
      rows={Math.min(8, Math.max(2, value.split('\n').length))}
      value={value}
      maxLength={2000}
      placeholder="Written here"
      onChange={(e) => onChange(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === 'Escape') e.currentTarget.blur();
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

export function Control({
  setting,
  name,
  value,
  frameRate,
  keyed,
  targets,
  formulaAt,
  onChange,
}: ControlProps): ReactNode {
  switch (setting.kind) {
    case 'number':
    case 'integer':
      return (
        <NumberControl
          setting={setting}
          name={name}
          value={value as number}
          frameRate={frameRate}
          keyed={keyed}
          onChange={onChange}
        />
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
      return (
        <ProfileField name={name} value={value as Profile} onward={setting.onward} onChange={onChange} />
      );
    case 'outline':
      return null; // drawn in the window
    case 'formula':
      return (
        <FormulaField name={name} value={value as string} place={formulaAt ?? UNPLACED} onChange={onChange} />
      );
    case 'keys':
      return null; // curves are drawn on the reel, not in a sentence
    case 'text':
      if (setting.lines) return <Lines name={name} value={value as string} onChange={onChange} />;
      return (
        <NameWord name={name} value={value as string} isOptional={setting.optional} onChange={onChange} />
      );
  }
}

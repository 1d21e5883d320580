// The field of a formula: what is wrong is marked where it is, words are completed, and a slice shows what it
// does.
import {
  useEffect,
  useId,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type ReactNode,
} from 'react';
import styled from 'styled-components';
import { check, type FormulaFault, type Checked } from '@bramblemist/core/formulas/check';
import { CALLS, VARIABLES, CONSTANTS, GIVEN, type Moment } from '@bramblemist/core/formulas/language';

const Box = styled.div`
  position: relative;
  margin: 4px 0;
  font: 13px/1.5 ${({ theme }) => theme.sans};
`;
const shared = `
  display: block;
  width: 100%;
  margin: 0;
  padding: 5px 8px;
  border: 1px solid transparent;
  font: inherit;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  tab-size: 2;
`;
const Mirror = styled.pre`
  ${shared}
  position: absolute;
  inset: 0;
  color: transparent;
  pointer-events: none;
  mark {
    background: none;
    color: transparent;
    text-decoration: underline wavy ${({ theme }) => theme.rust} 1.5px;
    text-underline-offset: 3px;
  }
`;
const Field = styled.textarea<{ $wrong: boolean }>`
  ${shared}
  resize: none;
  overflow: hidden;
  color: ${({ theme }) => theme.text};
  background: ${({ theme }) => theme.raised};
  border-color: ${({ theme, $wrong }) => ($wrong ? theme.rust : theme.line)};
  border-radius: 4px;
`;
const Says = styled.p<{ $wrong: boolean }>`
  margin: 3px 0 0;
  font: 12px/1.35 ${({ theme }) => theme.sans};
  color: ${({ theme, $wrong }) => ($wrong ? theme.rust : theme.quiet)};
`;
const List = styled.ul`
  position: absolute;
  z-index: 5;
  top: 100%;
  left: 0;
  right: 0;
  margin: 2px 0 0;
  padding: 4px;
  list-style: none;
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 6px;
  box-shadow: 0 8px 24px #0008;
  li {
    padding: 3px 8px;
    border-radius: 4px;
    cursor: pointer;
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 10px;
    line-height: 1.35;
    small {
      color: ${({ theme }) => theme.quiet};
      font-size: 12px;
    }
  }
  li[aria-selected='true'] {
    background: ${({ theme }) => theme.thorn};
    color: ${({ theme }) => theme.onThorn};
    small {
      color: ${({ theme }) => theme.onThorn};
    }
  }
`;

/** When and with what a formula is worked out. */
export interface FormulaPlace {
  /** null: it writes nothing and is worth a number. */
  readonly moment: Moment | null;
  readonly keep: { readonly colour: boolean; readonly age: boolean };
  /** Told of each text that is well formed as it is typed. */
  readonly onDraft?: (text: string) => void;
}
interface Completion {
  readonly name: string;
  readonly shown: string;
  readonly doc: string;
}
const WORDS: readonly Completion[] = [
  ...CALLS.map((c) => ({ name: c.name, shown: c.usage, doc: c.doc })),
  ...[...VARIABLES, ...GIVEN, ...CONSTANTS].map((w) => ({ name: w.name, shown: w.name, doc: w.doc })),
];
const MOST = 6;
const TAKEN_OVER_AFTER_MS = 400;

/** Browsers may answer with a promise, which a ref must not hand on. */
const intoView = (e: HTMLElement | null): void => void e?.scrollIntoView({ block: 'nearest' });

/** The word that ends at a place of the text. */
const wordBefore = (text: string, at: number): string => /[A-Za-z_]\w*$/.exec(text.slice(0, at))?.[0] ?? '';

export function FormulaField({
  name,
  value,
  place,
  onChange,
}: {
  name: string;
  value: string;
  place: FormulaPlace;
  onChange: (text: string) => void;
}): ReactNode {
  const [text, setText] = useState(value);
  const [kept, setKept] = useState(value);
  const [at, setAt] = useState<number | null>(null);
  const [chosen, setChosen] = useState(0);
  const field = useRef<HTMLTextAreaElement>(null);
  const timer = useRef(0);
  /** Where the caret goes once a completed text is drawn. */
  const caretTo = useRef<number | null>(null);
  const id = useId();
  // undone or changed elsewhere
  if (value !== kept) {
    setKept(value);
    setText(value);
  }

  const { moment, keep, onDraft } = place;
  const result = useMemo(() => check(text, { moment, keep }), [text, moment, keep]);
  const fault: FormulaFault | null = result.ok ? null : result.fault;
  const word = at === null ? '' : wordBefore(text, at);
  const offered =
    word.length < 1
      ? []
      : WORDS.filter((w) => w.name !== word && w.name.toLowerCase().startsWith(word.toLowerCase())).slice(
          0,
          MOST,
        );
  useLayoutEffect(() => {
    const f = field.current;
    if (!f) return;
    if (caretTo.current !== null) f.setSelectionRange(caretTo.current, caretTo.current);
    caretTo.current = null;
    f.style.height = 'auto';
    f.style.height = `${f.scrollHeight + 2}px`;
  }, [text]);
  useEffect(() => () => window.clearTimeout(timer.current), []);

  const take = (next: string): void => {
    window.clearTimeout(timer.current);
    if (next === value || !check(next, { moment, keep }).ok) return;
    setKept(next);
    onChange(next);
  };

  const write = (next: string, caret: number): void => {
    setText(next);
    setAt(caret);
    setChosen(0);
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => take(next), TAKEN_OVER_AFTER_MS);
    if (check(next, { moment, keep }).ok) onDraft?.(next);
  };

  const complete = (w: Completion): void => {
    const caret = at!;
    const call = w.shown.includes('(');
    const put = w.name + (call ? '(' : '');
    const next = text.slice(0, caret - word.length) + put + text.slice(caret);
    const end = caret - word.length + put.length;
    write(next, end);
    setAt(null);
    caretTo.current = end;
  };

  const onKey = (e: KeyboardEvent): void => {
    e.stopPropagation();
    if (offered.length > 0) {
      const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
      if (by) {
        e.preventDefault();
        return setChosen((chosen + by + offered.length) % offered.length);
      }

      if (e.key === 'Tab' || e.key === 'Enter') {
        e.preventDefault();
        return complete(offered[chosen]);
      }

      if (e.key === 'Escape') return setAt(null);
    }

    if (e.key === 'Escape') {
      setText(value);
      field.current?.blur();
    } else if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
      e.preventDefault();
      take(text);
    }
  };

  const list = `${id}-list`;
  return (
    <Box>
      <Mirror aria-hidden>
        {fault && text.trim() !== '' ? (
          <>
            {text.slice(0, fault.from)}
            <mark>{text.slice(fault.from, Math.max(fault.to, fault.from + 1)) || ' '}</mark>
            {text.slice(Math.max(fault.to, fault.from + 1))}
          </>
        ) : (
          text
        )}
      </Mirror>
      <Field
        ref={field}
        $wrong={fault !== null}
        rows={1}
        spellCheck={false}
        aria-label={name}
        aria-haspopup="listbox"
        aria-controls={offered.length > 0 ? list : undefined}
        aria-autocomplete="list"
        aria-activedescendant={offered.length > 0 ? `${list}-${chosen}` : undefined}
        aria-invalid={fault !== null}
        aria-describedby={`${id}-says`}
        value={text}
        onChange={(e) => write(e.target.value, e.target.selectionStart)}
        onKeyDown={onKey}
        onFocus={() => fault === null && onDraft?.(text)}
        onBlur={() => {
          take(text);
          setAt(null);
        }}
      />
      {offered.length > 0 && (
        <List id={list} role="listbox" aria-label="Words that fit" ref={intoView}>
          {offered.map((w, n) => (
            <li
              key={w.name}
              id={`${list}-${n}`}
              role="option"
              aria-selected={n === chosen}
              onPointerDown={(e) => {
                e.preventDefault();
                complete(w);
              }}
            >
              {w.shown} <small>{w.doc}</small>
            </li>
          ))}
        </List>
      )}
      <Says id={`${id}-says`} aria-live="polite" $wrong={fault !== null}>
        {fault
          ? `Character ${fault.from + 1}: ` +
            `${fault.message}${text === value ? '' : ' Until it is mended the last good one stays.'}`
          : result.ok && costOf(result.checked)}
      </Says>
    </Box>
  );
}

function writtenBy(writes: readonly { field: string }[]): string {
  const name = (field: string): string => {
    if (field.startsWith('push')) return 'push';
    return ['red', 'green', 'blue'].includes(field) ? 'colour' : field;
  };

  return [...new Set(writes.map((w) => name(w.field)))].join(', ');
}

/** How many steps a formula takes, and what it writes. */
function costOf({ steps, writes }: Checked): string {
  const written = writes.length > 0 ? `, writes ${writtenBy(writes)}` : '';
  return `${steps.length} steps a voxel${written}.`;
}

// The field of a formula, a CodeMirror editor: what is wrong is marked where it is, words are completed, and
// a slice shows what it does.
import { acceptCompletion, autocompletion, type CompletionSource } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { bracketMatching } from '@codemirror/language';
import { forceLinting, linter } from '@codemirror/lint';
import { Compartment, EditorState, type Extension } from '@codemirror/state';
import { EditorView, keymap } from '@codemirror/view';
import { useEffect, useId, useLayoutEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import styled, { useTheme } from 'styled-components';
import { check, type FormulaFault, type Checked } from '@bramblemist/core/formulas/check';
import { CALLS, VARIABLES, CONSTANTS, GIVEN } from '@bramblemist/core/formulas/language';
import { nonce } from '../nonce';
import type { FormulaPlace } from './formula-place';

const Box = styled.div`
  position: relative;
  margin: 4px 0;
  font: 13px/1.5 ${({ theme }) => theme.sans};
`;
const Says = styled.p<{ $wrong: boolean }>`
  margin: 3px 0 0;
  font: 12px/1.35 ${({ theme }) => theme.sans};
  color: ${({ theme, $wrong }) => ($wrong ? theme.rust : theme.quiet)};
`;

const WORDS = [
  ...CALLS.map((c) => ({ label: c.name, displayLabel: c.usage, detail: c.doc, apply: `${c.name}(` })),
  ...[...VARIABLES, ...GIVEN, ...CONSTANTS].map((w) => ({ label: w.name, detail: w.doc, apply: w.name })),
];
const TAKEN_OVER_AFTER_MS = 400;

const words: CompletionSource = (context) => {
  const word = context.matchBefore(/[A-Za-z_]\w*/);
  return word || context.explicit ? { from: word?.from ?? context.pos, options: WORDS } : null;
};

/** How it looks; the editor's own style sheet takes it. */
function useLook(wrong: boolean): Extension {
  const theme = useTheme();
  return useMemo(
    () =>
      EditorView.theme({
        '&': {
          color: theme.text,
          backgroundColor: theme.raised,
          border: `1px solid ${wrong ? theme.rust : theme.line}`,
          borderRadius: '4px',
        },
        '&.cm-focused': { outline: `2px solid ${theme.thorn}`, outlineOffset: '1px' },
        '.cm-scroller': { font: 'inherit' },
        '.cm-content': { padding: '5px 8px', caretColor: theme.text },
        '.cm-line': { padding: 0 },
        '.cm-lintRange-error': {
          backgroundImage: 'none',
          textDecoration: `underline wavy ${theme.rust} 1.5px`,
          textUnderlineOffset: '3px',
        },
        '&.cm-focused .cm-matchingBracket': {
          backgroundColor: 'transparent',
          outline: `1px solid ${theme.quiet}`,
        },
        '.cm-tooltip': {
          backgroundColor: theme.raised,
          color: theme.text,
          border: `1px solid ${theme.line}`,
          borderRadius: '6px',
        },
        '.cm-tooltip.cm-tooltip-autocomplete > ul': { font: 'inherit', maxWidth: '420px', maxHeight: '14em' },
        '.cm-tooltip.cm-tooltip-autocomplete > ul > li': { padding: '3px 8px' },
        '.cm-tooltip-autocomplete ul li[aria-selected]': {
          backgroundColor: theme.thorn,
          color: theme.onThorn,
        },
        '.cm-completionDetail': { fontStyle: 'normal', fontSize: '12px', opacity: 0.8 },
        '.cm-completionMatchedText': { textDecoration: 'none', fontWeight: 600 },
        '.cm-diagnostic-error': { borderLeft: 'none' },
      }),
    [theme, wrong],
  );
}

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
  const { moment, keep } = place;
  const result = useMemo(() => check(text, { moment, keep }), [text, moment, keep]);
  const fault: FormulaFault | null = result.ok ? null : result.fault;
  const says = useId();
  const host = useRef<HTMLDivElement>(null);
  const editor = useRef<EditorView | null>(null);
  /** What the editor's own events need as it stands now. */
  const now = useRef({ value, place, onChange });
  useLayoutEffect(() => {
    now.current = { value, place, onChange };
  });
  const [parts] = useState(() => ({ look: new Compartment(), told: new Compartment() }));
  const look = useLook(fault !== null);

  useEffect(() => {
    let timer = 0;
    const take = (next: string): void => {
      window.clearTimeout(timer);
      const { value: before, place: at, onChange: tell } = now.current;
      if (next !== before && check(next, at).ok) tell(next);
    };

    const textOf = (v: EditorView): string => v.state.doc.toString();
    const faults = linter(
      (v) => {
        const checked = check(textOf(v), now.current.place);
        if (checked.ok || textOf(v).trim() === '') return [];
        const { from, to, message } = checked.fault;
        const end = v.state.doc.length;
        const start = Math.min(from, Math.max(0, end - 1));
        return [{ from: start, to: Math.min(Math.max(to, start + 1), end), severity: 'error', message }];
      },
      { delay: 0 },
    );
    const view = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: now.current.value,
        extensions: [
          EditorView.cspNonce.of(nonce),
          history(),
          bracketMatching(),
          EditorView.lineWrapping,
          autocompletion({ override: [words], icons: false, interactionDelay: 0 }),
          faults,
          keymap.of([
            { key: 'Tab', run: acceptCompletion },
            {
              key: 'Mod-Enter',
              run: (v) => {
                take(textOf(v));
                return true;
              },
            },
            {
              key: 'Escape',
              run: (v) => {
                v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: now.current.value } });
                v.contentDOM.blur();
                return true;
              },
            },
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          EditorView.updateListener.of((update) => {
            const next = textOf(update.view);
            const { place: at } = now.current;
            if (update.docChanged) {
              setText(next);
              window.clearTimeout(timer);
              timer = window.setTimeout(() => take(next), TAKEN_OVER_AFTER_MS);
            }

            if (update.focusChanged && !update.view.hasFocus) take(next);
            if ((update.docChanged || (update.focusChanged && update.view.hasFocus)) && check(next, at).ok)
              at.onDraft?.(next);
          }),
          parts.look.of([]),
          parts.told.of([]),
        ],
      }),
    });
    editor.current = view;
    return () => {
      take(textOf(view));
      view.destroy();
    };
  }, [parts]);

  useEffect(() => {
    const attributes = {
      'aria-label': name,
      'aria-invalid': String(fault !== null),
      'aria-describedby': says,
    };
    editor.current?.dispatch({
      effects: [
        parts.look.reconfigure(look),
        parts.told.reconfigure(EditorView.contentAttributes.of(attributes)),
      ],
    });
  }, [parts, look, name, fault, says]);

  // undone or changed elsewhere
  useEffect(() => {
    const view = editor.current;
    if (!view || view.state.doc.toString() === value) return;
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: value } });
  }, [value]);
  // what may be written depends on what the cache keeps
  useEffect(() => void (editor.current && forceLinting(editor.current)), [moment, keep]);

  return (
    <Box onKeyDown={(e) => e.stopPropagation()}>
      <div ref={host} />
      <Says id={says} aria-live="polite" $wrong={fault !== null}>
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

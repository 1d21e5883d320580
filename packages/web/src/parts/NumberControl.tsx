// A number that stands in a sentence: press to type (units, arithmetic), drag to change, arrows to step.
import { useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import type { NumberSetting } from '@bramblemist/core/recipe/settings';
import { formatValue, parseTyped } from '@bramblemist/core/recipe/units';

const Shown = styled.span<{ $keyed: boolean }>`
  padding: 0 1px;
  user-select: none;
  color: ${({ theme }) => theme.text};
  font: 500 13px/1.3 ${({ theme }) => theme.sans};
  border-bottom: ${({ theme, $keyed }) =>
    $keyed ? `2px solid ${theme.straw}` : `1px dotted ${theme.thorn}`};
  cursor: ew-resize;
  touch-action: none;
  white-space: nowrap;
  &:hover {
    background: ${({ theme }) => theme.raised};
  }
`;
const Field = styled.input<{ $wrong: boolean }>`
  width: 92px;
  padding: 0 4px;
  font: 500 13px/1.4 ${({ theme }) => theme.sans};
  color: ${({ theme }) => theme.text};
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme, $wrong }) => ($wrong ? theme.rust : theme.thorn)};
  border-radius: 3px;
`;
const Wrong = styled.span`
  white-space: normal;
  display: block;
  color: ${({ theme }) => theme.rust};
  font: 12px/1.3 ${({ theme }) => theme.sans};
`;

const PIXELS_BEFORE_DRAG = 4;

export interface NumberControlProps {
  readonly setting: NumberSetting;
  readonly name: string;
  readonly value: number;
  readonly frameRate: number;
  /** Moved by keys. */
  readonly keyed?: boolean;
  readonly onChange: (value: number) => void;
}

function stepOf(s: NumberSetting, value: number): number {
  if (s.kind === 'integer') return 1;
  const size = [value, s.default].map(Math.abs).find((v) => v > 1e-9) ?? 1;
  return 10 ** (Math.floor(Math.log10(size)) - 1);
}

export function NumberControl({
  setting,
  name,
  value,
  frameRate,
  keyed = false,
  onChange,
}: NumberControlProps): ReactNode {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const drag = useRef<{ x: number; from: number; moved: boolean } | null>(null);
  const { word } = setting;
  const shown = value === word?.is ? word.text : formatValue(value, setting.unit);

  const put = (next: number): void => {
    const rounded = setting.kind === 'integer' ? Math.round(next) : Number(next.toPrecision(6));
    onChange(Math.min(setting.most, Math.max(setting.least, rounded)));
  };

  const commit = (typed: string): void => {
    const result =
      word && typed.trim().toLowerCase() === word.text
        ? { ok: true as const, value: word.is }
        : parseTyped(typed, setting.unit, frameRate);
    if (!result.ok) return setWrong(result.message);
    if (result.value < setting.least || result.value > setting.most) {
      return setWrong(
        `From ${formatValue(setting.least, setting.unit)} to ${formatValue(setting.most, setting.unit)}.`,
      );
    }

    setText(null);
    setWrong(null);
    if (result.value !== value) put(result.value);
  };

  const onKey = (e: KeyboardEvent): void => {
    const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[e.key];
    if (by) {
      e.preventDefault();
      put(value + by * stepOf(setting, value) * paceOf(e, setting.kind === 'number'));
    } else if (e.key === 'Enter' || e.key === ' ') {
      e.preventDefault();
      setText(shown);
    } else if (e.key === 'Delete' || e.key === 'Backspace') put(setting.default);
    else if (/^[\d.\-(]$/.test(e.key)) {
      e.preventDefault();
      setText(e.key);
    }
  };

  const onMove = (e: PointerEvent): void => {
    const d = drag.current;
    if (!d) return;
    const by = e.clientX - d.x;
    if (!d.moved && Math.abs(by) < PIXELS_BEFORE_DRAG) return;
    d.moved = true;
    put(d.from + Math.round(by / 3) * stepOf(setting, d.from) * paceOf(e, true));
  };

  if (text !== null) {
    return (
      <span>
        <Field
          autoFocus
          aria-label={`${name}${setting.unit ? ` in ${setting.unit}` : ''}`}
          aria-invalid={wrong !== null}
          $wrong={wrong !== null}
          value={text}
          onFocus={(e) => text === shown && e.currentTarget.select()}
          onChange={(e) => {
            setText(e.target.value);
            setWrong(null);
          }}
          onDoubleClick={() => {
            setText(null);
            setWrong(null);
            put(setting.default);
          }}
          onBlur={() => (wrong ? (setText(null), setWrong(null)) : commit(text))}
          onKeyDown={(e) => {
            if (e.key === 'Enter') commit(text);
            if (e.key === 'Escape') {
              setText(null);
              setWrong(null);
            }

            e.stopPropagation();
          }}
        />
        {wrong && <Wrong role="alert">{wrong}</Wrong>}
      </span>
    );
  }

  return (
    <Shown
      role="spinbutton"
      tabIndex={0}
      aria-label={name}
      aria-valuenow={value}
      aria-valuetext={shown}
      aria-valuemin={setting.least}
      aria-valuemax={setting.most}
      title={
        `${setting.label}: ${setting.doc} Drag, press to type, double press for ` +
        `${formatValue(setting.default, setting.unit)}.${
          keyed ? ' It has keys: a change sets one ' + 'at this frame.' : ''
        }`
      }
      $keyed={keyed}
      onKeyDown={onKey}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        drag.current = { x: e.clientX, from: value, moved: false };
      }}
      onPointerMove={onMove}
      onPointerUp={() => {
        if (drag.current && !drag.current.moved) setText(shown);
        drag.current = null;
      }}
      onPointerCancel={() => (drag.current = null)}
    >
      {shown}
    </Shown>
  );
}

/** Coarse with Shift, fine with Alt where finer than a step is to be had. */
function paceOf(e: { readonly shiftKey: boolean; readonly altKey: boolean }, fine: boolean): number {
  if (e.shiftKey) return 10;
  return e.altKey && fine ? 0.1 : 1;
}

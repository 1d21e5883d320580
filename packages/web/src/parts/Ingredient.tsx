// One ingredient: a sentence whose words are controls; unfolded, the settings that the sentence leaves out.
import { ChevronDown, ChevronRight, KeyRound } from 'lucide-react';
import { Fragment, type ReactNode } from 'react';
import { Button } from 'react-aria-components';
import styled from 'styled-components';
import { getAt } from '@bramblemist/core/recipe/paths';
import { isShown, type Part, type Setting } from '@bramblemist/core/recipe/settings';
import { Control, type ControlProps } from './controls';
import type { FormulaPlace } from './formula-place';
import { IngredientRows } from './IngredientRows';
import { PART, setOpened, useOpened } from './reveal';
import { isTold, pathsIn, tokens, type Condition, type Token } from './sentence';
import { Swatch, type Rgb } from './Swatch';

const Line = styled.div<{ $off: boolean; $selected: boolean }>`
  border-radius: 4px;
  box-shadow: ${({ theme, $selected }) => ($selected ? `-3px 0 0 ${theme.thorn}` : 'none')};
  position: relative;
  padding: 2px 0 6px 16px;
  opacity: ${({ $off }) => ($off ? 0.55 : 1)};
`;
const Text = styled.p`
  font: 15px/1.62 ${({ theme }) => theme.serif};
  color: ${({ theme }) => theme.text};
`;
const Fold = styled(Button)`
  position: absolute;
  left: -5px;
  top: 6px;
  background: none;
  border: none;
  padding: 1px;
  color: ${({ theme }) => theme.quiet};
  cursor: pointer;
  line-height: 0;
  &[data-hovered] {
    color: ${({ theme }) => theme.text};
  }
`;
const KeyButton = styled(Fold)`
  position: static;
  margin: 0 -6px 0 6px;
  padding: 3px;
  vertical-align: middle;
`;
/** The same in a sentence, close to its number. */
const InSentence = styled.span`
  ${KeyButton} {
    margin: 0 0 0 1px;
    padding: 2px;
  }
`;
const Rows = styled.div`
  border-left: 2px solid ${({ theme }) => theme.thorn};
  margin: 4px 0 6px 2px;
  padding-left: 12px;
`;
const Together = styled.span`
  white-space: nowrap;
  > div > button {
    white-space: normal;
    text-align: left;
  }
`;
const Note = styled.p`
  margin: 0;
  color: ${({ theme }) => theme.quiet};
  font-size: 12px;
`;

export interface Keyed {
  /** As it is at the frame that is shown; null where it has no keys. */
  readonly now: number | null;
  /** Sets a key at the frame that is shown. */
  readonly set: (value: number) => void;
  readonly toggle: () => void;
  readonly here: boolean;
}
export interface IngredientProps {
  readonly part: Part;
  readonly values: object;
  readonly frameRate: number;
  readonly targets?: ControlProps['targets'];
  /** Open and closed by what is selected in the scene. */
  readonly selected?: boolean;
  readonly onSelect?: () => void;
  readonly onChange: (path: string, label: string, value: unknown) => void;
  /** Of a number that may be keyed: whether it is, and what setting a key does; null for others. */
  readonly keysOf?: (setting: Setting) => Keyed | null;
  /** A line under the unfolded settings: what a change of them does. */
  readonly note?: string;
  /** What stands under the unfolded settings: curves of what they do. */
  readonly under?: ReactNode;
  /** Of a part with a formula: when and with what it is worked out. */
  readonly formulaAt?: FormulaPlace;
  /** Buttons that stand under the unfolded settings; they turn the ingredient on and off. */
  readonly actions?: ReactNode;
}

/** The three settings below a path. */
const partsOf = (part: Part, path: string): readonly Setting[] =>
  part.settings.filter((s) => s.path.startsWith(`${path}.`));

/** Whether a sentence’s path is that of a whole colour, shown as a swatch. */
const isColour = (part: Part, path: string): boolean =>
  partsOf(part, path)[0]?.label === 'red' && partsOf(part, path).length === 3;

export function Ingredient({
  part,
  values,
  frameRate,
  targets,
  keysOf,
  selected,
  onSelect,
  onChange,
  note,
  under,
  formulaAt,
  actions,
}: IngredientProps): ReactNode {
  const key = String(getAt(values, 'id') ?? part.key);
  const open = useOpened((s) => s.parts.has(key));
  const setOpen = (is: boolean): void => setOpened(key, is);
  const own = getAt(values, 'name');
  const title = typeof own === 'string' ? own : part.title;
  const parsed = tokens(part.sentence);
  const holds = (piece: Condition): boolean => isTold(piece, getAt(values, piece.path));

  const inSentence = new Set(pathsIn(parsed, holds));
  const control = (s: Setting): ReactNode => {
    const keyed = keysOf?.(s) ?? null;
    const now = keyed?.now ?? null;
    return (
      <Control
        setting={s}
        name={`${title}, ${s.label}`}
        keyed={now !== null}
        value={now ?? getAt(values, s.path)}
        frameRate={frameRate}
        targets={targets}
        formulaAt={formulaAt}
        onChange={(value) =>
          keyed && now !== null ? keyed.set(value as number) : onChange(s.path, `${title}: ${s.label}`, value)
        }
      />
    );
  };

  const keyButton = (s: Setting): ReactNode => {
    const keyed = keysOf?.(s);
    if (!keyed) return null;
    const what = keyed.here ? 'Take away the key of' : 'Set a key for';
    return (
      <KeyButton aria-label={`${what} ${title}, ${s.label}`} aria-pressed={keyed.here} onPress={keyed.toggle}>
        <KeyRound size={11} strokeWidth={keyed.here ? 3 : 1.5} />
      </KeyButton>
    );
  };

  /** A colour as one; where its numbers are keyed, a pick sets keys of them. */
  const swatch = (path: string): ReactNode => {
    const three = partsOf(part, path);
    const keyed = three.map((one) => keysOf?.(one) ?? null);
    const own = getAt(values, path) as Rgb;
    const pick = (rgb: Rgb): void => {
      if (keyed.every((k) => !k || k.now === null)) return onChange(path, `${title}: ${path}`, rgb);
      keyed.forEach((k, c) => k?.set(rgb[c]));
    };

    return (
      <Swatch
        name={`${title}, ${path}`}
        value={own.map((v, c) => keyed[c]?.now ?? v) as unknown as Rgb}
        onChange={pick}
        numbers={three.map((one) => (
          <span key={one.path}>
            {control(one)}
            {keyButton(one)}
          </span>
        ))}
      />
    );
  };

  const show = (list: readonly Token[]): ReactNode =>
    list.map((t, i) => {
      // a mark of punctuation stays with the control before it
      const mark = (n: number): string => {
        const next = list[n + 1];
        return list[n]?.kind === 'setting' && next?.kind === 'text'
          ? (/^[.,;:]+/.exec(next.text)?.[0] ?? '')
          : '';
      };

      if (t.kind === 'text') return <Fragment key={i}>{t.text.slice(mark(i - 1).length)}</Fragment>;
      if (t.kind === 'when') return holds(t) ? <Fragment key={i}>{show(t.inner)}</Fragment> : null;
      const s = part.settings.find((x) => x.path === t.path);
      if (!s && isColour(part, t.path))
        return (
          <Together key={i}>
            {swatch(t.path)}
            {mark(i)}
          </Together>
        );
      if (!s) return null;
      return (
        <Together key={i}>
          {control(s)}
          {open && <InSentence>{keyButton(s)}</InSentence>}
          {mark(i)}
        </Together>
      );
    });
  const rest = part.settings.filter(
    (s) =>
      s.path !== 'on' &&
      !inSentence.has(s.path) &&
      !inSentence.has(s.path.replace(/\.[012]$/, '')) &&
      isShown(part, s, (path) => getAt(values, path)),
  );
  const hasMore = rest.length > 0 || actions !== undefined || Boolean(under) || note !== undefined;
  return (
    <Line
      {...{ [PART]: key }}
      $off={getAt(values, 'on') === false}
      $selected={selected ?? false}
      onPointerDown={onSelect}
      onFocus={onSelect}
    >
      {hasMore && (
        <Fold
          aria-label={`${open ? 'Fold' : 'Unfold'} ${title}`}
          aria-expanded={open}
          onPress={() => setOpen(!open)}
        >
          {open ? <ChevronDown size={14} /> : <ChevronRight size={14} />}
        </Fold>
      )}
      <Text as="div">{show(parsed)}</Text>
      {open && (
        <Rows>
          <IngredientRows
            owner={key}
            title={title}
            settings={rest}
            heads={part.grouped ?? false}
            differs={(s) => 'default' in s && getAt(values, s.path) !== s.default}
            control={control}
            keyButton={keyButton}
            swatch={swatch}
          />
          {under}
          {actions}
          {note && <Note>{note}</Note>}
        </Rows>
      )}
    </Line>
  );
}

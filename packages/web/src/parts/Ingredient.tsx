// One ingredient: a sentence whose words are controls; unfolded, the settings that the sentence leaves out.
import { ChevronDown, ChevronRight } from 'lucide-react';
import { Fragment, useState, type ReactNode } from 'react';
import { Button } from 'react-aria-components';
import styled from 'styled-components';
import { getAt } from '@bramblemist/core/recipe/paths';
import { isShown, type Part, type Setting } from '@bramblemist/core/recipe/settings';
import { Control, type ControlProps } from './controls';
import { pathsIn, tokens, type Token } from './sentence';

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
const Rows = styled.div`
  border-left: 2px solid ${({ theme }) => theme.thorn};
  margin: 4px 0 6px 2px;
  padding-left: 12px;
`;
const Row = styled.div`
  display: flex;
  justify-content: space-between;
  gap: 8px;
  min-height: 24px;
  align-items: center;
  > span:first-child {
    color: ${({ theme }) => theme.quiet};
  }
`;

export interface IngredientProps {
  readonly part: Part;
  readonly values: object;
  readonly frameRate: number;
  readonly targets?: ControlProps['targets'];
  /** Open and closed by what is selected in the scene. */
  readonly selected?: boolean;
  readonly onSelect?: () => void;
  readonly onChange: (path: string, label: string, value: unknown) => void;
  /** Buttons that stand under the unfolded settings; they turn the ingredient on and off. */
  readonly actions?: ReactNode;
}

export function Ingredient({ part, values, frameRate, targets, selected, onSelect, onChange, actions }: IngredientProps): ReactNode {
  const [open, setOpen] = useState(false);
  const own = getAt(values, 'name'),
    title = typeof own === 'string' ? own : part.title;
  const parsed = tokens(part.sentence),
    inSentence = new Set(pathsIn(parsed));
  const control = (s: Setting): ReactNode => (
    <Control
      setting={s}
      name={`${title}, ${s.label}`}
      value={getAt(values, s.path)}
      frameRate={frameRate}
      targets={targets}
      onChange={(value) => onChange(s.path, `${title}: ${s.label}`, value)}
    />
  );
  const show = (list: readonly Token[]): ReactNode =>
    list.map((t, i) => {
      if (t.kind === 'text') return <Fragment key={i}>{t.text}</Fragment>;
      if (t.kind === 'when') return t.is.includes(String(getAt(values, t.path))) ? <Fragment key={i}>{show(t.inner)}</Fragment> : null;
      const s = part.settings.find((x) => x.path === t.path);
      return s ? <Fragment key={i}>{control(s)}</Fragment> : null;
    });
  const rest = part.settings.filter((s) => s.path !== 'on' && !inSentence.has(s.path) && isShown(part, s, (path) => getAt(values, path)));
  const hasMore = rest.length > 0 || actions !== undefined;
  return (
    <Line $off={getAt(values, 'on') === false} $selected={selected ?? false} onPointerDown={onSelect} onFocus={onSelect}>
      {hasMore && (
        <Fold aria-label={`${open ? 'Fold' : 'Unfold'} ${title}`} aria-expanded={open} onPress={() => setOpen(!open)}>
          {open ? <ChevronDown size={14} /> : <ChevronRight size={14} />}
        </Fold>
      )}
      <Text as="div">{show(parsed)}</Text>
      {open && (
        <Rows>
          {rest.map((s) => (
            <Row key={s.path} title={s.doc}>
              <span>{s.label}</span>
              <span>{control(s)}</span>
            </Row>
          ))}
          {actions}
        </Rows>
      )}
    </Line>
  );
}

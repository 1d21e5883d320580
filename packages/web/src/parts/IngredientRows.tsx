// The settings that a sentence leaves out, as rows: what belongs together in one, many of them under heads.
import { ChevronDown, ChevronRight } from 'lucide-react';
import { Fragment, type ReactNode } from 'react';
import { Button } from 'react-aria-components';
import styled from 'styled-components';
import { groupOf, GROUPS, type SettingGroup } from '@bramblemist/core/recipe/groups';
import type { Setting } from '@bramblemist/core/recipe/settings';
import { setOpened, useOpened } from './reveal';

const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0 8px;
  min-height: 24px;
  align-items: center;
  > span:first-child {
    color: ${({ theme }) => theme.quiet};
  }
  > span:last-child {
    display: inline-flex;
    flex-wrap: wrap;
    align-items: center;
    justify-content: flex-end;
    gap: 0 8px;
    margin-left: auto;
  }
`;
const Axis = styled.span`
  white-space: nowrap;
  > small {
    color: ${({ theme }) => theme.quiet};
    margin-right: 3px;
  }
`;
const Head = styled(Button)`
  display: flex;
  align-items: center;
  gap: 4px;
  width: 100%;
  min-height: 24px;
  margin-left: -5px;
  padding: 0;
  border: none;
  background: none;
  color: ${({ theme }) => theme.text};
  font: italic 14px/1.4 ${({ theme }) => theme.serif};
  cursor: pointer;
  svg {
    color: ${({ theme }) => theme.quiet};
  }
`;
/** As many rows stand without heads. */
const FEW = 8;

/** What stands in one row: a setting, three of them along the axes, or a colour. */
export interface RowUnit {
  readonly label: string;
  readonly settings: readonly Setting[];
  /** The path of a colour, shown as a swatch. */
  readonly colour: string | null;
}

const AXES = ['x', 'y', 'z'];

/** Settings as rows: places, turns and colours each in one. */
export function rowsOf(settings: readonly Setting[]): RowUnit[] {
  const rows: RowUnit[] = [];
  for (let n = 0; n < settings.length; n++) {
    const s = settings[n];
    const three = settings.slice(n, n + 3);
    const path = s.path.replace(/\.0$/, '');
    const together =
      path !== s.path && three.length === 3 && three.every((t, m) => t.path === `${path}.${m}`);
    const axes = together && three.every((t, m) => t.label.endsWith(` ${AXES[m]}`));
    const colour = together && s.label === 'red';
    if (axes) rows.push({ label: s.label.slice(0, -2), settings: three, colour: null });
    else if (colour) rows.push({ label: 'colour', settings: three, colour: path });
    else rows.push({ label: s.label, settings: [s], colour: null });
    if (axes || colour) n += 2;
  }

  return rows;
}

export interface RowControls {
  readonly control: (s: Setting) => ReactNode;
  readonly keyButton: (s: Setting) => ReactNode;
  readonly swatch: (path: string) => ReactNode;
}

function OneRow({ row, of }: { row: RowUnit; of: RowControls }): ReactNode {
  const { label, settings, colour } = row;
  return (
    <Row title={settings[0].doc}>
      <span>{label}</span>
      <span>
        {colour !== null
          ? of.swatch(colour)
          : settings.map((s, n) => (
              <Axis key={s.path}>
                {settings.length > 1 && <small aria-hidden>{AXES[n]}</small>}
                {of.control(s)}
                {of.keyButton(s)}
              </Axis>
            ))}
      </span>
    </Row>
  );
}

/**
 * @param owner id of the part; what is folded is remembered by it
 * @param differs whether a setting is other than a new part has it
 */
export function IngredientRows({
  owner,
  title,
  settings,
  heads,
  differs,
  ...of
}: RowControls & {
  owner: string;
  title: string;
  settings: readonly Setting[];
  /** Whether they may stand under heads. */
  heads: boolean;
  differs: (s: Setting) => boolean;
}): ReactNode {
  const rows = rowsOf(settings);
  const opened = useOpened((s) => s.parts);
  const show = (list: readonly RowUnit[]): ReactNode =>
    list.map((row) => <OneRow key={row.settings[0].path} row={row} of={of} />);
  if (!heads || rows.length <= FEW) return show(rows);
  const groups = new Map<SettingGroup, RowUnit[]>(GROUPS.map((g) => [g, []]));
  rows.forEach((row) => groups.get(groupOf(row.settings[0]))!.push(row));
  return [...groups].map(([group, list]) => {
    if (list.length === 0) return null;
    const key = `${owner}/${group}`;
    // what was set is seen at once; a press stays, whatever is set afterwards
    const isSet = list.some((row) => row.settings.some(differs));
    const open = opened.has(`${key}/open`) || (isSet && !opened.has(`${key}/shut`));
    const press = (): void => {
      setOpened(`${key}/open`, !open);
      setOpened(`${key}/shut`, open);
    };

    return (
      <Fragment key={group}>
        <Head
          aria-expanded={open}
          aria-label={`${open ? 'Fold' : 'Unfold'} ${group} of ${title}`}
          onPress={press}
        >
          {open ? <ChevronDown size={13} /> : <ChevronRight size={13} />} {group}
        </Head>
        {open && show(list)}
      </Fragment>
    );
  });
}

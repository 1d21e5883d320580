// The board: which shots are shown and in which order, and what is said of the day they are due.
import type { ShotCard } from '@bramblemist/contracts/payloads/board';
import {
  assigneesOf,
  daysUntil,
  dueWords,
  EVERYTHING,
  narrows,
  wantedOf,
} from '@bramblemist/web/board/filter';

const card = (id: number, of: Partial<ShotCard>): ShotCard => ({
  id,
  name: `Shot ${id}`,
  note: '',
  variants: 1,
  bakes: 0,
  picture: null,
  loop: [],
  status: 'work',
  assignee: '',
  due: null,
  computedS: 0,
  archived: false,
  changedAt: `2026-11-0${id}T00:00:00Z`,
  ...of,
});
const SHOTS = [
  card(1, {
    name: 'Weir at dawn',
    note: 'Mist over the lip',
    status: 'review',
    assignee: 'Mara',
    due: '2026-12-04',
  }),
  card(2, { name: 'Sack drop', assignee: 'Tobin' }),
  card(3, { name: 'Ice cellar', status: 'approved', assignee: 'Mara', due: '2026-11-30' }),
  card(4, { name: 'Old test of the weir', archived: true }),
];
const ids = (change: Partial<typeof EVERYTHING>): number[] =>
  wantedOf(SHOTS, { ...EVERYTHING, ...change }).map((s) => s.id);

test('what is archived is shown only where it is asked for', () => {
  expect(ids({})).toEqual([1, 2, 3]);
  expect(ids({ archived: true })).toEqual([1, 2, 3, 4]);
});

test('every word has to stand in the name, the note or the assignee', () => {
  expect(ids({ text: 'WEIR' })).toEqual([1]);
  expect(ids({ text: 'weir', archived: true })).toEqual([1, 4]);
  expect(ids({ text: ' lip mara ' })).toEqual([1]);
  expect(ids({ text: 'lip tobin' })).toEqual([]);
});

test('by status and assignee', () => {
  expect(ids({ status: 'approved' })).toEqual([3]);
  expect(ids({ assignee: 'Mara' })).toEqual([1, 3]);
  expect(ids({ assignee: 'Mara', status: 'work' })).toEqual([]);
  expect(narrows({ ...EVERYTHING, assignee: 'Mara' })).toBe(true);
  expect(narrows({ ...EVERYTHING, archived: true, text: ' ' })).toBe(false);
});

test('the next that is due comes first, those without a day last; or the last that was changed', () => {
  expect(ids({ order: 'due' })).toEqual([3, 1, 2]);
  expect(ids({ order: 'changed' })).toEqual([3, 2, 1]);
});

test('everyone who has a shot, once', () => {
  const production = { id: 1, name: '', note: '', archived: false, shots: SHOTS };
  expect(assigneesOf([production, production])).toEqual(['Mara', 'Tobin']);
});

test('days are those of the calendar, whatever the time of the day', () => {
  const late = new Date(2026, 10, 29, 23, 50);
  expect(daysUntil('2026-11-30', late)).toBe(1);
  expect(daysUntil('2026-11-29', new Date(2026, 10, 29, 0, 5))).toBe(0);
  // over the change of the clocks
  expect(daysUntil('2026-04-01', new Date(2026, 2, 1, 12))).toBe(31);
  expect(dueWords('2026-11-29', late)).toBe('due today');
  expect(dueWords('2026-11-30', late)).toBe('due tomorrow');
  expect(dueWords('2026-11-28', late)).toBe('due yesterday');
  expect(dueWords('2026-12-04', late)).toBe('due 4 Dec');
  expect(dueWords('2027-01-04', late)).toBe('due 4 Jan 2027');
  expect(dueWords('2026-11-19', late)).toBe('was due 19 Nov, 10 days ago');
});

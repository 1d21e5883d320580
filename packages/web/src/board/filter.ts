// Which shots of the board are shown, and in which order.
import type { ProductionCard, ShotCard, ShotStatus } from '@bramblemist/contracts/payloads/board';

export const STATUS_WORDS: Readonly<Record<ShotStatus, string>> = {
  work: 'in work',
  review: 'in review',
  approved: 'approved',
};
export const ORDERS = {
  placed: 'as placed',
  due: 'due first',
  changed: 'last changed first',
} as const;
export type Order = keyof typeof ORDERS;

export interface Wanted {
  /** Words that stand in a shot's name, note or assignee. */
  readonly text: string;
  readonly status: ShotStatus | 'any';
  readonly assignee: string;
  readonly order: Order;
  readonly archived: boolean;
}
export const EVERYTHING: Wanted = { text: '', status: 'any', assignee: '', order: 'placed', archived: false };

/** Whether shots are left out by anything but the archive. */
export const narrows = ({ text, status, assignee }: Wanted): boolean =>
  text.trim() !== '' || status !== 'any' || assignee !== '';

/** Shots of a production as they are wanted; words may stand anywhere, all of them have to. */
export function wantedOf(shots: readonly ShotCard[], wanted: Wanted): ShotCard[] {
  const words = wanted.text.toLowerCase().split(/\s+/).filter(Boolean);
  const found = shots.filter((s) => {
    const said = `${s.name} ${s.note} ${s.assignee}`.toLowerCase();
    return (
      (wanted.archived || !s.archived) &&
      (wanted.status === 'any' || s.status === wanted.status) &&
      (wanted.assignee === '' || s.assignee === wanted.assignee) &&
      words.every((w) => said.includes(w))
    );
  });
  if (wanted.order === 'changed') found.sort((a, b) => (a.changedAt < b.changedAt ? 1 : -1));
  // those without a day come last
  if (wanted.order === 'due') found.sort((a, b) => ((a.due ?? '9') < (b.due ?? '9') ? -1 : 1));
  return found;
}

/** Everyone who has a shot, by name. */
export const assigneesOf = (board: readonly ProductionCard[]): string[] =>
  [...new Set(board.flatMap((p) => p.shots.map((s) => s.assignee)))].filter(Boolean).sort();

const DAY_MS = 86_400_000;

/** Whole days from today until a day; negative once it is over. Both are days of the calendar here. */
export function daysUntil(due: string, now: Date): number {
  const [year, month, day] = due.split('-').map(Number);
  const today = Date.UTC(now.getFullYear(), now.getMonth(), now.getDate());
  return Math.round((Date.UTC(year, month - 1, day) - today) / DAY_MS);
}

/** When a shot is due, in words. */
export function dueWords(due: string, now: Date): string {
  const days = daysUntil(due, now);
  if (days === 0) return 'due today';
  if (days === 1) return 'due tomorrow';
  if (days === -1) return 'due yesterday';
  const [year, month, day] = due.split('-').map(Number);
  const date = new Date(Date.UTC(year, month - 1, day)).toLocaleDateString('en-GB', {
    timeZone: 'UTC',
    day: 'numeric',
    month: 'short',
    ...(year === now.getFullYear() ? {} : { year: 'numeric' }),
  });
  return days < 0 ? `was due ${date}, ${-days} days ago` : `due ${date}`;
}

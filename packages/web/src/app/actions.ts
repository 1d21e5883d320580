// What keys do in a shot: the actions, their keys at first and as this person has changed them.
import { create } from 'zustand';

export const ACTIONS = [
  { id: 'find', keys: 'Ctrl+k', does: 'find any action or setting' },
  { id: 'shortcuts', keys: '?', does: 'this page' },
  { id: 'play', keys: 'Space', does: 'play and pause' },
  { id: 'back', keys: '[', does: 'a frame back' },
  { id: 'on', keys: ']', does: 'a frame on; of a paused run at its end, compute one more' },
  { id: 'loop', keys: 'l', does: 'play over and over, or once' },
  { id: 'undo', keys: 'Ctrl+z', does: 'undo' },
  { id: 'redo', keys: 'Ctrl+Shift+z', does: 'redo' },
  { id: 'domain', keys: 'h', does: 'the whole domain in the window' },
  { id: 'camera', keys: 'c', does: 'look through the shot camera' },
  { id: 'hold', keys: 'j', does: 'hold the run as it is, to compare; end comparing' },
  { id: 'mode', keys: 'k', does: 'the next way to compare' },
] as const;
export type ActionId = (typeof ACTIONS)[number]['id'];

/** What works only where the focus is, and cannot be changed. */
export const FIXED: readonly (readonly [string, string])[] = [
  ['← →', 'a frame back, a frame on (on the reel)'],
  ['Page Up, Page Down', 'twelve frames (on the reel)'],
  ['Home, End', 'first and last frame (on the reel)'],
  ['drag, Shift-drag, Alt-drag', 'a number; coarser; finer'],
  ['Enter', 'type into a number: 40 cm, 18 f, 2*0.35 m'],
  ['double press', 'a number back to its default'],
  ['Tab', 'complete a word of a formula'],
];

const KEPT = 'bramblemist.shortcuts';
/** Of the browser, or of all pages. */
const TAKEN = new RegExp(
  '^(Tab|Shift\\+Tab|Escape|Enter|F\\d+|Alt\\+.*|' +
    'Ctrl\\+(Shift\\+)?(t|w|n|r|l|p|s|f|d|j|h|u|q|o|a|c|v|x|\\d|Tab|PageUp|PageDown|=|-|0)|' +
    'Arrow.*|PageUp|PageDown|Home|End)$',
  'i',
);

type Keys = Readonly<Record<ActionId, string>>;
const FIRST = Object.fromEntries(ACTIONS.map((a) => [a.id, a.keys])) as Keys;

function kept(): Keys {
  try {
    const own = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Record<string, unknown>;
    return Object.fromEntries(
      ACTIONS.map((a) => [a.id, typeof own[a.id] === 'string' ? own[a.id] : a.keys]),
    ) as Keys;
  } catch {
    return FIRST;
  }
}

export const useKeys = create<{ readonly keys: Keys }>(() => ({
  keys: typeof localStorage === 'undefined' ? FIRST : kept(),
}));

function keep(keys: Keys): void {
  useKeys.setState({ keys });
  localStorage.setItem(
    KEPT,
    JSON.stringify(Object.fromEntries(Object.entries(keys).filter(([id, k]) => FIRST[id as ActionId] !== k))),
  );
}

export const keysAsAtFirst = (): void => keep(FIRST);

/** How a press is written: `Ctrl+Shift+z`, `?`, `Space`; '' for a modifier alone. */
export function pressed(
  e: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>,
): string {
  if (['Control', 'Shift', 'Alt', 'Meta', 'Dead', 'CapsLock'].includes(e.key)) return '';
  const letter = /^[a-z]$/i.test(e.key);
  const plain = letter ? e.key.toLowerCase() : e.key;
  const key = e.key === ' ' ? 'Space' : plain;
  // of signs, Shift is part of how they are made
  const held = [
    (e.ctrlKey || e.metaKey) && 'Ctrl',
    e.altKey && 'Alt',
    e.shiftKey && (letter || e.key.length > 1) && 'Shift',
  ].filter(Boolean);
  return [...held, key].join('+');
}

/** @returns why the keys cannot be given to the action; null where they were */
export function giveKeys(id: ActionId, keys: string): string | null {
  if (TAKEN.test(keys)) return `${keys} belongs to the browser or to the reel.`;
  const now = useKeys.getState().keys;
  const other = ACTIONS.find((a) => a.id !== id && now[a.id] === keys);
  if (other) return `${keys} is “${other.does}” already.`;
  keep({ ...now, [id]: keys });
  return null;
}

export function actionOf(keys: string): ActionId | null {
  const now = useKeys.getState().keys;
  return ACTIONS.find((a) => now[a.id] === keys)?.id ?? null;
}

// Keys of actions: how a press is written, and giving an action another.
import { actionOf, ACTIONS, giveKeys, keysAsAtFirst, pressed } from '@bramblemist/web/app/actions';

const store = new Map<string, string>();
beforeAll(() => {
  (globalThis as { localStorage?: unknown }).localStorage = {
    getItem: (k: string) => store.get(k) ?? null,
    setItem: (k: string, v: string) => void store.set(k, v),
  };
});
beforeEach(() => keysAsAtFirst());
const press = (key: string, more: Partial<KeyboardEvent> = {}): string =>
  pressed({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...more });

test('a press is written with its modifiers; of signs Shift is part', () => {
  expect(press('z', { ctrlKey: true })).toBe('Ctrl+z');
  expect(press('Z', { ctrlKey: true, shiftKey: true })).toBe('Ctrl+Shift+z');
  expect(press('z', { metaKey: true })).toBe('Ctrl+z');
  expect(press('?', { shiftKey: true })).toBe('?');
  expect(press(' ')).toBe('Space');
  expect(press('Shift', { shiftKey: true })).toBe('');
});
test('no two actions begin with the same keys, and each is found by its own', () => {
  expect(new Set(ACTIONS.map((a) => a.keys)).size).toBe(ACTIONS.length);
  for (const a of ACTIONS) expect(actionOf(a.keys)).toBe(a.id);
});
test('an action takes other keys, which are kept, and is back at first when told', () => {
  expect(giveKeys('domain', 'w')).toBeNull();
  expect(actionOf('w')).toBe('domain');
  expect(actionOf('h')).toBeNull();
  expect(JSON.parse(store.get('bramblemist.shortcuts')!)).toEqual({ domain: 'w' });
  keysAsAtFirst();
  expect(actionOf('h')).toBe('domain');
  expect(store.get('bramblemist.shortcuts')).toBe('{}');
});
test('keys of another action or of the browser are refused, with the reason', () => {
  expect(giveKeys('domain', 'l')).toContain('over and over');
  expect(giveKeys('domain', 'Ctrl+w')).toContain('browser');
  expect(giveKeys('domain', 'ArrowLeft')).toContain('reel');
  expect(actionOf('h')).toBe('domain');
});

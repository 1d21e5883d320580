/** @jest-environment jsdom */
// A number of a sentence: typed with units and arithmetic, stepped, dragged, refused in words.
import { act, fireEvent, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { number } from '@bramblemist/core/recipe/settings';
import { NumberControl } from '@bramblemist/web/parts/NumberControl';
import { drawn, pointer } from './drawn';

const SPEED = number('speed', 'speed', 'm/s', [0, 50], 2, 'How fast the wind is.');

function show(value = 2): { changes: number[]; field: HTMLElement } {
  const changes: number[] = [];
  drawn(
    <NumberControl
      setting={SPEED}
      name="Wind, speed"
      value={value}
      frameRate={24}
      onChange={(v) => changes.push(v)}
    />,
  );
  return { changes, field: screen.getByRole('spinbutton', { name: 'Wind, speed' }) };
}

test('says its value with its unit, and its bounds', () => {
  const { field } = show();
  expect(field.textContent).toBe('2 m/s');
  expect([field.getAttribute('aria-valuemin'), field.getAttribute('aria-valuemax')]).toEqual(['0', '50']);
});

test('takes arithmetic and other units, and the same value is no change', async () => {
  const { changes, field } = show();
  const user = userEvent.setup();
  field.focus();
  await user.keyboard('{Enter}');
  await user.clear(screen.getByRole('textbox'));
  await user.keyboard('2*3 m/s{Enter}');
  expect(changes).toEqual([6]);
  screen.getByRole('spinbutton').focus();
  await user.keyboard('{Enter}');
  await user.clear(screen.getByRole('textbox'));
  await user.keyboard('36 km/h{Enter}');
  expect(changes).toEqual([6, 10]);
  screen.getByRole('spinbutton').focus();
  await user.keyboard('{Enter}{Enter}');
  expect(changes).toEqual([6, 10]);
});

test('what is out of bounds or no number is refused in words and can be left', async () => {
  const { changes, field } = show();
  const user = userEvent.setup();
  field.focus();
  await user.keyboard('80{Enter}');
  expect(screen.getByRole('alert').textContent).toBe('From 0 m/s to 50 m/s.');
  await user.clear(screen.getByRole('textbox'));
  await user.keyboard('quick{Enter}');
  expect(screen.getByRole('alert').textContent).toBe('Type a number, such as 4 or 4 cm/s.');
  await user.keyboard('{Escape}');
  expect(screen.getByRole('spinbutton').textContent).toBe('2 m/s');
  expect(changes).toEqual([]);
});

test('arrows step, Shift makes them coarse, Alt fine; Delete is the default', () => {
  const { changes, field } = show(5);
  fireEvent.keyDown(field, { key: 'ArrowUp' });
  fireEvent.keyDown(field, { key: 'ArrowDown', shiftKey: true });
  fireEvent.keyDown(field, { key: 'ArrowRight', altKey: true });
  fireEvent.keyDown(field, { key: 'Delete' });
  expect(changes).toEqual([5.1, 4, 5.01, 2]);
});

test('a drag changes it within its bounds, a press without one opens it', () => {
  const { changes, field } = show(2);
  act(() => {
    pointer(field, 'down', { x: 100 });
    pointer(field, 'move', { x: 102 });
  });
  expect(changes).toEqual([]);
  act(() => {
    pointer(field, 'move', { x: 130 });
    pointer(field, 'move', { x: 9000, shiftKey: true });
    pointer(field, 'up', { x: 9000 });
  });
  expect(changes).toEqual([3, 50]);
  act(() => {
    pointer(field, 'down', { x: 100 });
    pointer(field, 'up', { x: 100 });
  });
  expect(screen.getByRole<HTMLInputElement>('textbox').value).toBe('2 m/s');
});

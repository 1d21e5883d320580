/** @jest-environment jsdom */
// An ingredient's sentence, a thing that is dragged, the reel and its lanes, as they are drawn and pressed.
import { act, fireEvent, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import { partOf } from '@bramblemist/core/recipe/settings';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Readings } from '@bramblemist/core/record/readings';
import { usePlayhead } from '@bramblemist/web/data/playhead';
import { change } from '@bramblemist/web/data/bench';
import { Ingredient } from '@bramblemist/web/parts/Ingredient';
import { setOpened } from '@bramblemist/web/parts/reveal';
import { Charts } from '@bramblemist/web/readings/Charts';
import { Lanes } from '@bramblemist/web/reel/Lanes';
import { Reel, type FrameState } from '@bramblemist/web/reel/Reel';
import { dark } from '@bramblemist/web/app/theme';
import { drawn, pointer } from './drawn';

// what is changed is told, and saved nowhere
jest.mock('@bramblemist/web/data/bench', () => ({
  ...jest.requireActual<object>('@bramblemist/web/data/bench'),
  change: jest.fn(),
}));

describe('an ingredient', () => {
  const WIND = partOf(RECIPE.parts, 'wind');
  const { wind } = RECIPE.parse({ wind: { speed: 3 } }) as Recipe;

  test('reads as a sentence whose values are controls', () => {
    const { container } = drawn(<Ingredient part={WIND} values={wind} frameRate={24} onChange={() => {}} />);
    expect(container.textContent).toMatch(/^Wind of 3 m\/s toward .+ takes hold within .+\.$/);
    expect(screen.getByRole('spinbutton', { name: 'Wind, speed' }).getAttribute('aria-valuenow')).toBe('3');
  });

  test('unfolds to what the sentence leaves out, and tells what was changed', async () => {
    const told: [string, string, unknown][] = [];
    drawn(
      <Ingredient
        part={WIND}
        values={wind}
        frameRate={24}
        note="It is taken up as the run goes on."
        onChange={(...change) => told.push(change)}
      />,
    );
    expect(screen.queryByText('It is taken up as the run goes on.')).toBeNull();
    await userEvent.setup().click(screen.getByRole('button', { name: 'Unfold Wind' }));
    expect(screen.getByText('It is taken up as the run goes on.')).toBeTruthy();
    fireEvent.keyDown(screen.getByRole('spinbutton', { name: 'Wind, speed' }), { key: 'ArrowUp' });
    expect(told).toEqual([['speed', 'Wind: speed', 3.1]]);
    act(() => setOpened('wind', false));
  });
});

describe('the reel', () => {
  const reading = (mass: number): Readings => ({ mass, riseHeight: mass / 2, topSpeed: 1 }) as Readings;
  const show = (stateOf: (f: number) => FrameState = () => 'none') => {
    const steps: number[] = [];
    const plays: boolean[] = [];
    const result = drawn(
      <Reel
        first={1}
        last={48}
        frame={12}
        frameRate={24}
        playing={false}
        stateOf={stateOf}
        readings={new Map([1, 2, 12].map((f) => [f, reading(f)]))}
        flags={[7]}
        note="run complete"
        legend="12 of 48 computed"
        onPlay={(p) => plays.push(p)}
        onStep={(by) => steps.push(by)}
      />,
    );
    return { ...result, steps, plays };
  };

  test('says its frame, its time and what the readings are there', () => {
    show();
    const slider = screen.getByRole('slider', { name: 'Frame' });
    expect(slider.getAttribute('aria-valuetext')).toBe('Frame 12. 12 of 48 computed');
    expect(screen.getByText('0.46 s · run complete')).toBeTruthy();
    expect(screen.getByText(/^mass 12/)).toBeTruthy();
  });

  test('frames in the same state are one strip, what was noticed has a flag', () => {
    const { container } = show((f) => (['live', 'stale', 'none'] as const)[Number(f > 12) + Number(f > 20)]);
    const strips = [...container.querySelectorAll('svg > rect')].map((r) => Number(r.getAttribute('width')));
    const cell = 800 / 48;
    expect(strips.slice(0, 3).map((w) => Math.round(w / cell))).toEqual([12, 8, 28]);
    const rust = container.querySelectorAll(`svg > path[fill='${dark.rust}']`);
    expect(rust).toHaveLength(1);
  });

  test('goes by keys and buttons, and stays within its frames', async () => {
    const { steps, plays } = show();
    const slider = screen.getByRole('slider', { name: 'Frame' });
    const goes = (key: string): number => {
      fireEvent.keyDown(slider, { key });
      return usePlayhead.getState().frame;
    };

    expect(['ArrowRight', 'ArrowLeft', 'PageUp', 'PageDown', 'Home', 'End'].map(goes)).toEqual([
      13, 11, 1, 24, 1, 48,
    ]);
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: 'A frame on' }));
    await user.click(screen.getByRole('button', { name: 'Play' }));
    expect([steps, plays]).toEqual([[1], [true]]);
  });
});

describe('a lane of keys', () => {
  const keyed = RECIPE.parse({
    curves: [
      {
        id: 'c',
        path: 'wind/speed',
        after: 'hold',
        keys: [
          { frame: 1, value: 0, ease: 'smooth' },
          { frame: 25, value: 4, ease: 'hold' },
        ],
      },
    ],
  }) as Recipe;
  const show = () => drawn(<Lanes document="recipe" content={keyed} first={1} last={49} frame={25} />);

  test('shows each key with its value, and says nothing without any', () => {
    show();
    expect(screen.getByRole('button', { name: 'Wind: speed: 4 m/s at frame 25' })).toBeTruthy();
    const { container } = drawn(
      <Lanes document="recipe" content={{ ...keyed, curves: [] }} first={1} last={49} frame={25} />,
    );
    expect(container.textContent).toBe('');
  });

  test('a press goes to its frame', () => {
    show();
    fireEvent.click(screen.getByRole('button', { name: /at frame 25/ }));
    expect(usePlayhead.getState().frame).toBe(25);
    expect(change).not.toHaveBeenCalled();
    pointer(screen.getByRole('button', { name: /at frame 25/ }), 'up', { x: 0 });
  });

  test('unfolds to its curve, and to what can be done with its keys', async () => {
    const { container } = show();
    const user = userEvent.setup();
    expect(container.querySelector('polyline')).toBeNull();
    await user.click(screen.getByRole('button', { name: /▸ Wind: speed$/ }));
    expect(container.querySelector('polyline')!.getAttribute('points')!.split(' ')).toHaveLength(98);
    await user.click(screen.getByRole('button', { name: 'Keys of Wind: speed' }));
    await user.click(screen.getByRole('menuitem', { name: 'Slower by a quarter' }));
    expect(change).toHaveBeenCalledWith('stretch Wind: speed', 'recipe', 'curves.0', {
      ...keyed.curves[0],
      keys: [keyed.curves[0].keys[0], { frame: 31, value: 4, ease: 'hold' }],
    });
  });
});

describe('charts of readings', () => {
  const frames = [10, 11, 12, 13, 14].map((frame) => ({
    frame,
    readings: { mass: frame, topSpeed: 1, riseHeight: 1 } as Readings,
  }));

  test('a line stands where the reel does, and nowhere beyond their frames', () => {
    act(() => usePlayhead.setState({ frame: 11 }));
    const { container } = drawn(<Charts runs={[{ name: 'bake 1', frames, frameS: 1 / 24 }]} />);
    expect(screen.getAllByRole('figure').length).toBeGreaterThan(1);
    const box = container.firstElementChild as HTMLElement;
    expect(box.style.getPropertyValue('--at')).toBe('0.25');
    act(() => usePlayhead.setState({ frame: 14 }));
    expect(box.style.getPropertyValue('--at')).toBe('1');
    expect(box.hasAttribute('data-outside')).toBe(false);
    act(() => usePlayhead.setState({ frame: 15 }));
    expect(box.hasAttribute('data-outside')).toBe(true);
  });
});

import { goToStep, startTour, STEPS, useTour, type Seen } from '@bramblemist/web/tour/tour';

const store = new Map<string, string>();
beforeAll(() => {
  Object.assign(globalThis, {
    localStorage: {
      getItem: (key: string) => store.get(key) ?? null,
      setItem: (key: string, value: string) => void store.set(key, value),
    },
  });
});

const SEEN: Seen = {
  ...{ path: '/shots/1/set-up', changes: 2, eye: '1,2,3', isStill: false, frame: 0 },
  ...{ bakes: 1, renders: 0, combines: 0, movies: 0 },
};
/** What is done in each step, in their order. */
const DONE: readonly Partial<Seen>[] = [
  { eye: '2,2,3' },
  { changes: 3 },
  { isStill: true, frame: 40 },
  { path: '/shots/1/run' },
  { bakes: 2 },
  { path: '/shots/1/light' },
  { renders: 1 },
  { path: '/shots/1/combine' },
  { combines: 1 },
  { movies: 1 },
  { path: '/shots/1/hand-over' },
];

test('each step is done by what it asks for, and by nothing before it', () => {
  expect(DONE).toHaveLength(STEPS.length);
  STEPS.forEach(({ isDone }, n) => {
    expect([n, isDone(SEEN, SEEN)]).toEqual([n, false]);
    expect([n, isDone({ ...SEEN, ...DONE[n] }, SEEN)]).toEqual([n, true]);
  });
});

test('a scene that comes to stand was turned by nobody', () => {
  expect(STEPS[0].isDone(SEEN, { ...SEEN, eye: '' })).toBe(false);
});

test('where one is in it is kept; beyond its ends it is over', () => {
  startTour();
  expect(useTour.getState().step).toBe(0);
  goToStep(4);
  expect(store.get('bramblemist.tour')).toBe('4');
  goToStep(STEPS.length);
  expect([useTour.getState().step, store.get('bramblemist.tour')]).toEqual([null, '']);
  goToStep(-1);
  expect(useTour.getState().step).toBeNull();
});

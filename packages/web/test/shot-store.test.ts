// What the page knows of a shot is put away with it and comes back with it.
import { enterShot, shotStore } from '@bramblemist/web/data/shot-store';

test('each shot has its own, and what does not return begins anew', () => {
  const useChosen = shotStore<{ id: string | null }>(() => ({ id: null }), { returns: true });
  const useSeen = shotStore<{ n: number }>(() => ({ n: 0 }), { returns: false });
  enterShot(1);
  useChosen.setState({ id: 'lip' });
  useSeen.setState({ n: 7 });
  enterShot(1);
  expect(useChosen.getState().id).toBe('lip');
  enterShot(2);
  expect([useChosen.getState().id, useSeen.getState().n]).toEqual([null, 0]);
  useChosen.setState({ id: 'hatch' });
  useSeen.setState({ n: 3 });
  enterShot(1);
  expect([useChosen.getState().id, useSeen.getState().n]).toEqual(['lip', 0]);
  enterShot(2);
  expect([useChosen.getState().id, useSeen.getState().n]).toEqual(['hatch', 0]);
});

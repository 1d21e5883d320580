// What is chosen in the page and in the window at once, and the source that is looked at alone.
import { shotStore } from './shot-store';

export const useSelection = shotStore<{ readonly id: string | null; readonly alone: string | null }>(
  () => ({ id: null, alone: null }),
  { returns: true },
);

export function select(id: string | null): void {
  if (useSelection.getState().id !== id) useSelection.setState({ id });
}

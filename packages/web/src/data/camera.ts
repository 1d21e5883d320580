// Which of a look's cameras the window sees through; null: the shot's own.
import { shotStore } from './shot-store';

export const useThrough = shotStore<{ readonly camera: string | null }>(() => ({ camera: null }), {
  returns: true,
});

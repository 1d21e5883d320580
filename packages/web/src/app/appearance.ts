// Dark or light, as chosen on this machine; dark until then.
import { create } from 'zustand';

export type Appearance = 'dark' | 'light';
const KEY = 'bramblemist.theme';

const kept = (): Appearance => (localStorage.getItem(KEY) === 'light' ? 'light' : 'dark');

export const useAppearance = create<{ readonly appearance: Appearance }>(() => ({ appearance: kept() }));

export function choose(appearance: Appearance): void {
  localStorage.setItem(KEY, appearance);
  useAppearance.setState({ appearance });
}

// a choice in another window holds here too
window.addEventListener('storage', ({ key }) => {
  if (key === KEY) useAppearance.setState({ appearance: kept() });
});

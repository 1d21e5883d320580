// What the page knows of the shot that is open: what is chosen, where one looks from, which frame is shown.
// Each shot has its own: it is put away as another one is opened and brought back with it.
import { create, type StoreApi, type UseBoundStore } from 'zustand';

type Store<T> = UseBoundStore<StoreApi<T>>;

interface Scoped {
  /** Puts away what it knows, and takes up what it knew of the shot that is opened. */
  readonly change: (from: number | null, to: number) => void;
}

const stores: Scoped[] = [];
let open: number | null = null;

/** @param returns whether it is as it was when the shot is opened again; otherwise it begins anew */
export function shotStore<T extends object>(initial: () => T, { returns }: { returns: boolean }): Store<T> {
  const use = create<T>(initial);
  const away = new Map<number, T>();
  stores.push({
    change: (from, to) => {
      if (returns && from !== null) away.set(from, use.getState());
      use.setState(away.get(to) ?? initial(), true);
    },
  });
  return use;
}

export function enterShot(id: number): void {
  if (open === id) return;
  for (const store of stores) store.change(open, id);
  open = id;
}

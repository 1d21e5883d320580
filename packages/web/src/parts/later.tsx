// Parts of the page that are loaded when they are shown, so that the first ones are there soon. React's own
// way shows such a part with its least urgent work, which a page that plays a run may put off for a minute.
import { memo, useEffect, useState, type ComponentType, type ReactNode } from 'react';
import { flushSync } from 'react-dom';

const TRIES = 3;
const AGAIN_MS = 1000;

/** Asks once more where a server that is starting again did not answer. */
async function patiently<T>(load: () => Promise<T>): Promise<T> {
  for (let n = 1; ; n++) {
    try {
      return await load();
    } catch (error) {
      if (n === TRIES) throw error;
      await new Promise((done) => setTimeout(done, AGAIN_MS));
    }
  }
}

/**
 * @param load the module, asked for when the part is shown first
 * @param name of the component in it
 * @param meanwhile what stands there until it is loaded
 */
export function later<P extends object, K extends string>(
  load: () => Promise<Record<K, ComponentType<P>>>,
  name: K,
  meanwhile: ReactNode = null,
): ComponentType<P> {
  let Part: ComponentType<P> | null = null;
  let coming: Promise<void> | null = null;
  const fetched = (): Promise<void> =>
    (coming ??= patiently(load).then(
      (module) => void (Part = memo(module[name]) as unknown as ComponentType<P>),
      (error: Error) => {
        coming = null; // drawn again, it is asked for again
        throw error;
      },
    ));

  return function Later(props: P): ReactNode {
    const [state, setState] = useState<'waits' | 'there' | Error>(Part ? 'there' : 'waits');
    useEffect(() => {
      if (Part) return;
      let shown = true;
      const set = (next: 'there' | Error): void => void (shown && flushSync(() => setState(next)));
      fetched().then(() => set('there'), set);
      return () => void (shown = false);
    }, []);
    if (state instanceof Error) throw state;
    return Part ? <Part {...props} /> : meanwhile;
  };
}

// Parts of the page that are loaded when they are shown, so that the first ones are there soon.
import { lazy, memo, Suspense, type ComponentType, type ReactNode } from 'react';

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
  const Part = lazy(async () => ({ default: (await load())[name] as ComponentType<object> }));
  return memo(function Later(props: P): ReactNode {
    return (
      <Suspense fallback={meanwhile}>
        <Part {...props} />
      </Suspense>
    );
  }) as unknown as ComponentType<P>;
}

import type { Combine } from '@bramblemist/core/combine/combine';
import { replace, useBench } from '../../data/bench';

/** One named change of the comp as it is now. */
export function changeComp(label: string, next: (comp: Combine) => Combine): void {
  const { documents } = useBench.getState();
  if (documents) replace(label, { ...documents, combine: next(documents.combine) });
}

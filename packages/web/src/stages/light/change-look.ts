import type { Look } from '@bramblemist/core/look/look';
import { replace, useBench } from '../../data/bench';

/** One named change of the look as it is now. */
export function changeLook(label: string, next: (look: Look) => Look): void {
  const { documents } = useBench.getState();
  if (documents) replace(label, { ...documents, look: next(documents.look) });
}

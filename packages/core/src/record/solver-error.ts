// A step that cannot go on: when, where, why, and what to do.
import { CoreError } from '../base/error';
import type { Triple } from '../math/vector';

/** Something went wrong inside a step: when, where, why, and what to do. */
export class SolverError extends CoreError {
  constructor(
    readonly at: { readonly frame: number; readonly substep: number; readonly placeM?: Triple },
    what: string,
    cure: string,
  ) {
    const place = at.placeM ? ` at ${at.placeM.map((v) => v.toFixed(2)).join(', ')} m` : '';
    super('solver', `Frame ${at.frame}, substep ${at.substep + 1}${place}: ${what} ${cure}`, { fix: cure });
  }
}

// A refusal with its status: what a use case or a route throws where a request cannot be met.
import type { Refusal } from '@bramblemist/contracts/payloads/refusal';

export class HttpError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly faults?: Refusal['faults'],
  ) {
    super(message);
  }
}

/** A save that began from an older revision than the one that is there. */
export class StaleError<T> extends Error {
  constructor(readonly current: T) {
    super('It has been changed elsewhere in the meantime.');
  }
}

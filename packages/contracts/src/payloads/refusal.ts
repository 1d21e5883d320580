// Every refusal of the server.

/** Every refusal of the server. */
export interface Refusal {
  readonly error: string;
  /** Places in the data, where the data is at fault. */
  readonly faults?: readonly { readonly path: string; readonly message: string }[];
  /** What is there now, where something newer stands in the way. */
  readonly current?: unknown;
}

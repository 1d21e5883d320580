// Talking to the server: one way to ask, one kind of error.
import type { Refusal } from '@bramblemist/contracts/payloads';

export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly faults: Refusal['faults'] = [],
  ) {
    super(message);
  }
}

export async function ask<T>(
  path: string,
  options: { method?: 'GET' | 'POST' | 'PATCH'; body?: unknown; form?: FormData } = {},
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method: options.method ?? (options.body !== undefined || options.form ? 'POST' : 'GET'),
      ...(options.form
        ? { body: options.form }
        : options.body !== undefined
          ? { body: JSON.stringify(options.body), headers: { 'Content-Type': 'application/json' } }
          : {}),
    });
  } catch {
    throw new ApiError(0, 'The server does not answer. Is it still running?');
  }
  if (!response.ok) {
    const refusal = (await response.json().catch(() => null)) as Refusal | null;
    throw new ApiError(response.status, refusal?.error ?? `The server refused (${response.status}).`, refusal?.faults);
  }
  return (await response.json()) as T;
}

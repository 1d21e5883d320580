// Talking to the server: one way to ask, one kind of error.
import type { Refusal } from '@bramblemist/contracts/payloads/refusal';

/** This window of the browser, as others hear of it. */
export const WINDOW_ID = crypto.randomUUID();

export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly faults: Refusal['faults'] = [],
    /** What is there now, where something newer stands in the way. */
    readonly current?: unknown,
  ) {
    super(message);
  }
}

export async function ask<T>(
  path: string,
  options: {
    method?: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
    body?: unknown;
    form?: FormData;
    headers?: Record<string, string>;
  } = {},
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method: options.method ?? (options.body !== undefined || options.form ? 'POST' : 'GET'),
      ...bodyOf(options),
      headers: { ...bodyOf(options).headers, ...options.headers, 'X-Client': WINDOW_ID },
    });
  } catch {
    throw new ApiError(0, 'The server does not answer. Is it still running?');
  }

  if (!response.ok) {
    const refusal = (await response.json().catch(() => null)) as Refusal | null;
    throw new ApiError(
      response.status,
      refusal?.error ?? `The server refused (${response.status}).`,
      refusal?.faults,
      refusal?.current,
    );
  }

  return (await response.json()) as T;
}

/** Sends a form and tells how much of it has gone: fetch cannot. */
export function send<T>(path: string, form: FormData, onPart: (part: number) => void): Promise<T> {
  return new Promise((done, fail) => {
    const request = new XMLHttpRequest();
    request.open('POST', path);
    request.responseType = 'json';
    request.upload.onprogress = (e) => onPart(e.lengthComputable ? e.loaded / e.total : 0);
    request.onerror = () => fail(new ApiError(0, 'The server does not answer. Is it still running?'));
    request.onload = () => {
      const answer = request.response as (T & Partial<Refusal>) | null;
      if (request.status < 300 && answer) return done(answer);
      fail(
        new ApiError(
          request.status,
          answer?.error ?? `The server refused (${request.status}).`,
          answer?.faults,
        ),
      );
    };

    request.send(form);
  });
}

function bodyOf({ form, body }: { readonly form?: FormData; readonly body?: unknown }): {
  readonly body?: BodyInit;
  readonly headers?: Record<string, string>;
} {
  if (form) return { body: form };
  return body === undefined
    ? {}
    : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } };
}

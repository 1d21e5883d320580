// What every route shares: refusals, checks of ids and bodies.
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import type { InferType, Schema } from 'yup';
import * as yup from 'yup';
import { DocumentError } from '@bramblemist/core/recipe/document';
import type { Refusal } from '@bramblemist/contracts/payloads/refusal';
import { DiskFullError } from '@bramblemist/core/io/node/files';
import { NoAnswer } from '../jobs/children';
import { isAway } from '../jobs/engine';
import { HttpError, StaleError } from '../http-error';
import { withoutPaths } from '../words';

export function route(handler: (req: Request, res: Response) => Promise<void>): RequestHandler {
  return (req, res, next) => {
    handler(req, res).catch(next);
  };
}

/** A positive whole number from the address. */
export function idOf(req: Request, key = 'id'): number {
  const text = String(req.params[key]);
  if (!/^\d{1,9}$/.test(text))
    throw new HttpError(400, `“${text.slice(0, 40)}” is not a number that can stand here.`);
  return Number(text);
}

export async function found<T>(promise: Promise<T | null>, what: string): Promise<T> {
  const value = await promise;
  if (!value) throw new HttpError(404, `There is no such ${what}.`);
  return value;
}

/** Levels that a body may have; a document has far fewer. */
const DEEPEST = 40;

/** Whether data goes deeper than so many levels; looked at without going down one call a level. */
export function isDeeper(data: unknown, most: number): boolean {
  let level: unknown[] = [data];
  for (let n = 0; n <= most; n++) {
    level = level.flatMap((v) => (v !== null && typeof v === 'object' ? Object.values(v) : []));
    if (level.length === 0) return false;
  }

  return true;
}

/** Ends with the answer: whoever asked has it, or has gone. */
export function goneWith(res: Response): AbortSignal {
  const gone = new AbortController();
  res.once('close', () => gone.abort());
  return gone.signal;
}

export function body<S extends Schema>(schema: S, req: Request): InferType<S> {
  if (req.body === undefined || req.body === null || typeof req.body !== 'object' || Array.isArray(req.body))
    throw new HttpError(400, 'Send a JSON object, with the header Content-Type: application/json.');
  if (isDeeper(req.body, DEEPEST))
    throw new HttpError(422, `The data goes deeper than ${DEEPEST} levels, which no document does.`);
  return schema.validateSync(req.body, { abortEarly: false }) as InferType<S>;
}

/** The revision that a change began from, by the header If-Match; null where it does not say. */
export function revisionOf(req: Request): number | null {
  const text = req.headers['if-match'];
  if (text === undefined) return null;
  if (!/^"\d{1,9}"$/.test(text)) throw new HttpError(400, 'If-Match must be a revision in quotes, "12".');
  return Number(text.slice(1, -1));
}

/** Which window of a browser asks; empty where it does not say. */
export const clientOf = (req: Request): string => String(req.headers['x-client'] ?? '').slice(0, 64);

/** Turns every error into one clear message. */
export function refuse(error: unknown, _req: Request, res: Response, next: NextFunction): void {
  if (res.headersSent) return next(error);
  const send = (status: number, refusal: Refusal): void => void res.status(status).json(refusal);
  if (error instanceof HttpError)
    return send(error.status, { error: error.message, ...(error.faults ? { faults: error.faults } : {}) });
  if (error instanceof StaleError) return send(409, { error: error.message, current: error.current });
  if (error instanceof DocumentError) return send(422, { error: error.message, faults: error.faults });
  if (error instanceof yup.ValidationError) {
    const faults = (error.inner.length ? error.inner : [error]).map((e) => ({
      path: e.path ?? '',
      message: e.errors[0],
    }));
    return send(422, { error: faults.map((f) => `${f.path} ${f.message}`.trim()).join('; '), faults });
  }

  if (error instanceof NoAnswer)
    return send(422, { error: withoutPaths(error.message) || 'It gave no answer.' });
  if (isAway(error))
    return send(503, {
      error: 'The database does not answer. It is started again; try once more in a moment.',
    });
  if ((error as NodeJS.ErrnoException).code === 'ENOSPC' || error instanceof DiskFullError)
    return send(507, { error: 'The disk is full. Clear something on the storage page, then try again.' });
  const status = (error as { status?: number }).status;
  if (status && status >= 400 && status < 500)
    return send(status, { error: wordsFor(error as Error & { type?: string }) });
  (res.locals.log as { error(o: object, m: string): void } | undefined)?.error(
    { error: String(error), stack: (error as Error)?.stack },
    'request failed',
  );
  send(500, { error: 'Something went wrong on the server; its log says what. Nothing was changed half.' });
}

/** What the reader of bodies refuses, in words. */
function wordsFor({ type, message }: Error & { type?: string }): string {
  switch (type) {
    case 'entity.parse.failed':
      return `The body is not JSON: ${message}.`;
    case 'entity.too.large':
      return 'The data is larger than 16 MB, which no document is.';
    default:
      return message;
  }
}

// The one kind of error that core throws: what happened, where, and what to do.

export type ErrorCode =
  /** A recipe, look or other document breaks its rules. */
  | 'document'
  /** A file is broken, or of a kind that is not read. */
  | 'file'
  /** What a recipe brings in is missing or does not fit. */
  | 'asset'
  /** A setting or an argument asks for what cannot be. */
  | 'settings'
  /** The physics cannot go on. */
  | 'solver'
  /** The machine has not enough memory. */
  | 'memory'
  /** The disk has not enough room. */
  | 'disk'
  /** A folder does not hold the cache that is wanted. */
  | 'cache';

interface ErrorDetails {
  readonly path?: string;
  readonly fix?: string;
  /** The error behind this one. */
  readonly cause?: unknown;
}

export class CoreError extends Error {
  /** Where: the path of a setting in a document, of a file, or of a folder; '' where the message says it. */
  readonly path: string;
  /** What to do; '' where the message says it. */
  readonly fix: string;

  constructor(
    readonly code: ErrorCode,
    message: string,
    { path = '', fix = '', cause }: ErrorDetails = {},
  ) {
    super(message, { cause });
    this.name = new.target.name;
    this.path = path;
    this.fix = fix;
  }
}

/** What the user can mend: shown as one line, without a stack. */
export class UsageError extends Error {}

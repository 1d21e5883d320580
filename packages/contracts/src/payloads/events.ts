// What the server tells of itself as it happens.
import type { JobInfo } from './jobs';

/** Someone who has a shot open: a window of a browser. */
export interface Present {
  readonly client: string;
  readonly variantId: number | null;
}

/** Server-sent: something about a shot changed. */
export type ServerEvent =
  /** A job came, went on or ended. */
  | { readonly kind: 'job'; readonly shotId: number; readonly job: JobInfo }
  /** A variant (or, without one, the shot) was saved by a window. */
  | {
      readonly kind: 'document';
      readonly shotId: number;
      readonly variantId: number | null;
      readonly revision: number;
      readonly client: string;
    }
  /** Shots or productions were named, ordered, archived or noted anew. */
  | { readonly kind: 'board' }
  /** A package was written a little further into its folder. */
  | { readonly kind: 'package'; readonly shotId: number }
  /** Something was said of a version of a shot, or done about it. */
  | { readonly kind: 'review'; readonly shotId: number }
  /** Who has it open now. */
  | { readonly kind: 'present'; readonly shotId: number; readonly present: readonly Present[] };

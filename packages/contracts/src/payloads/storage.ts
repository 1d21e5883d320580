// The disk and the shelf of files.
import type { FileReport } from '@bramblemist/core/assets/import-asset';

export const STORED = ['bakes', 'renders', 'combines', 'sheets', 'particles', 'files'] as const;

export type StoredKind = (typeof STORED)[number];

/** Something that takes room on the disk. */
export interface StoredItem {
  readonly kind: StoredKind;
  readonly id: number;
  readonly name: string;
  /** Null where it belongs to no shot alone. */
  readonly shotId: number | null;
  readonly shotName: string;
  readonly production: string;
  readonly bytes: number;
  readonly createdAt: string;
  readonly locked: boolean;
  /** Why it can go without a loss; null where it may be missed. */
  readonly safe: string | null;
  /** Why it cannot be cleared now; null where it can. */
  readonly kept: string | null;
}

export interface StorageInfo {
  readonly freeBytes: number;
  readonly diskBytes: number;
  readonly items: readonly StoredItem[];
  /** What was cleared and can still be brought back. */
  readonly bin: readonly StoredItem[];
}

export interface FileInfo {
  readonly id: number;
  readonly name: string;
  readonly sha256: string;
  readonly bytes: number;
  readonly report: FileReport;
  /** Shots and variants that use it. */
  readonly usedIn: readonly string[];
  readonly createdAt: string;
}

// Packages and what may go into them.
import type { ChannelNames } from '@bramblemist/core/cache/channel-names';

export type PackedKind =
  'volumes' | 'scene' | 'particles' | 'render' | 'comp' | 'contact' | 'review' | 'documents' | 'reference';

/** A thing that a package may hold, files of one kind. */
export interface PackedLine {
  /** As it is asked for: volumes, render:3:exr, comp:1:movies … */
  readonly key: string;
  readonly kind: PackedKind;
  /** Of a render, comp or run of particles its number, else 0. */
  readonly of: number;
  readonly name: string;
  /** The field {what} of its names. */
  readonly what: string;
  readonly ending: string;
  /** Which frames are there; empty for what has none. */
  readonly frames: readonly number[];
  readonly files: number;
  /** null where it is made when the package is. */
  readonly bytes: number | null;
}

/** What is chosen for a package. */
export interface PackageWanted {
  readonly lines: readonly string[];
  /** Only these frames; null: all. */
  readonly frames: { readonly first: number; readonly last: number } | null;
  /** What the volumes' grids are called; missing: as our channels are. */
  readonly channels?: ChannelNames;
}

/** How far a package is that is written into the server's folder. */
export interface FolderState {
  readonly state: 'writing' | 'checking' | 'failed' | 'done';
  readonly done: number;
  readonly total: number;
  /** Where it lies, from the folder that is offered. */
  readonly path: string;
  /** Why it failed. */
  readonly message: string;
}

/** Names of channels that someone keeps for a program. */
export interface ChannelPreset {
  readonly id: number;
  readonly name: string;
  readonly channels: ChannelNames;
}

export interface PackageInfo {
  readonly id: number;
  readonly bakeId: number;
  readonly version: number;
  readonly names: string;
  readonly note: string;
  readonly wanted: PackageWanted;
  /** Why it cannot be fetched any more; null where it can. */
  readonly gone: string | null;
  /** Null where it was not written into the server's folder. */
  readonly folder: FolderState | null;
  readonly createdAt: string;
}

/** What a bake can hand over, and what its shot has handed over so far. */
export interface PackingInfo {
  readonly lines: readonly PackedLine[];
  readonly packages: readonly PackageInfo[];
  /** The version that the next one gets. */
  readonly next: number;
  /** What the bake keeps. */
  readonly channels: readonly string[];
  readonly presets: readonly ChannelPreset[];
  /** Where packages are written on the server's machine. */
  readonly handOverFolder: string;
  /** Whether there are pictures for a contact sheet. */
  readonly isPictured: boolean;
  /** As names have them. */
  readonly production: string;
  readonly shot: string;
}

// What server and browser say to each other. Times are ISO texts, sizes bytes.
import type { ChannelNames } from '@bramblemist/core/cache/channel-names';
import type { Combine } from '@bramblemist/core/combine/combine';
import type { Damage } from '@bramblemist/core/cache/manifest';
import type { Refine } from '@bramblemist/core/cache/refine-settings';
import type { ToolStep } from '@bramblemist/core/volume/tools/tools';
import type { VolumesReport } from '@bramblemist/core/volume/adopt';
import type { FileReport } from '@bramblemist/core/assets/import-asset';
import type { Look } from '@bramblemist/core/look/look';
import type { ParticleAdvection } from '@bramblemist/core/analysis/advect-particles';
import type { Readings } from '@bramblemist/core/record/readings';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';
import type { Matte } from '@bramblemist/core/analysis/measures';
import type { Varied } from '@bramblemist/core/analysis/sheet';
import type { Incident } from '@bramblemist/core/record/incident';

/** How far a shot is. */
export type ShotStatus = 'work' | 'review' | 'approved';
export interface ShotCard {
  readonly id: number;
  readonly name: string;
  readonly note: string;
  readonly variants: number;
  readonly bakes: number;
  /** A picture to show on the board: of the newest comp, else of the newest bake, else the reference. */
  readonly picture: string | null;
  /** Some more of the same, in the order of frames, to be shown one after the other. */
  readonly loop: readonly string[];
  readonly status: ShotStatus;
  readonly assignee: string;
  /** A day as 2026-11-29; null without. */
  readonly due: string | null;
  /** What has been computed for it, s. */
  readonly computedS: number;
  readonly archived: boolean;
  readonly changedAt: string;
}
/** How a movie is wanted. */
export interface MovieWanted {
  /** MP4 for review; MOV with alpha, packed by ProRes 4444 or, without loss, by PNG. */
  readonly kind: 'review' | 'prores' | 'png';
  /** Whether shot, version and the frame’s number are burnt in, and what stands behind them. */
  readonly burn: boolean;
  readonly note: string;
}
export interface MovieInfo {
  readonly id: number;
  readonly renderId: number | null;
  readonly combineId: number | null;
  readonly settings: MovieWanted;
  readonly job: JobInfo | null;
  /** What it takes; null while it is not there. */
  readonly bytes: number | null;
  readonly createdAt: string;
}
/** What could make a look's pictures cheaper, as far as it has been measured. */
export interface SavingsInfo {
  readonly id: number;
  readonly bakeId: number;
  readonly frame: number;
  readonly look: Look;
  readonly job: JobInfo | null;
  readonly createdAt: string;
}
/** What a render will take on the server's machine. */
export interface RenderCostInfo {
  readonly frames: number;
  readonly seconds: number;
  readonly secondsPerFrame: number;
  /** Memory of the renderer, exactly. */
  readonly bytes: number;
  readonly diskBytes: number;
}
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
export type ReviewedKind = 'comp' | 'render' | 'bake';
/** A line drawn over a picture: x, y, x, y … in parts of its width and height, from the upper left. */
export type Stroke = readonly number[];
/** Something of a shot that is looked at as moving pictures. */
export interface ReviewVersion {
  readonly kind: ReviewedKind;
  readonly id: number;
  readonly name: string;
  readonly about: string;
  readonly frames: readonly number[];
  /** Frames a second. */
  readonly rate: number;
  /** Where its pictures are; {frame} stands for the frame. */
  readonly picture: string;
  readonly createdAt: string;
}
export interface ReviewNoteInfo {
  readonly id: number;
  readonly kind: ReviewedKind;
  readonly of: number;
  readonly frame: number;
  readonly author: string;
  readonly text: string;
  readonly strokes: readonly Stroke[];
  readonly done: boolean;
  readonly createdAt: string;
}
export interface ReviewInfo {
  readonly status: ShotStatus;
  readonly versions: readonly ReviewVersion[];
  readonly notes: readonly ReviewNoteInfo[];
}
export interface ProductionCard {
  readonly id: number;
  readonly name: string;
  readonly note: string;
  readonly archived: boolean;
  /** In the order of the board, those that are archived among them. */
  readonly shots: readonly ShotCard[];
}

export interface AssetInfo {
  readonly id: number;
  readonly name: string;
  readonly kind: 'reference';
  readonly bytes: number;
  readonly width: number;
  readonly height: number;
  /** Pictures of one sequence share it; empty for one that stands alone. */
  readonly series: string;
  readonly frame: number | null;
}

/** A place to look from, kept by name. */
export interface View {
  readonly name: string;
  readonly eye: Triple;
  readonly target: Triple;
  /** mm on a film back of 36 mm. */
  readonly focal: number;
}
/** How a shot's reference is used; what is missing is as at first. */
export interface ReferenceUse {
  /** Name of an asset's series, or id of a picture alone. */
  readonly of?: string;
  readonly place?: 'beside' | 'over' | 'under';
  readonly opacity?: number;
  /** The reference's frame that goes with the shot's first. */
  readonly first?: number;
  readonly matte?: Matte;
}

export interface VariantInfo {
  readonly id: number;
  readonly number: number;
  readonly parent: number | null;
  readonly note: string;
  readonly recipe: Recipe;
  readonly look: Look;
  readonly combine: Combine;
  /** Counts its saves: a save says which one it began from. */
  readonly revision: number;
  readonly changedAt: string;
}

export type JobState = 'queued' | 'running' | 'paused' | 'done' | 'failed' | 'stopped';
export type JobKind =
  | 'bake'
  | 'render'
  | 'combine'
  | 'movie'
  | 'savings'
  | 'sheet'
  | 'tool'
  | 'refine'
  | 'bring'
  | 'particles'
  | 'verify';
export interface JobInfo {
  readonly id: number;
  readonly kind: JobKind;
  readonly state: JobState;
  /**
   * The bake, render, combine, movie, sheet of savings, sheet or particles that it makes, or the bake that it
   * looks over.
   */
  readonly targetId: number;
  readonly shotId: number;
  readonly shotName: string;
  readonly done: number;
  readonly total: number;
  /** Why it failed or paused by itself, in one line. */
  readonly message: string | null;
  /** Frames a second since it was started last; null before the first. */
  readonly rate: number | null;
  /** What its process holds, bytes; null where it does not run. */
  readonly memory: number | null;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}

export interface BakeInfo {
  readonly id: number;
  readonly variantId: number;
  readonly variantNumber: number;
  readonly voxelSizeM: number;
  readonly first: number;
  readonly last: number;
  readonly job: JobInfo | null;
  readonly bytes: number;
  /** Settings of the variant that differ now from what was baked; empty: current. */
  readonly outOfDate: readonly OutOfDate[];
  /** What it was made of and by; null where it came straight from a run. */
  readonly made: CacheMade | null;
  readonly channels: readonly string[];
  /** Nothing of it can be changed or cleared. */
  readonly locked: boolean;
  /** What looking it over found; null where that was never done. */
  readonly verified: { readonly at: string; readonly damages: readonly Damage[] } | null;
  readonly recipe: Recipe;
  /**
   * Those that are finished; timeS: the moment that one shows, s since the start, where its number does not
   * say so. Their readings are asked for apart.
   */
  readonly frames: readonly { readonly frame: number; readonly bytes: number; readonly timeS?: number }[];
  readonly createdAt: string;
}
export interface OutOfDate {
  readonly path: string;
  readonly from: unknown;
  readonly to: unknown;
  /** When it was changed; null where that is not known. */
  readonly at: string | null;
  /** Channels of the cache that would come out otherwise. */
  readonly channels: readonly string[];
}
/** How a cache was made of another one. */
export type CacheMade =
  | { readonly kind: 'tool'; readonly of: number; readonly steps: readonly ToolStep[] }
  | { readonly kind: 'refine'; readonly of: number; readonly settings: Refine }
  /** Volumes from elsewhere: uploaded under their content, or in the folder that the server may read. */
  | {
      readonly kind: 'brought';
      readonly name: string;
      readonly from: 'upload' | 'folder';
      readonly key: string;
      readonly report: VolumesReport;
    };
/** What came of an upload to a shot: a cache of volumes, or the result of a bundle. */
export interface BroughtBack {
  readonly what: 'bake' | 'render';
  readonly id: number;
  readonly frames: number;
}
/** What a folder that the server may read holds. */
export interface VolumesFolder {
  /** Null where none is allowed. */
  readonly folder: string | null;
  readonly names: readonly string[];
}
/** Particles that were let through a cache. */
export interface DriftInfo {
  readonly id: number;
  readonly bakeId: number;
  readonly settings: ParticleAdvection;
  readonly format: 'ply' | 'csv';
  readonly job: JobInfo | null;
  readonly frames: number;
  readonly bytes: number;
  readonly createdAt: string;
}
/** What a run said of a frame of a bake. */
export interface FrameInfo {
  readonly frame: number;
  readonly bytes: number;
  readonly readings: Readings;
  readonly incidents: readonly Incident[];
}
export interface RenderInfo {
  readonly id: number;
  readonly bakeId: number;
  readonly look: Look;
  readonly job: JobInfo | null;
  readonly frames: readonly number[];
  readonly createdAt: string;
}
export interface CombineInfo {
  readonly id: number;
  readonly settings: Combine;
  readonly output: CompWritten;
  readonly job: JobInfo | null;
  readonly frames: readonly number[];
  readonly createdAt: string;
}

/** How frames of a comp are written. */
export interface CompWritten {
  readonly exr: 'half' | 'float';
  readonly png: 8 | 16;
  readonly jpeg: boolean;
  /** Of the comp's frame: 1 is full size. */
  readonly scale: number;
}

/** A comp as it was put aside. */
export interface CompVersionInfo {
  readonly id: number;
  readonly number: number;
  readonly note: string;
  readonly settings: Combine;
  readonly createdAt: string;
}

/** What a render gives to a comp, of whatever shot it is. */
export interface RenderFeed {
  readonly frames: readonly number[];
  /** Frames a second. */
  readonly rate: number;
  readonly width: number;
  readonly height: number;
  /** Names of its passes. */
  readonly passes: readonly string[];
  /** The shot that it is of. */
  readonly shot: string;
}

export interface SheetInfo {
  readonly id: number;
  readonly variantId: number;
  readonly variantNumber: number;
  readonly varied: readonly Varied[];
  readonly recipe: Recipe;
  readonly voxelSizeM: number;
  readonly first: number;
  readonly last: number;
  readonly job: JobInfo | null;
  /** Why runs ended before their last frame, by their place in the sheet. */
  readonly troubles: readonly (string | null)[];
  readonly createdAt: string;
}

export interface ShotInfo {
  readonly id: number;
  readonly name: string;
  readonly note: string;
  readonly views: readonly View[];
  readonly reference: ReferenceUse;
  /** Of its views and its reference. */
  readonly revision: number;
  readonly production: { readonly id: number; readonly name: string };
  readonly variants: readonly VariantInfo[];
  readonly bakes: readonly BakeInfo[];
  readonly renders: readonly RenderInfo[];
  readonly combines: readonly CombineInfo[];
  readonly comps: readonly CompVersionInfo[];
  readonly movies: readonly MovieInfo[];
  readonly savings: readonly SavingsInfo[];
  readonly assets: readonly AssetInfo[];
  readonly sheets: readonly SheetInfo[];
  readonly drifts: readonly DriftInfo[];
}

export const STORED = ['bakes', 'renders', 'combines', 'sheets', 'drifts', 'files'] as const;
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

/** Every refusal of the server. */
export interface Refusal {
  readonly error: string;
  /** Places in the data, where the data is at fault. */
  readonly faults?: readonly { readonly path: string; readonly message: string }[];
  /** What is there now, where something newer stands in the way. */
  readonly current?: unknown;
}

/** What a bake will take on the server's machine, by a probe of about a second. */
export interface CostInfo {
  readonly voxels: number;
  /** Memory, exactly. */
  readonly bytes: number;
  readonly frames: number;
  readonly substeps: number;
  readonly seconds: number;
  readonly diskBytes: number;
  /** What each channel takes of it, or would take if it were kept. */
  readonly channels: Readonly<Record<string, number>>;
}

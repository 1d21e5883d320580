// What is made of a variant: bakes, particles, renders, and what they cost.
import type { Damage } from '@bramblemist/core/cache/manifest';
import type { Refine } from '@bramblemist/core/cache/refine-settings';
import type { ToolStep } from '@bramblemist/core/volume/tools/tools';
import type { VolumesReport } from '@bramblemist/core/volume/adopt';
import type { Look } from '@bramblemist/core/look/look';
import type { ParticleAdvection } from '@bramblemist/core/analysis/particle-settings';
import type { Readings } from '@bramblemist/core/record/readings';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Incident } from '@bramblemist/core/record/incident';
import type { JobInfo } from './jobs';

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
export interface ParticleRunInfo {
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

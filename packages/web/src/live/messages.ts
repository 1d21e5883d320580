// What the page and the live worker say to each other.
import type { PreviewVolume } from '@bramblemist/core/volume/preview-volume';
import type { ParticlePreview } from '@bramblemist/core/cache/particle-preview';
import type { CoarseFlow } from '@bramblemist/core/volume/coarse-flow';
import type { Incident } from '@bramblemist/core/record/incident';
import type { Readings } from '@bramblemist/core/record/readings';
import type { Recipe } from '@bramblemist/core/recipe/types';

export type ToLive =
  | {
      readonly type: 'run';
      readonly run: number;
      readonly recipe: Recipe;
      readonly voxelSizeM: number;
      readonly threads: number;
      /** The first frame that differs from what the run before it has made. */
      readonly from: number;
    }
  | { readonly type: 'pause'; readonly paused: boolean }
  /** A paused run goes on for one frame. */
  | { readonly type: 'step' }
  /** The run goes on with another recipe, from its next frame; ask: the number of the wish. */
  | { readonly type: 'change'; readonly run: number; readonly recipe: Recipe; readonly ask: number }
  | {
      readonly type: 'checksum';
      readonly recipe: Recipe;
      readonly voxelSizeM: number;
      readonly threads: number;
      readonly frames: number;
    };

/** What the run's window takes now. */
export interface InMemory {
  readonly voxels: number;
  readonly bytes: number;
  /** Of the states that it can start again from. */
  readonly keptBytes: number;
}

export type FromLive =
  | {
      readonly type: 'started';
      readonly run: number;
      readonly threads: number;
      readonly room: InMemory;
      readonly frame: number;
    }
  | {
      readonly type: 'frame';
      readonly run: number;
      readonly brick: PreviewVolume;
      readonly light: Uint8Array;
      readonly dots: ParticlePreview | null;
      readonly glimpse: CoarseFlow;
      readonly readings: Readings;
      readonly incidents: readonly Incident[];
      readonly room: InMemory;
    }
  /** From this frame on the run has the recipe of a wish. */
  | { readonly type: 'changed'; readonly run: number; readonly frame: number; readonly ask: number }
  | { readonly type: 'finished'; readonly run: number }
  /** solver: a step went wrong, and smaller ones may not. */
  | { readonly type: 'trouble'; readonly run: number; readonly message: string; readonly solver: boolean }
  | { readonly type: 'checksum'; readonly value: string };

// A shot as its page has it, with its variants. Times are ISO texts, sizes bytes.
import type { Combine } from '@bramblemist/core/combine/combine';
import type { Look } from '@bramblemist/core/look/look';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';
import type { Matte } from '@bramblemist/core/analysis/measures';
import type { Varied } from '@bramblemist/core/analysis/sheet';
import type { CombineInfo, CompVersionInfo, MovieInfo } from './comp';
import type { JobInfo } from './jobs';
import type { BakeInfo, ParticleRunInfo, RenderInfo, SavingsInfo } from './made';

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
  readonly particleRuns: readonly ParticleRunInfo[];
}

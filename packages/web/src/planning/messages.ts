// What the page and the worker that plans say to each other.
import type { Cost } from '@bramblemist/core/analysis/cost';
import type { Finding, Link } from '@bramblemist/core/analysis/preflight';
import type { Look } from '@bramblemist/core/look/look';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Readings } from '@bramblemist/core/record/readings';

/** What would go wrong with a recipe. */
export interface FindingsWish {
  readonly of: 'findings';
  readonly recipe: Recipe;
}
/** Why there is nothing to see at a frame. */
export interface ChainWish {
  readonly of: 'chain';
  readonly recipe: Recipe;
  readonly look: Look;
  readonly frame: number;
  readonly readings: Readings | null;
}
/** What a run of it takes. */
export interface CostWish {
  readonly of: 'cost';
  readonly recipe: Recipe;
  readonly voxelSizeM: number;
}
export type PlanWish = FindingsWish | ChainWish | CostWish;

export interface PlanAnswers {
  readonly findings: readonly Finding[];
  readonly chain: readonly Link[];
  readonly cost: Cost;
}

// Makes plans of recipes, away from the page: a mesh or a painted mask takes its time.
import { costOf } from '@bramblemist/core/analysis/cost';
import { findings, whyNothing } from '@bramblemist/core/analysis/preflight';
import { compile } from '@bramblemist/core/plan/compile';
import type { Plan } from '@bramblemist/core/plan/plan';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { answerCalls } from '../data/answer-calls';
import { fetchAssets } from '../data/fetch-assets';
import type { PlanAnswers, PlanWish } from './messages';

let kept: { readonly text: string; readonly plan: Plan } | null = null;

/** Findings and the walk through the links are asked of the same recipe. */
async function planOf(recipe: Recipe): Promise<Plan> {
  const text = JSON.stringify(recipe);
  if (kept?.text !== text) kept = { text, plan: compile(recipe, { assets: await fetchAssets(recipe) }).plan };
  return kept.plan;
}

answerCalls(async (wish: PlanWish): Promise<PlanAnswers[PlanWish['of']]> => {
  const { recipe } = wish;
  switch (wish.of) {
    case 'findings':
      return findings(await planOf(recipe));
    case 'chain':
      return whyNothing(await planOf(recipe), wish.look, wish.frame, wish.readings);
    case 'cost':
      return costOf(recipe, wish.voxelSizeM, 2, await fetchAssets(recipe));
  }
});

// Looks at how the air is moved, apart from the live run: on a rough grid and on thin slabs, standing at the
// frame that is shown. One worker alone; its grids are small.
import { canonicalText } from '@bramblemist/core/recipe/document';
import {
  contentsFrom,
  longestEdge,
  ROUGH,
  seeForces,
  seeRegion,
  slabOf,
  SLICED,
  sliceDistance,
  sliceForce,
  sliceFormula,
  withFormulaAlone,
} from '@bramblemist/core/analysis/seeing';
import { airArrows, sliceShown, streamlines } from '@bramblemist/core/analysis/flow';
import type { Slice } from '@bramblemist/core/analysis/seeing';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import { Simulation } from '@bramblemist/core/run/simulation';
import { answerCalls } from '../data/answer-calls';
import { fetchAssets } from '../data/fetch-assets';
import { startThreadPool } from '../live/thread-pool';
import type { Seen, ToSeeing } from './messages';

interface Standing {
  readonly key: string;
  readonly simulation: Simulation;
}
/** The latest of each kind: most looks differ only by the frame. */
const kept = new Map<string, Standing>();

async function standing(
  kind: string,
  recipe: Recipe,
  voxelSizeM: number,
  { frame, glimpse }: ToSeeing,
): Promise<Simulation> {
  const key = `${voxelSizeM} ${canonicalText(recipe)}`;
  let found = kept.get(kind);
  if (found?.key !== key) {
    const plan = compile(recipe, { voxelSizeM, assets: await fetchAssets(recipe) }).plan;
    const { threadPool } = await startThreadPool(Simulation.pages(plan, 1), 1);
    found = { key, simulation: new Simulation(plan, threadPool) };
    kept.set(kind, found);
  }

  const { simulation } = found;
  simulation.restore(frame, contentsFrom(simulation.plan, glimpse));
  return simulation;
}

async function look(wish: ToSeeing): Promise<Seen> {
  const { recipe, slice, formula, glimpse } = wish;
  // the whole domain, whatever the run keeps of it, and no particles, which are not asked for
  const whole: Recipe = { ...recipe, window: { ...recipe.window, mode: 'whole', travel: '' }, particles: [] };
  const still: Recipe = { ...whole, sources: whole.sources.filter((s) => s.shape !== 'particles') };
  const rough =
    wish.arrows || wish.veil !== null
      ? await standing('rough', still, longestEdge(recipe) / ROUGH, wish)
      : null;
  const fine = longestEdge(recipe) / SLICED;
  const pushed = rough && wish.arrows ? seeForces(rough) : null;
  const arrows = glimpse && wish.flow === 'arrows' ? airArrows(glimpse) : pushed;
  const veil = rough && wish.veil !== null ? seeRegion(rough, wish.veil) : null;
  let plane: Slice | null = null;
  if (slice?.of === 'distance')
    plane = sliceDistance(
      compile(still, { voxelSizeM: fine, assets: await fetchAssets(recipe) }).plan,
      slice.axis,
      slice.atM,
      wish.frame,
    );
  else if (slice && 'channel' in slice.of)
    plane = glimpse && sliceShown(glimpse, wish.brick, slice.of.channel, slice.axis, slice.atM);
  else if (slice && 'force' in slice.of) {
    const slab = await standing('slice', slabOf(recipe, slice.axis, slice.atM), fine, wish);
    plane = sliceForce(slab, slice.axis, slice.atM, slice.of.force);
  }

  const own = formula && withFormulaAlone(recipe, formula.index, formula.text);
  const cut = own && (await standing('formula', slabOf(own, formula.axis, formula.atM), fine, wish));
  return {
    frame: wish.frame,
    arrows,
    lines: glimpse && wish.flow === 'lines' ? streamlines(glimpse) : null,
    veil,
    slice: plane,
    formula: cut && sliceFormula(cut, formula!.axis, formula!.atM),
  };
}

answerCalls<ToSeeing, Seen>(async (wish) => {
  try {
    return await look(wish);
  } catch (error) {
    kept.clear();
    throw error;
  }
});

// Measures the reference and the run, away from the page.
import { canonicalText } from '@bramblemist/core/recipe/document';
import { limitsOf, seeBrick } from '@bramblemist/core/look/see';
import { obstacleHoldout } from '@bramblemist/core/look/holdout';
import { frontOf, matteOf, measure, type Matte, type Opacity } from '@bramblemist/core/analysis/measures';
import { compile } from '@bramblemist/core/plan/compile';
import type { Plan } from '@bramblemist/core/plan/plan';
import { answerCalls } from '../data/answer-calls';
import { fetchAssets } from '../data/fetch-assets';
import type { Measured, ToMeasure } from './messages';

const WIDTH = 192;

const decoded = new Map<string, Promise<{ bytes: Uint8ClampedArray; width: number; height: number }>>();
const MOST_DECODED = 200;

/** A picture at the size at which it is measured. */
function picture(src: string): Promise<{ bytes: Uint8ClampedArray; width: number; height: number }> {
  let found = decoded.get(src);
  if (!found) {
    found = (async () => {
      const response = await fetch(src);
      if (!response.ok) throw new Error('A picture of the reference does not come.');
      const bitmap = await createImageBitmap(await response.blob());
      const height = Math.max(1, Math.round((WIDTH * bitmap.height) / bitmap.width));
      const canvas = new OffscreenCanvas(WIDTH, height);
      const context = canvas.getContext('2d', { willReadFrequently: true })!;
      context.drawImage(bitmap, 0, 0, WIDTH, height);
      bitmap.close();
      return { bytes: context.getImageData(0, 0, WIDTH, height).data, width: WIDTH, height };
    })();
    decoded.set(src, found);
    if (decoded.size > MOST_DECODED) decoded.delete(decoded.keys().next().value!);
    found.catch(() => decoded.delete(src));
  }

  return found;
}

/** How far the pixels see past the obstacles; kept while these and the camera stay. */
let kept: { key: string; plan: Plan; moves: boolean; still: Float32Array | null } | null = null;

async function limitsAt({ recipe, look }: ToMeasure, frame: number): Promise<Float32Array | null> {
  if (recipe.obstacles.every((o) => !o.on)) return null;
  const curves = recipe.curves.filter((c) => c.path.startsWith('obstacles/'));
  const only = {
    ...recipe,
    sources: [],
    particles: [],
    currents: [],
    regions: [],
    changes: [],
    formulas: [],
    curves,
  };
  const key = canonicalText([{ ...only, name: '', keep: null }, look.camera]);
  const at = (plan: Plan, timeS: number): Float32Array | null => {
    const holdout = obstacleHoldout(plan, timeS);
    return holdout && limitsOf(look, WIDTH, holdout);
  };

  if (kept?.key !== key) {
    const plan = compile(only, { assets: await fetchAssets(recipe) }).plan;
    kept = { key, plan, moves: plan.obstacles.some((o) => o.moves), still: at(plan, 0) };
  }

  return kept.moves ? at(kept.plan, (frame - recipe.space.firstFrame + 1) * kept.plan.frameS) : kept.still;
}

async function reference({
  pictures,
  matte,
  pictureSecondsApart,
}: ToMeasure): Promise<Pick<Measured, 'reference' | 'matte'>> {
  if (pictures.length === 0) return { reference: null, matte: null };
  const keyed = await Promise.all(
    pictures.map(async (src) => {
      const { bytes, width, height } = await picture(src);
      return matteOf(bytes, width, height, matte as Matte);
    }),
  );
  const shown = keyed[keyed.length - 1];
  return {
    reference: measure(shown, frontOf(keyed, pictureSecondsApart)),
    matte: {
      width: shown.width,
      height: shown.height,
      bytes: Uint8ClampedArray.from(shown.values, (v) => 255 * v),
    },
  };
}

async function look(wish: ToMeasure): Promise<Measured> {
  const of = await reference(wish);
  const seen: Opacity[] = [];
  for (const brick of wish.bricks) {
    const { width, height, rgba } = seeBrick(brick, wish.look, WIDTH, await limitsAt(wish, brick.frame));
    seen.push({
      width,
      height,
      values: Float32Array.from({ length: width * height }, (_, n) => rgba[4 * n + 3]),
    });
  }

  const run = seen.length > 0 ? measure(seen[seen.length - 1], frontOf(seen, wish.brickSecondsApart)) : null;
  return { ...of, run };
}

answerCalls(look);

// What the page and the worker that looks at the air say to each other.
import type { PreviewVolume } from '@bramblemist/core/volume/preview-volume';
import type { CoarseFlow } from '@bramblemist/core/volume/coarse-flow';
import type { Shown, Streamlines } from '@bramblemist/core/analysis/flow';
import type { Arrows, Slice, Veil } from '@bramblemist/core/analysis/seeing';
import type { Recipe } from '@bramblemist/core/recipe/types';

export interface SliceWish {
  readonly axis: 0 | 1 | 2;
  /** Where it lies along its axis, m. */
  readonly atM: number;
}
export interface ToSeeing {
  readonly recipe: Recipe;
  readonly frame: number;
  /** How the air and the medium are at that frame; null: still, empty air. */
  readonly glimpse: CoarseFlow | null;
  /** How the air goes itself; brick: the density of that frame, finer than the glimpse. */
  readonly brick: PreviewVolume | null;
  readonly flow: 'arrows' | 'lines' | null;
  readonly arrows: boolean;
  /** Id of a region. */
  readonly veil: string | null;
  /** A plane through a force, through a channel of the frame, or through the distances to obstacles. */
  readonly slice:
    | (SliceWish & { readonly of: { readonly force: string } | { readonly channel: Shown } | 'distance' })
    | null;
  /** A plane before and after a formula, by its place in the recipe and with a text of its own. */
  readonly formula: (SliceWish & { readonly index: number; readonly text: string }) | null;
}
export interface FormulaSeen {
  readonly channel: string;
  readonly before: Slice;
  readonly after: Slice;
}
export interface Seen {
  readonly frame: number;
  readonly arrows: Arrows | null;
  readonly lines: Streamlines | null;
  readonly veil: Veil | null;
  readonly slice: Slice | null;
  readonly formula: FormulaSeen | null;
}

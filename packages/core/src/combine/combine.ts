// A comp: what lies over what in a picture, when, where and how it is graded. Plain, validated data like a
// recipe.
import type { Recipe } from '../recipe/types';
import type { Look } from '../look/look';
import { DocumentKind, type Fault } from '../recipe/document';
import { curveFaults, documentAt } from '../recipe/keys';
import { CURVES } from '../recipe/parts/curves';
import type { DocumentOf } from '../recipe/settings';
import { COMP_FILES, FRAME } from './parts/frame';
import { LAYERS } from './parts/layers';
import { MASKS, OPERATIONS } from './parts/operations';

export const COMBINE_PARTS = [FRAME, LAYERS, OPERATIONS, MASKS, COMP_FILES, CURVES] as const;

/** Layers stand top first. */
export type Combine = { version: 2; name: string } & DocumentOf<typeof COMBINE_PARTS>;
export type CompLayer = Combine['layers'][number];
export type CompOperation = Combine['operations'][number];
export type CompMask = Combine['masks'][number];
export type CompFile = Combine['files'][number];

const repeated = (ids: readonly string[]): number => ids.findIndex((id, n) => ids.indexOf(id) !== n);

/** Rules that concern two settings at once. */
function crossChecks(comp: Combine): Fault[] {
  const faults: Fault[] = curveFaults(COMBINE_PARTS, comp);
  const { frame, layers, masks } = comp;
  if (frame.last < frame.first)
    faults.push({ path: 'frame.last', message: 'must not lie before the first frame' });
  for (const key of ['layers', 'operations', 'masks', 'files'] as const) {
    const n = repeated(comp[key].map(({ id }) => id));
    if (n >= 0)
      faults.push({ path: `${key}[${n}].id`, message: `two of ${key} share the id ${comp[key][n].id}` });
  }

  layers.forEach(({ feed }, n) => {
    if (feed.kind !== 'layer' || feed.layer === '') return;
    const at = layers.findIndex(({ id }) => id === feed.layer);
    if (at >= 0 && at <= n)
      faults.push({ path: `layers[${n}].feed.layer`, message: 'must be a layer further down' });
  });
  masks.forEach((mask, n) => {
    const from = mask.kind === 'taken' ? layers.find(({ id }) => id === mask.from) : undefined;
    // its operations may have this very mask
    if (from?.feed.kind === 'layer')
      faults.push({
        path: `masks[${n}].from`,
        message: 'must not be a layer that is fed by another one; take it from that one',
      });
    const seen = new Set([mask.id]);
    for (let next = mask.with; next !== ''; next = masks.find(({ id }) => id === next)?.with ?? '') {
      if (seen.has(next)) {
        faults.push({ path: `masks[${n}].with`, message: 'the masks are joined in a circle' });
        return;
      }

      seen.add(next);
    }
  });
  return faults;
}

interface CombineOne {
  readonly element?: {
    readonly mode?: string;
    readonly opacity?: number;
    readonly tint?: readonly number[];
    readonly stops?: number;
  };
  readonly plate?: { readonly on?: boolean; readonly stops?: number };
}

/**
 * Version 1 had one element over one plate, which were named beside it; what they were is put in by whoever
 * knows.
 */
function fromOne({
  element = {},
  plate = {},
  ...rest
}: Record<string, unknown> & CombineOne): Record<string, unknown> {
  const { mode = 'over', opacity = 1, tint = [1, 1, 1], stops = 0 } = element;
  const layer = (id: string, name: string, more: object): object => ({ id, name, ...more });
  const graded = (id: string, of: string, kind: string, more: object): object => ({
    id,
    layer: of,
    kind,
    ...more,
  });
  return {
    ...rest,
    layers: [
      layer('element', 'Element', { feed: { kind: 'render' }, meet: mode, opacity: 100 * opacity }),
      layer('plate', 'Plate', { feed: { kind: 'file' }, on: plate.on ?? true }),
    ],
    operations: [
      ...(stops === 0 ? [] : [graded('element-exposure', 'element', 'exposure', { stops })]),
      ...(tint.every((v) => v === 1) ? [] : [graded('element-tint', 'element', 'tint', { colour: tint })]),
      ...(plate.stops ? [graded('plate-exposure', 'plate', 'exposure', { stops: plate.stops })] : []),
    ],
  };
}

export const COMBINE = new DocumentKind<Combine>('combine', 2, COMBINE_PARTS, crossChecks, [fromOne]);

/** A comp as it is at a frame: every keyed number at its value there. */
export const combineAt = (comp: Combine, frame: number): Combine => documentAt(COMBINE_PARTS, comp, frame);

/** The greatest side of a frame that is begun with. */
const BEGINS_AT = 1280;

/** The frame that a shot's comp begins with: the camera's proportions, the recipe's rate and range. */
export function frameFor({ space }: Recipe, { camera }: Look): Partial<Combine['frame']> {
  const scale = Math.max(1, BEGINS_AT / Math.max(camera.width, camera.height));
  const even = (v: number): number => 2 * Math.round((v * scale) / 2);
  return {
    width: even(camera.width),
    height: even(camera.height),
    squeeze: camera.squeeze,
    rate: space.frameRate,
    first: space.firstFrame,
    last: space.lastFrame,
  };
}

/** The operations of a layer that act, in their order. */
export const operationsOf = (comp: Combine, layerId: string): CompOperation[] =>
  comp.operations.filter(({ layer, on }) => on && layer === layerId);

/** Numbers of the renders that have a part in a comp. */
export const rendersIn = ({ layers }: Combine): number[] =>
  layers.flatMap(({ feed }) => (feed.kind === 'render' && feed.render > 0 ? [feed.render] : []));

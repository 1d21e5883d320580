// Edits of a comp that touch several places at once: what the page does with one press.
import { CoreError } from '../base/error';
import type { FileReport } from '../assets/import-asset';
import {
  COMBINE,
  type Combine,
  type CompFile,
  type CompLayer,
  type CompMask,
  type CompOperation,
} from './combine';
import { BEGINS } from './operations';
import { OPERATION_KINDS, type OperationKind } from './parts/operations';

type Given<T> = { readonly [K in keyof T]?: T[K] extends object ? Partial<T[K]> : T[K] };

/** A part of a list with some settings given; groups of settings are filled up with their defaults. */
function made<T extends { id: string }>(
  key: 'layers' | 'operations' | 'masks' | 'files',
  id: string,
  given: Given<T>,
): T {
  const whole = COMBINE.defaultPart<Record<string, unknown>>(key, { id });
  for (const [name, value] of Object.entries(given)) {
    const own = whole[name];
    const isGroup = own !== null && typeof own === 'object' && !Array.isArray(own);
    whole[name] = isGroup ? { ...own, ...(value as object) } : value;
  }

  return whole as T;
}

/** With nothing in its frame; its files stay at hand. */
export const emptied = (comp: Combine): Combine => ({
  ...comp,
  layers: [],
  operations: [],
  masks: [],
  curves: comp.curves.filter(({ path }) => path.startsWith('frame')),
});

/** With one more layer, on top of the others. */
export const withLayer = (comp: Combine, id: string, given: Given<CompLayer>): Combine => ({
  ...comp,
  layers: [made<CompLayer>('layers', id, given), ...comp.layers],
});

/** With a layer that follows a track, as it was placed at the track's first frame. */
export const withTrack = (comp: Combine, layerId: string, file: string): Combine => ({
  ...comp,
  layers: comp.layers.map((l) =>
    l.id === layerId ? { ...l, bind: { ...l.bind, how: 'follows', file, frame: 0 } } : l,
  ),
});

/** With one more operation, the last of its layer. */
export const withOperation = (
  comp: Combine,
  id: string,
  layer: string,
  kind: OperationKind,
  given: Given<CompOperation> = {},
): Combine => ({
  ...comp,
  operations: [
    ...comp.operations,
    made<CompOperation>('operations', id, { ...BEGINS[kind], ...given, kind, layer } as Given<CompOperation>),
  ],
});

export const withMask = (comp: Combine, id: string, given: Given<CompMask>): Combine => ({
  ...comp,
  masks: [...comp.masks, made<CompMask>('masks', id, given)],
});

const withoutCurves = (comp: Combine, head: string): Combine => ({
  ...comp,
  curves: comp.curves.filter(({ path }) => !path.startsWith(`${head}/`)),
});

/** Without a layer, its operations and their keys; what was fed by it is fed by nothing. */
export function withoutLayer(comp: Combine, id: string): Combine {
  const own = comp.operations.filter(({ layer }) => layer === id);
  const left = own.reduce(
    (c, o) => withoutCurves(c, `operations/${o.id}`),
    withoutCurves(comp, `layers/${id}`),
  );
  const unless = (ref: string): string => (ref === id ? '' : ref);
  return {
    ...left,
    layers: left.layers
      .filter((l) => l.id !== id)
      .map((l) => ({ ...l, feed: { ...l.feed, layer: unless(l.feed.layer) } })),
    operations: left.operations
      .filter(({ layer }) => layer !== id)
      .map((o) => ({ ...o, depthOf: unless(o.depthOf) })),
    masks: left.masks.map((m) => ({ ...m, from: unless(m.from) })),
  };
}

export const withoutOperation = (comp: Combine, id: string): Combine => {
  const left = withoutCurves(comp, `operations/${id}`);
  return { ...left, operations: left.operations.filter((o) => o.id !== id) };
};

/** Without a mask; what it limited is limited no more. */
export function withoutMask(comp: Combine, id: string): Combine {
  const left = withoutCurves(comp, `masks/${id}`);
  const unless = (ref: string): string => (ref === id ? '' : ref);
  return {
    ...left,
    masks: left.masks.filter((m) => m.id !== id).map((m) => ({ ...m, with: unless(m.with) })),
    layers: left.layers.map((l) => ({ ...l, mask: unless(l.mask) })),
    operations: left.operations.map((o) => ({ ...o, mask: unless(o.mask) })),
  };
}

/** A layer once more, above itself, with its operations and keys. @param newId called for each id */
export function duplicated(comp: Combine, id: string, newId: () => string): Combine {
  const at = comp.layers.findIndex((l) => l.id === id);
  if (at < 0) return comp;
  const own = newId();
  const ids = new Map([[`layers/${id}`, `layers/${own}`]]);
  const operations = comp.operations
    .filter(({ layer }) => layer === id)
    .map((o) => {
      const again = newId();
      ids.set(`operations/${o.id}`, `operations/${again}`);
      return { ...o, id: again, layer: own };
    });
  const curves = comp.curves.flatMap((c) => {
    const head = c.path.split('/').slice(0, 2).join('/');
    const to = ids.get(head);
    return to ? [{ ...c, id: newId(), path: `${to}${c.path.slice(head.length)}` }] : [];
  });
  const copy = { ...comp.layers[at], id: own, name: `${comp.layers[at].name} again` };
  return {
    ...comp,
    layers: [...comp.layers.slice(0, at), copy, ...comp.layers.slice(at)],
    operations: [...comp.operations, ...operations],
    curves: [...comp.curves, ...curves],
  };
}

/** One of a list takes the place of another. */
export function movedTo<I, T extends { id: I }>(list: readonly T[], id: I, to: I): T[] {
  const [from, at] = [list.findIndex((o) => o.id === id), list.findIndex((o) => o.id === to)];
  if (from < 0 || at < 0 || from === at) return [...list];
  const rest = list.filter((o) => o.id !== id);
  return [...rest.slice(0, at), list[from], ...rest.slice(at)];
}

/** What a file that was looked over is to a comp; null where it is of no use there. */
export function kindFor(report: FileReport): CompFile['kind'] | null {
  switch (report.kind) {
    case 'picture':
    case 'movie':
    case 'track':
    case 'table':
      return report.kind;
    case 'pictures':
      return 'sequence';
    default:
      return null;
  }
}

/** With a file of the shelf; the same content is there once. */
export function withFile(
  comp: Combine,
  id: string,
  info: { readonly name: string; readonly sha256: string; readonly report: FileReport },
): { readonly comp: Combine; readonly id: string } {
  const known = comp.files.find(({ sha256 }) => sha256 === info.sha256);
  if (known) return { comp, id: known.id };
  const kind = kindFor(info.report);
  if (!kind)
    throw new CoreError(
      'file',
      `${info.name} is of no use in a comp: it is neither a picture, a movie, a track nor a table.`,
    );
  const { name, sha256 } = info;
  return {
    comp: { ...comp, files: [...comp.files, made<CompFile>('files', id, { name, sha256, kind })] },
    id,
  };
}

/**
 * A comp in which layers that take the newest render of their shot have its number. @param newest 0: there is
 * none yet
 */
export const withNewest = (comp: Combine, newest: number): Combine => ({
  ...comp,
  layers: comp.layers.map((l) =>
    l.feed.kind === 'render' && l.feed.render === 0 ? { ...l, feed: { ...l.feed, render: newest } } : l,
  ),
});

/** A comp as text, to be pasted into another shot. */
export const combineText = (comp: Combine): string =>
  JSON.stringify({ bramblemist: 'comp', ...comp }, null, 2);

/** @throws CoreError, DocumentError where the text is no comp */
export function pastedCombine(comp: Combine, text: string): Combine {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new CoreError('document', 'What was copied is no comp: it is no JSON.');
  }

  const { bramblemist, ...rest } = (data ?? {}) as Record<string, unknown>;
  if (bramblemist !== 'comp') throw new CoreError('document', 'What was copied is no comp.');
  return { ...COMBINE.parse(rest), name: comp.name };
}

/** What an operation is called. */
export const calledOperation = (kind: OperationKind): string => OPERATION_KINDS.find(([k]) => k === kind)![1];

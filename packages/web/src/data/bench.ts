// What is being edited: the variant's recipe, look and combine, with named undo and autosave.
import { create } from 'zustand';
import type { Combine } from '@bramblemist/core/combine/combine';
import type { Look } from '@bramblemist/core/look/look';
import { setAt } from '@bramblemist/core/recipe/paths';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { VariantInfo } from '@bramblemist/contracts/payloads';
import { routes } from '@bramblemist/contracts/routes';
import { ask } from './api';

export interface Documents {
  readonly recipe: Recipe;
  readonly look: Look;
  readonly combine: Combine;
}
export type DocumentName = keyof Documents;
interface Step {
  readonly label: string;
  readonly documents: Documents;
}
export interface BenchState {
  readonly variantId: number | null;
  readonly documents: Documents | null;
  readonly past: readonly Step[];
  readonly future: readonly Step[];
  readonly saving: 'saved' | 'waiting' | 'saving' | 'failed';
  readonly saveError: string | null;
  /** What the server has of the variant that was saved last. */
  readonly saved: VariantInfo | null;
}

const MOST_STEPS = 200;
/** Changes of one setting within this time are one step: a drag is undone at once. */
const ONE_GESTURE_MS = 800;
const SAVE_AFTER_MS = 500;

export const useBench = create<BenchState>(() => ({
  variantId: null,
  documents: null,
  past: [],
  future: [],
  saving: 'saved',
  saveError: null,
  saved: null,
}));

let lastLabel = '';
let lastAt = 0;
let timer = 0;

/** Opens a variant for editing; keeps what is open where it is the same one. */
export function openVariant(variant: VariantInfo): void {
  if (useBench.getState().variantId === variant.id) return;
  void flush();
  lastLabel = '';
  useBench.setState({
    variantId: variant.id,
    documents: { recipe: variant.recipe, look: variant.look, combine: variant.combine },
    past: [],
    future: [],
    saving: 'saved',
    saveError: null,
  });
}

/** One named change of one document. */
export function change(label: string, name: DocumentName, path: string, value: unknown): void {
  const { documents } = useBench.getState();
  if (documents) replace(label, { ...documents, [name]: setAt(documents[name], path, value) });
}

/** One named change of many places of the recipe. */
export function changeRecipe(label: string, recipe: Recipe): void {
  const { documents } = useBench.getState();
  if (documents) replace(label, { ...documents, recipe });
}

export function replace(label: string, next: Documents): void {
  const { documents, past } = useBench.getState();
  const now = performance.now();
  if (!documents) return;
  const continues = label === lastLabel && now - lastAt < ONE_GESTURE_MS && past.length > 0;
  lastLabel = label;
  lastAt = now;
  useBench.setState({
    documents: next,
    past: continues ? past : [...past, { label, documents }].slice(-MOST_STEPS),
    future: [],
  });
  saveSoon();
}

export function undo(): void {
  const { documents, past, future } = useBench.getState();
  const step = past[past.length - 1];
  if (!documents || !step) return;
  lastLabel = '';
  useBench.setState({
    documents: step.documents,
    past: past.slice(0, -1),
    future: [{ label: step.label, documents }, ...future],
  });
  saveSoon();
}

export function redo(): void {
  const { documents, past, future } = useBench.getState();
  const step = future[0];
  if (!documents || !step) return;
  lastLabel = '';
  useBench.setState({
    documents: step.documents,
    past: [...past, { label: step.label, documents }],
    future: future.slice(1),
  });
  saveSoon();
}

/** Back to how it was before a step of the past, by its place in it. */
export function undoTo(step: number): void {
  while (useBench.getState().past.length > step) undo();
}

function saveSoon(): void {
  window.clearTimeout(timer);
  useBench.setState({ saving: 'waiting' });
  timer = window.setTimeout(() => void flush(), SAVE_AFTER_MS);
}

/** Saves what waits, now. */
export async function flush(): Promise<void> {
  const { variantId, documents, saving } = useBench.getState();
  if (variantId === null || !documents || saving === 'saved' || saving === 'saving') return;
  window.clearTimeout(timer);
  useBench.setState({ saving: 'saving' });
  try {
    const saved = await ask<VariantInfo>(routes.variant(variantId), { method: 'PATCH', body: documents });
    useBench.setState({ saved });
    const changedMeanwhile = useBench.getState().documents !== documents;
    useBench.setState({ saving: changedMeanwhile ? 'waiting' : 'saved', saveError: null });
    if (changedMeanwhile) saveSoon();
  } catch (error) {
    useBench.setState({ saving: 'failed', saveError: (error as Error).message });
    timer = window.setTimeout(() => void flush(), 5000);
  }
}

window.addEventListener('pagehide', () => {
  const { variantId, documents, saving } = useBench.getState();
  if (variantId === null || saving === 'saved' || !documents) return;
  void fetch(routes.variant(variantId), {
    method: 'PATCH',
    body: JSON.stringify(documents),
    headers: { 'Content-Type': 'application/json' },
    keepalive: true,
  });
});

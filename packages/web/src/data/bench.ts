// What is being edited on the page: the open variant's documents and their undo, and the sessions of variants
// that were left while something of them was still on its way.
import { create } from 'zustand';
import { setAt } from '@bramblemist/core/recipe/paths';
import { isSame, type Clash } from '@bramblemist/core/recipe/merge';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { VariantInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import { ask, ApiError, WINDOW_ID } from './api';
import {
  DocumentSession,
  Stale,
  type DocumentName,
  type Documents,
  type Kept,
  type SessionState,
} from './document-session';
import { Journal, type Note } from './journal';

export type { DocumentName, Documents } from './document-session';

export interface BenchState extends Omit<SessionState, 'documents'> {
  readonly variantId: number | null;
  readonly documents: Documents | null;
  /** Other variants whose last change is not saved. */
  readonly unsavedElsewhere: number;
  /** What the server has of the variant that was saved last. */
  readonly saved: VariantInfo | null;
}

const HISTORY_AFTER_MS = 300;

export const useBench = create<BenchState>(() => ({
  variantId: null,
  documents: null,
  past: [],
  future: [],
  saving: 'saved',
  saveError: null,
  clashes: [],
  unsavedElsewhere: 0,
  saved: null,
}));

const journal = new Journal(WINDOW_ID);
const sessions = new Map<number, DocumentSession>();
/** Done when what other windows left has been taken up. */
let recovered: Promise<void> = Promise.resolve();
let historyTimer: ReturnType<typeof setTimeout> | undefined;
/** Steps that are not on the disk yet. */
let unkept: { readonly variantId: number; readonly state: SessionState } | null = null;

const keptOf = ({ recipe, look, combine, revision }: VariantInfo): Kept => ({
  documents: { recipe, look, combine },
  revision,
});
const current = (): DocumentSession | undefined => sessions.get(useBench.getState().variantId ?? -1);

async function save(variantId: number, documents: Partial<Documents>, began: number): Promise<Kept> {
  try {
    const saved = await ask<VariantInfo>(routes.variant(variantId), {
      method: 'PATCH',
      body: documents,
      headers: { 'If-Match': `"${began}"` },
    });
    useBench.setState({ saved });
    return keptOf(saved);
  } catch (error) {
    if (error instanceof ApiError && error.status === 409 && error.current)
      throw new Stale(keptOf(error.current as VariantInfo));
    throw error;
  }
}

function sessionFor(
  shotId: number,
  variantId: number,
  kept: Kept,
  start?: Partial<Pick<SessionState, 'documents' | 'past' | 'future'>>,
): DocumentSession {
  const session: DocumentSession = new DocumentSession(
    kept,
    {
      save: (documents, began) => save(variantId, documents, began),
      note: (unsaved) => journal.note(shotId, variantId, unsaved),
      changed: (state) => {
        if (useBench.getState().variantId === variantId) show(variantId, state);
        else if (state.saving === 'saved') sessions.delete(variantId);
        useBench.setState({ unsavedElsewhere: unsavedElsewhere() });
      },
    },
    start,
  );
  sessions.set(variantId, session);
  return session;
}

function show(variantId: number, state: SessionState): void {
  const before = useBench.getState();
  useBench.setState({ variantId, ...state });
  const isSameState = (['past', 'future', 'documents'] as const).every((key) => state[key] === before[key]);
  if (isSameState && variantId === before.variantId) return;
  // a session without steps has nothing to keep; those of an earlier visit may lead to what stands here now
  if (state.past.length === 0 && state.future.length === 0) return void withHistory(variantId);
  if (unkept?.variantId !== variantId) keepHistory();
  unkept = { variantId, state };
  clearTimeout(historyTimer);
  historyTimer = setTimeout(keepHistory, HISTORY_AFTER_MS);
}

function keepHistory(): void {
  clearTimeout(historyTimer);
  if (unkept) void journal.keepHistory(unkept.variantId, unkept.state);
  unkept = null;
}

const unsavedElsewhere = (): number =>
  [...sessions].filter(([id, s]) => id !== useBench.getState().variantId && !s.isSaved).length;

/** Opens a variant for editing; what is open, or still on its way, stays as it is here. */
export function openVariant(variant: VariantInfo, shotId = 0): void {
  const { variantId } = useBench.getState();
  const known = sessions.get(variant.id);
  if (known) known.received(keptOf(variant));
  if (variantId === variant.id) return;
  const before = current();
  if (before) {
    void before.flush().catch(() => undefined); // it tries again by itself, and is told of
    if (before.isSaved) sessions.delete(variantId!);
  }

  const session = known ?? sessionFor(shotId, variant.id, keptOf(variant));
  show(variant.id, session.state);
  useBench.setState({ unsavedElsewhere: unsavedElsewhere() });
}

/**
 * Undo of an earlier visit, where its documents are those that are open. They may come to be so only when the
 * last save of a page that went has arrived, so it is looked for whenever they change.
 */
async function withHistory(variantId: number): Promise<void> {
  await recovered; // what was not saved then belongs to it
  const history = await journal.history(variantId);
  const session = sessions.get(variantId);
  if (!history || !session || session.state.past.length > 0) return;
  if (isSame(history.documents, session.state.documents)) session.remember(history.past, history.future);
}

/**
 * Saves what windows left that are gone: closed, reloaded or crashed before the server had it. What clashes
 * with a newer save is asked about where the variant is open, and stays noted until it is.
 */
export function recover(): Promise<void> {
  recovered = recoverNotes();
  // a page that is loaded again may be there before the one that it replaces is gone
  void recovered.then(() => journal.whenOthersGo(recoverNotes));
  return recovered;
}

async function recoverNotes(): Promise<void> {
  for (const note of await journal.left()) {
    try {
      await recoverNote(note);
    } catch (error) {
      // a variant that is gone takes its note along; anything else is tried with the next start
      if (error instanceof ApiError && error.status === 404) await journal.forget(note.key);
    }
  }
}

async function recoverNote(note: Note): Promise<void> {
  const { shotId, variantId, began, documents } = note;
  let session = sessions.get(variantId);
  if (session) session.take(began, documents);
  else {
    session = sessionFor(shotId, variantId, began, { documents });
    const variant = await ask<VariantInfo>(routes.variant(variantId));
    session.received(keptOf(variant));
  }

  // from here on it is in the notes of this window
  await journal.forget(note.key);
  void session
    .flush()
    .then(() => session !== current() && sessions.delete(variantId))
    .catch(() => undefined); // it tries again by itself
}

/** What another window saved. */
export async function savedElsewhere(variantId: number, revision: number): Promise<void> {
  const session = sessions.get(variantId);
  if (!session || session.revision >= revision) return;
  session.received(keptOf(await ask<VariantInfo>(routes.variant(variantId))));
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

export const replace = (label: string, next: Documents): void => current()?.change(label, next);
export const undo = (): void => current()?.undo();
export const redo = (): void => current()?.redo();

/** Back to how it was before a step of the past, by its place in it. */
export function undoTo(step: number): void {
  while (useBench.getState().past.length > step) undo();
}

/** Settles what both this window and another one changed. */
export const settleClash = (clash: Clash, whose: 'mine' | 'theirs'): void => current()?.settle(clash, whose);

/**
 * Saves what waits of a variant, by default of the one that is open: whatever uses its documents on the
 * server waits for this.
 * @throws Error where it cannot be saved
 */
export async function flush(variantId?: number): Promise<void> {
  await sessions.get(variantId ?? useBench.getState().variantId ?? -1)?.flush();
}

/** Tries what failed once more, now: the server is there again. */
export function tryAgain(): void {
  for (const session of sessions.values()) void session.flush().catch(() => undefined);
}

/** What a browser still sends of a page that goes, bytes. */
const LAST_WORDS = 60_000;

window.addEventListener('pagehide', () => {
  journal.lastNotes();
  keepHistory();
  for (const [variantId, session] of sessions) {
    const body = JSON.stringify(session.state.documents);
    // it stands in the journal in any case; this spares the wait for the next visit
    if (session.isSaved || session.state.clashes.length > 0 || body.length > LAST_WORDS) continue;
    const { began } = session.lastWords();
    void fetch(routes.variant(variantId), {
      method: 'PATCH',
      body,
      headers: { 'Content-Type': 'application/json', 'If-Match': `"${began}"` },
      keepalive: true,
    });
  }
});
window.addEventListener('beforeunload', (event) => {
  const unsaved = [...sessions.values()].some((s) => !s.isSaved);
  // what is in the journal is saved by the next window
  if (unsaved && !journal.lastNotes()) event.preventDefault();
});
window.addEventListener('online', tryAgain);

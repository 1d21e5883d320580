// What is not saved yet, kept by the browser: written before anything is sent, forgotten when the server has
// it. A window that was closed, reloaded or crashed leaves its notes to the next one. Undo history stands
// beside it. A window that goes before its last note is on the disk leaves it in the browser's plain store,
// which is written at once. Where neither can be had the page warns before it is closed.
import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { Documents, Kept, Step } from './document-session';

/** What one window has not saved of one variant. */
export interface Note {
  /** The window, and the variant. */
  readonly key: string;
  readonly window: string;
  readonly shotId: number;
  readonly variantId: number;
  readonly documents: Documents;
  readonly began: Kept;
  readonly at: number;
}

/** Steps of a variant, and the documents that they lead to. */
export interface History {
  readonly documents: Documents;
  readonly past: readonly Step[];
  readonly future: readonly Step[];
}

interface Schema extends DBSchema {
  notes: { key: string; value: Note };
  histories: { key: number; value: History };
}

const NAME = 'bramblemist';
/** Steps of a history that are kept over a reload. */
const MOST_KEPT = 60;
/** The lock that a window holds as long as it lives. */
const WINDOW = 'bramblemist-window-';
const lockOf = (id: string): string => `${WINDOW}${id}`;
/** Last notes in the plain store, by their keys. */
const LAST = 'bramblemist-note-';

const open = async (): Promise<IDBPDatabase<Schema>> =>
  openDB<Schema>(NAME, 1, {
    upgrade(db) {
      db.createObjectStore('notes', { keyPath: 'key' });
      db.createObjectStore('histories');
    },
  });

export class Journal {
  private readonly database: Promise<IDBPDatabase<Schema> | null>;
  /** Writes go one after the other; of the same note only the newest counts. */
  private readonly waiting = new Map<string, Note | null>();
  /** The one that is being written. */
  private current: [string, Note | null] | null = null;
  private writing: Promise<void> | null = null;
  /** Whether everything that was noted is on the disk. */
  isWritten = true;

  /** @param id the window that writes */
  constructor(readonly id: string) {
    this.database = open().catch(() => null);
    // held until the window is gone, whatever way it goes
    void globalThis.navigator?.locks?.request(lockOf(id), () => new Promise(() => {})).catch(() => {});
  }

  /** Notes what a variant has unsaved; null: nothing any more. */
  note(shotId: number, variantId: number, unsaved: { documents: Documents; began: Kept } | null): void {
    const key = `${this.id} ${variantId}`;
    this.waiting.set(key, unsaved && { key, window: this.id, shotId, variantId, ...unsaved, at: Date.now() });
    this.isWritten = false;
    this.writing ??= this.write().finally(() => (this.writing = null));
  }

  private async write(): Promise<void> {
    const db = await this.database;
    while (this.waiting.size > 0) {
      const [[key, note]] = this.waiting;
      this.waiting.delete(key);
      this.current = [key, note];
      try {
        if (note) await db?.put('notes', note);
        else await db?.delete('notes', key);
        globalThis.localStorage?.removeItem(LAST + key);
      } catch {
        return; // the disk is full: the page warns, since isWritten stays false
      }
    }

    this.current = null;
    this.isWritten = db !== null;
  }

  /** The window goes: what is not on the disk yet is written at once. @returns whether all of it is kept */
  lastNotes(): boolean {
    if (this.isWritten) return true;
    try {
      for (const [key, note] of new Map([...(this.current ? [this.current] : []), ...this.waiting])) {
        if (note) localStorage.setItem(LAST + key, JSON.stringify(note));
        else localStorage.removeItem(LAST + key);
      }

      return true;
    } catch {
      return false; // larger than the store
    }
  }

  /** Notes that windows left which are gone. */
  async left(): Promise<Note[]> {
    const alive = new Set(await aliveWindows());
    const isLeft = (n: Note): boolean => n.window !== this.id && !alive.has(lockOf(n.window));
    const last = Object.keys(globalThis.localStorage ?? {})
      .filter((key) => key.startsWith(LAST))
      .map((key) => JSON.parse(localStorage.getItem(key)!) as Note);
    const noted = (await (await this.database)?.getAll('notes')) ?? [];
    // of the same one the newest counts
    const newest = new Map(noted.map((n) => [n.key, n]));
    for (const n of last) if (n.at >= (newest.get(n.key)?.at ?? 0)) newest.set(n.key, n);
    return [...newest.values()].filter(isLeft);
  }

  /** Calls back each time that one of the windows is gone which are there now. */
  async whenOthersGo(act: () => Promise<void>): Promise<void> {
    for (const name of await aliveWindows())
      if (name !== lockOf(this.id)) void navigator.locks.request(name, act).catch(() => {});
  }

  async forget(key: string): Promise<void> {
    globalThis.localStorage?.removeItem(LAST + key);
    await (await this.database)?.delete('notes', key);
  }

  async history(variantId: number): Promise<History | undefined> {
    return (await this.database)?.get('histories', variantId).catch(() => undefined);
  }

  async keepHistory(variantId: number, { documents, past, future }: History): Promise<void> {
    const kept = { documents, past: past.slice(-MOST_KEPT), future: future.slice(0, MOST_KEPT) };
    await (await this.database)?.put('histories', kept, variantId).catch(() => undefined);
  }
}

/** Locks of windows that live, this one's among them. */
async function aliveWindows(): Promise<string[]> {
  const { held } = (await globalThis.navigator?.locks?.query()) ?? {};
  return (held ?? []).flatMap(({ name }) => (name?.startsWith(WINDOW) ? [name] : []));
}

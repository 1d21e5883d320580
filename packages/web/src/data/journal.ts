// What is not saved yet, kept by the browser: written before anything is sent, forgotten when the server has
// it. A window that was closed, reloaded or crashed leaves its notes to the next one. Undo history stands
// beside it. Where the browser keeps no database, nothing is kept and the page warns before it is closed.
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
const lockOf = (id: string): string => `bramblemist-window-${id}`;

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
      try {
        if (note) await db?.put('notes', note);
        else await db?.delete('notes', key);
      } catch {
        return; // the disk is full: the page warns, since isWritten stays false
      }
    }

    this.isWritten = db !== null;
  }

  /** Notes that windows left which are gone. */
  async left(): Promise<Note[]> {
    const db = await this.database;
    if (!db) return [];
    const { held } = (await globalThis.navigator?.locks?.query()) ?? {};
    const alive = new Set(held?.map((lock) => lock.name));
    const all = await db.getAll('notes');
    return all.filter((n) => n.window !== this.id && !alive.has(lockOf(n.window)));
  }

  async forget(key: string): Promise<void> {
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

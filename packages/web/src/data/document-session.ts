// One variant that is being edited: its documents, named undo, and one queue of saves, a request at a time.
// Every change goes into the journal first; the journal forgets it when the server has it. Where somebody
// else saved in between, both changes are merged setting by setting, and what both changed is asked about.
import type { Combine } from '@bramblemist/core/combine/combine';
import type { Look } from '@bramblemist/core/look/look';
import { isSame, merge, settle, type Clash } from '@bramblemist/core/recipe/merge';
import type { Recipe } from '@bramblemist/core/recipe/types';

export interface Documents {
  readonly recipe: Recipe;
  readonly look: Look;
  readonly combine: Combine;
}
export type DocumentName = keyof Documents;

/** What the server has. */
export interface Kept {
  readonly documents: Documents;
  readonly revision: number;
}

export interface Step {
  readonly label: string;
  readonly documents: Documents;
}

export interface SessionState {
  readonly documents: Documents;
  readonly past: readonly Step[];
  readonly future: readonly Step[];
  readonly saving: 'saved' | 'waiting' | 'saving' | 'failed' | 'asking';
  readonly saveError: string | null;
  /** What both this window and another one changed; while any is left nothing is saved. */
  readonly clashes: readonly Clash[];
}

/** The server refused a save, since a newer revision is there. */
export class Stale extends Error {
  constructor(readonly current: Kept) {
    super('It has been changed elsewhere in the meantime.');
  }
}

export interface SessionPorts {
  /** Saves what differs from `began`. @throws Stale where another save came first, else Error in words */
  save(documents: Partial<Documents>, began: number): Promise<Kept>;
  /** Notes what is not saved yet; null: all of it is. */
  note(unsaved: { documents: Documents; began: Kept } | null): void;
  /** Hears of every change of the state. */
  changed(state: SessionState): void;
}

const MOST_STEPS = 200;
/** Changes of one setting within this time are one step: a drag is undone at once. */
const ONE_GESTURE_MS = 800;
const SAVE_AFTER_MS = 500;
const TRY_AGAIN_MS = 5000;
const NAMES: readonly DocumentName[] = ['recipe', 'look', 'combine'];

export class DocumentSession {
  private now: SessionState;
  private lastLabel = '';
  private lastAt = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  /** The save that is on its way. */
  private sending: Promise<void> | null = null;
  /** What was sent since the last answer: the server may have taken any of it. */
  private readonly unanswered = new Set<Documents>();

  constructor(
    private kept: Kept,
    private readonly ports: SessionPorts,
    start: Partial<Pick<SessionState, 'documents' | 'past' | 'future'>> = {},
  ) {
    this.now = {
      documents: start.documents ?? kept.documents,
      past: start.past ?? [],
      future: start.future ?? [],
      saving: 'saved',
      saveError: null,
      clashes: [],
    };
    if (!this.isSaved) this.soon();
  }

  get state(): SessionState {
    return this.now;
  }

  get revision(): number {
    return this.kept.revision;
  }

  /** Whether the server has all that stands here. */
  get isSaved(): boolean {
    return this.now.documents === this.kept.documents || isSame(this.now.documents, this.kept.documents);
  }

  /** One named change. */
  change(label: string, documents: Documents): void {
    const { documents: before, past } = this.now;
    const at = performance.now();
    const continues = label === this.lastLabel && at - this.lastAt < ONE_GESTURE_MS && past.length > 0;
    this.lastLabel = label;
    this.lastAt = at;
    this.set({
      documents,
      past: continues ? past : [...past, { label, documents: before }].slice(-MOST_STEPS),
      future: [],
    });
    this.soon();
  }

  undo(): void {
    const { documents, past, future } = this.now;
    const step = past.at(-1);
    if (!step) return;
    this.lastLabel = '';
    this.set({
      documents: step.documents,
      past: past.slice(0, -1),
      future: [{ label: step.label, documents }, ...future],
    });
    this.soon();
  }

  redo(): void {
    const { documents, past, future } = this.now;
    const [step, ...rest] = future;
    if (!step) return;
    this.lastLabel = '';
    this.set({ documents: step.documents, past: [...past, { label: step.label, documents }], future: rest });
    this.soon();
  }

  /**
   * Saves all that stands here now.
   * @throws Error where that cannot be: the server refuses or does not answer, or something is asked about
   */
  async flush(): Promise<void> {
    clearTimeout(this.timer);
    // what is on its way may be older than what stands here
    for (let tries = 0; tries < 5; tries++) {
      if (this.sending) await this.sending;
      if (this.isSaved) return;
      if (this.now.clashes.length > 0) break;
      await this.send();
      if (this.now.saving === 'failed') break;
    }

    if (this.isSaved) return;
    throw new Error(
      this.now.clashes.length > 0
        ? 'Another window changed the same settings. Choose which values stay, then try again.'
        : `The last change is not saved yet: ${this.now.saveError ?? 'the server is busy'}`,
    );
  }

  /** What stands here goes with a page that hears no answer. */
  lastWords(): { readonly began: number } {
    this.unanswered.add(this.now.documents);
    return { began: this.kept.revision };
  }

  /** What somebody else saved. */
  received(current: Kept): void {
    if (current.revision <= this.kept.revision) return;
    const { documents, past, future, clashes } = this.now;
    // a save of one's own whose answer was lost is no one else's change
    const own = [...this.unanswered].some((sent) => isSame(sent, current.documents));
    const before = own ? current.documents : this.kept.documents;
    this.kept = current;
    const { merged, clashes: found } = merge(before, documents, current.documents);
    // steps of the past are moved along, so that undoing takes back one's own changes only
    const along = (step: Step): Step => ({
      ...step,
      documents: merge(before, step.documents, current.documents).merged,
    });
    const open = clashes.filter((c) => !found.some((o) => isSame(o.path, c.path)));
    this.set({
      documents: merged,
      past: past.map(along),
      future: future.map(along),
      clashes: [...open, ...found],
    });
    if (this.isSaved) this.set({ saving: 'saved', saveError: null });
    this.note();
    if (!this.isSaved) this.soon();
  }

  /** Steps of an earlier visit, which lead to what stands here. */
  remember(past: readonly Step[], future: readonly Step[]): void {
    this.set({ past, future });
  }

  /** What another window had not saved of the same variant when it went. */
  take(began: Kept, documents: Documents): void {
    const { merged, clashes } = merge(began.documents, this.now.documents, documents);
    this.set({ documents: merged, clashes: [...this.now.clashes, ...clashes] });
    this.soon();
  }

  /** Settles a clash with one of its values. */
  settle(clash: Clash, whose: 'mine' | 'theirs'): void {
    const { documents, clashes } = this.now;
    this.set({
      documents: settle(documents, clash.path, clash[whose]),
      clashes: clashes.filter((c) => c !== clash),
    });
    this.soon();
  }

  /** Does nothing more; what is not saved stays in the journal. */
  close(): void {
    clearTimeout(this.timer);
  }

  private set(next: Partial<SessionState>): void {
    this.now = { ...this.now, ...next };
    this.ports.changed(this.now);
  }

  private note(): void {
    this.ports.note(this.isSaved ? null : { documents: this.now.documents, began: this.kept });
  }

  private soon(): void {
    this.note();
    clearTimeout(this.timer);
    if (this.now.clashes.length > 0) return this.set({ saving: 'asking' });
    if (this.sending) return;
    this.set({ saving: 'waiting' });
    this.timer = setTimeout(() => void this.send(), SAVE_AFTER_MS);
  }

  /** One request; what changed meanwhile follows by itself. */
  private send(): Promise<void> {
    this.sending ??= this.sendNow().finally(() => {
      this.sending = null;
      if (this.now.saving === 'waiting') this.soon();
    });
    return this.sending;
  }

  private async sendNow(): Promise<void> {
    clearTimeout(this.timer);
    const { documents } = this.now;
    if (this.isSaved) return this.set({ saving: 'saved', saveError: null });
    this.set({ saving: 'saving' });
    this.unanswered.add(documents);
    const differ = NAMES.filter((name) => !isSame(documents[name], this.kept.documents[name]));
    const parts = Object.fromEntries(differ.map((name) => [name, documents[name]])) as Partial<Documents>;
    try {
      const { revision } = await this.ports.save(parts, this.kept.revision);
      this.kept = { documents, revision };
      this.unanswered.clear();
      this.set({ saving: this.isSaved ? 'saved' : 'waiting', saveError: null });
      this.note();
    } catch (error) {
      if (error instanceof Stale) {
        this.received(error.current);
        this.unanswered.clear();
        if (this.now.clashes.length > 0) this.set({ saving: 'asking' });
        else this.set({ saving: this.isSaved ? 'saved' : 'waiting' });
        return;
      }

      this.set({ saving: 'failed', saveError: (error as Error).message });
      this.timer = setTimeout(() => void this.send(), TRY_AGAIN_MS);
    }
  }
}

// What windows of browsers are told as it happens: jobs, saves of others, and who has a shot open.
import { EventEmitter } from 'node:events';
import type { Present, ServerEvent } from '@bramblemist/contracts/payloads/events';

/** A window that has said nothing for so long is gone. */
const GONE_MS = 60_000;

export class Events extends EventEmitter<{ event: [ServerEvent] }> {
  private readonly seen = new Map<string, { shotId: number; variantId: number | null; at: number }>();

  constructor() {
    super();
    this.setMaxListeners(1000);
  }

  tell(event: ServerEvent): void {
    this.emit('event', event);
  }

  /** A window says what it has open; null: nothing any more. It says so again and again. */
  present(client: string, shotId: number | null, variantId: number | null): void {
    const before = this.seen.get(client);
    if (shotId === null) this.seen.delete(client);
    else this.seen.set(client, { shotId, variantId, at: Date.now() });
    if (before?.shotId === (shotId ?? undefined) && before?.variantId === (variantId ?? before?.variantId))
      return;
    for (const id of new Set([before?.shotId, shotId ?? undefined]))
      if (id !== undefined) this.tell({ kind: 'present', shotId: id, present: this.presentAt(id) });
  }

  presentAt(shotId: number): Present[] {
    const now = Date.now();
    for (const [client, { at }] of this.seen) if (now - at > GONE_MS) this.seen.delete(client);
    return [...this.seen]
      .filter(([, one]) => one.shotId === shotId)
      .map(([client, { variantId }]) => ({ client, variantId }));
  }
}

// A worker that sends news on and on. One that fails is replaced and its work asked for again, but not where
// the next one fails as well before long: then what it was asked for is at fault.

/** Two failures within so long are one too many. */
const FAILS_APART_MS = 60_000;

export interface SturdyPorts<News> {
  /** Called when it is first needed, and after a failure. */
  readonly makeWorker: () => Worker;
  readonly hear: (news: News) => void;
  /** It failed: what is still wanted is to be sent again, to another one. */
  readonly again: (why: string) => void;
  /** It failed twice within a minute. */
  readonly failed: (why: string) => void;
}

export class SturdyWorker<Message, News> {
  private worker: Worker | null = null;
  private failedAt = -Infinity;

  constructor(private readonly ports: SturdyPorts<News>) {}

  /** Whether there is one that knows of what was sent before. */
  get isThere(): boolean {
    return this.worker !== null;
  }

  send(message: Message): void {
    this.worker ??= this.start();
    this.worker.postMessage(message);
  }

  /** Ends it with all that it is at; the next message has another one. */
  end(): void {
    this.worker?.terminate();
    this.worker = null;
  }

  private start(): Worker {
    const { makeWorker, hear, again, failed } = this.ports;
    const worker = makeWorker();
    worker.onmessage = ({ data }: MessageEvent<News>) => hear(data);
    worker.onerror = (event) => {
      event.preventDefault();
      this.end();
      const now = performance.now();
      const isFirst = now - this.failedAt > FAILS_APART_MS;
      this.failedAt = now;
      (isFirst ? again : failed)(event.message || 'it could not be loaded');
    };

    return worker;
  }
}

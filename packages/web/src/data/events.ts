// What the server tells as it happens. One window of the browser listens for all of them, since a browser
// keeps only six connections to a server: whoever holds the lock listens and passes on what comes, and when
// that window goes the next one takes over.
import type { ServerEvent } from '@bramblemist/contracts/payloads/events';
import { routes } from '@bramblemist/contracts/routes';

/** Something may have been missed: all that is shown has to be asked for anew. */
export type Heard = ServerEvent | { readonly kind: 'again' };

const LOCK = 'bramblemist-events';

/** Listens until the returned function is called. */
export function listen(hear: (event: Heard) => void): () => void {
  const channel = new BroadcastChannel('bramblemist-events');
  const ends = new AbortController();
  channel.onmessage = (message: MessageEvent<Heard>) => hear(message.data);
  const tell = (event: Heard): void => {
    hear(event);
    channel.postMessage(event);
  };

  const lead = (): Promise<void> =>
    new Promise((done) => {
      const source = new EventSource(routes.events);
      let opened = false;
      source.onopen = () => {
        // the first one joins what is fresh anyway; later ones come after a gap
        if (opened || !first) tell({ kind: 'again' });
        opened = true;
      };

      source.onmessage = (message: MessageEvent<string>) => tell(JSON.parse(message.data) as ServerEvent);
      ends.signal.addEventListener('abort', () => {
        source.close();
        done();
      });
    });
  let first = true;
  const asked = performance.now();
  navigator.locks
    .request(LOCK, { signal: ends.signal }, () => {
      first = performance.now() - asked < 1000;
      return lead();
    })
    .catch(() => undefined); // ended while it waited
  return () => {
    ends.abort();
    channel.close();
  };
}

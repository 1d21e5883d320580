// Fetches and unpacks a baked frame and sweeps light through it, off the page's own thread.
import { decodePreview } from '@bramblemist/core/cache/preview';
import { lightSweep } from '@bramblemist/core/look/sweep';
import type { ShownBrick } from '../live/use-live';
import { PREVIEW_EXTINCTION, PREVIEW_SUN } from '../viewport/light';

export interface BrickAnswer {
  readonly key: string;
  /** Null where it could not be had. */
  readonly shown: ShownBrick | null;
}

/** What a preview's bytes show. @throws FileError */
function shownOf(bytes: Uint8Array): ShownBrick {
  const { brick, glimpse } = decodePreview(bytes);
  return { brick, light: lightSweep(brick, PREVIEW_SUN, PREVIEW_EXTINCTION), dots: null, glimpse };
}

self.onmessage = (event: MessageEvent<{ key: string; url?: string; bytes?: Uint8Array }>): void => {
  const { key, url, bytes } = event.data;
  void (async (): Promise<ShownBrick | null> => {
    if (bytes) return shownOf(bytes);
    const response = await fetch(url!);
    return response.ok ? shownOf(new Uint8Array(await response.arrayBuffer())) : null;
  })()
    .catch(() => null)
    .then((shown) => {
      const parts = shown
        ? [
            shown.brick.bytes.buffer,
            shown.light.buffer,
            shown.brick.colour?.bytes.buffer,
            shown.glimpse?.values.buffer,
          ]
        : [];
      const moved = [...new Set(parts.filter((b): b is ArrayBuffer => b instanceof ArrayBuffer))];
      self.postMessage({ key, shown } satisfies BrickAnswer, { transfer: moved });
    });
};

// A frame of a cache as its row holds it.
import type { CachedFrame } from '@bramblemist/core/cache/manifest';

export const frameRow = (bakeId: number, f: CachedFrame) => ({
  bakeId,
  frame: f.frame,
  file: f.file,
  bytes: f.bytes,
  sha256: f.sha256,
  readings: f.readings,
  incidents: [...f.incidents],
  timeS: f.timeS ?? null,
});

// The light of the working view: frames come swept for the default look; of another sun or density they are
// swept anew when they are shown.
import type { PreviewVolume } from '@bramblemist/core/volume/preview-volume';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { lightSweep } from '@bramblemist/core/look/sweep';
import { workLight } from '@bramblemist/core/look/work-light';
import type { ShownBrick } from '../live/use-live';

const PREVIEW_LOOK: Look = LOOK.parse({});
export const PREVIEW_SUN = workLight(PREVIEW_LOOK).toSun;
export const PREVIEW_EXTINCTION = PREVIEW_LOOK.medium.density;

const swept = new WeakMap<PreviewVolume, { readonly key: string; readonly light: Uint8Array }>();
const keyOf = (look: Look): string =>
  [...workLight(look).toSun, look.medium.density * look.medium.shadow].join();
const PREVIEW_KEY = keyOf(PREVIEW_LOOK);

/** The light of a frame under a look; the last look of each frame is kept. */
export function lightUnder({ brick, light }: ShownBrick, look: Look): Uint8Array {
  const key = keyOf(look);
  if (key === PREVIEW_KEY) return light;
  let own = swept.get(brick);
  if (own?.key !== key) {
    own = { key, light: lightSweep(brick, workLight(look).toSun, look.medium.density * look.medium.shadow) };
    swept.set(brick, own);
  }

  return own.light;
}

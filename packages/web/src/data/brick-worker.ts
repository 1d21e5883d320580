// Fetches and unpacks a baked frame and sweeps light through it, off the page's own thread.
import { decodePreview } from '@bramblemist/core/cache/preview';
import { lightSweep } from '@bramblemist/core/look/sweep';
import type { ShownBrick } from '../live/use-live';
import { answerCalls } from './answer-calls';
import { PREVIEW_EXTINCTION, PREVIEW_SUN } from '../viewport/light';

/** Where a preview is to be had, or its bytes. */
export type BrickWish = { readonly url: string } | { readonly bytes: Uint8Array };

/** What a preview's bytes show. @throws FileError */
function shownOf(bytes: Uint8Array): ShownBrick {
  const { brick, glimpse } = decodePreview(bytes);
  return { brick, light: lightSweep(brick, PREVIEW_SUN, PREVIEW_EXTINCTION), dots: null, glimpse };
}

async function fetched(url: string): Promise<Uint8Array> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(`The preview does not come (${response.status}).`);
  return new Uint8Array(await response.arrayBuffer());
}

answerCalls<BrickWish, ShownBrick>(
  async (wish) => shownOf('bytes' in wish ? wish.bytes : await fetched(wish.url)),
  ({ brick, light, glimpse }) => [
    brick.bytes.buffer,
    light.buffer,
    brick.colour?.bytes.buffer,
    glimpse?.values.buffer,
  ],
);

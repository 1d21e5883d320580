// npm run bench:screen [-- --json]: what the eye waits for. A bake of 128 voxels across is played and stepped
// through, and a shot of 64 runs live, in a browser without a graphics card; what is measured is when the
// drawing of another frame has ended.
import { chromium } from '@playwright/test';
import { CHROMIUM } from './chromium.mjs';
import { build } from '../scripts/build.mjs';
import { ownApplication } from './own-application.mjs';

const json = process.argv.includes('--json');
const FRAMES = 48;
const STEPS = 30;
const SECONDS = 8;
const EXAMPLE = 'chaff-whirl';
const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];

/** In the page: when the drawing of each further frame has ended, ms. */
function watchFrames() {
  const drawn = (window.drawn = []);
  let isNew = false;
  const { texImage3D, texSubImage3D, drawElements } = WebGL2RenderingContext.prototype;
  const noted = (call) =>
    function (...values) {
      isNew = true;
      return call.apply(this, values);
    };

  Object.assign(WebGL2RenderingContext.prototype, {
    texImage3D: noted(texImage3D),
    texSubImage3D: noted(texSubImage3D),
    drawElements(...values) {
      drawElements.apply(this, values);
      if (!isNew) return;
      isNew = false;
      // a pixel can only be read once all that was asked for before is drawn
      const pixel = new Uint8Array(4);
      queueMicrotask(() => {
        this.readPixels(0, 0, 1, 1, this.RGBA, this.UNSIGNED_BYTE, pixel);
        drawn.push(performance.now());
      });
    },
  });
}

await build(undefined, () => {});
const application = await ownApplication('bench');
const { address, ask } = application;
const browser = await chromium.launch(CHROMIUM);
try {
  const { id: productionId } = await ask('/api/productions', { name: 'Bench' });
  const shotOf = async (voxels) => {
    const { id } = await ask('/api/shots', { productionId, name: `${voxels}`, example: EXAMPLE });
    const [variant] = (await ask(`/api/shots/${id}`)).variants;
    const { space } = variant.recipe;
    const voxelSizeM = Math.max(...space.size) / voxels;
    const last = space.firstFrame + FRAMES - 1;
    const recipe = {
      ...variant.recipe,
      space: { ...space, voxelSize: voxelSizeM, lastFrame: last },
    };
    await ask(`/api/variants/${variant.id}`, { recipe }, 'PATCH', { 'If-Match': `"${variant.revision}"` });
    return { id, variant: variant.id, voxelSizeM, rate: space.frameRate, first: space.firstFrame, last };
  };

  const pageOf = async (shot, stage) => {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(watchFrames);
    await page.addInitScript(() => localStorage.setItem('bramblemist.visited', 'yes'));
    await page.goto(`${address}/shots/${shot.id}/${stage}`);
    return page;
  };

  const paceOf = async (page) => {
    await page.evaluate(() => (window.drawn.length = 0));
    await page.waitForTimeout(SECONDS * 1000);
    return page.evaluate(() => {
      const { drawn } = window;
      return drawn.length < 2 ? 0 : (1000 * (drawn.length - 1)) / (drawn.at(-1) - drawn[0]);
    });
  };

  /** From a press on the reel to the end of the first drawing of another frame after it, ms. */
  const scrubbed = async (page) => {
    const { x, y, width, height } = await page.getByRole('slider', { name: 'Frame' }).boundingBox();
    await page.evaluate(() => {
      window.addEventListener('pointerdown', ({ timeStamp }) => (window.pressed = timeStamp), true);
    });
    const took = [];
    for (let n = 0; n < STEPS; n++) {
      // far from the frame before, as a hand jumps
      const part = ((n * 17) % FRAMES) / FRAMES;
      await page.evaluate(() => (window.drawn.length = 0));
      await page.mouse.click(x + (part + 0.5 / FRAMES) * width, y + height / 2);
      await page.waitForFunction(() => window.drawn.length > 0);
      took.push(await page.evaluate(() => window.drawn[0] - window.pressed));
      await page.waitForTimeout(500);
    }

    return took;
  };

  const baked = await shotOf(128);
  const frames = { first: baked.first, last: baked.last };
  await ask(`/api/variants/${baked.variant}/bakes`, { voxelSizeM: baked.voxelSizeM, frames });
  for (;;) {
    const { bakes } = await ask(`/api/shots/${baked.id}`);
    if (bakes?.[0]?.job?.state === 'done') break;
    await new Promise((done) => setTimeout(done, 500));
  }

  const player = await pageOf(baked, 'run');
  await player.getByRole('slider', { name: 'Frame' }).waitFor();
  await player.getByRole('button', { name: 'Play' }).click();
  await player.waitForTimeout(2000 + (1000 * FRAMES) / baked.rate);
  const played = await paceOf(player);
  await player.getByRole('button', { name: 'Pause' }).click();
  await player.waitForTimeout(1000);
  const scrubs = await scrubbed(player);
  await player.close();

  const live = await shotOf(64);
  const watcher = await pageOf(live, 'set-up');
  await watcher.waitForFunction(() => window.drawn.length > 3);
  const lived = await paceOf(watcher);
  const result = {
    playedFramesPerSecond: played,
    rate: baked.rate,
    scrubMs: median(scrubs),
    scrubMostMs: Math.max(...scrubs),
    liveFramesPerSecond: lived,
  };
  if (json) console.log(JSON.stringify(result));
  else
    console.table([
      { what: `128 voxels across played at ${baked.rate} frames/s`, figure: `${played.toFixed(1)} frames/s` },
      {
        what: 'from a press on the reel to the frame drawn',
        figure: `${result.scrubMs.toFixed(0)} ms, ${result.scrubMostMs.toFixed(0)} at most`,
      },
      { what: '64 voxels across, live', figure: `${lived.toFixed(1)} frames/s` },
    ]);
} finally {
  await browser.close();
  await application.stop();
}

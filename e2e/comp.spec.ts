// Combine as a compositor walks it: bring a movie, lay two renders over it, bind them to a track, mask,
// grade, play, write; and look at what was written with the tools of others.
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { PNG } from 'pngjs';
import { choose, frame, type } from './kit';

interface Made {
  readonly id: number;
}

/** A small shot with a bake and a render of 6 frames. */
async function rendered(page: Page): Promise<number> {
  const ask = async <T>(path: string, data?: unknown): Promise<T> => {
    const answer = data ? await page.request.post(path, { data }) : await page.request.get(path);
    expect(answer.ok(), `${path}: ${await answer.text()}`).toBe(true);
    return (await answer.json()) as T;
  };

  const [{ id: productionId }] = await ask<Made[]>('/api/productions');
  const { id } = await ask<Made>('/api/shots', { productionId, name: 'Over a plate', example: 'warm-plume' });
  interface Shot {
    readonly variants: readonly { id: number; recipe: { space: object }; look: object; revision: number }[];
  }
  const [variant] = (await ask<Shot>(`/api/shots/${id}`)).variants;
  const space = { ...variant.recipe.space, lastFrame: 6 };
  const small = { width: 160, height: 90 };
  const { camera, passes } = variant.look as { camera: object; passes: object };
  const look = { ...variant.look, camera: { ...camera, ...small }, passes: { ...passes, deep: true } };
  const saved = await page.request.patch(`/api/variants/${variant.id}`, {
    data: { recipe: { ...variant.recipe, space }, look },
    headers: { 'If-Match': `"${variant.revision}"` },
  });
  expect(saved.ok(), await saved.text()).toBe(true);
  const done = async (kind: string, target: number): Promise<void> =>
    expect
      .poll(
        async () => {
          const jobs = await ask<{ kind: string; targetId: number; state: string }[]>('/api/jobs');
          return jobs.find((j) => j.kind === kind && j.targetId === target)?.state;
        },
        { timeout: 120_000 },
      )
      .toBe('done');
  const frames = { first: 1, last: 6 };
  const bake = await ask<Made>(`/api/variants/${variant.id}/bakes`, { voxelSizeM: 0.1, frames });
  await done('bake', bake.id);
  const render = await ask<Made>(`/api/bakes/${bake.id}/renders`, { look, frames });
  await done('render', render.id);
  return id;
}

const ready = (page: Page): Promise<void> =>
  expect(page.getByText(/^Ready in \d+ ms$/)).toBeVisible({ timeout: 60_000 });

/** The comp as the window has it, pixel by pixel. */
const pixels = (page: Page): Promise<{ width: number; height: number; data: number[] }> =>
  page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('canvas[aria-label^="The comp"]')!;
    const { width, height } = canvas;
    return { width, height, data: [...canvas.getContext('2d')!.getImageData(0, 0, width, height).data] };
  });

test('a movie, two renders, a track, a mask, a grade: played, written, and the same in the file', async ({
  page,
}, info) => {
  const plate = info.outputPath('yard.mp4');
  const source = 'gradients=size=320x180:rate=24:duration=0.25:c0=0x304050:c1=0x908070:seed=3';
  execFileSync(
    'ffmpeg',
    ['-loglevel', 'error', '-y', '-f', 'lavfi', '-i', source, '-pix_fmt', 'yuv420p', '-frames:v', '6', plate],
    { input: '' },
  );
  const track = info.outputPath('yard.csv');
  writeFileSync(
    track,
    `frame,x,y,width,height\n${[1, 2, 3, 4, 5, 6].map((f) => `${f},${100 + 4 * f},90,320,180`).join('\n')}\n`,
  );
  const shot = await rendered(page);
  const troubles: string[] = [];
  page.on('pageerror', (error) => troubles.push(error.message));
  await page.goto(`/shots/${shot}/combine`);
  await expect(page.getByText('Nothing lies in the frame yet')).toBeVisible();

  await page.getByRole('button', { name: 'Take size, rate and range from the shot' }).click();
  await type(page, 'Frame, width', '320');
  await type(page, 'Frame, height', '180');

  // the plate goes under everything
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Bring a plate' }).click(),
  ]);
  await chooser.setFiles(plate);
  await expect(page.getByRole('group', { name: 'yard', exact: true })).toBeVisible();
  for (const name of ['Element', 'Element again']) {
    if (name === 'Element') {
      await page.getByRole('button', { name: 'Add a layer' }).click();
      await page.getByRole('menuitem', { name: /^The newest render/ }).click();
    } else {
      await page.getByRole('button', { name: 'Unfold Element', exact: true }).click();
      await page.getByRole('button', { name: 'Duplicate' }).click();
    }

    await expect(page.getByRole('group', { name, exact: true })).toBeVisible();
  }

  await page.getByRole('button', { name: 'To the last frame' }).click();
  await ready(page);
  const before = await pixels(page);
  const meets = async (name: string, how: string): Promise<void> => {
    const group = page.getByRole('group', { name, exact: true });
    const word = group.getByRole('button', { name: `${name}, meets` }).first();
    // where the list of layers still moves to it, what has been unfolded folds again
    await expect(async () => {
      await word.click();
      await page.getByRole('option', { name: how, exact: true }).click({ timeout: 1000 });
    }).toPass();
  };

  await meets('Element again', 'screen');
  await type(page, 'Element again, opacity', '50 %');

  // the one below is merged by its deep pictures, which are fetched for it
  const deep = page.waitForResponse(/\/frames\/6\/deep$/);
  await meets('Element', 'merged by depth');
  expect((await deep).ok()).toBe(true);

  // words for whoever reviews it
  await page.getByRole('button', { name: 'Add a layer' }).click();
  await page.getByRole('menuitem', { name: /^Text/ }).click();
  await page.getByRole('textbox', { name: 'Text, text' }).fill('Over a plate\n{frame}');
  await type(page, 'Text, letters', '18 px');

  // bound to a track, which comes as a file
  const [files] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Bring files' }).click(),
  ]);
  await files.setFiles(track);
  await expect(page.getByText('yard.csv').first()).toBeVisible();
  await choose(page, 'Element, track', 'follows a track');
  await choose(page, 'Element, track’s file', 'yard.csv');

  // graded and masked; the mask's corner is moved by keys
  await page.getByRole('button', { name: 'Add an operation to Element', exact: true }).click();
  await page.getByRole('menuitem', { name: /^Exposure/ }).click();
  await type(page, 'exposure, exposure', '-1');
  await page.getByRole('button', { name: 'Add a mask to Element', exact: true }).click();
  await page.getByRole('menuitem', { name: /^Drawn/ }).click();
  const corner = page.getByRole('slider', { name: 'Corner 1 of Element: drawn' });
  await corner.focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await expect(page.getByRole('button', { name: 'Undo draw Element: drawn' })).toBeVisible();
  const changed = async (): Promise<number> =>
    (await pixels(page)).data.filter((v, n) => Math.abs(v - before.data[n]) > 3).length;
  await expect.poll(changed).toBeGreaterThan(100);

  // all frames get ready, and are played
  await expect(page.getByText('6 of 6 ready to play')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(() => frame(page)).toBeGreaterThan(1);
  await page.getByRole('button', { name: 'Pause', exact: true }).click();
  await page.getByRole('button', { name: 'To the last frame' }).click();

  // put aside, and held against it
  await page.getByRole('button', { name: 'Put aside' }).click();
  await expect(page.getByRole('textbox', { name: 'Note of comp 1' })).toBeVisible();
  await type(page, 'exposure, exposure', '2');
  await page.getByRole('button', { name: 'Hold against it' }).click();
  await expect(page.getByRole('button', { name: 'Stop holding against it' })).toBeVisible();
  await page.getByRole('button', { name: 'Take it' }).click();
  await expect(page.getByText('now', { exact: true }).first()).toBeVisible();

  // written, and as the window shows it at full size
  await page.getByRole('button', { name: 'One pixel of the comp on one of the screen' }).click();
  await choose(page, 'Behind what is clear', 'on black');
  await page.getByRole('button', { name: 'Write frames 1–6' }).click();
  await expect(page.getByText(/Comp \d+ · 6 frames/)).toBeVisible({ timeout: 120_000 });
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Frame 6 as PNG' }).click(),
  ]);
  const [exr] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Frame 6 as OpenEXR' }).click(),
  ]);
  await ready(page);
  const shown = await pixels(page);
  const file = PNG.sync.read(readFileSync(await saved.path()));
  expect([shown.width, shown.height]).toEqual([file.width, file.height]);
  let worst = 0;
  for (let n = 0; n < shown.data.length; n++) worst = Math.max(worst, Math.abs(shown.data[n] - file.data[n]));
  // both are rounded to bytes, by tables of different fineness
  expect(worst).toBeLessThanOrEqual(1);
  const told = execFileSync('exrheader', [await exr.path()], { encoding: 'utf8' });
  expect(told).toMatch(/A, 16-bit floating-point/);
  expect(told).toMatch(/displayWindow[^\n]*319 179/);

  // a movie of it with alpha
  await page.getByRole('button', { name: /^Make a movie of comp/ }).click();
  await page.getByRole('menuitem', { name: 'With alpha', exact: true }).click();
  const keep = page.getByRole('link', { name: 'Keep' });
  await keep.waitFor({ timeout: 120_000 });
  const [movie] = await Promise.all([page.waitForEvent('download'), keep.click()]);
  const probe = [
    '-v',
    'error',
    '-show_entries',
    'stream=codec_name,width,nb_frames',
    '-of',
    'csv=p=0',
    await movie.path(),
  ];
  expect(execFileSync('ffprobe', probe, { encoding: 'utf8' }).trim()).toBe('prores,320,6');
  expect(troubles).toEqual([]);
});

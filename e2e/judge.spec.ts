// Playing and judging: change and see, branch, compare, trial sheets, a reference and its measures, keys of
// one's own.
import { expect, test, type Page } from '@playwright/test';
import { PNG } from 'pngjs';
import { changed, choose, complete, faults, frame, newShot, pixels, settled, type, view } from './kit';

/** Stands still at a frame, so that two pictures can be held against each other. */
async function standAt(page: Page, key: 'Home' | 'End'): Promise<void> {
  await page.getByRole('slider', { name: 'Frame', exact: true }).press(key);
  await settled(page);
}

test('a change is seen, held against what was, branched, compared and gone back to', async ({ page }) => {
  const troubles: string[] = [];
  page.on('pageerror', (e) => troubles.push(e.message));
  await newShot(page, 'Judged by hand', 'mist-over-water');
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '24');
  await complete(page);
  await standAt(page, 'End');
  const before = await view(page);

  // Held as it is, then changed: other pixels, and the comparison says how much lies elsewhere.
  await page.getByRole('button', { name: 'hold to compare' }).click();
  await expect(page.getByRole('img', { name: 'The scene' })).toHaveCount(2);
  await type(page, 'Wind, speed', '3 m/s');
  await complete(page);
  await standAt(page, 'End');
  await expect(page.getByRole('group', { name: 'Comparison' })).toContainText(
    /and as it was held, side by side.*· \d+ % of the medium elsewhere/,
  );
  await page.getByRole('button', { name: 'End', exact: true }).click();
  await expect(page.getByRole('img', { name: 'The scene' })).toHaveCount(1);
  await settled(page);
  expect(changed(before, await view(page))).toBeGreaterThan(800);

  // A branch, what it changed in words, and its parent played beside it.
  await page.getByRole('button', { name: '+ try another' }).click();
  await page.getByRole('textbox', { name: 'What this variant tries' }).fill('calmer');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: '2 calmer now' })).toBeVisible();
  await type(page, 'Wind, speed', '0 m/s');
  await expect(page.getByRole('list', { name: 'What variant 2 changed of 1' })).toContainText(
    'Wind: speed 3 m/s → 0 m/s',
    {
      timeout: 15_000,
    },
  );
  await page.getByRole('button', { name: 'compare', exact: true }).click();
  await expect(page.getByRole('group', { name: 'Comparison' })).toContainText(
    /variant 2 and variant 1.*% of the medium elsewhere/,
    {
      timeout: 60_000,
    },
  );
  await choose(page, 'How they are compared', 'wiped');
  const wipe = page.getByRole('slider', { name: 'Where the wipe stands' });
  await wipe.press('ArrowLeft');
  await expect(wipe).toHaveAttribute('aria-valuenow', '48');
  await choose(page, 'How they are compared', 'as their difference');
  await complete(page);
  await standAt(page, 'End');
  // nothing of the grey surround is left, and where they differ it is bright
  const window_ = page.getByRole('region', { name: 'The window' });
  const { data, width } = PNG.sync.read(await window_.screenshot());
  const lit = (x: number, y: number): number =>
    data[4 * (y * width + x)] + data[4 * (y * width + x) + 1] + data[4 * (y * width + x) + 2];
  expect(lit(4, 300)).toBeLessThan(12);
  let bright = 0;
  for (let n = 0; n < data.length; n += 4) if (data[n] + data[n + 1] + data[n + 2] > 90) bright++;
  expect(bright).toBeGreaterThan(1500);
  await page.getByRole('button', { name: 'end comparing' }).click();
  // the readings of both on one chart
  await page.getByRole('button', { name: 'readings', exact: true }).click();
  await expect(page.getByRole('figure', { name: 'front speed' })).toBeVisible();

  await page.getByRole('button', { name: 'More of variant 1' }).click();
  await page.getByRole('menuitem', { name: 'Branch from here' }).click();
  await expect(page.getByRole('button', { name: '3 back to 1 now' })).toBeVisible();
  const speed = page.getByRole('spinbutton', { name: 'Wind, speed', exact: true });
  await expect(speed).toHaveText('3 m/s');
  // what is changed of one variant is there again after another was open
  await type(page, 'Wind, speed', '1 m/s');
  // by the keyboard: what is told of the change moves the list under a pointer
  await page.getByRole('button', { name: '2 calmer' }).press('Enter');
  await expect(speed).toHaveText('0 m/s');
  await page.getByRole('button', { name: '3 back to 1' }).press('Enter');
  await expect(speed).toHaveText('1 m/s');
  expect(troubles).toEqual([]);
});

test('a trial sheet of six runs in step, and one is adopted', async ({ page }) => {
  await newShot(page, 'Tried by hand', 'mist-over-water');
  await page.getByRole('button', { name: 'trial sheets' }).click();
  await expect(page).toHaveURL(/sheets/);
  expect(await faults(page)).toEqual([]);
  await choose(page, /Length of the runs/, '24 frames');
  await page.getByRole('combobox', { name: 'What varies' }).fill('wind: speed');
  await page.getByRole('option', { name: /^Wind: speed/ }).click();
  await page.getByRole('textbox', { name: 'Values to try' }).fill('0, 0.5, a lot');
  await expect(page.getByRole('alert')).toContainText('number');
  await page.getByRole('textbox', { name: 'Values to try' }).fill('0, 0.4, 0.8, 1.2, 2, 4 m/s');
  await page.getByRole('button', { name: 'Run 6 trials' }).click();
  const sheet = page.getByRole('region', { name: /^Sheet/ });
  await expect(sheet.getByRole('img')).toHaveCount(6);
  await expect(sheet.getByRole('progressbar')).toBeHidden({ timeout: 120_000 });
  await expect(sheet.getByRole('img').last()).toHaveAttribute('data-pictures', '24', { timeout: 20_000 });
  await sheet.getByRole('button', { name: 'Pause' }).click();
  await sheet.getByRole('slider', { name: 'Frame' }).fill('23');
  const calm = await sheet.getByRole('img').first().screenshot();
  const windy = await sheet.getByRole('img').last().screenshot();
  expect(changed(calm, windy)).toBeGreaterThan(500);
  expect(await faults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Adopt speed 2 m/s' }).click();
  await expect(page).toHaveURL(/set-up/);
  await expect(page.getByRole('button', { name: /2 speed 2 m\/s \(sheet \d+\) now/ })).toBeVisible();
  await expect(page.getByRole('spinbutton', { name: 'Wind, speed' })).toHaveText('2 m/s');
});

test('a sheet is stopped early, and what is there stays', async ({ page }) => {
  await newShot(page, 'Stopped by hand', 'mist-over-water');
  await page.getByRole('button', { name: 'trial sheets' }).click();
  await choose(page, /Size of the runs/, 'live');
  await page.getByRole('button', { name: 'Run 6 trials' }).click();
  const sheet = page.getByRole('region', { name: /^Sheet/ });
  await expect
    .poll(async () => Number(await sheet.getByRole('img').first().getAttribute('data-pictures')), {
      timeout: 60_000,
    })
    .toBeGreaterThan(0);
  await sheet.getByRole('button', { name: 'Stop here' }).click();
  await expect(sheet.getByRole('progressbar')).toBeHidden();
  await expect(page.getByText('stopped', { exact: false }).first()).toBeVisible();
  await expect(sheet.getByRole('button', { name: /^Adopt/ }).first()).toBeEnabled();
});

test('a reference stands over the shot camera, is measured, and a hint turns a setting', async ({ page }) => {
  await newShot(page, 'Held against a picture', 'mist-over-water');
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '24');
  await complete(page);
  // a bright bank across the frame, as three pictures of a clip that grows
  const clip = [1, 2, 3].map((n) => {
    const png = new PNG({ width: 320, height: 180 });
    for (let i = 0; i < 320 * 180; i++) {
      const v = i % 320 < 200 + 30 * n && i / 320 > 60 ? 240 : 20;
      png.data.set([v, v, v, 255], 4 * i);
    }

    return { name: `bank.000${n}.png`, mimeType: 'image/png', buffer: PNG.sync.write(png) };
  });
  const choosing = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Bring reference pictures' }).click();
  await (await choosing).setFiles(clip);
  await expect(page.getByRole('img', { name: 'Reference bank' })).toBeVisible();
  await expect(page.getByRole('spinbutton', { name: 'Picture of the first frame' })).toHaveText('1');

  await page.getByRole('button', { name: 'shot camera' }).click();
  await expect(page.getByRole('img', { name: 'Frame lines of the shot camera' })).toBeVisible();
  await standAt(page, 'End');
  await choose(page, 'Where the reference stands', 'over it');
  await expect
    .poll(() =>
      page.getByRole('region', { name: 'The window' }).getByRole('img', { name: 'Reference bank' }).count(),
    )
    .toBe(1);

  await page.getByRole('button', { name: 'measure', exact: true }).click();
  const table = page.getByRole('table', { name: 'The run against the reference' });
  await expect(table).toContainText(/match \d+ %/, { timeout: 30_000 });
  // the third picture covers 290 of 320 columns and two thirds of the rows
  await expect(table.getByRole('row', { name: /^coverage/ })).toContainText('60');
  const hint = table.getByRole('button').first();
  const said = await hint.textContent();
  await hint.click();
  await expect(page.getByRole('button', { name: `Undo ${said}` })).toBeEnabled();
  // only the left half of the picture
  await page.getByRole('button', { name: 'only inside an outline' }).click();
  const picture = page.getByRole('img', { name: 'Reference with what of it is medium' });
  const box = (await picture.boundingBox())!;
  for (const [x, y] of [
    [0.02, 0.02],
    [0.5, 0.02],
    [0.5, 0.98],
    [0.02, 0.98],
  ])
    await page.mouse.click(box.x + x * box.width, box.y + y * box.height);
  await page.getByRole('button', { name: 'close it' }).click();
  await expect(table.getByRole('row', { name: /^coverage/ })).toContainText(/3[0-3]/, { timeout: 20_000 });
  expect(await faults(page)).toEqual([]);
});

test('the medium by a channel, a range that is locked, a view that is kept, keys of one’s own', async ({
  page,
}) => {
  await newShot(page, 'Seen by hand', 'mist-over-water');
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '24');
  await complete(page);
  await standAt(page, 'End');
  const warm = (r: number, g: number, b: number): boolean => r > g + 30 && r > b + 15;
  const grey = await pixels(page, warm);
  await page.getByRole('button', { name: 'The medium', exact: true }).click();
  await choose(page, 'Medium coloured', 'by speed');
  await expect.poll(() => pixels(page, warm), { timeout: 20_000 }).toBeGreaterThan(grey + 300);
  const most = page.getByRole('spinbutton', { name: 'Brightest at' });
  await page.getByRole('button', { name: 'Lock this range' }).click();
  const locked = await most.textContent();
  await page.getByRole('slider', { name: 'Frame', exact: true }).press('Home');
  await expect(page.getByRole('button', { name: 'Follow the frame' })).toBeVisible();
  expect(await most.textContent()).toBe(locked);

  await page.getByRole('button', { name: 'Views', exact: true }).click();
  await page.getByRole('textbox', { name: 'Name of this view' }).fill('from the left');
  await page.getByRole('button', { name: 'keep this view' }).click();
  await expect(page.getByRole('button', { name: 'from the left', exact: true })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.reload();
  await page.getByRole('button', { name: 'Views', exact: true }).click();
  await expect(page.getByRole('button', { name: 'from the left', exact: true })).toBeVisible();
  await page.keyboard.press('Escape');

  await complete(page);
  await page.getByRole('slider', { name: 'Frame', exact: true }).press('Home');
  await page.getByRole('button', { name: 'A frame on' }).click();
  expect(await frame(page)).toBe(2);
  await page.keyboard.press('?');
  await page.getByRole('button', { name: /^Keys for: a frame on/ }).click();
  await page.keyboard.press('l');
  await expect(page.getByRole('alert')).toContainText('over and over');
  await page.getByRole('button', { name: /^Keys for: a frame on/ }).click();
  await page.keyboard.press('n');
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await page.keyboard.press('n');
  await expect.poll(() => frame(page)).toBe(3);
});

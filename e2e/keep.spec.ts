// Baking and keeping: what is kept and what it takes, tools tried on a frame and made, refining, particles,
// the bin.
import { expect, test, type Page } from '@playwright/test';
import { changed, faults, newShot, settled, type, view } from './kit';

const state = (page: Page, name: RegExp, says: string): Promise<void> =>
  expect(
    page.getByRole('region', { name: 'Bakes' }).locator('> div').filter({ hasText: name }).getByText(says),
  ).toBeVisible({
    timeout: 60_000,
  });

test('a bake is worked on, refined, looked over, binned and brought back', async ({ page }) => {
  const troubles: string[] = [];
  page.on('pageerror', (e) => troubles.push(e.message));
  await newShot(page, 'Kept by hand', 'mist-over-water');
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '10');
  await type(page, 'Space, voxel size', '12 cm');
  await expect(page.getByRole('status')).toHaveText('saved');
  await page.getByRole('link', { name: 'Run', exact: true }).click();

  // Channels with their sizes: one that is not kept says what it would add.
  const age = page.getByRole('checkbox', { name: /^age/ });
  await expect(page.getByText(/^\+ .*B$/).first()).toBeVisible({ timeout: 30_000 });
  await expect(age).not.toBeChecked();
  await age.check();
  await expect(page.getByRole('status')).toHaveText('saved');
  await page.getByRole('button', { name: 'Bake 10 frames', exact: true }).click();
  await state(page, /variant 1/, 'current');

  // A tool, tried on the last frame: other pixels, and back again.
  await page.getByRole('slider', { name: 'Frame', exact: true }).press('End');
  await settled(page);
  const before = await view(page);
  await page.getByRole('button', { name: 'tools …' }).click();
  await type(page, 'Smooth, radius', '40 cm');
  await page.getByRole('button', { name: /^Try on frame/ }).click();
  await expect(page.getByRole('button', { name: 'as it was' })).toBeVisible({ timeout: 30_000 });
  await settled(page);
  expect(changed(before, await view(page))).toBeGreaterThan(300);
  expect(await faults(page)).toEqual([]);
  await page.getByRole('button', { name: 'as it was' }).click();
  await settled(page);
  expect(changed(before, await view(page))).toBeLessThan(300);
  await page.getByRole('button', { name: 'Make a new cache' }).click();
  await state(page, /: smooth$|: smooth/, 'current');

  // Refined from the first, with the two wiped into each other; particles through it.
  await page.getByRole('button', { name: /· variant 1$/ }).click();
  await page.getByRole('button', { name: 'refine …' }).click();
  await page.getByRole('button', { name: 'Refine 10 frames' }).click();
  await state(page, /refined 2 ×/, 'current');
  await page.getByRole('button', { name: /· variant 1$/ }).click();
  await page.getByRole('button', { name: 'particles …' }).click();
  await page.getByRole('button', { name: 'Send them through' }).click();
  await expect(page.getByRole('link', { name: 'Download particles' })).toBeVisible({ timeout: 60_000 });
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download particles' }).click(),
  ]);
  expect(download.suggestedFilename()).toMatch(/particles\d+\.zip$/);

  // Looked over, locked; what is locked cannot go.
  await page.getByRole('button', { name: 'Verify files' }).click();
  await expect(page.getByText(/verified: as it was written/)).toBeVisible({ timeout: 30_000 });
  await page.getByRole('button', { name: 'lock', exact: true }).click();
  await expect(page.getByRole('button', { name: /^Move to bin/ })).toBeDisabled();
  await page.getByRole('button', { name: 'unlock' }).click();

  // A change of the recipe says what it reaches, and when it was made.
  await page.getByRole('link', { name: 'Set up', exact: true }).click();
  await type(page, 'Wind, speed', '2 m/s');
  await expect(page.getByRole('status')).toHaveText('saved');
  await page.getByRole('link', { name: 'Run', exact: true }).click();
  await expect(page.getByText(/^wind speed 0?[\d.]* → 2, /).first()).toBeVisible({ timeout: 30_000 });

  // A volume from elsewhere becomes a cache of the shot.
  const first = await page.getByRole('button', { name: /^Bake \d+ · variant 1$/ }).textContent();
  const volume = await page.request.get(`/api/bakes/${/\d+/.exec(first!)![0]}/frames/5/volume`);
  const input = page.getByRole('region', { name: 'Bakes' }).locator('input[type=file]');
  await input.setInputFiles({
    name: 'fog.0005.vdb',
    mimeType: 'application/octet-stream',
    buffer: await volume.body(),
  });
  await state(page, /fog\.0005\.vdb/, 'current');
  await expect(page.getByText(/^density, float, half, /)).toBeVisible();

  // Into the bin, seen on the storage page, and back.
  await page.getByRole('button', { name: /refined 2 ×/ }).click();
  await page.getByRole('button', { name: /^Move to bin/ }).click();
  await expect(page.getByRole('button', { name: /refined 2 ×/ })).toHaveCount(0);
  await page.getByRole('link', { name: 'Storage' }).click();
  const bin = page.getByRole('region', { name: 'The bin' });
  await expect(bin.getByText(/^Bake \d+, \d+ refined$/)).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await bin.getByRole('button', { name: /^Bring back/ }).click();
  await expect(bin).toHaveCount(0);
  await expect(
    page.getByRole('grid', { name: 'On the disk' }).getByText('Kept by hand').first(),
  ).toBeVisible();

  // The queue's log of the newest job.
  await page.getByRole('link', { name: 'Queue' }).click();
  await page.getByRole('button', { name: 'log' }).first().click();
  await expect(page.getByLabel(/^Log of/)).toContainText('started');
  expect(troubles).toEqual([]);
});

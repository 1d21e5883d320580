// What a size may be trusted for, dust that comes down, and a run that went wrong and goes on.
import { expect, test } from '@playwright/test';
import { choose, frame, newShot, type } from './kit';

test('dust settles; the drift check bakes both sizes and says what to trust', async ({ page }) => {
  await newShot(page, 'Flour by hand', 'kicked-dust');
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '12');
  await page.getByRole('button', { name: 'settling', exact: true }).click();
  await choose(page, /Settling, fall/, 'falls as grains');
  await expect(page.getByText(/^Such grains fall at 0\.2\d+ m\/s through still air/)).toBeVisible();
  await type(page, 'Settling, grain size', '200 µm');
  await expect(page.getByText(/^Such grains fall at 1\.\d+ m\/s/)).toBeVisible();
  await expect(page.getByRole('status').first()).toHaveText('saved');

  await page.getByRole('link', { name: 'Run', exact: true }).click();
  const check = page.getByRole('region', { name: 'Drift check' });
  await choose(page, /Second size/, 'rough');
  await expect(check.getByText('Both have the same voxels: choose another size.')).toBeVisible();
  await choose(page, /Second size/, 'working');
  await check.getByRole('button', { name: 'Bake both' }).click();
  await expect(check.getByText(/of 12 frames/)).toHaveCount(0, { timeout: 120_000 });
  await expect(check.getByRole('status')).toContainText('At rough size, trust', { timeout: 60_000 });
  await check.getByRole('button', { name: 'mass', exact: true }).click();
  await expect(check.getByRole('figure', { name: 'mass' })).toBeVisible();
  // what has landed is a channel and a reading of the bakes
  const [, shot] = /shots\/(\d+)/.exec(page.url())!;
  const { bakes } = (await (await page.request.get(`/api/shots/${shot}`)).json()) as {
    bakes: { id: number; channels: string[] }[];
  };
  expect(bakes).toHaveLength(2);
  for (const { id, channels } of bakes) {
    expect(channels).toContain('deposit');
    const frames = (await (await page.request.get(`/api/bakes/${id}/frames`)).json()) as {
      readings: { massDeposited: number };
    }[];
    expect(frames.at(-1)!.readings.massDeposited).toBeGreaterThan(0);
  }
});

test('a run that went wrong goes on from some frames before, with more substeps', async ({ page }) => {
  await newShot(page, 'Wild by hand', 'chimney-smoke');
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '400');
  // warmth that triples with every substep: the air runs away, long before so many frames are over
  await page.getByRole('button', { name: 'Add a formula' }).click();
  await page.getByRole('menuitem', { name: /^Keep within bounds/ }).click();
  const field = page.getByRole('textbox', { name: 'Keep within bounds, formula' });
  await field.click();
  await expect.poll(() => frame(page), { timeout: 60_000 }).toBeGreaterThan(20);
  await field.fill('temperature = temperature * 3');
  await page.keyboard.press('Tab');
  const on = page.getByRole('button', { name: 'go on with more substeps' });
  await expect(on).toBeVisible({ timeout: 60_000 });
  const message = page.getByText(/The air runs away/).first();
  const stop = async (): Promise<number> => Number(/Frame (\d+)/.exec((await message.textContent())!)![1]);
  const stopped = await stop();
  await on.click();
  await expect(page.getByRole('spinbutton', { name: 'Space, least substeps' })).toHaveText('2');
  await expect(page.getByRole('button', { name: 'Undo more substeps' })).toBeVisible();
  // as wild as this air is, it stops again; but it went on from some frames before, not from the first one
  await expect(message).not.toContainText(`Frame ${stopped}`, { timeout: 60_000 });
  await expect(on).toBeVisible({ timeout: 60_000 });
  expect(await stop()).toBeGreaterThan(stopped - 8);
});

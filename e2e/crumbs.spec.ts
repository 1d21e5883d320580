// Particles by hand: thrown, made to give off, taken from a sequence of files; sized by a handle; seen in the
// window.
import { expect, test, type Page } from '@playwright/test';
import { type } from './kit';

const reading = async (page: Page, name: RegExp): Promise<number> =>
  Number(/([\d.]+)/.exec((await page.getByText(name).first().textContent()) ?? '')?.[1] ?? NaN);

test('crumbs that fly and trail dust, and a sequence from files', async ({ page }) => {
  const troubles: string[] = [];
  page.on('pageerror', (e) => troubles.push(e.message));
  await page.goto('/board');
  await page.getByRole('textbox', { name: 'Name of the new shot' }).fill('Crumbs by hand');
  await page.getByRole('button', { name: 'New shot' }).click();
  await expect(page.getByText('None fly.')).toBeVisible();

  // Thrown by name; on their own they give off nothing, one press lets them.
  await page.getByRole('button', { name: 'Add particles' }).click();
  await page.getByRole('menuitem', { name: /^Throw/ }).click();
  await expect(page.getByRole('button', { name: 'Unfold Throw' })).toBeVisible();
  await expect
    .poll(() => page.getByTestId('frame').textContent().then(Number), { timeout: 60_000 })
    .toBeGreaterThan(12);
  await expect.poll(() => reading(page, /^mass/)).toBe(0);
  await page.getByRole('button', { name: 'Let them give off the medium' }).click();
  await expect(page.getByRole('button', { name: 'Unfold Off particles' })).toBeVisible();
  await expect.poll(() => reading(page, /^mass/), { timeout: 60_000 }).toBeGreaterThan(0);
  await expect(page.getByRole('button', { name: 'Let them give off the medium' })).toHaveCount(0);

  // A worker that fails is told of, and the run goes on with another; so long a run is under way for sure.
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '800');
  await expect(page.getByText(/fr\/s live/)).toBeVisible();
  await expect(async () => {
    // where the run takes up the longer shot only now, it has another worker and says nothing of the last one
    const worker = page.workers().findLast((w) => w.url().includes('live-worker'))!;
    await worker.evaluate(
      () =>
        void setTimeout(() => {
          throw new Error('made to fail');
        }),
    );
    const said = page.getByText(/began anew by itself: its worker had failed \(.*made to fail/);
    await expect(said).toBeVisible({ timeout: 8000 });
  }).toPass({ timeout: 60_000 });
  await expect.poll(() => reading(page, /^mass/), { timeout: 60_000 }).toBeGreaterThan(0);

  // What is chosen has a handle that says what it can do.
  await page.getByRole('button', { name: 'Unfold Throw' }).click();
  const handle = page.getByRole('group', { name: 'Handle of Throw' });
  for (const mode of ['turn', 'size', 'aim']) {
    await handle.getByRole('button', { name: mode }).click();
    await expect(handle.getByRole('button', { name: mode })).toHaveAttribute('aria-pressed', 'true');
  }

  // Numbered files together are a sequence; broken ones are refused by name.
  const csv = (rows: string): { mimeType: string; buffer: Buffer } => ({
    mimeType: 'text/csv',
    buffer: Buffer.from(`id,x,y,z\n${rows}`),
  });
  await page
    .getByRole('main', { name: 'The page' })
    .locator('input[type=file]')
    .setInputFiles([
      { name: 'spray_0001.csv', ...csv('1,0,0.5,0\n2,0.2,0.5,0\n') },
      { name: 'spray_0003.csv', ...csv('1,0,1,0\n2,0.2,1.4,here\n') },
    ]);
  await expect(page.getByRole('alert')).toContainText('spray_0003.csv: Row 3, z: “here” is no number');
  await page
    .getByRole('main', { name: 'The page' })
    .locator('input[type=file]')
    .setInputFiles([
      { name: 'spray_0001.csv', ...csv('1,0,0.5,0\n2,0.2,0.5,0\n') },
      { name: 'spray_0003.csv', ...csv('1,0,1,0\n2,0.2,1.4,0\n') },
    ]);
  await expect(page.getByText('up to 2 particles with ids')).toBeVisible();
  await expect(page.getByText(/a sequence of frames 1–3/)).toBeVisible();
  await page.getByRole('button', { name: 'Add particles' }).click();
  await page.getByRole('menuitem', { name: /^From a file/ }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'has no file yet' })).toBeVisible();
  await page.getByRole('button', { name: /From a file, file/ }).click();
  await page.getByRole('option', { name: 'spray.zip', exact: true }).click();
  await expect(page.getByText('has no file yet')).toHaveCount(0);
  await expect
    .poll(() => page.getByTestId('frame').textContent().then(Number), { timeout: 60_000 })
    .toBeGreaterThan(3);
  expect(troubles).toEqual([]);
});

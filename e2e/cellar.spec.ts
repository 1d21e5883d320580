// Building a shot by hand from nothing: the ice cellar, with its steps from a file, keys, and what goes wrong
// on the way.
import { expect, test, type Page } from '@playwright/test';
import { frame, type } from './kit';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

const STEPS = join(import.meta.dirname, '../demo/build/pictures/cellar_steps.obj');

async function choose(page: Page, name: string, option: string): Promise<void> {
  await page
    .getByRole('button', { name: new RegExp(name) })
    .first()
    .click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

test('the ice cellar, from an empty shot', async ({ page }) => {
  const troubles: string[] = [];
  page.on('pageerror', (e) => troubles.push(e.message));
  await page.goto('/board');
  await page.getByRole('textbox', { name: 'Name of the new shot' }).fill('Cellar by hand');
  await page.getByRole('button', { name: 'New shot' }).click();
  await expect(page.getByText('Nothing gives off the medium yet')).toBeVisible();

  // Files: a wrong one is refused in words, the right one is checked.
  await page
    .getByRole('main', { name: 'The page' })
    .locator('input[type=file]')
    .setInputFiles({ name: 'steps.obj', mimeType: 'text/plain', buffer: Buffer.from('v 0 0 here\n') });
  await expect(page.getByRole('alert')).toContainText('steps.obj: Line 1: a vertex needs three numbers');
  const large = readFileSync(STEPS, 'utf8').replace(
    /^v (\S+) (\S+) (\S+)$/gm,
    (_, ...v: string[]) =>
      `v ${v
        .slice(0, 3)
        .map((x) => Number(x) * 100)
        .join(' ')}`,
  );
  await page
    .getByRole('main', { name: 'The page' })
    .locator('input[type=file]')
    .setInputFiles({ name: 'steps_cm.obj', mimeType: 'text/plain', buffer: Buffer.from(large) });
  await expect(page.getByText('235 m × 140 m × 220 m, 52 triangles')).toBeVisible();
  await page.getByRole('button', { name: 'It was made in centimetres' }).click();
  await expect(page.getByText('2.35 m × 1.4 m × 2.2 m, 52 triangles')).toBeVisible();

  // The steps as an obstacle; without a file the run says what is missing.
  await page.getByRole('button', { name: 'Add an obstacle' }).click();
  await page.getByRole('menuitem', { name: /^Mesh/ }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'Mesh has no file yet' })).toBeVisible();
  await choose(page, 'nothing Mesh, file|Mesh, file', 'steps_cm.obj');
  await expect(page.getByText('Mesh has no file yet')).toHaveCount(0);

  // The cold spill, placed at the hatch.
  await page.getByRole('button', { name: 'Add a source' }).click();
  await page.getByRole('menuitem', { name: /^Cold spill/ }).click();
  await page.getByRole('button', { name: 'Unfold Cold spill' }).click();
  await type(page, 'Cold spill, centre x', '-1.5 m');
  await type(page, 'Cold spill, centre y', '138 cm');
  await page.getByRole('button', { name: 'Add a pattern to Cold spill' }).click();
  await page.getByRole('menuitem', { name: /^Billows/ }).click();
  await expect(page.getByRole('button', { name: 'Unfold Billows' })).toBeVisible();
  await expect.poll(() => frame(page), { timeout: 60_000 }).toBeGreaterThan(20);

  // Keys: one at the first frame, another later; the number shows what it is in between.
  await page.getByRole('slider', { name: 'Frame' }).press('Home');
  await page.getByRole('button', { name: 'Set a key for Cold spill, centre z' }).click();
  await page.getByRole('slider', { name: 'Frame' }).press('Home');
  for (let n = 0; n < 10; n++) await page.getByRole('slider', { name: 'Frame' }).press('ArrowRight');
  await type(page, 'Cold spill, centre z', '0.5 m');
  await expect(page.getByRole('button', { name: 'Cold spill: centre z: 0.5 m at frame 11' })).toBeVisible();
  await page.getByRole('slider', { name: 'Frame' }).press('ArrowLeft');
  await expect(page.getByRole('spinbutton', { name: 'Cold spill, centre z' })).not.toHaveText('0.5 m');
  await page.getByRole('button', { name: 'Cold spill: centre z: 0.5 m at frame 11' }).press('Delete');
  await expect(page.getByRole('button', { name: 'Cold spill: centre z: 0.5 m at frame 11' })).toHaveCount(0);

  // Duplicate, look at one alone, move, remove; undo brings it back by name.
  await page.getByRole('button', { name: 'More of Cold spill', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(page.getByRole('button', { name: 'Unfold Cold spill 2' })).toBeVisible();
  await page.getByRole('button', { name: 'Alone' }).first().click();
  await expect(page.getByText('Only Cold spill plays here; a bake takes all.')).toBeVisible();
  await page.getByRole('button', { name: 'All again' }).click();
  await page.getByRole('button', { name: 'Unfold Cold spill 2' }).click();
  await page.getByRole('button', { name: 'More of Cold spill 2' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect(page.getByRole('button', { name: 'Unfold Cold spill 2' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo remove Cold spill 2' }).click();
  await expect(page.getByRole('button', { name: /fold Cold spill 2/i })).toBeVisible();
  await expect(page.getByText('saved')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('button', { name: 'Unfold Billows', exact: true })).toBeVisible();
  expect(troubles).toEqual([]);
});

// Painting a mask on a mesh with the mouse: a stroke lays dabs, Shift wipes them away, the medium comes from
// there only.
import { expect, test } from '@playwright/test';
import { complete, type } from './kit';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

const STEPS = join(import.meta.dirname, '../demo/build/pictures/cellar_steps.obj');

test('a stroke over the steps', async ({ page }) => {
  await page.goto('/board');
  await page.getByRole('textbox', { name: 'Name of the new shot' }).fill('Painted by hand');
  await page.getByRole('button', { name: 'New shot' }).click();
  await page
    .getByRole('main', { name: 'The page' })
    .locator('input[type=file]')
    .setInputFiles({ name: 'cellar_steps.obj', mimeType: 'text/plain', buffer: readFileSync(STEPS) });
  await expect(page.getByText(/52 triangles/)).toBeVisible();
  await page.getByRole('button', { name: 'Add a source' }).click();
  await page.getByRole('menuitem', { name: /^Mesh/ }).click();
  const choose = async (name: RegExp, option: string): Promise<void> => {
    await page.getByRole('button', { name }).first().click();
    await page.getByRole('option', { name: option, exact: true }).click();
  };

  // a short run leaves the machine to the brush
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '6');
  await choose(/nothing Mesh, file|Mesh, file/, 'cellar_steps.obj');
  await page.getByRole('button', { name: 'Unfold Mesh' }).click();
  await page.getByRole('button', { name: 'Unfold shape of Mesh' }).click();
  await choose(/Mesh, mask$/, 'where it is painted');
  await expect(page.getByText('nothing yet: paint in the window')).toBeVisible();
  await page.getByRole('group', { name: 'Handle of Mesh' }).getByRole('button', { name: 'paint' }).click();
  await expect(page.getByRole('group', { name: 'Brush' })).toContainText('0.1 m');
  await page.getByRole('button', { name: 'frame all' }).click();

  await complete(page);
  // a stroke across the middle of the window, which the steps fill
  const box = (await page.getByRole('img', { name: 'The scene' }).boundingBox())!;
  const dabs = async (): Promise<number> =>
    Number(
      /(\d+) dabs/.exec(
        (await page
          .getByText(/\d+ dabs/)
          .textContent({ timeout: 2000 })
          .catch(() => '')) ?? '',
      )?.[1] ?? 0,
    );
  const stroke = async (): Promise<void> => {
    await page.mouse.move(box.x + box.width * 0.35, box.y + box.height * 0.66);
    await page.mouse.down();
    for (let n = 1; n <= 8; n++)
      await page.mouse.move(box.x + box.width * (0.35 + 0.03 * n), box.y + box.height * 0.66);
    await page.mouse.up();
  };

  await stroke();
  await expect.poll(dabs).toBeGreaterThan(3);
  const before = await dabs();
  await page.keyboard.down('Shift');
  await stroke();
  await page.keyboard.up('Shift');
  await expect.poll(dabs).toBeGreaterThan(before);
  await page.getByRole('button', { name: 'Mesh, paint: wipe all away' }).click();
  await expect(page.getByText('nothing yet: paint in the window')).toBeVisible();
  await page.getByRole('button', { name: 'Undo Mesh: paint' }).click();
  await expect.poll(dabs).toBeGreaterThan(before);
});

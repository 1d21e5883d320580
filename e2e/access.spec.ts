// Automated accessibility checks on every screen.
import { expect, test } from '@playwright/test';
import { faults } from './kit';

test.beforeEach(async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem('bramblemist.visited', '1'));
});

/** The screens, and whether they are looked at in light colours, too. */
const SCREENS: Readonly<Record<string, 'dark' | 'both'>> = {
  board: 'both',
  queue: 'dark',
  storage: 'both',
  'guide/hand-over': 'both',
  'shots/1/set-up': 'both',
  'shots/1/run': 'both',
  'shots/1/light': 'dark',
  'shots/1/combine': 'dark',
  'shots/1/hand-over': 'dark',
  'shots/1/sheets': 'dark',
};

for (const [path, appearance] of Object.entries(SCREENS)) {
  test(`/${path} has no known fault, ${appearance === 'both' ? 'dark and light' : 'dark'}`, async ({
    page,
  }) => {
    await page.goto(`/${path}`);
    await expect(page.getByRole('main').first()).toBeVisible();
    // what is fetched for it stands on the page
    await page.waitForTimeout(1000);
    expect(await faults(page)).toEqual([]);
    if (appearance === 'dark') return;
    await page.getByRole('button', { name: 'Make the page light' }).click();
    expect(await faults(page)).toEqual([]);
  });
}

test('no scroll bar on the page at 1280 × 800', async ({ page }) => {
  for (const stage of ['set-up', 'run', 'light', 'combine', 'hand-over', 'sheets']) {
    await page.goto(`/shots/1/${stage}`);
    await page.waitForTimeout(600);
    expect(
      await page.evaluate(() => [
        document.documentElement.scrollWidth <= innerWidth,
        document.documentElement.scrollHeight <= innerHeight,
      ]),
    ).toEqual([true, true]);
  }
});

test('the page keeps to its own policy: styles bear its number, nothing is refused', async ({ page }) => {
  const refused: string[] = [];
  page.on('console', (m) => void (/content security policy/i.test(m.text()) && refused.push(m.text())));
  const answer = (await page.goto('/shots/1/set-up'))!;
  expect(answer.headers()['content-security-policy']).not.toContain('unsafe-inline');
  await expect(page.getByRole('button', { name: 'Unfold Space', exact: true })).toBeVisible();
  const ground = await page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  expect(ground).not.toBe('rgba(0, 0, 0, 0)');
  expect(refused).toEqual([]);
});

test('the guide opens at the chapter of where one is, and its links lead on', async ({ page }) => {
  await page.goto('/shots/1/combine');
  const opened = page.context().waitForEvent('page');
  await page.getByRole('link', { name: 'Guide' }).click();
  const guide = await opened;
  await expect(guide.getByRole('heading', { name: 'Combine', level: 1 }).first()).toBeVisible();
  const picture = guide.getByRole('img', { name: /^Combine:/ });
  await expect.poll(() => picture.evaluate((i: HTMLImageElement) => i.naturalWidth)).toBeGreaterThan(1000);
  await guide.getByRole('link', { name: 'Tasks' }).click();
  await guide.getByRole('link', { name: 'trial sheet', exact: true }).click();
  await expect(guide.getByRole('main').getByRole('heading', { name: 'Trial sheets' })).toBeVisible();
  await guide.close();
  // and it is found by name
  await page.keyboard.press('Control+k');
  await page.keyboard.type('guide reference');
  await expect(page.getByRole('menuitem', { name: /^Guide: Reference/ })).toBeVisible();
});

test('an unknown shot says so and shows the way back', async ({ page }) => {
  await page.goto('/shots/99999/set-up');
  await expect(page.getByRole('alert')).toContainText('There is no such shot. Go back to the board');
});

// Automated accessibility checks on every screen.
import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';

test.beforeEach(async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem('bramblemist.visited', '1'));
});

const inDark = (path: string): [string, string] => [path, 'dark'];
const inLight = (path: string): [string, string] => [path, 'light'];
for (const [path, appearance] of [
  ...['board', 'queue', 'storage', 'shots/1/set-up', 'shots/1/run', 'shots/1/light'].map(inDark),
  ...['shots/1/combine', 'shots/1/hand-over', 'shots/1/sheets'].map(inDark),
  ...['board', 'storage', 'shots/1/set-up', 'shots/1/run'].map(inLight),
]) {
  test(`/${path} has no known fault, ${appearance}`, async ({ page }) => {
    await page.goto(`/${path}`);
    if (appearance === 'light') await page.getByRole('button', { name: 'Make the page light' }).click();
    await page.waitForTimeout(2500);
    const { violations } = await new AxeBuilder({ page }).analyze();
    expect(
      violations.map(
        (v) =>
          `${v.id}: ${v.nodes
            .map((n) => n.target.join(' '))
            .slice(0, 3)
            .join(' | ')}`,
      ),
    ).toEqual([]);
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

test('an unknown shot says so and shows the way back', async ({ page }) => {
  await page.goto('/shots/99999/set-up');
  await expect(page.getByRole('alert')).toContainText('There is no such shot. Go back to the board');
});

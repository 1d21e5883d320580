// The whole way by the keys alone, as somebody goes it who does not point: from the board to a package.
import { expect, test, type Page } from '@playwright/test';

/** What the focus is on, by the name that it is announced with. */
const focused = (page: Page): Promise<string> =>
  page.evaluate(() => {
    const e = document.activeElement;
    if (!e || e === document.body) return '';
    const by = e.getAttribute('aria-labelledby');
    const labelled = by
      ?.split(' ')
      .map((id) => document.getElementById(id)?.textContent ?? '')
      .join(' ');
    const label = e.getAttribute('aria-label') ?? labelled ?? '';
    const own = label || ('labels' in e && (e as HTMLInputElement).labels?.[0]?.textContent) || e.textContent;
    return String(own).replace(/\s+/g, ' ').trim();
  });

const MOST_TABS = 260;

/** Goes on with Tab until the focus is on something of that name. */
async function tabTo(page: Page, name: RegExp): Promise<void> {
  const passed: string[] = [];
  for (let n = 0; n < MOST_TABS; n++) {
    await page.keyboard.press('Tab');
    const own = await focused(page);
    if (name.test(own)) return;
    passed.push(own);
  }

  throw new Error(`Tab does not come to ${name.source}; it came to: ${[...new Set(passed)].join(' | ')}`);
}

/** Types into the number that the focus is on. */
async function typed(page: Page, text: string): Promise<void> {
  await page.keyboard.press('Enter');
  await page.keyboard.press('Control+a');
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
}

test('from the board to a package without a pointer', async ({ page }) => {
  test.setTimeout(240_000);
  await page.goto('/board');
  await expect(page.getByRole('heading', { name: 'The Heron Mill' })).toBeVisible();
  await tabTo(page, /^Name of the new shot$/);
  await page.keyboard.type('By keys alone');
  await tabTo(page, /^Starts from/);
  await page.keyboard.type('breath');
  await tabTo(page, /^New shot$/);
  await page.keyboard.press('Enter');
  await page.waitForURL(/set-up/);
  await expect(page.getByRole('status').first()).toHaveText('saved');

  // a few frames, and another amount; undone and done again
  await tabTo(page, /^Unfold Space$/);
  await page.keyboard.press('Enter');
  await tabTo(page, /^Space, last frame$/);
  await typed(page, '4');
  await expect(page.getByText('run complete')).toBeVisible({ timeout: 60_000 });
  await tabTo(page, /, density$/);
  await typed(page, '5');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByRole('status').first()).toHaveText('saved');

  // the rail: its panel opens, closes by Escape
  await tabTo(page, /^The medium$/);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  expect(await focused(page)).toBe('A slice');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('group', { name: 'A slice' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('group', { name: 'A slice' })).toHaveCount(0);

  await tabTo(page, /^Bake 4 frames …$/);
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/run$/);
  await tabTo(page, /^Bake 4 frames$/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /^Light bake/ })).toBeVisible({ timeout: 60_000 });
  await tabTo(page, /^Light bake \d+$/);
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/light$/);
  await tabTo(page, /^Render 4 frames$/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Combine it' })).toBeVisible({ timeout: 60_000 });
  await tabTo(page, /^Combine it$/);
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/combine$/);
  await tabTo(page, /^Take size, rate and range from the shot$/);
  await page.keyboard.press('Enter');
  await tabTo(page, /^Add a layer$/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem', { name: /^The newest render/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await tabTo(page, /^Write frames 1–4$/);
  await page.keyboard.press('Enter');
  await tabTo(page, /^Hand over$/);
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/hand-over$/);
  await tabTo(page, /^Make version 1$/);
  const download = page.waitForEvent('download');
  await page.keyboard.press('Enter');
  expect((await download).suggestedFilename()).toMatch(/_v001\.zip$/);
});

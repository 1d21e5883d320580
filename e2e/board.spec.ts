// The board by hand: a production of one's own, shots written on, ordered, found, put aside and brought back.
import { expect, test, type Page } from '@playwright/test';
import { choose, faults } from './kit';

const NAME = `The Lamp Room ${Date.now() % 100_000}`;

const section = (page: Page): ReturnType<Page['getByRole']> => page.getByRole('region', { name: NAME });
const order = async (page: Page): Promise<string[]> =>
  section(page).getByRole('heading', { level: 2 }).allTextContents();

async function more(page: Page, of: string, deed: string): Promise<void> {
  await section(page)
    .getByRole('button', { name: `More for ${of}` })
    .click();
  await page.getByRole('menuitem', { name: deed, exact: true }).click();
}

test('a production and its shots are made, written on, ordered, found, archived and brought back', async ({
  page,
  request,
}) => {
  await page.goto('/board');
  await page.getByRole('button', { name: 'New production' }).click();
  await page.getByRole('textbox', { name: 'Name of the new production' }).fill(NAME);
  await page.keyboard.press('Enter');
  await expect(section(page).getByText('No shots yet.')).toBeVisible();
  const all = (await (await request.get('/api/productions')).json()) as { id: number; name: string }[];
  const productionId = all.find((p) => p.name === NAME)!.id;
  for (const name of ['Wick', 'Soot', 'Glass'])
    await request.post('/api/shots', { data: { productionId, name } });
  // the page hears of shots that are made elsewhere
  await expect.poll(() => order(page)).toEqual(['Wick', 'Soot', 'Glass']);

  // Written on: what is refused says why; what is saved stands on the card, and in a second window at once.
  const second = await page.context().newPage();
  await second.goto('/board');
  await more(page, 'Soot', 'Edit …');
  const sheet = page.getByRole('dialog', { name: 'Shot Soot' });
  await sheet.getByLabel('Name').fill(' ');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(sheet.getByRole('alert')).toHaveText('The name must not be empty.');
  await sheet.getByLabel('Name').fill('Soot on the glass');
  await sheet.getByLabel('Note').fill('Thin, from below.');
  await sheet.getByLabel('Status').selectOption('in review');
  await sheet.getByLabel('Assigned to').fill('Mara');
  await sheet.getByLabel('Due').fill('2020-02-03');
  expect(await faults(page)).toEqual([]);
  await sheet.getByRole('button', { name: 'Save' }).click();
  const card = section(page).getByRole('article', { name: 'Soot on the glass' });
  await expect(card).toContainText('Thin, from below.');
  await expect(card).toContainText('in review');
  await expect(card).toContainText('Mara');
  await expect(card).toContainText('was due 3 Feb 2020');
  await expect(second.getByRole('article', { name: 'Soot on the glass' })).toContainText('Mara');
  await second.close();
  await more(page, 'Soot on the glass', 'Approve');
  await expect(card).toContainText('approved');

  // Ordered by keys and by the mouse; it stays so.
  await page.getByRole('button', { name: 'Drag Glass' }).press('Enter');
  await page.keyboard.press('Tab');
  await expect(page.getByRole('group', { name: /^In place of/ })).toBeFocused();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Drag Glass' }).hover();
  await page
    .getByRole('button', { name: 'Drag Glass' })
    .dragTo(page.getByRole('group', { name: 'Wick', exact: true }));
  await expect.poll(() => order(page)).toEqual(['Glass', 'Wick', 'Soot on the glass']);
  await page.reload();
  await expect.poll(() => order(page)).toEqual(['Glass', 'Wick', 'Soot on the glass']);

  // Found by words and by whose it is; nothing found says so and shows all again.
  await page.getByRole('searchbox', { name: 'Find a shot' }).fill('below mara');
  await expect.poll(() => order(page)).toEqual(['Soot on the glass']);
  await page.getByRole('searchbox', { name: 'Find a shot' }).fill('owl');
  await section(page).getByRole('button', { name: 'Show all' }).click();
  await page.getByRole('combobox', { name: 'Assigned to' }).selectOption('Mara');
  await expect.poll(() => order(page)).toEqual(['Soot on the glass']);
  await page.getByRole('combobox', { name: 'Assigned to' }).selectOption('anybody');
  await page.getByRole('combobox', { name: 'Order' }).selectOption('due first');
  await expect.poll(() => order(page)).toEqual(['Soot on the glass', 'Glass', 'Wick']);

  // Put aside and brought back: a shot, and the production.
  await more(page, 'Wick', 'Archive');
  await expect.poll(() => order(page)).toEqual(['Soot on the glass', 'Glass']);
  await page.getByRole('checkbox', { name: /^archived too/ }).check();
  await more(page, 'Wick', 'Bring back');
  await more(page, NAME, 'Archive');
  await page.getByRole('checkbox', { name: /^archived too/ }).uncheck();
  await expect(section(page)).toHaveCount(0);
  await page.goto('/');
});

test('the newest pictures of a shot move while it is pointed at', async ({ page, request }) => {
  const [{ id: productionId }] = (await (await request.get('/api/productions')).json()) as { id: number }[];
  const made = await request.post('/api/shots', {
    data: { productionId, name: 'Pointed at', example: 'warm-plume' },
  });
  const { id } = (await made.json()) as { id: number };
  await page.goto(`/shots/${id}/run`);
  await choose(page, /\bSize\b/, 'live');
  await page.getByRole('button', { name: /^Bake \d+ frames/ }).click();
  await expect(page.getByText('current')).toBeVisible({ timeout: 120_000 });
  await page.goto('/board');
  const card = page.getByRole('article', { name: 'Pointed at' });
  const picture = card.locator('img');
  await expect(picture).toBeVisible();
  const still = await picture.getAttribute('src');
  await card.hover();
  await expect.poll(() => picture.getAttribute('src')).not.toBe(still);
  await page.getByRole('heading', { level: 1 }).first().hover();
  await expect(picture).toHaveAttribute('src', still!);
});

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

test('a shot is reviewed: versions in motion, a note drawn on a frame, seen by who works on it', async ({
  page,
  request,
}) => {
  const board = (await (await request.get('/api/productions')).json()) as { id: number }[];
  const made = await request.post('/api/shots', {
    data: { productionId: board[0].id, name: 'Looked at', example: 'warm-plume' },
  });
  const { id } = (await made.json()) as { id: number };
  await page.goto(`/shots/${id}/review`);
  await expect(page.getByText('There is nothing to look at yet')).toBeVisible();
  const shot = (await (await request.get(`/api/shots/${id}`)).json()) as { variants: { id: number }[] };
  for (const voxelSizeM of [0.16, 0.12]) {
    const frames = { first: 1, last: 12 };
    await request.post(`/api/variants/${shot.variants[0].id}/bakes`, { data: { voxelSizeM, frames } });
  }

  const versions = page.getByRole('combobox', { name: 'Version', exact: true });
  // they come by themselves as they are there
  await expect(versions.locator('option')).toHaveCount(2, { timeout: 60_000 });
  await page.getByRole('combobox', { name: 'Version beside it' }).selectOption({ index: 1 });
  await expect(page.getByRole('img', { name: /^Bake \d+, frame 1$/ })).toHaveCount(2);
  await page.getByRole('button', { name: 'Play' }).click();
  await expect.poll(async () => Number(await page.getByTestId('frame').textContent())).toBeGreaterThan(3);
  await page.getByRole('button', { name: 'Pause' }).click();
  await page.getByRole('slider', { name: 'Frame' }).fill('7');

  await page.getByRole('button', { name: 'Draw on the frame' }).click();
  const box = (await page
    .getByRole('img', { name: /^Bake \d+, frame 7$/ })
    .first()
    .boundingBox())!;
  await page.mouse.move(box.x + 0.2 * box.width, box.y + 0.3 * box.height);
  await page.mouse.down();
  await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.6 * box.height, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByText('clear 1 line')).toBeVisible();
  await page.getByRole('textbox', { name: /^Note on frame 7 of bake/ }).fill('Thinner under the plume.');
  await page.getByRole('textbox', { name: 'Who says so' }).fill('Mara');
  expect(await faults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Add note' }).click();
  const notes = page.getByRole('list', { name: 'Notes of the review' });
  await expect(notes).toContainText('Thinner under the plume.');
  await expect(notes).toContainText('drawn on');
  await page.getByRole('slider', { name: 'Frame' }).fill('2');
  await expect(page.locator('svg path[d^="M0"]')).toHaveCount(0);
  await notes.getByRole('button', { name: /frame 7$/ }).click();
  await expect(page.locator('svg path[d^="M0"]')).toHaveCount(1);

  // in the notebook of whoever works on it; a press leads back to the frame
  await page.goto(`/shots/${id}/run`);
  const told = page.getByRole('complementary', { name: 'Notebook' }).getByRole('list', { name: /^Notes/ });
  await expect(told).toContainText('Thinner under the plume.');
  await told.getByRole('button', { name: /frame 7$/ }).click();
  await expect(page.getByTestId('frame')).toHaveText('7');
  await page.getByRole('checkbox', { name: /^Done: Thinner/ }).click();
  await expect(page.getByText('none open')).toBeVisible();
  await page.getByRole('button', { name: 'Approve' }).click();
  await expect(page.getByText('approved', { exact: true })).toBeVisible();
  await page.goto('/board');
  await expect(page.getByRole('article', { name: 'Looked at' })).toContainText('approved');
});

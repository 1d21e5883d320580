// Nothing that is changed on the page is lost: a slow, refusing or missing server, another variant, another
// window, a reload, a closed window.
import { expect, test, type BrowserContext, type Page } from '@playwright/test';
import { newShot, type } from './kit';

const status = (page: Page): ReturnType<Page['getByRole']> => page.getByRole('status').first();
const speed = (page: Page): ReturnType<Page['getByRole']> =>
  page.getByRole('spinbutton', { name: 'Wind, speed', exact: true });

async function shotOf(page: Page): Promise<number> {
  await page.waitForURL(/shots\/\d+/);
  return Number(/shots\/(\d+)/.exec(page.url())![1]);
}

/** What the server has, by the variant's number. */
async function kept(page: Page, shot: number, number: number): Promise<{ speed: number; heading: number }> {
  const { variants } = (await (await page.request.get(`/api/shots/${shot}`)).json()) as {
    variants: { number: number; recipe: { wind: { speed: number; heading: number } } }[];
  };
  return variants.find((v) => v.number === number)!.recipe.wind;
}

/** Lets no save through, as where the server is gone. */
const away = async (context: BrowserContext): Promise<void> => {
  await context.route('**/api/variants/*', (route) =>
    route.request().method() === 'PATCH' ? route.abort() : route.continue(),
  );
};

async function small(page: Page, name: string): Promise<number> {
  await newShot(page, name, 'mist-over-water');
  await page.getByRole('button', { name: 'Unfold Space', exact: true }).click();
  await type(page, 'Space, last frame', '4');
  await expect(status(page)).toHaveText('saved');
  return shotOf(page);
}

test('switching variants while a save is slow: each keeps its own', async ({ page, context }) => {
  const shot = await small(page, 'Slow by hand');
  await page.getByRole('button', { name: '+ try another' }).click();
  await page.getByRole('textbox', { name: 'What this variant tries' }).fill('second');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: '2 second now' })).toBeVisible();
  await context.route('**/api/variants/*', async (route) => {
    if (route.request().method() === 'PATCH') await new Promise((done) => setTimeout(done, 9000));
    await route.continue();
  });
  await type(page, 'Wind, speed', '2.5 m/s');
  await page.getByRole('button', { name: '1 first', exact: true }).click();
  await expect(status(page)).toContainText('another variant is not');
  await type(page, 'Wind, speed', '1.5 m/s');
  await expect(status(page)).toHaveText('saved', { timeout: 20_000 });
  expect((await kept(page, shot, 2)).speed).toBe(2.5);
  expect((await kept(page, shot, 1)).speed).toBe(1.5);
});

test('a bake waits for the save, and says why where there is none', async ({ page, context }) => {
  const shot = await small(page, 'Refused by hand');
  await away(context);
  await type(page, 'Wind, speed', '2.5 m/s');
  await expect(page.getByRole('region', { name: 'Not saved' })).toContainText('kept in this browser');
  await page.getByRole('link', { name: 'Run', exact: true }).click();
  await page.getByRole('button', { name: 'Bake 4 frames', exact: true }).click();
  await expect(page.getByText(/The last change is not saved yet/)).toBeVisible();
  await context.unrouteAll();
  await page.getByRole('button', { name: 'Bake 4 frames', exact: true }).click();
  await expect(page.getByRole('button', { name: /^Bake \d+ · variant 1$/ })).toBeVisible();
  expect((await kept(page, shot, 1)).speed).toBe(2.5);
  const { bakes } = (await (await page.request.get(`/api/shots/${shot}`)).json()) as {
    bakes: { recipe: { wind: { speed: number } } }[];
  };
  expect(bakes[0].recipe.wind.speed).toBe(2.5);
});

test('closed before the server has it: the next window saves it, over what was saved since', async ({
  page,
  context,
}) => {
  const shot = await small(page, 'Closed by hand');
  await away(context);
  await type(page, 'Wind, speed', '2.5 m/s');
  await expect(speed(page)).toHaveText('2.5 m/s');
  await page.close({ runBeforeUnload: false });
  await context.unrouteAll();
  const next = await context.newPage();
  const { id, recipe, revision } = (
    (await (await next.request.get(`/api/shots/${shot}`)).json()) as {
      variants: { id: number; revision: number; recipe: { wind: object } }[];
    }
  ).variants[0];
  await next.request.patch(`/api/variants/${id}`, {
    data: { recipe: { ...recipe, wind: { ...recipe.wind, heading: 40 } } },
    headers: { 'If-Match': `"${revision}"` },
  });
  // any page of the application takes up what was left
  await next.goto('/board');
  await expect.poll(() => kept(next, shot, 1)).toMatchObject({ speed: 2.5, heading: 40 });
});

test('a reload keeps the change and what can be undone', async ({ page, context }) => {
  const shot = await small(page, 'Reloaded by hand');
  await type(page, 'Wind, speed', '2 m/s');
  await expect(status(page)).toHaveText('saved');
  await away(context);
  await type(page, 'Wind, speed', '2.5 m/s');
  await page.waitForTimeout(1500);
  await page.reload();
  await expect(speed(page)).toHaveText('2.5 m/s');
  await expect(page.getByRole('button', { name: 'Undo Wind: speed' })).toBeEnabled();
  await context.unrouteAll();
  await expect(status(page)).toHaveText('saved', { timeout: 20_000 });
  await page.getByRole('button', { name: 'Undo Wind: speed' }).click();
  await expect(speed(page)).not.toHaveText('2.5 m/s');
  await expect.poll(async () => (await kept(page, shot, 1)).speed).not.toBe(2.5);
});

test('two windows on one variant: different settings meet, the same one is asked about', async ({
  page,
  context,
}) => {
  const shot = await small(page, 'Two by hand');
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(page.getByRole('img', { name: 'Open in another window too' })).toBeVisible();
  await type(other, 'Wind, heading', '40°');
  await expect(status(other)).toHaveText('saved');
  await expect(page.getByRole('spinbutton', { name: 'Wind, heading', exact: true })).toHaveText('40°');
  await type(page, 'Wind, speed', '2 m/s');
  await expect(speed(other)).toHaveText('2 m/s');
  expect(await kept(page, shot, 1)).toMatchObject({ speed: 2, heading: 40 });

  // the same setting while the first cannot save
  await page.route('**/api/variants/*', (route) =>
    route.request().method() === 'PATCH' ? route.abort() : route.continue(),
  );
  await type(page, 'Wind, speed', '3 m/s');
  await expect(status(page)).toContainText('not saved');
  await type(other, 'Wind, speed', '4 m/s');
  const asked = page.getByRole('region', { name: 'Changed in two windows' });
  await expect(asked).toContainText('Wind: speed');
  await page.unrouteAll();
  await asked.getByRole('button', { name: 'Take the other: 4 m/s' }).click();
  await expect(asked).toHaveCount(0);
  await expect(speed(page)).toHaveText('4 m/s');
  await expect(status(page)).toHaveText('saved', { timeout: 20_000 });
  await other.close();
  await expect(page.getByRole('img', { name: 'Open in another window too' })).toHaveCount(0, {
    timeout: 90_000,
  });
});

test('ten windows of one browser fetch and save', async ({ page, context }) => {
  const shot = await small(page, 'Ten by hand');
  const pages = await Promise.all(Array.from({ length: 9 }, () => context.newPage()));
  for (const one of pages) {
    await one.goto('/queue');
    await expect(one.getByRole('heading').first()).toBeVisible();
  }

  const last = pages[8];
  await last.goto(page.url());
  await type(last, 'Wind, speed', '2 m/s');
  await expect(status(last)).toHaveText('saved');
  await expect.poll(async () => (await kept(page, shot, 1)).speed).toBe(2);
  await page.bringToFront();
  await expect(speed(page)).toHaveText('2 m/s');
});

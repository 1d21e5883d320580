// What tests of the real interface share.
import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { PNG } from 'pngjs';

/** The frame that the reel stands at. */
export const frame = async (page: Page): Promise<number> =>
  Number(await page.getByTestId('frame').textContent());

/** Types into a number of the page. */
export async function type(page: Page, name: string, text: string): Promise<void> {
  await page.getByRole('spinbutton', { name, exact: true }).press('Enter');
  await page.getByRole('textbox', { name: new RegExp(`^${name}`) }).fill(text);
  await page.keyboard.press('Enter');
}

/** Picks one of a word's options. */
export async function choose(page: Page, name: RegExp | string, option: string): Promise<void> {
  await page.getByRole('button', { name }).first().click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

export async function newShot(page: Page, name: string, start: string): Promise<void> {
  await page.goto('/board');
  await page.getByRole('textbox', { name: 'Name of the new shot' }).fill(name);
  await page.getByRole('combobox', { name: 'Starts from' }).selectOption(start);
  await page.getByRole('button', { name: 'New shot' }).click();
  await page.waitForURL(/set-up/);
}

export const complete = (page: Page): Promise<void> =>
  page.getByText('run complete').waitFor({ timeout: 120_000 });

/** A picture of the scene, of the first where there are two. */
export async function view(page: Page): Promise<Buffer> {
  const scene = page.getByRole('img', { name: 'The scene' }).first();
  // of its place, since waiting until it stands still takes a busy machine long
  return page.screenshot({ clip: (await scene.boundingBox())! });
}

/** Waits until the scene has drawn what it stands at: two pictures one after the other are the same. */
export async function settled(page: Page): Promise<void> {
  let last = await view(page);
  for (let tries = 0; tries < 20; tries++) {
    await page.waitForTimeout(700);
    const now = await view(page);
    if (now.equals(last)) return;
    last = now;
  }

  throw new Error('The scene does not come to rest.');
}

/** What is known to be wrong with the page for those who do not see it or do not point. */
export async function faults(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page }).analyze();
  return violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(' | ')}`);
}

/** Counts pixels that differ by more than a little. */
export function changed(a: Buffer, b: Buffer): number {
  const p = PNG.sync.read(a);
  const q = PNG.sync.read(b);
  let n = 0;
  for (let i = 0; i < p.data.length; i += 4)
    if (
      Math.abs(p.data[i] - q.data[i]) +
        Math.abs(p.data[i + 1] - q.data[i + 1]) +
        Math.abs(p.data[i + 2] - q.data[i + 2]) >
      40
    )
      n++;
  return n;
}

/** Pixels of the scene that are of a colour. */
export async function pixels(page: Page, is: (r: number, g: number, b: number) => boolean): Promise<number> {
  const { data } = PNG.sync.read(await view(page));
  let n = 0;
  for (let i = 0; i < data.length; i += 4) if (is(data[i], data[i + 1], data[i + 2])) n++;
  return n;
}

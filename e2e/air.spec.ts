// The air by hand: a force limited to a region, a setting that is another one inside, formulas with help,
// what is seen of all that, and changes that a run takes up as it goes.
import { expect, test, type Locator } from '@playwright/test';
import { choose, complete, faults, frame, newShot, pixels, type } from './kit';

test('a new shot from a kind of shot says what to change first', async ({ page }) => {
  await page.goto('/board');
  await page.getByRole('combobox', { name: 'Starts from' }).selectOption('floor-vapour');
  await expect(
    page.getByText(/Cold, heavy vapour pours over an edge.*Change how much the bowl gives first/),
  ).toBeVisible();
  await newShot(page, 'Vapour by hand', 'floor-vapour');
  await expect(page.getByRole('spinbutton', { name: 'Buoyancy, weight' })).toHaveText('0.51 m/s²');
  await expect(page.getByText(/Change how much the bowl gives first/)).toBeVisible();
  await expect.poll(() => frame(page), { timeout: 60_000 }).toBeGreaterThan(3);
  await page.getByRole('button', { name: 'Unfold Buoyancy' }).click();
  await page.getByRole('button', { name: 'Take the numbers of a medium' }).click();
  await page.getByRole('menuitem', { name: /^Cool smoke/ }).click();
  await expect(page.getByRole('spinbutton', { name: 'Buoyancy, weight' })).toHaveText('0.0082 m/s²');
  await page.getByRole('button', { name: 'Undo numbers of cool smoke' }).click();
  await expect(page.getByRole('spinbutton', { name: 'Buoyancy, weight' })).toHaveText('0.51 m/s²');
});

test('wind in a region, seen before it is run, and another one inside', async ({ page }) => {
  const troubles: string[] = [];
  page.on('pageerror', (e) => troubles.push(e.message));
  await newShot(page, 'Wind by hand', 'chimney-smoke');

  // The gusts as a curve, the wind as arrows: straw-coloured lines where there were none.
  await page.getByRole('button', { name: 'Unfold Wind', exact: true }).click();
  await expect(page.getByRole('figure', { name: 'Speed of the wind' })).toBeVisible();
  await page.getByRole('button', { name: 'Set a key for Wind, speed' }).click();
  await expect(page.getByRole('button', { name: /^▸ Wind: speed$/ })).toBeVisible();
  await page.getByRole('button', { name: 'Undo key Wind: speed' }).click();
  await complete(page);
  await page.getByRole('slider', { name: 'Frame' }).press('Home');
  const straw = (r: number, g: number, b: number): boolean => r > 150 && g > 120 && b < r - 40;
  const before = await pixels(page, straw);
  await page.getByRole('button', { name: 'Show its arrows' }).first().click();
  await expect(page.getByText(/up to [\d.]+ m\/s²/)).toBeVisible({ timeout: 20_000 });
  await expect.poll(() => pixels(page, straw), { timeout: 20_000 }).toBeGreaterThan(before + 300);

  // Limited to a new region, chosen at once with its handle; its veil is seen; it says what is limited to it.
  await choose(page, /^everywhere Wind, where|Wind, where/, 'in a new region');
  await expect(page.getByRole('group', { name: 'Handle of Place' })).toBeVisible();
  await expect(page.getByText('Only there: Wind.')).toBeVisible();
  await page.getByRole('button', { name: 'Regions', exact: true }).click();
  await choose(page, /Veil of/, 'Place');
  const violet = (r: number, g: number, b: number): boolean => b > g + 18 && r > g + 4;
  await expect.poll(() => pixels(page, violet), { timeout: 20_000 }).toBeGreaterThan(2000);
  await page.getByRole('button', { name: 'Unfold Place' }).click();
  await type(page, 'Place, radius', '90 cm');
  await expect(page.getByRole('spinbutton', { name: 'Place, radius' })).toHaveText('0.9 m');

  // Another strength of the turbulence inside.
  await page.getByRole('button', { name: 'Change a setting inside Place' }).click();
  await page.getByRole('menuitem', { name: 'strength' }).first().click();
  await expect(page.getByText(/Turbulence: strength is/)).toBeVisible();
  await choose(page, /Turbulence: strength, how/, 'replaced by');
  await type(page, 'Turbulence: strength, amount', '3 m/s²');
  await expect(page.getByRole('spinbutton', { name: 'Turbulence: strength, amount' })).toHaveText('3 m/s²');
  await expect(page.getByRole('status')).toHaveText('saved');

  // A slice of the turbulence has its legend; removing the region lets the wind blow everywhere again.
  await page.getByRole('button', { name: 'A slice', exact: true }).click();
  await choose(page, /Slice of/, 'Turbulence');
  await expect(page.getByRole('slider', { name: 'Slice, where it lies' })).toBeVisible();
  await page
    .getByRole('button', { name: /^More of/ })
    .first()
    .scrollIntoViewIfNeeded();
  expect(await faults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Undo Turbulence: strength: amount' }).click();
  expect(troubles).toEqual([]);
});

test('a run takes up another wind as it goes; another source starts it again', async ({ page }) => {
  await newShot(page, 'Live by hand', 'chimney-smoke');
  await choose(page, /Live size/, 'working');
  // until the run has begun again: frames of the one before would count as its own
  await expect.poll(() => frame(page)).toBeLessThan(4);
  await expect.poll(() => frame(page), { timeout: 60_000 }).toBeGreaterThan(6);
  await type(page, 'Wind, speed', '4 m/s');
  const note = page.getByText(/Changed while it ran, from frame \d+/);
  await expect(note).toBeVisible({ timeout: 20_000 });
  const at = Number(/from frame (\d+)/.exec((await note.textContent())!)![1]);
  expect(at).toBeGreaterThan(1);
  await expect(page.getByRole('slider', { name: 'Frame' })).toHaveAttribute(
    'aria-valuetext',
    new RegExp(`before ${at} with earlier settings`),
  );
  await page.getByRole('button', { name: 'Unfold Wind', exact: true }).click();
  await expect(page.getByText('A run that plays takes a change up at once.')).toBeVisible();
  await page.getByRole('button', { name: 'play it from the start' }).click();
  await expect(note).toHaveCount(0);
  await expect.poll(() => frame(page), { timeout: 60_000 }).toBeGreaterThan(4);
  await type(page, 'Mouth, radius', '20 cm');
  await expect.poll(() => frame(page), { timeout: 20_000 }).toBeLessThan(4);
  await expect(note).toHaveCount(0);
});

test('a formula: completed, refused where it is wrong, seen on a slice, taken up', async ({ page }) => {
  await newShot(page, 'Formula by hand', 'chimney-smoke');
  await complete(page);
  await page.getByRole('slider', { name: 'Frame' }).press('End');
  await page.getByRole('button', { name: 'Add a formula' }).click();
  await page.getByRole('menuitem', { name: /^Keep within bounds/ }).click();
  const field: Locator = page.getByRole('textbox', { name: 'Keep within bounds, formula' });
  await field.click();
  await expect(page.getByText('density after one step')).toBeVisible({ timeout: 20_000 });
  await field.fill('density = clamp(densty, 0, 1)');
  await expect(
    page.getByText('Character 17: There is nothing called densty. Did you mean density?'),
  ).toBeVisible();
  await expect(field).toHaveAttribute('aria-invalid', 'true');
  await field.fill('density *= smoo');
  await expect(page.getByRole('option', { name: /smoothstep\(low, high, a\)/ })).toBeVisible();
  await page.keyboard.press('Tab');
  await page.keyboard.type('0.9 * m, 1 * m, y)');
  await expect(page.getByText(/steps a voxel, writes density/)).toBeVisible();
  // the page says “saved” of what was there before, too
  const [, shot] = /shots\/(\d+)/.exec(page.url())!;
  const kept = async (): Promise<string> => (await page.request.get(`/api/shots/${shot}`)).text();
  await expect.poll(kept).toContain('smoothstep(0.9 * m, 1 * m, y)');
  // nothing is left under a metre: the preview's lower half is dark after it, and the whole run has less
  await expect.poll(() => page.getByText('run complete').count(), { timeout: 60_000 }).toBe(1);
  await page.reload();
  await expect(page.getByRole('textbox', { name: 'Keep within bounds, formula' })).toHaveText(
    'density *= smoothstep(0.9 * m, 1 * m, y)',
  );
});

test(
  'what is noticed has a cure that is tried as a variant; the walk to what is missing; everything is ' +
    'found by name',
  async ({ page }) => {
    await newShot(page, 'Noticed by hand', 'chimney-smoke');
    await complete(page);
    // the smoke leaves by the right side: a card, the frame, the cure as a new variant
    await expect(page.getByText(/The medium has reached the right side/)).toBeVisible();
    await page.getByRole('button', { name: /try it: domain [\d.]+ m larger at the right side/ }).click();
    await expect(page.getByText(/domain [\d.]+ m larger at the right side/).first()).toBeVisible();
    await expect(page.getByRole('spinbutton', { name: 'Space, width' })).toHaveText('6.5 m');
    await page.getByRole('button', { name: /^1 first/ }).click();
    await expect(page.getByRole('spinbutton', { name: 'Space, width' })).toHaveText('5.2 m');

    // Nothing is seen: the walk names the first link and goes there.
    await page.getByRole('button', { name: 'Unfold Mouth' }).click();
    await page.getByRole('button', { name: 'Turn off' }).first().click();
    await expect(page.getByText('Every source is off.')).toBeVisible();
    await page.getByRole('button', { name: 'why do I see nothing?' }).click();
    const chain = page.getByRole('list', { name: 'From a source to the picture' });
    await expect(chain.getByText('Add a source, or turn one on.')).toBeVisible();
    await chain.getByRole('button', { name: 'go there' }).click();
    await expect(page.getByRole('button', { name: 'Fold Mouth' })).toBeInViewport();

    // By another word of the trade, from the keyboard alone.
    await page.keyboard.press('Control+k');
    await page.keyboard.type('dissipation temperature');
    await expect(page.getByRole('menuitem', { name: /Dissipation: temperature half-life/ })).toBeVisible();
    await page.getByRole('menuitem', { name: /Dissipation: temperature half-life/ }).click();
    await expect(page.getByRole('figure', { name: 'What is left' })).toBeInViewport();
    await page.keyboard.press('?');
    await expect(page.getByRole('dialog', { name: 'Shortcuts' })).toContainText('find any action or setting');
    expect(await faults(page)).toEqual([]);
    await page.keyboard.press('Escape');
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'readings as CSV' }).click();
    expect((await download).suggestedFilename()).toBe('live_readings.csv');
  },
);

test('a change that begins later keeps the frames before it', async ({ page }) => {
  await newShot(page, 'Later by hand', 'kicked-dust');
  await complete(page);
  await page.getByRole('slider', { name: 'Frame' }).press('Home');
  // until frame 8 the same: only frames from 9 on are made anew
  await type(page, 'Thrown out, until frame', '20 f');
  const words = page.getByText(/\d+ of 96 computed/);
  await expect(words).toBeVisible();
  await expect
    .poll(async () => Number(/(\d+) of 96/.exec((await words.textContent())!)![1]), { timeout: 20_000 })
    .toBeGreaterThanOrEqual(8);
  await complete(page);
  await expect(words).toHaveText(/96 of 96/);
});

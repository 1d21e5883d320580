// The whole path as a new user walks it: describe → play → bake → light → combine → files on disk.
import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { changed, choose, frame, settled, type, view } from './kit';

/** Scrubs to a frame of the reel by keyboard. */
async function scrub(page: Page, to: 'Home' | 'End'): Promise<void> {
  await page.getByRole('slider', { name: 'Frame' }).press(to);
}

test('from the first visit to a package that the reference tools read', async ({ page, baseURL }, info) => {
  const troubles: string[] = [];
  page.on('pageerror', (e) => troubles.push(e.message));
  page.on('console', (m) => m.type() === 'error' && troubles.push(m.text()));

  // The first visit lands on the demo shot, with mist that moves before anything is baked.
  await page.goto('/');
  await expect(page).toHaveURL(/\/shots\/\d+\/set-up/);
  await expect.poll(() => frame(page), { timeout: 20_000 }).toBeGreaterThan(3);
  // the tour begins by itself, goes on when something was done, and can be left
  const tour = page.getByRole('complementary', { name: 'Tour' });
  await expect(tour).toContainText('This is running now');
  await page.getByRole('img', { name: 'The scene' }).hover();
  await page.mouse.down();
  await page.mouse.move(700, 320, { steps: 4 });
  await page.mouse.up();
  await expect(tour).toContainText('Numbers are controls');
  await tour.getByRole('button', { name: 'Leave the tour' }).click();
  await expect(tour).toHaveCount(0);
  await page.getByText('run complete').waitFor({ timeout: 60_000 });
  await scrub(page, 'Home');
  await settled(page);
  const early = await view(page);
  await scrub(page, 'End');
  await expect.poll(async () => changed(early, await view(page)), { timeout: 20_000 }).toBeGreaterThan(1500);
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);

  // A setting by typing with a unit; the run starts again; undo by name; autosaved.
  await page.getByRole('button', { name: 'Unfold Space' }).click();
  await type(page, 'Space, last frame', '20');
  await type(page, 'Weir lip, width', '80 cm');
  await expect(page.getByRole('spinbutton', { name: 'Weir lip, width' })).toHaveText('0.8 m');
  await type(page, 'Turbulence, strength', '2 kg');
  await expect(page.getByRole('alert')).toContainText('does not fit here; use m/s²');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Undo Weir lip: width' }).click();
  await expect(page.getByRole('spinbutton', { name: 'Weir lip, width' })).toHaveText('1.1 m');
  await page.getByRole('button', { name: 'Redo Weir lip: width' }).click();
  await expect(page.getByRole('status')).toHaveText('saved');
  await page.reload();
  await expect(page.getByRole('spinbutton', { name: 'Weir lip, width' })).toHaveText('0.8 m');

  // A source that is turned off leaves nothing to see.
  await expect(page.getByText('run complete')).toBeVisible({ timeout: 60_000 });
  await scrub(page, 'End');
  const full = await view(page);
  await page.getByRole('button', { name: 'Unfold Weir lip' }).click();
  await page.getByRole('button', { name: 'Turn off' }).click();
  await expect(page.getByText('Nothing gives off the medium')).toBeVisible();
  await expect(page.getByText('run complete')).toBeVisible({ timeout: 60_000 });
  await scrub(page, 'End');
  await expect.poll(async () => changed(full, await view(page))).toBeGreaterThan(1500);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'Turn off' })).toBeVisible();

  // Run: bake at live size, watch frames come, play the cache.
  await page.getByRole('link', { name: 'Run' }).click();
  await page.getByRole('button', { name: /\bSize\b/ }).click();
  await page.getByRole('option', { name: 'live', exact: true }).click();
  await page.getByRole('button', { name: 'Bake 20 frames', exact: true }).click();
  await expect(page.getByText('current')).toBeVisible({ timeout: 120_000 });
  await expect(page.getByText('20 of 20 frames')).toBeVisible();
  await scrub(page, 'Home');
  await settled(page);
  const first = await view(page);
  await scrub(page, 'End');
  await expect.poll(async () => changed(first, await view(page))).toBeGreaterThan(1500);
  await page.getByRole('button', { name: 'Play' }).click();
  await expect.poll(() => frame(page)).toBeLessThan(20);
  await page.getByRole('button', { name: 'Pause' }).click();
  await scrub(page, 'End');

  // Light: the window is the render; a light more is another picture, held against the one before.
  await page.getByRole('link', { name: 'Light' }).click();
  await type(page, 'Shot camera, width', '320');
  await type(page, 'Shot camera, height', '180');
  const picture = page.getByRole('img', { name: 'The picture, quick' });
  await expect(picture).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Snapshot' }).click();
  await page.getByRole('button', { name: 'Add a light' }).click();
  await page.getByRole('menuitem', { name: /^Spot/ }).click();
  await expect(page.getByRole('button', { name: 'Unfold Spot' })).toBeVisible();
  // a light that was added is chosen, with handles over the picture
  const standing = page.getByRole('button', { name: /^Where Spot stands/ });
  await expect(standing).toBeVisible();
  const place = page.getByRole('spinbutton', { name: 'Spot, place x' });
  await page.getByRole('button', { name: 'Unfold Spot' }).click();
  const before = await place.innerText();
  await standing.press('ArrowRight');
  await expect(place).not.toHaveText(before);
  // numbers of the look are keyed on the reel, and the frame's densities stand under the medium
  await page.getByRole('button', { name: 'Unfold Medium' }).click();
  await expect(page.getByRole('img', { name: /^Densities of the frame/ })).toBeVisible();
  await page.getByRole('button', { name: 'Set a key for Medium, density scale' }).click();
  await expect(page.getByRole('group', { name: 'Keyed settings' })).toContainText('Medium: density scale');
  await page.getByRole('button', { name: 'Fold Medium' }).click();
  await page.getByRole('button', { name: 'Add a camera' }).click();
  await page.getByRole('button', { name: 'Unfold Camera 2' }).click();
  await page.getByRole('button', { name: 'Look through' }).click();
  await page.getByRole('button', { name: /^Move the camera/ }).click();
  const eye = page.getByRole('spinbutton', { name: 'Camera 2, eye x' });
  const stood = await eye.innerText();
  const box = (await picture.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 60, y + 10, { steps: 4 });
  await page.mouse.up();
  await expect(eye).not.toHaveText(stood);
  await page.getByRole('button', { name: /^Move the camera/ }).click();
  await page.getByRole('button', { name: 'Snapshot 1', exact: true }).click();
  await expect(page.getByRole('list', { name: 'What changed since' })).toContainText('Spot');
  await page.getByRole('button', { name: 'Take back its look' }).click();
  await expect(page.getByRole('button', { name: 'Unfold Spot' })).toHaveCount(0);
  // settings of the look are found by the trade's words
  await page.keyboard.press('Control+k');
  await page.getByRole('searchbox', { name: 'Find' }).fill('shadow catcher');
  await page.getByRole('menuitem', { name: /^Surfaces: ground / }).click();
  await expect(page.getByRole('button', { name: 'Fold Surfaces' })).toBeVisible();
  await page.getByRole('button', { name: 'Snapshot 1', exact: true }).click();
  // a pass is chosen and looked at
  await page.getByRole('button', { name: 'normal', exact: true }).click();
  await choose(page, /What the window shows/, 'normal');
  await expect(page.getByRole('img', { name: /^The picture, quick/ })).toBeVisible();
  await picture.hover();
  await expect(page.getByLabel('Under the pointer')).toContainText(/normal X -?[\d.e-]+ · Y/);
  await choose(page, /What the window shows/, 'the beauty');
  await choose(page, /Quality, estimator/, 'true');
  // files keep their noise
  await choose(page, /Quality, noise taken out/, 'nowhere');
  await type(page, 'Quality, samples', '8');
  await expect(page.getByText(/true, 8 of 8 samples, noise [\d.]+, done/)).toBeVisible({ timeout: 60_000 });

  // The file is the same picture.
  await page.getByRole('button', { name: 'Render frame 20' }).click();
  await expect(page.getByText('frame 20 · 320 × 180')).toBeVisible();
  const shotId = /shots\/(\d+)/.exec(page.url())![1];
  const renderState = async (): Promise<string | undefined> => {
    const shot = (await (await page.request.get(`/api/shots/${shotId}`)).json()) as {
      renders: { job: { state: string } | null }[];
    };
    return shot.renders.at(-1)?.job?.state;
  };

  await expect.poll(renderState, { timeout: 60_000 }).toBe('done');
  const file = await page.evaluate(async () => {
    const path = location.pathname.split('/')[2];
    const shot = (await (await fetch(`/api/shots/${path}`)).json()) as { renders: { id: number }[] };
    const response = await fetch(`/api/renders/${shot.renders.at(-1)!.id}/frames/20/png`);
    const image = await createImageBitmap(await response.blob(), { premultiplyAlpha: 'none' });
    const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
    context.drawImage(image, 0, 0);
    const made = context.getImageData(0, 0, image.width, image.height).data;
    const shown = document.querySelector<HTMLCanvasElement>('canvas[aria-label^="The picture"]')!;
    const live = shown.getContext('2d')!.getImageData(0, 0, shown.width, shown.height).data;
    let opaque = 0;
    let far = 0;
    for (let n = 0; n < made.length; n += 4) {
      if (made[n + 3] > 40) opaque++;
      // where it covers all, what is shown is what stands in the file
      if (made[n + 3] > 250) far = Math.max(far, Math.abs(made[n] - live[n]));
    }

    return { width: image.width, opaque, far };
  });
  expect(file.width).toBe(320);
  expect(file.opaque).toBeGreaterThan(300);
  expect(file.far).toBeLessThan(6);

  // Combine: over the moving plate; the window is the comp, and a frame of it is written.
  await page.getByRole('link', { name: 'Combine' }).click();
  await expect(page.getByRole('img', { name: 'The comp, frame 20' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/^Ready in \d+ ms$/)).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Only frame 20' }).click();
  await expect(page.getByText(/Comp \d+ · 1 frame/)).toBeVisible({ timeout: 60_000 });

  // Hand over: the package, read by the reference tools.
  await page.getByRole('link', { name: 'Hand over' }).click();
  await expect(page.getByText('20 volumes with their manifest')).toBeVisible();
  // the sheet that goes out fills the window; a channel under another name, kept for the next time
  await expect(page.getByRole('img', { name: 'Contact sheet of Weir at dawn' })).toBeVisible({
    timeout: 30_000,
  });
  await page.getByText(/^Names of channels/).click();
  await page.getByRole('textbox', { name: 'Name of density' }).fill('two words');
  await expect(page.getByRole('alert')).toContainText('“two words” is no name for a grid');
  await expect(page.getByRole('button', { name: 'Make version 1' })).toBeDisabled();
  await page.getByRole('textbox', { name: 'Name of density' }).fill('smoke');
  await page.getByRole('textbox', { name: 'Keep these names as' }).fill('The house');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('combobox', { name: 'Kept names' })).toContainText('The house');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Make version 1' }).click(),
  ]);
  // the same into the folder of the server, read again there
  await page.getByRole('button', { name: /^Write version 1 to / }).click();
  await expect(page.getByText('written and verified')).toBeVisible({ timeout: 60_000 });
  const zip = info.outputPath('package.zip');
  const out = info.outputPath('package');
  await download.saveAs(zip);
  execFileSync('/usr/bin/python3', [
    '-c',
    `import zipfile; z = zipfile.ZipFile(${JSON.stringify(zip)}); assert z.testzip() is None; ` +
      `z.extractall(${JSON.stringify(out)})`,
  ]);
  const render = readdirSync(out).find((d) => /^render_\d+$/.test(d))!;
  expect(
    execFileSync('exrheader', [join(out, render, 'weir_at_dawn_v001.0020.exr')], { encoding: 'utf8' }),
  ).toMatch(/A, 16-bit floating-point[\s\S]*density\.Y[\s\S]*depth\.Z, 32-bit[\s\S]*dataWindow.*319 179/);
  const voxels = execFileSync(
    '/usr/bin/python3',
    [
      '-c',
      'import pyopenvdb as v; print(sum(g.activeVoxelCount() for g in ' +
        `v.readAll(${JSON.stringify(join(out, 'volumes/weir_at_dawn_v001.0020.vdb'))})[0]))`,
    ],
    { encoding: 'utf8' },
  );
  expect(Number(voxels)).toBeGreaterThan(1000);
  expect(
    execFileSync('/usr/bin/python3', [
      '-c',
      'import pyopenvdb as v; print([g.name for g in ' +
        `v.readAll(${JSON.stringify(join(out, 'volumes/weir_at_dawn_v001.0020.vdb'))})[0]])`,
    ]).toString(),
  ).toContain("'smoke'");
  // with their manifest
  expect(readdirSync(join(out, 'volumes'))).toHaveLength(21);
  expect(readdirSync(out)).toEqual(expect.arrayContaining(['contact.png', 'read-me.html', 'scene.usda']));
  await expect(page.getByText('Version 1', { exact: true })).toBeVisible();

  // The board shows the shot with its newest picture; a second visit lands there.
  await page.goto('/');
  await expect(page).toHaveURL(`${baseURL}/board`);
  await expect(page.getByRole('heading', { name: 'The Heron Mill' })).toBeVisible();
  expect(troubles).toEqual([]);
});

test('an empty shot says what to do first, and a source added there gives off medium', async ({ page }) => {
  await page.goto('/board');
  await page.getByRole('textbox', { name: 'Name of the new shot' }).fill('Empty domain');
  await page.getByRole('button', { name: 'New shot' }).click();
  await expect(page.getByText('Nothing gives off the medium yet')).toBeVisible();
  await page.getByRole('button', { name: 'Add a source' }).click();
  await page.getByRole('menuitem', { name: 'Puff' }).click();
  await expect.poll(() => frame(page), { timeout: 30_000 }).toBeGreaterThan(30);
  const before = await view(page);
  await type(page, 'Puff, density', '0');
  await expect.poll(() => frame(page), { timeout: 30_000 }).toBeGreaterThan(30);
  expect(changed(before, await view(page))).toBeGreaterThan(300);
  // the order of a list is changed by dragging, by keys too, and that can be undone
  await page.getByRole('button', { name: 'Add a source' }).click();
  await page.getByRole('menuitem', { name: /^Off particles/ }).click();
  const order = async (): Promise<string[]> =>
    (await page.getByRole('button', { name: /^Drag / }).all()).reduce<Promise<string[]>>(
      async (all, grip) => [...(await all), (await grip.getAttribute('aria-label'))!],
      Promise.resolve([]),
    );
  await expect.poll(order).toEqual(['Drag Puff', 'Drag Off particles']);
  await page.getByRole('button', { name: 'Drag Off particles' }).press('Enter');
  await expect(page.getByRole('group', { name: 'In place of Puff' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect.poll(order).toEqual(['Drag Off particles', 'Drag Puff']);
  await page.getByRole('button', { name: 'Undo move Off particles' }).click();
  await expect.poll(order).toEqual(['Drag Puff', 'Drag Off particles']);
  await page.getByRole('button', { name: 'Drag Puff' }).hover();
  await page
    .getByRole('button', { name: 'Drag Puff' })
    .dragTo(page.getByRole('group', { name: 'Off particles', exact: true }));
  await expect.poll(order).toEqual(['Drag Off particles', 'Drag Puff']);
  for (const [stage, text] of [
    ['Light', 'nothing to light yet'],
    ['Combine', 'Nothing lies in the frame yet'],
    ['Hand over', 'nothing to hand over yet'],
  ] as const) {
    await page.getByRole('link', { name: stage, exact: true }).click();
    await expect(page.getByText(text)).toBeVisible();
  }
});

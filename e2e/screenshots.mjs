// Makes docs/screenshots from the demo data of a running application: npm start, then npm run screenshots.
// Names of pictures as arguments make only those.
import { chromium } from '@playwright/test';
import { CHROMIUM } from './chromium.mjs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const base = process.env.BRAMBLEMIST_URL ?? 'http://127.0.0.1:4810';
const folder = join(dirname(dirname(fileURLToPath(import.meta.url))), 'docs/screenshots');

async function ask(path, body) {
  const response = await fetch(
    base + path,
    body && { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) },
  );
  if (!response.ok) throw new Error(`${path}: ${await response.text()}`);
  return response.json();
}

async function finished(kind, id) {
  for (;;) {
    const job = (await ask('/api/jobs')).find((j) => j.kind === kind && j.targetId === id);
    if (job?.state === 'done') return;
    if (job && ['failed', 'stopped'].includes(job.state)) throw new Error(job.message);
    await new Promise((done) => setTimeout(done, 500));
  }
}

const [{ shots }] = await ask('/api/productions');
const shot = await ask(`/api/shots/${shots.find((x) => x.name === 'Weir at dawn').id}`);
if (shot.combines.length === 0) {
  const variant = shot.variants[0];
  const bake = await ask(`/api/variants/${variant.id}/bakes`, {
    voxelSizeM: variant.recipe.space.voxelSize,
    frames: { first: 1, last: 120 },
  });
  await finished('bake', bake.id);
  const render = await ask(`/api/bakes/${bake.id}/renders`, {
    look: variant.look,
    frames: { first: 100, last: 120 },
  });
  await finished('render', render.id);
  const combine = await ask(`/api/shots/${shot.id}/combines`, {
    settings: variant.combine,
    output: {},
    frames: { first: 112, last: 112 },
  });
  await finished('combine', combine.id);
}

const browser = await chromium.launch(CHROMIUM);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.addInitScript(() => localStorage.setItem('bramblemist.visited', '1'));
const only = process.argv.slice(2);
const take = async (name, path, act) => {
  if (only.length > 0 && !only.includes(name)) return;
  await page.goto(base + path);
  await page.waitForTimeout(2500);
  if (act) await act();
  await page.screenshot({ path: join(folder, `${name}.png`) });
};

const to112 = async () => {
  await page.getByRole('slider', { name: 'Frame' }).press('End');
  for (let n = 0; n < 8; n++) await page.keyboard.press('ArrowLeft');
  await page.mouse.move(5, 795);
  await page.evaluate(() => document.activeElement?.blur());
  await page.waitForTimeout(4000);
};

const choose = async (name, option) => {
  await page.getByRole('button', { name }).first().click();
  await page.getByRole('option', { name: option, exact: true }).click();
};

const s = `/shots/${shot.id}`;
await take('set-up', `${s}/set-up`, async () => {
  await page.getByText('run complete').waitFor({ timeout: 90000 });
  await page.getByRole('button', { name: 'Unfold Weir lip' }).click();
  await to112();
});
await take('run', `${s}/run`, to112);
await take('light', `${s}/light`, to112);
await take('light-open', `${s}/light`, async () => {
  await to112();
  await page.getByRole('button', { name: 'Unfold Medium' }).click();
  await page.getByRole('button', { name: 'Set a key for Medium, density scale' }).click();
  await page.getByRole('button', { name: 'Unfold Dawn' }).click();
  await page.getByRole('button', { name: 'Fold Dawn' }).click();
  await page.getByRole('img', { name: /^Densities/ }).scrollIntoViewIfNeeded();
  await page.waitForTimeout(3000);
});
await take('savings', `${s}/light`, async () => {
  await to112();
  await page.getByRole('button', { name: 'What would make it cheaper?' }).click();
  await page.getByRole('heading', { name: 'Half the size' }).waitFor({ timeout: 180000 });
  await page.waitForTimeout(1500);
});
await take('combine', `${s}/combine`, async () => {
  await page.getByText(/^Ready in/).waitFor({ timeout: 60000 });
  await to112();
  await page.getByText(/^Ready in/).waitFor({ timeout: 60000 });
  await page.waitForTimeout(6000);
});
await take('hand-over', `${s}/hand-over`, to112);
await take('cellar', `/shots/${shots.find((x) => x.name === 'Ice cellar').id}/set-up`, async () => {
  await page.getByText('run complete').waitFor({ timeout: 90000 });
  await page.getByRole('button', { name: 'Unfold Vapour at the hatch' }).click();
  await page.getByRole('slider', { name: 'Frame' }).press('End');
  await page.waitForTimeout(3000);
});
await take('keys', `/shots/${shots.find((x) => x.name === 'Sack drop').id}/set-up`, async () => {
  await page.getByText('run complete').waitFor({ timeout: 90000 });
  await page.getByRole('button', { name: /Sack: centre y$/ }).click();
  await page.getByRole('slider', { name: 'Frame' }).press('Home');
  for (let n = 0; n < 23; n++) await page.keyboard.press('ArrowRight');
  await page.waitForTimeout(3000);
});
await take('particles', `/shots/${shots.find((x) => x.name === 'Sack drop').id}/set-up`, async () => {
  await page.getByText('run complete').waitFor({ timeout: 90000 });
  await page.getByRole('button', { name: 'Unfold Crumbs of flour' }).click();
  await page.getByRole('slider', { name: 'Frame' }).press('Home');
  for (let n = 0; n < 19; n++) await page.keyboard.press('ArrowRight');
  await page.getByRole('button', { name: 'Fold Crumbs of flour' }).scrollIntoViewIfNeeded();
  await page.waitForTimeout(3000);
});
await take('air', `/shots/${shots.find((x) => x.name === 'Drying kiln').id}/set-up`, async () => {
  await page.getByText('run complete').waitFor({ timeout: 90000 });
  await page.getByRole('slider', { name: 'Frame' }).press('Home');
  await page.keyboard.press('ArrowRight');
  await page.getByRole('button', { name: 'What moves the air', exact: true }).click();
  await choose(/Arrows of/, 'Wind');
  await page.getByRole('button', { name: 'Regions', exact: true }).click();
  await choose(/Veil of/, 'Shelter');
  await page.getByRole('button', { name: 'Unfold Wind', exact: true }).click();
  await page.getByText('A run that plays takes a change up at once.').first().scrollIntoViewIfNeeded();
  await page.waitForTimeout(4000);
});
await take('formula', `/shots/${shots.find((x) => x.name === 'Ice cellar').id}/set-up`, async () => {
  await page.getByText('run complete').waitFor({ timeout: 90000 });
  await page.getByRole('slider', { name: 'Frame' }).press('End');
  await page.getByRole('button', { name: 'Unfold Thin parts' }).click();
  await page.getByRole('textbox', { name: 'Evaporate above, formula' }).click();
  await page.waitForTimeout(4000);
});
await take('compare', `${s}/set-up`, async () => {
  await page.getByText('run complete').waitFor({ timeout: 90000 });
  await page.getByRole('button', { name: 'compare', exact: true }).first().click();
  await page.waitForTimeout(15000);
  await choose(/How they are compared/, 'wiped');
  await page.getByRole('button', { name: 'end comparing' }).scrollIntoViewIfNeeded();
  await to112();
});
await take('match', `${s}/set-up`, async () => {
  await page.getByText('run complete').waitFor({ timeout: 90000 });
  await page.getByRole('button', { name: 'shot camera' }).click();
  await to112();
  await choose(/Where the reference stands/, 'over it');
  await page.getByRole('button', { name: 'measure', exact: true }).click();
  await page.getByText(/^match/).waitFor({ timeout: 30000 });
  await page.waitForTimeout(4000);
});
if (only.length === 0 || only.includes('match'))
  await choose(/Where the reference stands/, 'beside the window');
// a refined bake is the newest one from here on
if (only.length === 0 || only.includes('refine')) {
  const [bake] = (await ask(`/api/shots/${shot.id}`)).bakes;
  const fine = await ask(`/api/bakes/${bake.id}/refines`, { settings: { times: 3, strength: 140 } });
  await finished('refine', fine.id);
}

await take('sheet', `${s}/sheets`, async () => {
  if ((await ask(`/api/shots/${shot.id}`)).sheets.length === 0)
    await page.getByRole('button', { name: /^Run \d+ trials/ }).click();
  const sheet = page.getByRole('region', { name: /^Sheet/ });
  await sheet.waitFor();
  await sheet.getByRole('progressbar').waitFor({ state: 'detached', timeout: 180000 });
  await sheet.getByRole('button', { name: 'Pause' }).click();
  await sheet.getByRole('slider', { name: 'Frame' }).fill('71');
  await page.waitForTimeout(3000);
});
await take('refine', `${s}/run`, async () => {
  await page
    .getByRole('button', { name: /^Bake \d+ · variant 1$/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'compare', exact: true }).first().click();
  await choose(/How they are compared/, 'wiped');
  await page.getByRole('button', { name: 'refine …' }).click();
  await page.getByRole('button', { name: /^Refine \d+ frames/ }).scrollIntoViewIfNeeded();
  await to112();
});
await take('storage', '/storage');
await take('board', '/board');
await take('queue', '/queue');
await browser.close();

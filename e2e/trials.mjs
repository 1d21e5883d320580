// npm run trials [-- N [kind]]: what is changed on the page is lost by nothing: N times (20) each a change
// and at once another variant, a closed window, a killed server, a server that is away, a second window, a
// reload with a large mask. Prints how many were kept.
import { chromium } from '@playwright/test';
import { CHROMIUM } from './chromium.mjs';
import { ownApplication } from './own-application.mjs';

const TRIALS = Number(process.argv[2] ?? 20);
/** Only kinds whose name has this in it. */
const only = process.argv[3] ?? '';
const application = await ownApplication('trials');
const { address, ask, start, kill } = application;
const variantsOf = async (shot) => (await ask(`/api/shots/${shot}`)).variants;

/** A shot whose live run is over at once, with two variants; the first with a mask where one is wanted. */
async function newShot(productionId, dabs = 0) {
  const { id } = await ask('/api/shots', { productionId, name: 'Trial', example: 'mist-over-water' });
  const [first] = await variantsOf(id);
  const recipe = { ...first.recipe, space: { ...first.recipe.space, lastFrame: 2 } };
  if (dabs > 0)
    recipe.sources = recipe.sources.map((s) => ({
      ...s,
      paint: Array.from({ length: dabs }, (_, n) => [Math.sin(n), Math.cos(n), n / dabs, 0.1, 1]),
    }));
  await ask(`/api/variants/${first.id}`, { recipe }, 'PATCH', { 'If-Match': `"${first.revision}"` });
  await ask(`/api/shots/${id}/variants`, { note: 'second' });
  return id;
}

async function type(page, name, text) {
  await page.getByRole('spinbutton', { name, exact: true }).press('Enter');
  await page.getByRole('textbox', { name: new RegExp(`^${name}`) }).fill(text);
  await page.keyboard.press('Enter');
}

async function open(context, shot) {
  const page = await context.newPage();
  await page.goto(`${address}/shots/${shot}/set-up`);
  await page.getByRole('spinbutton', { name: 'Wind, speed', exact: true }).waitFor();
  return page;
}

/** Whether the server comes to have what was typed. */
async function kept(shot, number, holds) {
  for (let n = 0; n < 100; n++) {
    const found = await variantsOf(shot).catch(() => []);
    const own = found.find((v) => v.number === number);
    if (own && holds(own.recipe)) return true;
    await new Promise((done) => setTimeout(done, 200));
  }

  return false;
}

const speedIs = (value) => (recipe) => recipe.wind.speed === value;
const KINDS = {
  async 'edit, then another variant'(context, shot, value) {
    const page = await open(context, shot);
    await type(page, 'Wind, speed', `${value} m/s`);
    await page.getByRole('button', { name: '1 first', exact: true }).click();
    return kept(shot, 2, speedIs(value));
  },
  async 'edit, then closed'(context, shot, value) {
    const page = await open(context, shot);
    await type(page, 'Wind, speed', `${value} m/s`);
    await page.close();
    const next = await context.newPage();
    await next.goto(`${address}/board`);
    return kept(shot, 2, speedIs(value));
  },
  async 'edit, then the server killed'(context, shot, value) {
    const page = await open(context, shot);
    await type(page, 'Wind, speed', `${value} m/s`);
    await kill();
    await page.waitForTimeout(1000);
    await start();
    return kept(shot, 2, speedIs(value));
  },
  async 'edit while the server is away, then closed'(context, shot, value) {
    const page = await open(context, shot);
    await kill();
    await type(page, 'Wind, speed', `${value} m/s`);
    await page.waitForTimeout(300);
    await page.close();
    await start();
    const next = await context.newPage();
    await next.goto(`${address}/board`);
    return kept(shot, 2, speedIs(value));
  },
  async 'two windows at once'(context, shot, value) {
    const [one, two] = [await open(context, shot), await open(context, shot)];
    await Promise.all([
      type(one, 'Wind, speed', `${value} m/s`),
      type(two, 'Wind, heading', `${Math.round(value * 100)}°`),
    ]);
    return kept(shot, 2, (r) => r.wind.speed === value && r.wind.heading === Math.round(value * 100));
  },
  async 'edit of a large mask’s recipe, then a reload'(context, shot, value) {
    const page = await open(context, shot);
    await type(page, 'Wind, speed', `${value} m/s`);
    await page.reload();
    return kept(shot, 2, (r) => r.wind.speed === value && r.sources[0].paint.length === 2000);
  },
};

const browser = await chromium.launch(CHROMIUM);
try {
  const { id: productionId } = await ask('/api/productions', { name: 'Trials' });
  for (const [name, act] of Object.entries(KINDS).filter(([kind]) => kind.includes(only))) {
    let held = 0;
    for (let n = 0; n < TRIALS; n++) {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
      const shot = await newShot(productionId, name.includes('mask') ? 2000 : 0);
      held += Number(await act(context, shot, Number((0.5 + n / 64).toFixed(2))));
      await context.close();
    }

    console.log(`${name}: ${held} of ${TRIALS} kept`);
    if (held < TRIALS) process.exitCode = 1;
  }
} finally {
  await browser.close();
  await application.stop();
}

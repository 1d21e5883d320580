// The same recipe gives the same voxels, bit for bit, in Chromium and in Node, with one thread and with two.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { expect, test } from '@playwright/test';

const FRAMES = 20,
  VOXEL = 0.08;
const ROOT = resolve(import.meta.dirname, '..');

test('twenty frames of the weir', async ({ page }) => {
  const cli = join(ROOT, 'packages/cli/bin/bramblemist.cjs'),
    folder = mkdtempSync(join(tmpdir(), 'bits-'));
  const text = execFileSync(process.execPath, [cli, 'recipe', '--example', 'weir-at-dawn'], { encoding: 'utf8' });
  writeFileSync(join(folder, 'recipe.json'), text);
  const node = [1, 2].map((threads) => {
    const lines = execFileSync(
      process.execPath,
      [
        cli,
        'bake',
        join(folder, 'recipe.json'),
        '--out',
        join(folder, String(threads)),
        '--frames',
        String(FRAMES),
        '--voxel',
        String(VOXEL),
        '--threads',
        String(threads),
        '--json',
      ],
      { encoding: 'utf8' },
    );
    return (JSON.parse(lines.trim().split('\n')[1]) as { state: string }).state;
  });
  rmSync(folder, { recursive: true });

  await page.goto('/board');
  const worker = readdirSync(join(ROOT, 'packages/web/build/assets')).find((f) => /^live-worker-.*\.js$/.test(f))!;
  const browser: string[] = [];
  for (const threads of [1, 2]) {
    browser.push(
      await page.evaluate(
        ({ url, message }) =>
          new Promise<string>((done, fail) => {
            const w = new Worker(url, { type: 'module' });
            w.onmessage = (e: MessageEvent<{ type: string; value: string }>) => done(e.data.value);
            w.onerror = (e) => fail(new Error(e.message));
            w.postMessage(message);
          }),
        {
          url: `/assets/${worker}`,
          message: { type: 'checksum', recipe: JSON.parse(text) as object, voxelSizeM: VOXEL, threads, frames: FRAMES },
        },
      ),
    );
  }
  expect(node[0]).toMatch(/^[0-9a-f]{8}$/);
  expect([...node, ...browser]).toEqual(new Array(4).fill(node[0]));
});

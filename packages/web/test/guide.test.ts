// The guide as chapters: every link leads to one, every picture is there, every page has one that fits.
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chapterFor, chaptersOf, slugOf } from '@bramblemist/web/guide/read';

const docs = join(__dirname, '../../../docs');
const guide = readFileSync(join(docs, 'guide.md'), 'utf8');
const chapters = chaptersOf(guide);
const slugs = chapters.map((c) => c.slug);

test('chapters are parted at headings, with how they begin in plain words', () => {
  const [first, second] = chaptersOf(
    '# Book\n\nbefore\n\n## One, two & three\n\n![seen](a.png)\n\n' +
      '- _Here_ it [begins](#x) with `code`.\n\n### Below\n\n## Last\n\nEnd.',
  );
  expect(first).toMatchObject({ slug: 'one-two-three', opening: 'Here it begins with code.' });
  expect(first.text).toContain('### Below');
  expect(second).toEqual({ slug: 'last', title: 'Last', opening: 'End.', text: 'End.' });
  expect(slugOf('Size, cost and substeps')).toBe('size-cost-and-substeps');
});

test('the guide has no chapter twice, and each begins with words', () => {
  expect(slugs.length).toBeGreaterThan(20);
  expect(new Set(slugs).size).toBe(slugs.length);
  for (const { title, opening } of chapters) {
    expect([title, opening.length > 20 && opening.length < 165]).toEqual([title, true]);
    expect(opening).not.toMatch(/[[\]|_*`]/);
  }
});

test('every link within it leads to a chapter, every picture is there', () => {
  const links = [...guide.matchAll(/\]\(#([^)]+)\)/g)].map(([, slug]) => slug);
  expect(links.length).toBeGreaterThan(20);
  expect(links.filter((slug) => !slugs.includes(slug))).toEqual([]);
  const pictures = [...guide.matchAll(/!\[[^\]]+\]\(([^)]+)\)/g)].map(([, path]) => path);
  expect(pictures.length).toBeGreaterThan(10);
  expect(pictures.filter((path) => !existsSync(join(docs, path)))).toEqual([]);
});

test('each page has a chapter that is there', () => {
  const stages = ['set-up', 'run', 'light', 'combine', 'hand-over', 'sheets', 'savings', 'review'];
  const paths = ['/board', '/queue', '/storage', '/', ...stages.map((s) => `/shots/12/${s}`)];
  for (const path of paths) expect(slugs).toContain(chapterFor(path));
  expect(chapterFor('/shots/1/hand-over')).toBe('hand-over');
});

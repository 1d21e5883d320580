// docs/words.md lists every setting of a recipe as the page calls it. WORDS=write writes the table anew.
import { readFileSync, writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { RECIPE } from '@bramblemist/core/recipe/recipe';

const PATH = resolve(__dirname, '../../../docs/words.md');
const HEAD = ['part', 'on the page', 'path', 'unit'];

/** A row a setting; a vector has one, called as all of it is. */
const rows = (): string[][] =>
  RECIPE.parts.flatMap(({ key, title, many, settings }) =>
    settings
      .filter(({ path }) => !/\.[1-9]\d*$/.test(path))
      .map((s) => [
        title,
        s.path.endsWith('.0') ? s.label.replace(/ x$/, '') : s.label,
        `\`${key}${many ? '[]' : ''}.${s.path.replace(/\.0$/, '')}\``,
        'unit' in s ? s.unit : '',
      ]),
  );

function table(): string {
  const all = [HEAD, ...rows()];
  const widths = HEAD.map((_, c) => Math.max(...all.map((r) => [...r[c]].length)));
  const line = (r: readonly string[]): string =>
    `| ${r.map((cell, c) => cell + ' '.repeat(widths[c] - [...cell].length)).join(' | ')} |`;
  return [line(HEAD), line(widths.map((w) => '-'.repeat(w))), ...rows().map(line)].join('\n');
}

test('every setting stands in the table, and nothing else', () => {
  const text = readFileSync(PATH, 'utf8');
  const from = text.indexOf('| part ');
  const now = text.slice(0, from) + table() + '\n';
  if (process.env.WORDS === 'write') writeFileSync(PATH, now);
  expect(readFileSync(PATH, 'utf8')).toBe(now);
});

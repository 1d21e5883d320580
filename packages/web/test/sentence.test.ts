import { COMBINE_PARTS } from '@bramblemist/core/combine/combine';
import { LOOK_PARTS } from '@bramblemist/core/look/parts';
import { RECIPE_PARTS } from '@bramblemist/core/recipe/parts';
import type { Part } from '@bramblemist/core/recipe/settings';
import { pathsIn, tokens, type Token } from '@bramblemist/web/parts/sentence';

test('a sentence falls into text, controls and conditional pieces', () => {
  expect(tokens('{name}, a {shape}[shape=sphere: of radius {radius}], gives {rate}.')).toEqual([
    { kind: 'setting', path: 'name' },
    { kind: 'text', text: ', a ' },
    { kind: 'setting', path: 'shape' },
    {
      kind: 'when',
      path: 'shape',
      is: ['sphere'],
      inner: [
        { kind: 'text', text: ' of radius ' },
        { kind: 'setting', path: 'radius' },
      ],
    },
    { kind: 'text', text: ', gives ' },
    { kind: 'setting', path: 'rate' },
    { kind: 'text', text: '.' },
  ]);
});

test('the settings of a sentence are all found, those in conditions too', () => {
  expect(pathsIn(tokens('A {size.0}[shape=box: by {size.1}] {on}'))).toEqual(['size.0', 'size.1', 'on']);
});

test('no space stands before a comma that a conditional piece begins with', () => {
  expect(tokens('{a}[b=c: , {d} of them]')).toEqual([
    { kind: 'setting', path: 'a' },
    {
      kind: 'when',
      path: 'b',
      is: ['c'],
      inner: [
        { kind: 'text', text: ', ' },
        { kind: 'setting', path: 'd' },
        { kind: 'text', text: ' of them' },
      ],
    },
  ]);
});

const DESCRIBED: readonly Part[] = [...RECIPE_PARTS, ...LOOK_PARTS, ...COMBINE_PARTS];

test.each(DESCRIBED.map((part) => [part.title, part] as const))(
  'the sentence of %s can be read',
  (_, part) => {
    const list = tokens(part.sentence);
    const texts = (all: readonly Token[]): string[] =>
      all.flatMap((t) => {
        if (t.kind === 'when') return texts(t.inner);
        return t.kind === 'text' ? [t.text] : [];
      });
    expect(texts(list).join('')).not.toMatch(/[[\]{}]/);
    // a colour is one control for three settings
    const known = part.settings.flatMap(({ path }) => [path, path.replace(/\.\d$/, '')]);
    const conditions = list.flatMap((t) => (t.kind === 'when' ? [t.path] : []));
    for (const path of [...pathsIn(list), ...conditions]) expect(known).toContain(path);
  },
);

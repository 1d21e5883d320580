import { COMBINE_PARTS } from '@bramblemist/core/combine/combine';
import { LOOK_PARTS } from '@bramblemist/core/look/parts';
import { RECIPE_PARTS } from '@bramblemist/core/recipe/parts';
import { getAt, setAt } from '@bramblemist/core/recipe/paths';
import { isNumber, type Part, type Setting } from '@bramblemist/core/recipe/settings';
import { formatValue } from '@bramblemist/core/recipe/units';
import { isTold, pathsIn, tokens, type Token } from '@bramblemist/web/parts/sentence';

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

test('a piece is told where its value is one of those, not the one excluded, or anything', () => {
  const told = (is: string, value: unknown): boolean => isTold({ is: is.split('|') }, value);
  expect([told('a|b', 'b'), told('a|b', 'c'), told('0', 0), told('!0', 0), told('!0', 2)]).toEqual([
    ...[true, false, true, false, true],
  ]);
  expect([told('*', ''), told('*', 'plate')]).toEqual([false, true]);
});

/** A setting's value as the page has it, near enough for its sentence. */
function shown(s: Setting, value: unknown): string {
  if (isNumber(s)) {
    if (s.word && s.word.is === value) return s.word.text;
    return formatValue(value as number, s.unit);
  }

  if (s.kind === 'choice') return s.options.find((o) => o.value === value)!.label;
  if (s.kind === 'flag') return value ? 'kept' : 'left out';
  return String(value || 'nothing');
}

/** The whole sentence with these values. */
function sentenceOf(part: Part, values: object): string {
  const say = (list: readonly Token[]): string =>
    list
      .map((t) => {
        if (t.kind === 'text') return t.text;
        if (t.kind === 'when') return isTold(t, getAt(values, t.path)) ? say(t.inner) : '';
        const setting = part.settings.find((s) => s.path === t.path);
        return setting ? shown(setting, getAt(values, t.path)) : 'a colour';
      })
      .join('');
  return say(tokens(part.sentence));
}

/** Values of a part: as it begins, at both ends of every number, and with each choice. */
function extremes(part: Part): object[] {
  const base = part.settings.reduce<object>(
    (all, s) => setAt(all, s.path, 'default' in s ? s.default : '') as object,
    {},
  );
  const ends = [0, 1].map((n) =>
    part.settings.reduce<object>(
      (all, s) => (isNumber(s) ? (setAt(all, s.path, [s.least, s.most][n]) as object) : all),
      base,
    ),
  );
  const zero = part.settings.reduce<object>(
    (all, s) => (isNumber(s) && s.least <= 0 ? (setAt(all, s.path, 0) as object) : all),
    base,
  );
  const chosen = part.settings.flatMap((s) => {
    if (s.kind === 'choice') return s.options.map((o) => setAt(base, s.path, o.value) as object);
    return s.kind === 'flag' ? [true, false].map((v) => setAt(base, s.path, v) as object) : [];
  });
  return [base, zero, ...ends, ...chosen];
}

test.each(DESCRIBED.map((part) => [part.title, part] as const))(
  'the sentence of %s reads well with any values',
  (_, part) => {
    for (const values of extremes(part)) {
      const text = sentenceOf(part, values);
      // no gap before a mark, no two marks, no gap of two, nothing that was not filled in
      expect(text).not.toMatch(/\s[,.;:]|[,;:]{2}|\.\.|,\.|;\.| {2}|undefined|NaN|null/);
      expect(text).toMatch(/^[^\s,.;:]/);
    }
  },
);

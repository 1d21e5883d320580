import { pathsIn, tokens } from '@bramblemist/web/parts/sentence';

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

// Core as a library: the example of its README runs, and errors are of one kind.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { CoreError, compile, parseRecipe, simulate } from '@bramblemist/core/io/node';
import { plume } from './readme-example';

test('the example of the README is the one that runs, and it gives growing mass and files', () => {
  const here = readFileSync(join(__dirname, 'readme-example.ts'), 'utf8');
  const readme = readFileSync(join(__dirname, '../README.md'), 'utf8');
  expect(/```ts\n([\s\S]*?)```/.exec(readme)![1]).toBe(here);
  const frames = plume();
  expect(frames).toHaveLength(3);
  expect(frames[2].mass).toBeGreaterThan(frames[0].mass);
  expect(frames.every((f) => f.bytes > 1000)).toBe(true);
});

test('what has no part in a run is told, with the reason', () => {
  const ball = { shape: 'sphere', centre: [0, 0.5, 0], radius: 0.2 };
  const recipe = parseRecipe({
    sources: [
      { id: 'a', name: 'A', ...ball },
      { id: 'b', name: 'B', ...ball, on: false },
      { id: 'c', name: 'C', shape: 'particles' },
    ],
    patterns: [{ id: 'p', name: 'P', source: 'b' }],
    regions: [
      { id: 'r', name: 'R', ...ball },
      { id: 'q', name: 'Q', ...ball, on: false },
    ],
    changes: [{ id: 'w', name: 'W', region: 'q', path: 'wind/speed', how: 'times', amount: 2 }],
  });
  expect(compile(recipe).dropped).toEqual([
    { path: 'sources.1', name: 'B', why: 'it is off' },
    { path: 'sources.2', name: 'C', why: 'its particles are off' },
    { path: 'patterns.0', name: 'P', why: 'its source is off' },
    { path: 'regions.0', name: 'R', why: 'nothing is limited to it or changed in it' },
    { path: 'regions.1', name: 'Q', why: 'it is off' },
    { path: 'changes.0', name: 'W', why: 'its region is off' },
  ]);
});

test.each([
  ['a document', () => parseRecipe({ space: { voxelSize: -1 } }), 'document', 'space.voxelSize'],
  [
    'a file',
    () => simulate(parseRecipe({ obstacles: [{ id: 'm', name: 'M', shape: 'mesh' }] })).next(),
    'asset',
    '',
  ],
])('%s that is wrong throws one kind of error, with code and path', (_, act, code, path) => {
  let error: unknown;
  try {
    act();
  } catch (e) {
    error = e;
  }

  expect(error).toBeInstanceOf(CoreError);
  expect(error).toMatchObject({ code, path });
});

// Names of files that are handed over: what a pattern makes, and what is refused with its place and its cure.
import { DEFAULT_NAMES, FileNames, framePath } from '@bramblemist/core/cache/file-names';

const VALUES = { production: 'heron_mill', shot: 'weir', what: 'volumes', bake: 12, version: 3, frame: 7 };

test.each([
  [DEFAULT_NAMES, 'volumes/weir_v003.0007'],
  ['{production}/{shot}/{what}/b{bake}.{frame}', 'heron_mill/weir/volumes/b12.7'],
  ['{shot} {what}-{frame:6}', 'weir volumes-000007'],
  ['{what}{what}.{frame:2}.final', 'volumesvolumes.07.final'],
  ['Łódź_{what}_{frame:4}', 'Łódź_volumes_0007'],
])('%s', (pattern, name) => {
  expect(new FileNames(pattern).of(VALUES)).toBe(name);
});

test('numbers that are longer than their digits are not cut', () => {
  expect(new FileNames('{what}.{frame:2}').of({ ...VALUES, frame: 12345 })).toBe('volumes.12345');
});

test('of no frame: the sign that leads to it goes too, and something is always left', () => {
  const of = (pattern: string): string =>
    new FileNames(pattern).of({ ...VALUES, what: 'movie_2', frame: null });
  expect(of(DEFAULT_NAMES)).toBe('movie_2/weir_v003');
  expect(of('{what}_{frame:4}')).toBe('movie_2');
  expect(of('{frame:4}_{what}')).toBe('_movie_2');
  expect(of('{what}/{frame:4}')).toBe('movie_2/movie_2');
});

test('as a sequence, with # for the digits of the frame, and back', () => {
  const { frame, ...rest } = VALUES;
  const sequence = new FileNames(DEFAULT_NAMES).sequence(rest);
  expect(sequence).toBe('volumes/weir_v003.####');
  for (const f of [frame, 99999])
    expect(framePath(sequence, f)).toBe(new FileNames(DEFAULT_NAMES).of({ ...VALUES, frame: f }));
});

test.each([
  ['{what}.{frames}', 'Character 8: there is no field {frames}. There are {production}, {shot}'],
  ['{what}.{frame:0}', 'Character 8: a number of digits goes from 1 to 9'],
  ['{what}.{frame:4:2}', 'Character 8: a number of digits'],
  ['{what}.{frame:four}', 'Character 8: a number of digits'],
  ['{what:3}.{frame}', 'Character 1: {what} is no number'],
  ['{what}.{frame', 'Character 8: a { stands alone'],
  ['{what}}.{frame}', 'Character 7: a } stands alone'],
  ['{what}: {frame}', 'Character 7: : does not fit into a name on every system'],
  ['{what}\\{frame}', 'Character 7: \\ does not fit'],
  ['{what}\n{frame}', 'Character 7'],
  ['{shot}.{frame}', 'needs {what}'],
  ['{what}', 'needs {frame} once'],
  ['{what}.{frame}.{frame}', 'needs {frame} once'],
  ['../{what}.{frame}', 'more than dots'],
  ['/{what}.{frame}', 'more than dots'],
  ['a//{what}.{frame}', 'more than dots'],
  ['a /{what}.{frame}', 'no space at its ends'],
  ['{what}.{frame}/', 'must not end with a folder'],
  [`${'n'.repeat(200)}{what}.{frame}`, 'at most 200 characters'],
])('%s is refused', (pattern, says) => {
  expect(() => new FileNames(pattern)).toThrow(says);
});

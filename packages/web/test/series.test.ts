// Reference pictures that are brought together, and which of them goes with a frame.
import { namesOf, numbered } from '@bramblemist/web/reference/series';
import { pictureAt, type ReferenceItem } from '@bramblemist/web/reference/use-reference';

const file = (name: string): File => ({ name }) as File;

test('a number at the end of a name is its frame', () => {
  expect(numbered('weir.0012.png')).toEqual({ stem: 'weir', frame: 12 });
  expect(numbered('take 3_0101.jpg')).toEqual({ stem: 'take 3', frame: 101 });
  expect(numbered('7.png')).toEqual({ stem: 'sequence', frame: 7 });
  expect(numbered('still.png')).toBeNull();
});
test('several that share all but their number are one sequence, in order; others stand alone', () => {
  const named = namesOf([file('b.0002.png'), file('still.png'), file('b.0001.png'), file('other.0009.png')]);
  expect(named.map((n) => [n.file.name, n.series, n.frame])).toEqual([
    ['still.png', '', null],
    ['other.0009.png', '', null],
    ['b.0001.png', 'b', 1],
    ['b.0002.png', 'b', 2],
  ]);
});
describe('the picture of a frame', () => {
  const item = {
    key: 'b',
    name: 'b',
    pictures: [10, 11, 12, 14].map((frame) => ({ id: frame, frame })),
  } as unknown as ReferenceItem;
  const at = (frame: number, lined?: number): number => pictureAt(item, frame, 1, lined).frame!;
  test('goes with the shot’s first frame as the sequence begins, unless lined up otherwise', () => {
    expect(at(1)).toBe(10);
    expect(at(3)).toBe(12);
    expect(at(1, 12)).toBe(12);
  });
  test('is held at the ends and over gaps', () => {
    expect(at(40)).toBe(14);
    expect(at(1, 2)).toBe(10);
    expect([12, 14]).toContain(at(4));
  });
});

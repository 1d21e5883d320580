// Numbers of text files are the doubles that the language itself reads, to the last bit; words and lines end
// where they should.
import { TextScanner } from '@bramblemist/core/files/text-scanner';
import { doubleList, floatList } from '@bramblemist/core/files/growing';
import { random } from './run';

const scanner = (text: string, remark?: number): TextScanner =>
  new TextScanner(new TextEncoder().encode(text), 0, remark);

test('twenty thousand numbers of all forms', () => {
  const next = random(8);
  const forms: ((v: number) => string)[] = [
    (v) => String(v),
    (v) => v.toFixed(6),
    (v) => v.toPrecision(17),
    (v) => v.toExponential(3),
    (v) => v.toExponential(20),
    (v) => `+${Math.abs(v)}`,
    (v) => `${Math.round(v * 1e6)}.`,
    () => `-.${Math.floor(next() * 1e9)}E-${Math.floor(next() * 30)}`,
    () => `${Math.floor(next() * 1e9)}${Math.floor(next() * 1e9)}e${Math.floor(next() * 60) - 30}`,
  ];
  const texts = Array.from({ length: 20_000 }, (_, n) => {
    const v = (next() - 0.5) * 10 ** Math.floor(next() * 40 - 20);
    return forms[n % forms.length](v);
  });
  const scan = scanner(texts.join(' '));
  for (const text of texts) {
    scan.skip(true);
    const found = scan.number();
    if (!Object.is(found, Number(text))) throw new Error(`${text}: ${found}, not ${Number(text)}`);
  }

  scan.skip(true);
  expect(scan.at).toBe(scan.end);
});

test.each([
  ['-0', -0],
  ['0', 0],
  ['1e400', Infinity],
  ['1e-400', 0],
  ['9007199254740993', 2 ** 53],
  ['4.35', 4.35],
  ['0.000001', 0.000001],
  ['123456789012345678', 123456789012345680],
  ['Infinity', Infinity],
  ['1e', NaN],
  ['1e+', NaN],
  ['.', NaN],
  ['-', NaN],
  ['', NaN],
  ['1.2.3', NaN],
  ['12px', NaN],
])('“%s”', (text, wanted) => expect(scanner(text).number()).toBe(wanted));

test('words, stops, remarks and ends of lines', () => {
  const scan = scanner('f 1/2/3 4 # five\r\nEndSolid\rlast', 35);
  scan.word();
  expect([scan.is('f'), scan.text]).toEqual([true, 'f']);
  scan.skip(false);
  expect([scan.number(47), scan.byte]).toEqual([1, 47]);
  scan.word();
  expect(scan.text).toBe('/2/3');
  scan.skip(false);
  expect(scan.number()).toBe(4);
  scan.skip(false);
  expect(scan.isAtLineEnd).toBe(true);
  scan.nextLine();
  scan.word();
  expect([scan.is('endsolid'), scan.is('endsolid', true), scan.is('endsoli', true)]).toEqual([
    false,
    true,
    false,
  ]);
  scan.nextLine();
  expect(scan.word()).toBe(4);
  scan.nextLine();
  expect([scan.at, scan.byte, scan.word(), scan.isAtLineEnd]).toEqual([scan.end, -1, 0, true]);
});

test('lists grow past any length, and keep what is in them', () => {
  const doubles = doubleList();
  const floats = floatList();
  for (let n = 0; n < 5000; n++) {
    doubles.push(n / 3);
    floats.push(n / 3);
  }

  expect([doubles.length, doubles.at(4999), floats.at(4999)]).toEqual([
    5000,
    4999 / 3,
    Math.fround(4999 / 3),
  ]);
  expect([...doubles.done()]).toEqual(Array.from({ length: 5000 }, (_, n) => n / 3));
});

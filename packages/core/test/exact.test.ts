import { cosine, exponential, lengthOf, logarithm, norm, power, sine } from '@bramblemist/core/math/exact';

test('the exact functions are those of mathematics, to the last digits', () => {
  for (let x = -20; x <= 20; x += 0.37) {
    expect(sine(x)).toBeCloseTo(Math.sin(x), 14);
    expect(cosine(x)).toBeCloseTo(Math.cos(x), 14);
    expect(exponential(x / 4) / Math.exp(x / 4)).toBeCloseTo(1, 14);
    expect(logarithm(Math.abs(x))).toBeCloseTo(Math.log(Math.abs(x)), 14);
    expect(power(Math.abs(x), 2.4) / Math.abs(x) ** 2.4).toBeCloseTo(1, 13);
  }
});

test('they keep their bits: what they gave once they give always', () => {
  const bits = (v: number): string => new BigUint64Array(Float64Array.of(v).buffer)[0].toString(16);
  expect(
    [sine(1), sine(1e6), sine(-1e9), exponential(1), exponential(-0.3), power(0.5, 2.4)].map(bits),
  ).toEqual([
    '3feaed548f090cee',
    'bfd6664b2568d867',
    'bfe1778cae83c69b',
    '4005bf0a8b145769',
    '3fe7b4c869c37c05',
    '3fc8406003b2ae5d',
  ]);
});

test('lengths are square roots of sums of squares', () => {
  expect(lengthOf(2, 3, 6)).toBe(7);
  expect(norm([3, 4])).toBe(5);
  expect(norm([1e-3, -2e-3, 2e-3])).toBeCloseTo(3e-3, 18);
});

import { formatValue, parseTyped } from '@bramblemist/core/recipe/units';
import type { SettingUnit } from '@bramblemist/core/recipe/settings';

const typed = (text: string, unit: SettingUnit): number | string => {
  const r = parseTyped(text, unit, 24);
  return r.ok ? r.value : r.message;
};

test.each([
  ['12 cm', 'm', 0.12],
  ['0.4 m', 'm', 0.4],
  ['40', 'm', 40],
  ['5mm', 'm', 0.005],
  ['18 f', 's', 0.75],
  ['0.75 s', 'frames', 18],
  ['2*0.35 m', 'm', 0.7],
  ['(1+2)/4 m', 'm', 0.75],
  ['-9 K', 'K', -9],
  ['−9 K', 'K', -9],
  ['36 km/h', 'm/s', 10],
  ['0,5', 's', 0.5],
  ['60 %', '', 0.6],
  ['1e-2', 'm', 0.01],
  ['9.81 m/s²', 'm/s²', 9.81],
] as const)('%s as %s is %d', (text, unit, value) => {
  expect(typed(text, unit)).toBeCloseTo(value, 10);
});

test.each([
  ['abc', 'm', /Type a number/],
  ['', 'm', /Type a number/],
  ['3 kg', 'm', /does not fit here; use m, cm/],
  ['3 +', 'm', /cannot be worked out/],
  ['1/0', 'm', /cannot be worked out/],
  ['((((', 'm', /cannot be worked out|Type a number/],
  [`${'('.repeat(5000)}1${')'.repeat(5000)}`, 'm', /cannot be worked out/],
] as const)('%s is refused with what to do', (text, unit, message) => {
  expect(typed(text, unit)).toMatch(message);
});

test.each([
  [0.05, 'm', '5 cm'],
  [0.004, 'm', '4 mm'],
  [2.4, 'm', '2.4 m'],
  [-9, 'K', '−9 K'],
  [30, '°', '30°'],
  [0.1 + 0.2, 's', '0.3 s'],
] as const)('%d %s is shown as %s and read back', (value, unit, text) => {
  expect(formatValue(value, unit)).toBe(text);
  expect(typed(text, unit)).toBeCloseTo(value, 10);
});

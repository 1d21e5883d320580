// Values to try as they are typed, and as they are written.
import { readValues, valuesText } from '@bramblemist/web/variants/values';

const values = (text: string, unit: Parameters<typeof readValues>[1] = 'm'): number[] | string => {
  const read = readValues(text, unit, 24);
  return read.ok ? read.values.map((v) => Number(v.toFixed(6))) : read.message;
};

test('with commas between them, in the setting’s own unit', () => {
  expect(values('0.1, 0.2,0.4')).toEqual([0.1, 0.2, 0.4]);
});
test('a unit behind the last is that of all; each may have its own', () => {
  expect(values('10, 20, 40 cm')).toEqual([0.1, 0.2, 0.4]);
  expect(values('10 mm, 20, 0.4 m')).toEqual([0.01, 20, 0.4]);
  expect(values('0.2, 0.4 m/s²', 'm/s²')).toEqual([0.2, 0.4]);
  expect(values('12, 24 f', 's')).toEqual([0.5, 1]);
});
test('arithmetic and a comma at the end are taken', () => {
  expect(values('2*0.1, 1/4, ')).toEqual([0.2, 0.25]);
});
test('what cannot be read is told', () => {
  expect(values('')).toMatch('commas');
  expect(values('a few')).toMatch('number');
  expect(values('1, 2 kg')).toMatch('kg');
});
test('what is written is read as it was, in every unit', () => {
  for (const unit of ['', 'm', 'm/s', 'm/s²', 's', 'K', '°', '%', 'frames', '1/s', 'm/s² per K'] as const)
    expect(values(valuesText([0.25, 1, 12], unit), unit)).toEqual([0.25, 1, 12]);
});

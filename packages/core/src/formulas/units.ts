// Units of what a formula works with: powers of metre, second and kelvin.

export type Dimension = readonly [metre: number, second: number, kelvin: number];
export const PLAIN: Dimension = [0, 0, 0];

export const same = (a: Dimension, b: Dimension): boolean => a.every((v, n) => v === b[n]);
export const times = (a: Dimension, b: Dimension): Dimension => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const over = (a: Dimension, b: Dimension): Dimension => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const toThe = (a: Dimension, n: number): Dimension => [a[0] * n, a[1] * n, a[2] * n];

/** As a person writes it: m/s², K, 1/s; a plain number by that name. */
export function nameOf(unit: Dimension): string {
  const parts = (sign: 1 | -1): string[] =>
    ['m', 's', 'K'].flatMap((name, n) => {
      const power = unit[n] * sign;
      if (power <= 0) return [];
      return [name + ({ 1: '', 2: '²', 3: '³' }[power] ?? `^${power}`)];
    });
  const up = parts(1).join('·');
  const down = parts(-1).join('·');
  if (!up && !down) return 'a plain number';
  return down ? `${up || '1'}/${down}` : up;
}

/**
 * What to divide by to get from one unit to another, as a formula says it; null where it is nothing short.
 */
export function divisor(from: Dimension, to: Dimension): string | null {
  const rest = over(from, to);
  const names = ['m', 's', 'K'].filter((_, n) => rest[n] !== 0);
  if (names.length !== 1) return null;
  const power = rest.find((v) => v !== 0)!;
  if (Math.abs(power) > 2 || !Number.isInteger(power)) return null;
  const name = Math.abs(power) === 1 ? names[0] : `${names[0]} ** 2`;
  return power > 0 ? `divide by ${name}` : `multiply by ${name}`;
}

// Values to try, as one types them: with commas between them, a unit with each or behind the last for all.
import type { SettingUnit } from '@bramblemist/core/recipe/settings';
import { parseTyped } from '@bramblemist/core/recipe/units';

export type ReadValues =
  { readonly ok: true; readonly values: number[] } | { readonly ok: false; readonly message: string };

/** “0.2, 0.4, 0.8 m”. */
export function readValues(text: string, unit: SettingUnit, frameRate: number): ReadValues {
  const parts = text.split(/[,;]/).map((p) => p.trim());
  while (parts[parts.length - 1] === '') parts.pop();
  if (parts.length === 0) return { ok: false, message: 'Give the values to try, with commas between them.' };
  const shared = /[\d.)]\s*([^\d\s.()+*/-].*)$/u.exec(parts[parts.length - 1])?.[1] ?? '';
  const values: number[] = [];
  for (const p of parts) {
    const typed = parseTyped(/[\d.)]$/.test(p) && shared ? `${p} ${shared}` : p, unit, frameRate);
    if (!typed.ok) return typed;
    values.push(typed.value);
  }

  return { ok: true, values };
}

export const valuesText = (values: readonly number[], unit: SettingUnit): string =>
  values.map((v) => String(Number(v.toPrecision(4)))).join(', ') +
  (['', '1/s', '1/m', 'm/s² per K'].includes(unit) ? '' : ` ${unit}`);

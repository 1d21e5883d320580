// Numbers as artists type them: a unit that may differ from the stored one, and plain arithmetic (`2*0.35 m`,
// `18 f`).
import type { SettingUnit } from './settings';

/** How much one of a typed unit is in the stored unit of a setting. */
const SCALES: Partial<Record<SettingUnit, Record<string, number>>> = {
  m: { m: 1, cm: 0.01, mm: 0.001, µm: 1e-6, km: 1000, in: 0.0254, ft: 0.3048 },
  mm: { mm: 1, cm: 10, m: 1000, in: 25.4 },
  s: { s: 1, ms: 0.001, min: 60 },
  'm/s': { 'm/s': 1, 'cm/s': 0.01, 'km/h': 1 / 3.6 },
  'm/s²': { 'm/s²': 1, 'm/s2': 1, 'cm/s²': 0.01, 'cm/s2': 0.01, g: 9.80665 },
  'm²/s': { 'm²/s': 1, 'm2/s': 1, 'cm²/s': 1e-4, 'cm2/s': 1e-4, 'mm²/s': 1e-6, 'mm2/s': 1e-6 },
  'kg/m³': { 'kg/m³': 1, 'kg/m3': 1, 'g/cm³': 1000, 'g/cm3': 1000 },
  K: { K: 1, k: 1, '°C': 1 },
  '1/s': { '1/s': 1, '/s': 1, Hz: 1 },
  '°/s': { '°/s': 1, 'deg/s': 1, rpm: 6 },
  '°': { '°': 1, deg: 1, rad: 180 / Math.PI },
  '%': { '%': 1 },
  frames: { f: 1, fr: 1, frames: 1 },
  fps: { fps: 1 },
  px: { px: 1 },
};

export type Typed =
  { readonly ok: true; readonly value: number } | { readonly ok: false; readonly message: string };

/**
 * @param text what was typed
 * @param unit the setting's stored unit
 * @param frameRate for times in frames (`18 f`)
 */
export function parseTyped(text: string, unit: SettingUnit, frameRate: number): Typed {
  const match =
    /^\s*([-−+*/().\d\s,]*?(?:\d[eE][-+]?\d+)?)\s*([^\d\s()+*,.−-][^\d]*(?:²|2|3)?(?: per K)?)?\s*$/u.exec(
      text,
    );
  if (!match || !match[1].trim()) {
    const [, other] = Object.keys(SCALES[unit] ?? {});
    return { ok: false, message: `Type a number, such as 4${other ? ` or 4 ${other}` : ''}.` };
  }

  const value = arithmetic(match[1].replace(/,/g, '.').replace(/−/g, '-'));
  if (value === null) return { ok: false, message: `“${match[1].trim()}” cannot be worked out.` };
  const typed = match[2];
  if (!typed) return { ok: true, value };
  if (unit === 's' && ['f', 'fr', 'frames'].includes(typed)) return { ok: true, value: value / frameRate };
  if (unit === 'frames' && typed === 's') return { ok: true, value: Math.round(value * frameRate) };
  if (unit === '' && typed === '%') return { ok: true, value: value / 100 };
  const scale = SCALES[unit]?.[typed];
  if (scale === undefined) {
    const known = Object.keys(SCALES[unit] ?? {}).join(', ');
    return {
      ok: false,
      message: known ? `“${typed}” does not fit here; use ${known}.` : `No unit is needed here.`,
    };
  }

  return { ok: true, value: value * scale };
}

/** + − × ÷ and brackets over decimal numbers; null where it is not well formed. */
function arithmetic(text: string): number | null {
  const tokens = text.match(/\d+(?:\.\d*)?(?:[eE][-+]?\d+)?|\.\d+(?:[eE][-+]?\d+)?|[-+*/()]|\S/g) ?? [];
  let at = 0;
  const factor = (depth: number): number => {
    const t = tokens[at++];
    if (t === undefined || depth > 50) return NaN;
    if (t === '-') return -factor(depth + 1);
    if (t === '+') return factor(depth + 1);
    if (t === '(') {
      const v = sum(depth + 1);
      return tokens[at++] === ')' ? v : NaN;
    }

    return /^[\d.]/.test(t) ? Number(t) : NaN;
  };

  const product = (depth: number): number => {
    let v = factor(depth);
    while (tokens[at] === '*' || tokens[at] === '/')
      v = tokens[at++] === '*' ? v * factor(depth) : v / factor(depth);
    return v;
  };

  const sum = (depth: number): number => {
    let v = product(depth);
    while (tokens[at] === '+' || tokens[at] === '-')
      v = tokens[at++] === '+' ? v + product(depth) : v - product(depth);
    return v;
  };

  const value = sum(0);
  return at === tokens.length && Number.isFinite(value) ? value : null;
}

/** How many in a metre, their name, and the length in metres from which the next one is used. */
const SHORT_LENGTHS = [
  [1e6, 'µm', 2e-4],
  [1000, 'mm', 0.01],
  [100, 'cm', 0.1],
] as const;

/** A number with its unit as the page shows it: short lengths in cm, mm or µm, no needless digits. */
export function formatValue(value: number, unit: SettingUnit): string {
  const digits = (v: number): string => String(Number(v.toPrecision(4))).replace('-', '−');
  if (unit === 'm' && value !== 0 && Math.abs(value) < 0.1) {
    const [many, name] = SHORT_LENGTHS.find(([, , most]) => Math.abs(value) < most)!;
    return `${digits(value * many)} ${name}`;
  }

  if (unit === '' || unit === 'frames') return digits(value);
  if (unit === '°' || unit === '%') return `${digits(value)}${unit === '%' ? ' %' : '°'}`;
  if (unit === '1/s') return digits(value);
  return `${digits(value)} ${unit}`;
}

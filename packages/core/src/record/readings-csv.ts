// Readings as a table for other programs: a row a frame, a column a reading, those of forces last.
import Papa from 'papaparse';
import type { Readings } from './readings';

const SIDES = ['-x', '+x', '-y', '+y', '-z', '+z'];

/**
 * Comma-separated, with a head; numbers as JavaScript writes them, empty where a frame has none. Units stand
 * in readings.ts: SI.
 */
export function readingsCsv(
  frames: readonly { readonly frame: number; readonly readings: Readings }[],
): string {
  if (frames.length === 0) return 'frame\n';
  const APART = ['forces', 'contactSides', 'extent', 'massLeftSides'] as const;
  const names = Object.keys(frames[0].readings).filter((n) => !APART.includes(n as 'forces')) as Exclude<
    keyof Readings,
    (typeof APART)[number]
  >[];
  const forces = [...new Set(frames.flatMap((f) => Object.keys(f.readings.forces ?? {})))];
  const rows = frames.map(({ frame, readings }) => [
    frame,
    ...names.map((n) => (typeof readings[n] === 'boolean' ? Number(readings[n]) : (readings[n] ?? ''))),
    ...SIDES.map((_, n) => readings.contactSides?.[n] ?? ''),
    ...SIDES.map((_, n) => readings.extent?.[n] ?? ''),
    ...SIDES.map((_, n) => readings.massLeftSides?.[n] ?? ''),
    ...forces.map((n) => readings.forces?.[n] ?? ''),
  ]);
  const sides = ['contact $', 'extent $ m', 'mass left $'].flatMap((head) =>
    SIDES.map((s) => head.replace('$', s)),
  );
  const head = ['frame', ...names, ...sides, ...forces.map((n) => `force ${n} m/s²`)];
  return `${Papa.unparse([head, ...rows], { newline: '\n' })}\n`;
}

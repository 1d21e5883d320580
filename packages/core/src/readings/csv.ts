// Readings as a table for other programs: a row a frame, a column a reading, those of forces last.
import type { Readings } from './readings';

/** Comma-separated, with a head; numbers as JavaScript writes them, empty where a frame has none. Units stand in readings.ts: SI. */
export function readingsCsv(frames: readonly { readonly frame: number; readonly readings: Readings }[]): string {
  if (frames.length === 0) return 'frame\n';
  const names = Object.keys(frames[0].readings).filter((n) => n !== 'forces') as (keyof Omit<Readings, 'forces'>)[],
    forces = [...new Set(frames.flatMap((f) => Object.keys(f.readings.forces ?? {})))];
  const quoted = (text: string): string => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const rows = frames.map(({ frame, readings }) => [
    frame,
    ...names.map((n) => (typeof readings[n] === 'boolean' ? Number(readings[n]) : (readings[n] ?? ''))),
    ...forces.map((n) => readings.forces?.[n] ?? ''),
  ]);
  return `${[['frame', ...names, ...forces.map((n) => quoted(`force ${n} m/s²`))], ...rows].map((r) => r.join(',')).join('\n')}\n`;
}

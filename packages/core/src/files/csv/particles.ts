// Particles as a table: a head with names, a row a particle; separated by comma, semicolon, tab or blanks.
import { FileError } from '../bytes';
import { madeCloud, type PointCloud } from '../point-cloud';

/** @throws FileError that names the row */
export function readCsvCloud(bytes: Uint8Array): PointCloud {
  const text = new TextDecoder().decode(bytes);
  const end = text.indexOf('\n');
  const first = (end < 0 ? text : text.slice(0, end)).replace(/^\uFEFF/, '').trim();
  const separator = [';', '\t', ','].find((mark) => first.includes(mark)) ?? /\s+/;
  const names = first.split(separator).map((n) => n.trim().replace(/^"|"$/g, ''));
  if (names.some((n) => n !== '' && Number.isFinite(Number(n))))
    throw new FileError(
      'Its first row must name the columns: x, y, z, and where there are any vx, vy, vz, radius, id.',
    );
  const columns: number[][] = names.map(() => []);
  let row = 1;
  for (let at = end < 0 ? text.length : end + 1; at < text.length; row++) {
    let to = text.indexOf('\n', at);
    if (to < 0) to = text.length;
    const line = text.slice(at, to).trim();
    at = to + 1;
    if (line === '') continue;
    const values = line.split(separator);
    if (values.length !== names.length)
      throw new FileError(`Row ${row + 1} has ${values.length} values; the head names ${names.length}.`);
    for (let c = 0; c < names.length; c++) {
      const v = Number(values[c]);
      if (Number.isNaN(v) && ['x', 'y', 'z'].includes(names[c].toLowerCase()))
        throw new FileError(`Row ${row + 1}: “${values[c].trim().slice(0, 30)}” is no number.`);
      columns[c].push(v);
    }
  }

  return madeCloud(names, columns, columns[0].length);
}

/** A table with a head; values so short that they are read back as the same floats. */
export function writeCsvCloud(columns: ReadonlyMap<string, Float32Array | Uint32Array>): string {
  const names = [...columns.keys()];
  const all = [...columns.values()];
  const rows = [names.join(',')];
  for (let n = 0; n < (all[0]?.length ?? 0); n++) rows.push(all.map((c) => short(c[n])).join(','));
  return `${rows.join('\n')}\n`;
}

/** The fewest digits, up to nine, that give the same single. */
function short(v: number): string {
  for (let digits = 6; digits < 9; digits++) {
    const text = Number(v.toPrecision(digits));
    if (Math.fround(text) === v) return String(text);
  }

  return String(Number(v.toPrecision(9)));
}

// Particles as a table: a head with names, a row a particle; separated by comma, semicolon, tab or blanks.
import { FileFault } from '../bytes';
import { madeCloud, type Cloud } from './cloud';

/** @throws FileFault that names the row */
export function readCsvCloud(bytes: Uint8Array): Cloud {
  const text = new TextDecoder().decode(bytes),
    end = text.indexOf('\n');
  const first = (end < 0 ? text : text.slice(0, end)).replace(/^\uFEFF/, '').trim(),
    separator = first.includes(';') ? ';' : first.includes('\t') ? '\t' : first.includes(',') ? ',' : /\s+/;
  const names = first.split(separator).map((n) => n.trim().replace(/^"|"$/g, ''));
  if (names.some((n) => n !== '' && Number.isFinite(Number(n))))
    throw new FileFault('Its first row must name the columns: x, y, z, and where there are any vx, vy, vz, radius, id.');
  const columns: number[][] = names.map(() => []);
  let row = 1;
  for (let at = end < 0 ? text.length : end + 1; at < text.length; row++) {
    let to = text.indexOf('\n', at);
    if (to < 0) to = text.length;
    const line = text.slice(at, to).trim();
    at = to + 1;
    if (line === '') continue;
    const values = line.split(separator);
    if (values.length !== names.length) throw new FileFault(`Row ${row + 1} has ${values.length} values; the head names ${names.length}.`);
    for (let c = 0; c < names.length; c++) {
      const v = Number(values[c]);
      if (Number.isNaN(v) && ['x', 'y', 'z'].includes(names[c].toLowerCase()))
        throw new FileFault(`Row ${row + 1}: “${values[c].trim().slice(0, 30)}” is no number.`);
      columns[c].push(v);
    }
  }
  return madeCloud(names, columns, columns[0].length);
}

// Particles as a table: a head with names, a row a particle; separated by comma, semicolon, tab or blanks.
// Lines with # are remarks.
import Papa from 'papaparse';
import { FileError } from '../bytes';
import { COLUMNS, madeCloud, type PointCloud } from '../point-cloud';

/** @throws FileError that names the row */
export function readCsvCloud(bytes: Uint8Array): PointCloud {
  const text = new TextDecoder().decode(bytes).replace(/^\uFEFF/, '');
  const lines = text.split(/\r\n|\r|\n/, 1000);
  const first = lines.find((line) => line.trim() !== '' && !line.startsWith('#'))?.trim() ?? '';
  const separator = [';', '\t', ','].find((mark) => first.includes(mark));
  // where blanks separate there may be several
  const parse = (line: string): string[] => line.trim().split(/\s+/);
  let names: string[] | null = null;
  let wanted: number[] = [];
  let columns: number[][] = [];
  let row = 0;
  const take = (values: readonly string[]): void => {
    row++;
    if (values.length === 1 && values[0].trim() === '') return;
    if (!names) {
      names = values.map((n) => n.trim());
      if (names.some((n) => n !== '' && Number.isFinite(Number(n))))
        throw new FileError(
          'Its first row must name the columns: x, y, z, and where there are any vx, vy, vz, radius, id.',
        );
      wanted = names.flatMap((n, c) => (COLUMNS.includes(n.toLowerCase()) ? [c] : []));
      columns = wanted.map(() => []);
      return;
    }

    if (values.length !== names.length)
      throw new FileError(`Row ${row} has ${values.length} values; the head names ${names.length}.`);
    wanted.forEach((c, n) => columns[n].push(numberIn(values[c], row, names![c])));
  };

  if (separator === undefined) {
    for (const line of text.split(/\r\n|\r|\n/)) {
      if (line.startsWith('#')) row++;
      else take(parse(line));
    }
  } else
    Papa.parse<string[]>(text, {
      delimiter: separator,
      comments: '#',
      step: ({ data, errors }) => {
        const [fault] = errors;
        if (fault) throw new FileError(`Row ${row + 1}: ${fault.message}.`);
        take(data);
      },
    });
  if (!names) throw new FileError('It holds no rows.');
  return madeCloud(
    wanted.map((c) => names![c]),
    columns,
    columns[0]?.length ?? 0,
  );
}

/** @throws FileError */
function numberIn(value: string, row: number, column: string): number {
  const text = value.trim();
  const place = `Row ${row}, ${column}`;
  if (text === '') throw new FileError(`${place}: nothing stands there.`);
  const number = Number(text);
  if (Number.isFinite(number) || /^[-+]?(nan|inf(inity)?)$/i.test(text)) return number;
  if (/^[-+]?\d+,\d+$/.test(text))
    throw new FileError(`${place}: “${text}” has a decimal comma. Save it with decimal points.`);
  throw new FileError(`${place}: “${text.slice(0, 30)}” is no number.`);
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

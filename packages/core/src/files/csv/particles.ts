// Particles as a table: a head with names, a row a particle; separated by comma, semicolon, tab or blanks.
// Lines with # are remarks.
import Papa from 'papaparse';
import { FileError } from '../bytes';
import { doubleList, type DoubleList } from '../growing';
import { COLUMNS, madeCloud, type PointCloud } from '../point-cloud';
import { TextScanner } from '../text-scanner';

const QUOTE = 34;
const REMARK = 35;
const BLANK = 32;
const TAB = 9;
const BYTE_ORDER_MARK = [0xef, 0xbb, 0xbf] as const;

/** The columns that are looked for, of a table whose head has these names. */
class Table {
  readonly columns: DoubleList[];
  /** Of each column of the table which of ours it is; −1: it is passed over. */
  readonly places: readonly number[];
  private readonly wanted: string[];

  constructor(readonly names: readonly string[]) {
    if (names.some((n) => n !== '' && Number.isFinite(Number(n))))
      throw new FileError(
        'Its first row must name the columns: x, y, z, and where there are any vx, vy, vz, radius, id.',
      );
    this.wanted = names.filter((n) => COLUMNS.includes(n.toLowerCase()));
    let ours = 0;
    this.places = names.map((n) => (COLUMNS.includes(n.toLowerCase()) ? ours++ : -1));
    this.columns = this.wanted.map(() => doubleList());
  }

  /** @throws FileError */
  mustFit(values: number, row: number): void {
    const { length } = this.names;
    if (values !== length) throw new FileError(`Row ${row} has ${values} values; the head names ${length}.`);
  }

  done(): PointCloud {
    const { columns } = this;
    return madeCloud(
      this.wanted,
      columns.map((c) => c.done()),
      columns[0]?.length ?? 0,
    );
  }
}

/** @throws FileError that names the row: lines that are no remarks are counted */
export function readCsvCloud(bytes: Uint8Array): PointCloud {
  const from = BYTE_ORDER_MARK.every((b, n) => bytes[n] === b) ? BYTE_ORDER_MARK.length : 0;
  const scan = new TextScanner(bytes, from);
  while (scan.at < scan.end && (scan.byte === REMARK || isBlankLine(scan))) scan.nextLine();
  const start = scan.at;
  while (!scan.isAtLineEnd) scan.at++;
  scan.from = start;
  const head = scan.text.trim();
  // null: by blanks, of which there may be several
  const separator = [';', '\t', ','].find((mark) => head.includes(mark)) ?? null;
  if (separator !== null && bytes.includes(QUOTE)) return quoted(bytes, separator);
  return plain(new TextScanner(bytes, from), separator?.charCodeAt(0) ?? null);
}

function isBlankLine(scan: TextScanner): boolean {
  const { at } = scan;
  scan.skip(false);
  const isEmpty = scan.isAtLineEnd;
  scan.at = at;
  return isEmpty;
}

/** Values may hold separators and ends of lines where they stand in quotes: left to a library. */
function quoted(bytes: Uint8Array, separator: string): PointCloud {
  let table: Table | null = null;
  let row = 0;
  Papa.parse<string[]>(new TextDecoder().decode(bytes), {
    delimiter: separator,
    comments: '#',
    step: ({ data, errors }) => {
      row++;
      const [fault] = errors;
      if (fault) throw new FileError(`Row ${row}: ${fault.message}.`);
      if (data.length === 1 && data[0].trim() === '') return;
      if (!table) {
        table = new Table(data.map((n) => n.trim()));
        return;
      }

      table.mustFit(data.length, row);
      for (let c = 0; c < data.length; c++) {
        const place = table.places[c];
        if (place >= 0) table.columns[place].push(numberIn(data[c], row, table.names[c]));
      }
    },
  });
  if (!table) throw new FileError('It holds no rows.');
  return (table as Table).done();
}

/** @param separator a byte; null: blanks */
function plain(scan: TextScanner, separator: number | null): PointCloud {
  let table: Table | null = null;
  const stop = separator ?? BLANK;
  const skip = (): void => {
    while ((scan.byte === BLANK || scan.byte === TAB) && scan.byte !== separator) scan.at++;
  };

  for (let row = 0; scan.at < scan.end; scan.nextLine()) {
    if (scan.byte === REMARK) continue;
    row++;
    skip();
    if (scan.isAtLineEnd) continue;
    let c = 0;
    const names: string[] = [];
    for (let more = true; more; c++) {
      const start = scan.at;
      const place = table?.places[c] ?? -1;
      const value = place < 0 ? NaN : scan.number(stop);
      skip();
      const isNumber = !Number.isNaN(value) && (scan.isAtLineEnd || separator === null || scan.byte === stop);
      if (!isNumber) {
        if (separator === null) scan.at = start;
        while (!scan.isAtLineEnd && scan.byte !== stop && !(separator === null && scan.byte === TAB))
          scan.at++;
      }

      scan.from = start;
      if (!table) names.push(scan.text.trim());
      else if (place >= 0)
        table.columns[place].push(isNumber ? value : numberIn(scan.text, row, table.names[c]));
      if (separator !== null && scan.byte === separator) scan.at++;
      else if (separator !== null) more = false;
      skip();
      if (separator === null) more = !scan.isAtLineEnd;
    }

    if (table) table.mustFit(c, row);
    else table = new Table(names);
  }

  if (!table) throw new FileError('It holds no rows.');
  return table.done();
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

// Tables of colours as .cube files: one line for each step of the three colours alone, or for each place in a
// cube of all three, red fastest.
import { FileError } from '../bytes';

export interface ColourTable {
  readonly kind: 'line' | 'cube';
  /** Steps along each edge. */
  readonly size: number;
  /** Of each step red, green, blue and a float of nothing; red fastest. */
  readonly values: Float32Array;
  /** What of each colour stands at the table’s beginning and end. */
  readonly from: readonly [number, number, number];
  readonly to: readonly [number, number, number];
  readonly title: string;
}

const MOST_LINE = 65536;
const MOST_CUBE = 129;

/** @throws FileError naming the line */
export function readCube(bytes: Uint8Array): ColourTable {
  const lines = new TextDecoder()
    .decode(bytes)
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\r|\n/);
  let kind: ColourTable['kind'] | null = null;
  let size = 0;
  let title = '';
  let from: [number, number, number] = [0, 0, 0];
  let to: [number, number, number] = [1, 1, 1];
  const rows: number[] = [];
  let most = 0;
  const three = (words: readonly string[], line: number): [number, number, number] => {
    const values = words.map((w) => (/^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$/.test(w) ? Number(w) : NaN));
    if (values.length !== 3 || !values.every(Number.isFinite))
      throw new FileError(`Line ${line}: three numbers must stand there.`);
    return values as [number, number, number];
  };

  for (const [n, text] of lines.entries()) {
    const line = text.trim();
    if (line === '' || line.startsWith('#')) continue;
    const [word, ...rest] = line.split(/\s+/);
    if (word === 'TITLE') title = line.slice(5).trim().replace(/^"|"$/g, '');
    else if (word === 'LUT_1D_SIZE' || word === 'LUT_3D_SIZE') {
      if (kind) throw new FileError(`Line ${n + 1}: its size is told twice.`);
      kind = word === 'LUT_1D_SIZE' ? 'line' : 'cube';
      size = Number(rest[0]);
      const largest = kind === 'line' ? MOST_LINE : MOST_CUBE;
      if (!Number.isInteger(size) || size < 2 || size > largest)
        throw new FileError(`Line ${n + 1}: its size must be from 2 to ${largest}.`);
      most = kind === 'line' ? size : size * size * size;
    } else if (word === 'DOMAIN_MIN') from = three(rest, n + 1);
    else if (word === 'DOMAIN_MAX') to = three(rest, n + 1);
    else if (word === 'LUT_1D_INPUT_RANGE' || word === 'LUT_3D_INPUT_RANGE') {
      const [a, b] = rest.map(Number);
      if (!Number.isFinite(a) || !Number.isFinite(b))
        throw new FileError(`Line ${n + 1}: two numbers must stand there.`);
      from = [a, a, a];
      to = [b, b, b];
    } else if (/^[A-Z_]+$/i.test(word))
      throw new FileError(`Line ${n + 1}: “${word.slice(0, 40)}” is not known.`);
    else {
      if (!kind) throw new FileError(`Line ${n + 1}: LUT_1D_SIZE or LUT_3D_SIZE must come first.`);
      if (rows.length >= 4 * most)
        throw new FileError(`Line ${n + 1}: it has more rows than its size tells.`);
      rows.push(...three([word, ...rest], n + 1), 0);
    }
  }

  if (!kind) throw new FileError('It is no table of colours: LUT_1D_SIZE or LUT_3D_SIZE is missing.');
  if (rows.length !== 4 * most)
    throw new FileError(`It has ${rows.length / 4} rows; its size tells ${most}.`);
  if (from.some((v, a) => !(v < to[a]))) throw new FileError('DOMAIN_MAX must be above DOMAIN_MIN.');
  return { kind, size, values: Float32Array.from(rows), from, to, title };
}

/** What a table makes of a colour: along the lines of each colour, or the tetrahedra of the cube. */
export function throughTable(table: ColourTable, rgb: readonly number[]): [number, number, number] {
  const { kind, size, values, from, to } = table;
  const placed = rgb.map((v, c) => Math.min(1, Math.max(0, (v - from[c]) / (to[c] - from[c]))) * (size - 1));
  const step = placed.map((v) => Math.min(size - 2, Math.floor(v)));
  const part = placed.map((v, c) => v - step[c]);
  if (kind === 'line')
    return [0, 1, 2].map((c) => {
      const at = 4 * step[c] + c;
      return values[at] + part[c] * (values[at + 4] - values[at]);
    }) as [number, number, number];
  const order = [0, 1, 2].sort((a, b) => part[b] - part[a]);
  const corner = [...step];
  const value = (c: number): number => values[4 * ((corner[2] * size + corner[1]) * size + corner[0]) + c];
  const out = [0, 1, 2].map((c) => (1 - part[order[0]]) * value(c));
  order.forEach((axis, n) => {
    corner[axis]++;
    const weight = part[axis] - (n < 2 ? part[order[n + 1]] : 0);
    for (let c = 0; c < 3; c++) out[c] += weight * value(c);
  });
  return out as [number, number, number];
}

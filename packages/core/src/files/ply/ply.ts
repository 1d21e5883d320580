// PLY, as text and binary in both byte orders: vertices with colours, faces. Other elements and properties
// are passed over.
import type { Mesh } from '../../geometry/mesh';
import { FileError } from '../bytes';
import { putTriangles, trianglesOfStrip } from '../faces';
import { floatList, indexList } from '../growing';
import { TextScanner } from '../text-scanner';
import { COLUMNS, madeCloud, type PointCloud } from '../point-cloud';

const SIZES: Readonly<Record<string, number>> = {
  char: 1,
  int8: 1,
  uchar: 1,
  uint8: 1,
  short: 2,
  int16: 2,
  ushort: 2,
  uint16: 2,
  int: 4,
  int32: 4,
  uint: 4,
  uint32: 4,
  float: 4,
  float32: 4,
  double: 8,
  float64: 8,
};
/** What a whole colour is, of the types that hold whole numbers. */
const WHOLE: Readonly<Record<string, number>> = {
  uchar: 255,
  uint8: 255,
  char: 127,
  int8: 127,
  ushort: 65_535,
  uint16: 65_535,
  short: 32_767,
  int16: 32_767,
};
/** Its head may hold long remarks. */
const MOST_HEAD = 2 ** 20;
interface Property {
  readonly name: string;
  readonly type: string;
  /** Of a list, the type of its length. */
  readonly counted: string | null;
}
interface Element {
  readonly name: string;
  readonly count: number;
  readonly properties: Property[];
}

/** @throws FileError */
export function readPly(bytes: Uint8Array): Mesh {
  const { elements, format, start } = head(bytes);
  const next =
    format === 'ascii' ? words(bytes, start) : numbers(bytes, start, format === 'binary_little_endian');
  const positions = floatList();
  const colours = floatList();
  const triangles = indexList();
  for (const { name, count, properties } of elements) {
    const at = (property: string): number => properties.findIndex((p) => p.name === property);
    const place = ['x', 'y', 'z'].map(at);
    const colour = ['red', 'green', 'blue'].map(at);
    const hasColour = colour.every((i) => i >= 0);
    const wholes = colour.map((i) => WHOLE[properties[i]?.type] ?? 1);
    const face = Math.max(at('vertex_indices'), at('vertex_index'));
    if (name === 'vertex' && place.some((n) => n < 0))
      throw new FileError('Its vertices have no x, y and z.');
    const row = new Float64Array(properties.length);
    const lists = properties.map((): number[] => []);
    for (let n = 0; n < count; n++) {
      for (let p = 0; p < properties.length; p++) {
        if (properties[p].counted === null) row[p] = next(properties[p].type);
        else readList(next, properties[p], bytes.length, lists[p]);
      }

      if (name === 'vertex') {
        for (const i of place) {
          if (!Number.isFinite(row[i]))
            throw new FileError(`Vertex ${n} is at no place: ${place.map((p) => row[p]).join(', ')}.`);
          positions.push(row[i]);
        }

        if (hasColour) for (let c = 0; c < 3; c++) colours.push(row[colour[c]] / wholes[c]);
      } else if (name === 'face' && face >= 0) {
        const corners = lists[face];
        mustBeThere(corners, n, positions.length / 3);
        if (corners.length > 2) putTriangles(corners, positions, triangles);
      } else if (name === 'tristrips' && face >= 0)
        for (const strip of strips(lists[face])) {
          mustBeThere(strip, n, positions.length / 3);
          for (const c of trianglesOfStrip(strip)) triangles.push(c);
        }
    }
  }

  return {
    positions: positions.done().slice(),
    triangles: triangles.done().slice(),
    colours: colours.length ? colours.done().slice() : null,
  };
}

/** @throws FileError where a corner is no vertex */
function mustBeThere(corners: readonly number[], face: number, count: number): void {
  for (const c of corners)
    if (!Number.isInteger(c) || c < 0 || c >= count)
      throw new FileError(`Face ${face} names vertex ${c}; there are ${count}.`);
}

/** One list may hold several strips, with −1 between them. */
function strips(list: readonly number[]): number[][] {
  const out: number[][] = [[]];
  for (const c of list) {
    if (c === -1) out.push([]);
    else out[out.length - 1].push(c);
  }

  return out;
}

/** Whether it holds faces; without them it is a cloud of particles. */
export function hasFaces(bytes: Uint8Array): boolean {
  return head(bytes).elements.some((e) => ['face', 'tristrips'].includes(e.name) && e.count > 0);
}

/**
 * Its vertices as particles, by the names of their properties; of a binary file only the columns that are
 * looked for are read. @throws FileError
 */
export function readPlyCloud(bytes: Uint8Array): PointCloud {
  const { elements, format, start } = head(bytes);
  const at = elements.findIndex((e) => e.name === 'vertex');
  const vertices = elements[at];
  if (!vertices) throw new FileError('It holds no vertices.');
  const { properties, count } = vertices;
  if (properties.some((p) => p.counted))
    throw new FileError('Its vertices hold lists, which particles do not have.');
  const wanted = properties.filter((p) => COLUMNS.includes(p.name.toLowerCase()));
  const names = wanted.map((p) => p.name);
  if (format === 'ascii' || elements.slice(0, at).some((e) => e.properties.some((p) => p.counted))) {
    const next =
      format === 'ascii' ? words(bytes, start) : numbers(bytes, start, format === 'binary_little_endian');
    for (const e of elements.slice(0, at))
      for (let n = 0; n < e.count; n++)
        for (const p of e.properties) {
          if (p.counted === null) next(p.type);
          else readList(next, p, bytes.length, []);
        }

    const columns = wanted.map(() => new Float64Array(count));
    const places = properties.map((p) => wanted.indexOf(p));
    for (let n = 0; n < count; n++)
      for (let p = 0; p < places.length; p++) {
        const value = next(properties[p].type);
        if (places[p] >= 0) columns[places[p]][n] = value;
      }

    return madeCloud(names, columns, count);
  }

  const widthOf = (e: Element): number => e.properties.reduce((sum, p) => sum + SIZES[p.type], 0);
  const stride = widthOf(vertices);
  const from = start + elements.slice(0, at).reduce((sum, e) => sum + e.count * widthOf(e), 0);
  if (from + count * stride > bytes.length) throw new FileError('The file is cut short.', bytes.length);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const little = format === 'binary_little_endian';
  return madeCloud(
    names,
    wanted.map((p) => {
      const offset =
        from + properties.slice(0, properties.indexOf(p)).reduce((sum, q) => sum + SIZES[q.type], 0);
      return column(view, offset, stride, count, p.type, little);
    }),
    count,
  );
}

/** One property of all vertices, as wide as it has to be. */
function column(
  view: DataView,
  offset: number,
  stride: number,
  count: number,
  type: string,
  little: boolean,
): Float32Array | Float64Array {
  const single = type === 'float' || type === 'float32';
  const out = single ? new Float32Array(count) : new Float64Array(count);
  if (single) for (let n = 0, at = offset; n < count; n++, at += stride) out[n] = view.getFloat32(at, little);
  else for (let n = 0, at = offset; n < count; n++, at += stride) out[n] = valueAt(view, at, type, little);
  return out;
}

function head(bytes: Uint8Array): { elements: Element[]; format: string; start: number } {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, MOST_HEAD));
  const end = /end_header\r?\n/.exec(text);
  if (!/^ply\s/.test(text) || !end)
    throw new FileError('It is no PLY file: its head does not start with “ply” or does not end.');
  const elements: Element[] = [];
  let format = '';
  for (const line of text.slice(0, end.index).split(/\r?\n/).slice(1)) {
    const w = line.trim().split(/\s+/);
    if (w[0] === 'format') format = w[1];
    else if (w[0] === 'element') {
      const count = Number(w[2]);
      if (!Number.isInteger(count) || count < 0 || count > bytes.length)
        throw new FileError(`Its head says ${w[2]} of ${w[1]}, more than the file can hold.`);
      elements.push({ name: w[1], count, properties: [] });
    } else if (w[0] === 'property') {
      const own =
        w[1] === 'list'
          ? { counted: w[2], type: w[3], name: w[4] }
          : { counted: null, type: w[1], name: w[2] };
      for (const type of [own.type, own.counted ?? own.type])
        if (!Object.hasOwn(SIZES, type))
          throw new FileError(`Its head names a type that PLY does not know: ${type}.`);
      elements[elements.length - 1]?.properties.push(own);
    }
  }

  if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format))
    throw new FileError(`Its format is unknown: ${format || 'none'}.`);
  return { elements, format, start: end.index + end[0].length };
}

type Next = (type: string) => number;

function words(bytes: Uint8Array, start: number): Next {
  const scan = new TextScanner(bytes, start);
  return () => {
    scan.skip(true);
    if (scan.at >= scan.end) throw new FileError('The file is cut short.');
    const v = scan.number();
    if (Number.isNaN(v) && !scan.is('nan', true))
      throw new FileError(`“${scan.text.slice(0, 30)}” is no number.`);
    return v;
  };
}

function numbers(bytes: Uint8Array, start: number, little: boolean): Next {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = start;
  return (type) => {
    const o = at;
    at += SIZES[type];
    if (at > bytes.length) throw new FileError('The file is cut short.', o);
    return valueAt(view, o, type, little);
  };
}

function valueAt(view: DataView, at: number, type: string, little: boolean): number {
  switch (type) {
    case 'char':
    case 'int8':
      return view.getInt8(at);
    case 'uchar':
    case 'uint8':
      return view.getUint8(at);
    case 'short':
    case 'int16':
      return view.getInt16(at, little);
    case 'ushort':
    case 'uint16':
      return view.getUint16(at, little);
    case 'int':
    case 'int32':
      return view.getInt32(at, little);
    case 'uint':
    case 'uint32':
      return view.getUint32(at, little);
    case 'float':
    case 'float32':
      return view.getFloat32(at, little);
    default:
      return view.getFloat64(at, little);
  }
}

function readList(next: Next, { type, counted }: Property, most: number, into: number[]): void {
  const count = next(counted!);
  if (!Number.isInteger(count) || count < 0 || count > most)
    throw new FileError(`A list is said to hold ${count} numbers, more than the file can.`);
  into.length = 0;
  for (let n = 0; n < count; n++) into.push(next(type));
}

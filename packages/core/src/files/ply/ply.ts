// PLY, as text and binary in both byte orders: vertices with colours, faces. Other elements and properties are passed over.
import type { Mesh } from '../../geometry/mesh';
import { FileFault } from '../bytes';
import { madeCloud, type Cloud } from '../particles/cloud';

const SIZES: Readonly<Record<string, number>> = {
  ...{ char: 1, int8: 1, uchar: 1, uint8: 1, short: 2, int16: 2, ushort: 2, uint16: 2 },
  ...{ int: 4, int32: 4, uint: 4, uint32: 4, float: 4, float32: 4, double: 8, float64: 8 },
};
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

/** @throws FileFault */
export function readPly(bytes: Uint8Array): Mesh {
  const { elements, format, start } = head(bytes);
  const next = format === 'ascii' ? words(bytes, start) : numbers(bytes, start, format === 'binary_little_endian');
  const positions: number[] = [],
    colours: number[] = [],
    triangles: number[] = [];
  for (const element of elements) {
    const at = (name: string): number => element.properties.findIndex((p) => p.name === name);
    const place = ['x', 'y', 'z'].map(at),
      colour = ['red', 'green', 'blue'].map(at),
      face = Math.max(at('vertex_indices'), at('vertex_index'));
    if (element.name === 'vertex' && place.some((n) => n < 0)) throw new FileFault('Its vertices have no x, y and z.');
    for (let n = 0; n < element.count; n++) {
      const row = element.properties.map((p) => (p.counted ? list(next, p, bytes.length) : next(p.type)));
      if (element.name === 'vertex') {
        const own = place.map((i) => row[i] as number);
        if (own.some((v) => !Number.isFinite(v))) throw new FileFault(`Vertex ${n} is at no place: ${own.join(', ')}.`);
        positions.push(...own);
        if (colour.every((i) => i >= 0))
          colours.push(...colour.map((i) => (row[i] as number) / (SIZES[element.properties[i].type] === 1 ? 255 : 1)));
      } else if (element.name === 'face' && face >= 0) {
        const corners = row[face] as number[];
        for (const c of corners)
          if (c < 0 || c >= positions.length / 3) throw new FileFault(`Face ${n} names vertex ${c}; there are ${positions.length / 3}.`);
        for (let c = 2; c < corners.length; c++) triangles.push(corners[0], corners[c - 1], corners[c]);
      }
    }
  }
  return {
    positions: Float32Array.from(positions),
    triangles: Uint32Array.from(triangles),
    colours: colours.length ? Float32Array.from(colours) : null,
  };
}

/** Whether it holds faces; without them it is a cloud of particles. */
export function hasFaces(bytes: Uint8Array): boolean {
  return head(bytes).elements.some((e) => e.name === 'face' && e.count > 0);
}

/** Its vertices as particles, by the names of their properties. @throws FileFault */
export function readPlyCloud(bytes: Uint8Array): Cloud {
  const { elements, format, start } = head(bytes);
  const next = format === 'ascii' ? words(bytes, start) : numbers(bytes, start, format === 'binary_little_endian');
  for (const element of elements) {
    if (element.name !== 'vertex') {
      for (let n = 0; n < element.count; n++)
        for (const p of element.properties) void (p.counted ? list(next, p, bytes.length) : next(p.type));
      continue;
    }
    if (element.properties.some((p) => p.counted)) throw new FileFault('Its vertices hold lists, which particles do not have.');
    const columns = element.properties.map(() => new Float64Array(element.count)),
      types = element.properties.map((p) => p.type);
    for (let n = 0; n < element.count; n++) for (let c = 0; c < columns.length; c++) columns[c][n] = next(types[c]);
    return madeCloud(
      element.properties.map((p) => p.name),
      columns,
      element.count,
    );
  }
  throw new FileFault('It holds no vertices.');
}

function head(bytes: Uint8Array): { elements: Element[]; format: string; start: number } {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, 65536)),
    end = /end_header\r?\n/.exec(text);
  if (!/^ply\s/.test(text) || !end) throw new FileFault('It is no PLY file: its head does not start with “ply” or does not end.');
  const elements: Element[] = [];
  let format = '';
  for (const line of text.slice(0, end.index).split(/\r?\n/).slice(1)) {
    const w = line.trim().split(/\s+/);
    if (w[0] === 'format') format = w[1];
    else if (w[0] === 'element') {
      const count = Number(w[2]);
      if (!Number.isInteger(count) || count < 0 || count > bytes.length)
        throw new FileFault(`Its head says ${w[2]} of ${w[1]}, more than the file can hold.`);
      elements.push({ name: w[1], count, properties: [] });
    } else if (w[0] === 'property') {
      const own = w[1] === 'list' ? { counted: w[2], type: w[3], name: w[4] } : { counted: null, type: w[1], name: w[2] };
      for (const type of [own.type, own.counted ?? own.type])
        if (!Object.hasOwn(SIZES, type)) throw new FileFault(`Its head names a type that PLY does not know: ${type}.`);
      elements[elements.length - 1]?.properties.push(own);
    }
  }
  if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format))
    throw new FileFault(`Its format is unknown: ${format || 'none'}.`);
  return { elements, format, start: end.index + end[0].length };
}

type Next = (type: string) => number;
function words(bytes: Uint8Array, start: number): Next {
  const all = new TextDecoder('latin1').decode(bytes.subarray(start)).trim().split(/\s+/);
  let at = 0;
  return () => {
    if (at >= all.length) throw new FileFault('The file is cut short.');
    const v = Number(all[at++]);
    if (Number.isNaN(v) && all[at - 1].toLowerCase() !== 'nan') throw new FileFault(`“${all[at - 1].slice(0, 30)}” is no number.`);
    return v;
  };
}
function numbers(bytes: Uint8Array, start: number, little: boolean): Next {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = start;
  return (type) => {
    const o = at;
    at += SIZES[type];
    if (at > bytes.length) throw new FileFault('The file is cut short.', o);
    switch (type) {
      case 'char':
      case 'int8':
        return view.getInt8(o);
      case 'uchar':
      case 'uint8':
        return view.getUint8(o);
      case 'short':
      case 'int16':
        return view.getInt16(o, little);
      case 'ushort':
      case 'uint16':
        return view.getUint16(o, little);
      case 'int':
      case 'int32':
        return view.getInt32(o, little);
      case 'uint':
      case 'uint32':
        return view.getUint32(o, little);
      case 'float':
      case 'float32':
        return view.getFloat32(o, little);
      default:
        return view.getFloat64(o, little);
    }
  };
}
function list(next: Next, { type, counted }: Property, most: number): number[] {
  const count = next(counted!);
  if (!Number.isInteger(count) || count < 0 || count > most)
    throw new FileFault(`A list is said to hold ${count} numbers, more than the file can.`);
  return Array.from({ length: count }, () => next(type));
}

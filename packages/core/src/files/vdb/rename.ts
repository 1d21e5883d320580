// Gives the grids of an OpenVDB file other names, or leaves some out, without touching their voxels.
import { ByteReader, ByteWriter, FileError } from '../bytes';
import { FILE_VERSION, MAGIC, OLDEST_VERSION } from './format';

/** From the start to the number of metadata: magic, versions, the offset flag, the id. */
const HEAD_BYTES = 8 + 3 * 4 + 1 + 36;

/**
 * @param nameOf what a grid is to be called; null leaves it out
 * @returns the file with its grids in their order
 * @throws FileError where the file is none that can be read grid by grid, nothing is left of it, or two grids
 * would have the same name
 */
export function renamedVdb(data: Uint8Array, nameOf: (name: string) => string | null): Uint8Array {
  const r = new ByteReader(data);
  if (r.size < HEAD_BYTES || r.u32() !== MAGIC || r.u32() !== 0)
    throw new FileError('This is not an OpenVDB file');
  const version = r.u32('the file version');
  if (version < OLDEST_VERSION || version > FILE_VERSION)
    throw new FileError(`OpenVDB file version ${version} is not supported`);
  r.bytes(8, 'the library version');
  if (r.u8('the offset flag') === 0)
    throw new FileError('The file has no offsets, so its grids cannot be told apart');
  r.bytes(36, 'the file id');
  passMetadata(r);
  const headEnd = r.at;
  const count = r.i32('the number of grids');
  const out = new ByteWriter(data.length + 1024);
  out.bytes(data.subarray(0, headEnd));
  const countAt = out.length;
  out.i32(0);
  const taken = new Set<string>();
  for (let n = 0; n < count; n++) {
    const [name] = r.text('a grid name').split('\x1e');
    const type = r.text('a grid type');
    const parent = r.text('an instance name');
    if (parent !== '') throw new FileError(`Grid ${name} shares the voxels of ${parent}`);
    const [gridAt, blockAt, end] = [r.i64('an offset'), r.i64('an offset'), r.i64('an offset')];
    if (gridAt < r.at || blockAt < gridAt || end < blockAt || end > data.length)
      throw new FileError(`Grid ${name} has offsets out of order`, r.at);
    const to = nameOf(name);
    if (to !== null) {
      if (taken.has(to)) throw new FileError(`Two grids would be called ${to}`);
      taken.add(to);
      putGrid(out, data, { to, type, gridAt, blockAt, end });
    }

    r.jump(end, `The end of grid ${name}`);
  }

  if (taken.size === 0) throw new FileError('No grid is left of it');
  out.patchI32(countAt, taken.size);
  return out.done();
}

function putGrid(
  out: ByteWriter,
  data: Uint8Array,
  grid: { to: string; type: string; gridAt: number; blockAt: number; end: number },
): void {
  const { to, type, gridAt, blockAt, end } = grid;
  for (const text of [to, type, '']) putText(out, text);
  const offsets = out.length;
  for (let n = 0; n < 3; n++) out.i64(0);
  out.patchI64(offsets, out.length);
  const r = new ByteReader(data, gridAt);
  out.u32(r.u32('the compression'));
  const entries = r.u32('the number of metadata');
  out.u32(entries);
  for (let n = 0; n < entries; n++) {
    const from = r.at;
    const key = r.text('a metadata name');
    passText(r, 'a metadata type');
    r.bytes(r.u32('a metadata size'), `metadata ${key}`);
    if (key === 'name') for (const text of [key, 'string', to]) putText(out, text);
    else out.bytes(data.subarray(from, r.at));
  }

  const moved = out.length - r.at;
  out.bytes(data.subarray(r.at, end));
  out.patchI64(offsets + 8, blockAt + moved);
  out.patchI64(offsets + 16, end + moved);
}

const passText = (r: ByteReader, what: string): void => void r.text(what);

function passMetadata(r: ByteReader): void {
  const count = r.u32('the number of metadata');
  for (let n = 0; n < count; n++) {
    passText(r, 'a metadata name');
    passText(r, 'a metadata type');
    r.bytes(r.u32('a metadata size'), 'a metadata value');
  }
}

function putText(out: ByteWriter, value: string): void {
  const bytes = new TextEncoder().encode(value);
  out.u32(bytes.length);
  out.bytes(bytes);
}

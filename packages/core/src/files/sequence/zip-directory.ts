// What a ZIP file says that it holds, read from its end; an entry is unpacked when it is asked for. Facts:
// the format's application note (APPNOTE 6.3), with its 64-bit sizes.
import { FileError } from '../bytes';
import type { ByteRanges } from '../ranges';
import type { ZipCodec } from '../zip';

export interface ZipEntry {
  readonly name: string;
  /** Bytes when unpacked, as it says. */
  readonly size: number;
  read(): Uint8Array;
}

const END = 0x06054b50;
const END_BYTES = 22;
const MOST_COMMENT = 65_535;
const LOCATOR_64 = 0x07064b50;
const LOCATOR_64_BYTES = 20;
const END_64 = 0x06064b50;
const END_64_BYTES = 56;
const ENTRY = 0x02014b50;
const ENTRY_BYTES = 46;
const LOCAL = 0x04034b50;
const LOCAL_BYTES = 30;
const EXTRA_64 = 1;
const ENCRYPTED = 1;
const UTF8 = 0x800;
const STORED = 0;
const DEFLATED = 8;
/** Deflate makes nothing smaller than this. */
const MOST_SHRINK = 1032;
const MOST_ENTRIES = 100_000;
const MOST_DIRECTORY_BYTES = 2 ** 26;

const viewOf = (b: Uint8Array): DataView => new DataView(b.buffer, b.byteOffset, b.byteLength);
const u64 = (v: DataView, at: number): number => Number(v.getBigUint64(at, true));

/** @throws FileError */
export function readZipDirectory(file: ByteRanges, zip: ZipCodec): ZipEntry[] {
  const { count, from, end } = directoryOf(file);
  if (count > MOST_ENTRIES) throw new FileError(`It holds ${count} files; ${MOST_ENTRIES} are the most.`);
  if (!(from <= end && end <= file.size && end - from <= MOST_DIRECTORY_BYTES))
    throw new FileError('Its list of files lies outside of it: it is cut or damaged.');
  const bytes = file.read(from, end);
  const view = viewOf(bytes);
  const entries: ZipEntry[] = [];
  for (let at = 0, n = 0; n < count; n++) {
    if (at + ENTRY_BYTES > bytes.length || view.getUint32(at, true) !== ENTRY)
      throw new FileError(`Its list of files ends after ${n} of ${count}: it is cut or damaged.`);
    const [nameBytes, extraBytes, commentBytes] = [28, 30, 32].map((o) => view.getUint16(at + o, true));
    const next = at + ENTRY_BYTES + nameBytes + extraBytes + commentBytes;
    if (next > bytes.length)
      throw new FileError(`Its list of files ends inside of number ${n + 1}: it is cut or damaged.`);
    const extra = at + ENTRY_BYTES + nameBytes;
    const flags = view.getUint16(at + 8, true);
    const name = new TextDecoder(flags & UTF8 ? 'utf-8' : 'latin1').decode(
      bytes.subarray(at + ENTRY_BYTES, extra),
    );
    const stated = {
      size: view.getUint32(at + 24, true),
      packed: view.getUint32(at + 20, true),
      at: view.getUint32(at + 42, true),
    };
    const place = { ...stated, ...wide(view, extra, extra + extraBytes, stated) };
    const own = { name, flags, method: view.getUint16(at + 10, true), crc: view.getUint32(at + 16, true) };
    entries.push({ name, size: place.size, read: () => unpack(file, { ...own, ...place }, zip) });
    at = next;
  }

  return entries;
}

function directoryOf(file: ByteRanges): { count: number; from: number; end: number } {
  const start = Math.max(0, file.size - END_BYTES - MOST_COMMENT - LOCATOR_64_BYTES);
  const tail = file.read(start, file.size);
  const view = viewOf(tail);
  let at = tail.length - END_BYTES;
  while (at >= 0 && view.getUint32(at, true) !== END) at--;
  if (at < 0)
    throw new FileError('It is no ZIP file that can be read: the list of files at its end is not there.');
  const from = view.getUint32(at + 16, true);
  const plain = {
    count: view.getUint16(at + 10, true),
    from,
    end: from + view.getUint32(at + 12, true),
  };
  const locator = at - LOCATOR_64_BYTES;
  if (locator < 0 || view.getUint32(locator, true) !== LOCATOR_64) return plain;
  const place = u64(view, locator + 8);
  if (!(place + END_64_BYTES <= file.size))
    throw new FileError('Its list of files lies outside of it: it is cut or damaged.');
  const long = viewOf(file.read(place, place + END_64_BYTES));
  if (long.getUint32(0, true) !== END_64)
    throw new FileError('Its list of files is not where it says: it is cut or damaged.');
  const longFrom = u64(long, 48);
  return { count: u64(long, 32), from: longFrom, end: longFrom + u64(long, 40) };
}

const FULL = 0xffffffff;

/** Sizes and places that take 64 bits, of those that say so. */
function wide(
  view: DataView,
  from: number,
  end: number,
  stated: { readonly size: number; readonly packed: number; readonly at: number },
): { size?: number; packed?: number; at?: number } {
  for (let at = from; at + 4 <= end;) {
    const [id, bytes] = [view.getUint16(at, true), view.getUint16(at + 2, true)];
    let next = at + 4;
    const stop = Math.min(end, next + bytes);
    at = next + bytes;
    if (id !== EXTRA_64) continue;
    const out: { size?: number; packed?: number; at?: number } = {};
    for (const key of ['size', 'packed', 'at'] as const) {
      if (stated[key] !== FULL || next + 8 > stop) continue;
      out[key] = u64(view, next);
      next += 8;
    }

    return out;
  }

  return {};
}

interface Packed {
  readonly name: string;
  readonly flags: number;
  readonly method: number;
  readonly crc: number;
  readonly size: number;
  readonly packed: number;
  readonly at: number;
}

/** @throws FileError naming the entry */
function unpack(file: ByteRanges, entry: Packed, zip: ZipCodec): Uint8Array {
  const { name, flags, method, crc, size, packed, at } = entry;
  const refuse = (why: string): FileError => new FileError(`${name} cannot be unpacked: ${why}.`);
  if (flags & ENCRYPTED) throw refuse('it has a password. Make the ZIP without one');
  if (method !== STORED && method !== DEFLATED)
    throw refuse(`it is packed in the way ${method}; save it stored or deflated`);
  if (!(at + LOCAL_BYTES <= file.size)) throw refuse('it lies outside of the file');
  const head = viewOf(file.read(at, at + LOCAL_BYTES));
  if (head.getUint32(0, true) !== LOCAL) throw refuse('it is not where the list says');
  const from = at + LOCAL_BYTES + head.getUint16(26, true) + head.getUint16(28, true);
  if (!(from + packed <= file.size)) throw refuse('it lies outside of the file');
  const most = method === STORED ? packed : packed * MOST_SHRINK + MOST_SHRINK;
  if (size > most || (method === STORED && size !== packed))
    throw refuse('it says to be larger than it can be');
  const bytes = file.read(from, from + packed);
  let plain = bytes;
  if (method === DEFLATED) {
    try {
      plain = zip.inflateRaw(bytes, size);
    } catch (error) {
      throw refuse((error as Error).message);
    }
  }

  if (zip.crc32(plain) !== crc) throw refuse('its checksum does not fit');
  return plain;
}

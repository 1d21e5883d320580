// The zlib codec that files use. Pure by default (fflate, the same in a browser); a door may install a faster
// one.
import { CoreError } from '../base/error';
import { inflateSync, unzlibSync, zlibSync } from 'fflate';

export interface ZipCodec {
  deflate(data: Uint8Array): Uint8Array;
  /** @throws where the stream is damaged or does not give `size` bytes */
  inflate(data: Uint8Array, size: number): Uint8Array;
  /**
   * Without a head and a checksum, as ZIP files have it.
   * @throws where the stream is damaged or does not give `size` bytes
   */
  inflateRaw(data: Uint8Array, size: number): Uint8Array;
  /** The checksum of ZIP files, ISO 3309. */
  crc32(data: Uint8Array): number;
}

export const pureZip: ZipCodec = {
  deflate: (data) => zlibSync(data, { level: 6 }),
  inflate: (data, size) => {
    // fflate does not look at the checksum at the end of the stream
    const out = unzlibSync(data, { out: new Uint8Array(size) });
    const end = data.length - 4;
    const stated = ((data[end] << 24) | (data[end + 1] << 16) | (data[end + 2] << 8) | data[end + 3]) >>> 0;
    if (out.length !== size || adler32(out) !== stated)
      throw new CoreError('file', 'the checksum does not fit');
    return out;
  },
  inflateRaw: (data, size) => {
    const out = inflateSync(data, { out: new Uint8Array(size) });
    if (out.length !== size) throw new CoreError('file', 'it does not have the size that it should');
    return out;
  },
  crc32: (data) => {
    let c = -1;
    for (const b of data) c = (c >>> 8) ^ CRCS[(c ^ b) & 255];
    return ~c >>> 0;
  },
};

const CRCS = Int32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
  return c;
});

function adler32(data: Uint8Array): number {
  let a = 1;
  let b = 0;
  for (let i = 0; i < data.length;) {
    const end = Math.min(i + 3800, data.length);
    for (; i < end; i++) b += a += data[i];
    a %= 65521;
    b %= 65521;
  }

  return ((b << 16) | a) >>> 0;
}

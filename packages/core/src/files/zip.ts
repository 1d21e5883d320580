// The zlib codec that files use. Pure by default (fflate, the same in a browser); a door may install a faster
// one.
import { CoreError } from '../base/error';
import { unzlibSync, zlibSync } from 'fflate';

export interface ZipCodec {
  deflate(data: Uint8Array): Uint8Array;
  /** @throws where the stream is damaged or does not give `size` bytes */
  inflate(data: Uint8Array, size: number): Uint8Array;
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
};

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

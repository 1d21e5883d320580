// Reads one Blosc 1 chunk (the container that OpenVDB uses): LZ4 or plain blocks, byte shuffle. Format:
// c-blosc's README_HEADER.
import { FileError } from '../bytes';

const SHUFFLE = 1;
const PLAIN = 2;
const BIT_SHUFFLE = 4;
const NO_SPLIT = 16;
const LZ4 = 1;

/** @param size what the chunk must unpack to; nothing larger is ever allocated */
export function unpackBlosc(chunk: Uint8Array, size: number): Uint8Array {
  const view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength);
  if (chunk.length < 16) throw new FileError('A Blosc chunk is shorter than its header');
  const flags = chunk[2];
  const typeSize = chunk[3];
  const nbytes = view.getUint32(4, true);
  const blockSize = view.getUint32(8, true);
  const cbytes = view.getUint32(12, true);
  if (nbytes !== size || cbytes > chunk.length) throw new FileError('A Blosc chunk states a wrong size');
  if (size === 0) return new Uint8Array(0);
  if (flags & PLAIN) {
    if (16 + size > chunk.length) throw new FileError('A Blosc chunk ends early');
    return chunk.slice(16, 16 + size);
  }

  if (flags >> 5 !== LZ4)
    throw new FileError(
      'A Blosc chunk uses a compressor that is not supported; save the file with zip compression',
    );
  if (flags & BIT_SHUFFLE)
    throw new FileError(
      'A Blosc chunk is bit-shuffled, which is not supported; save the file with zip compression',
    );
  if (blockSize === 0 || blockSize > size || typeSize === 0)
    throw new FileError('A Blosc chunk states an absurd block size');
  const blocks = Math.ceil(size / blockSize);
  if (16 + 4 * blocks > chunk.length) throw new FileError('A Blosc chunk ends early');
  const out = new Uint8Array(size);
  for (let b = 0; b < blocks; b++) {
    const from = b * blockSize;
    const length = Math.min(blockSize, size - from);
    const last = length < blockSize;
    const streams = !(flags & NO_SPLIT) && !last && length % typeSize === 0 ? typeSize : 1;
    const block = new Uint8Array(length);
    let at = view.getUint32(16 + 4 * b, true);
    for (let s = 0; s < streams; s++) {
      if (at + 4 > chunk.length) throw new FileError('A Blosc chunk ends early');
      const packed = view.getUint32(at, true);
      const raw = length / streams;
      at += 4;
      if (at + packed > chunk.length) throw new FileError('A Blosc chunk ends early');
      const part = block.subarray(s * raw, (s + 1) * raw);
      if (packed === raw) part.set(chunk.subarray(at, at + packed));
      else unpackLz4(chunk.subarray(at, at + packed), part);
      at += packed;
    }

    if (flags & SHUFFLE && typeSize > 1) unshuffle(block, typeSize, out.subarray(from, from + length));
    else out.set(block, from);
  }

  return out;
}

function unshuffle(block: Uint8Array, typeSize: number, out: Uint8Array): void {
  const count = Math.floor(block.length / typeSize);
  for (let t = 0; t < typeSize; t++)
    for (let i = 0; i < count; i++) out[i * typeSize + t] = block[t * count + i];
  out.set(block.subarray(count * typeSize), count * typeSize);
}

/** One LZ4 block, which must fill `out` exactly. */
function unpackLz4(data: Uint8Array, out: Uint8Array): void {
  let at = 0;
  let to = 0;
  const fault = (): never => {
    throw new FileError('An LZ4 block is damaged');
  };

  const more = (n: number): number => {
    if (n < 15) return n;
    for (;;) {
      if (at >= data.length) fault();
      const b = data[at++];
      n += b;
      if (b !== 255) return n;
    }
  };

  while (at < data.length) {
    const token = data[at++];
    const literals = more(token >> 4);
    if (at + literals > data.length || to + literals > out.length) fault();
    out.set(data.subarray(at, at + literals), to);
    at += literals;
    to += literals;
    if (at >= data.length) break;
    if (at + 2 > data.length) fault();
    const back = data[at] | (data[at + 1] << 8);
    at += 2;
    const match = more(token & 15) + 4;
    if (back === 0 || back > to || to + match > out.length) fault();
    for (let i = 0; i < match; i++, to++) out[to] = out[to - back];
  }

  if (to !== out.length) fault();
}

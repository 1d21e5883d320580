// Blosc 1 chunks (the container that OpenVDB uses): LZ4 or plain blocks, byte shuffle. Format: c-blosc's
// README_HEADER.
import { FileError } from '../bytes';
import { packLz4, unpackLz4 } from './lz4';

const SHUFFLE = 1;
const PLAIN = 2;
const BIT_SHUFFLE = 4;
const NO_SPLIT = 16;
const LZ4 = 1;
const HEADER = 16;
/** The library shuffles by these bytes whatever the numbers are. */
const TYPE_SIZE = 4;
/** Blocks are packed in as many streams as a number has bytes where each has at least so many. */
const LEAST_STREAM = 128;

/** @returns a chunk of one block; null where it would be no smaller than the bytes are */
export function packBlosc(raw: Uint8Array): Uint8Array | null {
  const splits = raw.length % TYPE_SIZE === 0 && raw.length / TYPE_SIZE >= LEAST_STREAM;
  const streams = splits ? TYPE_SIZE : 1;
  const block = shuffled(raw, TYPE_SIZE);
  const out = new Uint8Array(raw.length);
  const view = new DataView(out.buffer);
  let to = HEADER + 4;
  for (let s = 0; s < streams; s++) {
    const part = block.subarray((s * raw.length) / streams, ((s + 1) * raw.length) / streams);
    if (to + 4 >= out.length) return null;
    let packed = packLz4(part, out, to + 4);
    if (packed === null || packed >= part.length) {
      if (to + 4 + part.length > out.length) return null;
      out.set(part, to + 4);
      packed = part.length;
    }

    view.setInt32(to, packed, true);
    to += 4 + packed;
  }

  out.set([2, 1, (LZ4 << 5) | SHUFFLE | (splits ? 0 : NO_SPLIT), TYPE_SIZE]);
  view.setUint32(4, raw.length, true);
  view.setUint32(8, raw.length, true);
  view.setUint32(12, to, true);
  view.setUint32(HEADER, HEADER + 4, true);
  return out.subarray(0, to);
}

/** Bytes of numbers, all first ones before all second ones and so on; what is left over stays behind. */
function shuffled(raw: Uint8Array, typeSize: number): Uint8Array {
  const out = new Uint8Array(raw.length);
  const count = Math.floor(raw.length / typeSize);
  for (let t = 0; t < typeSize; t++)
    for (let i = 0; i < count; i++) out[t * count + i] = raw[i * typeSize + t];
  out.set(raw.subarray(count * typeSize), count * typeSize);
  return out;
}

/** @param size what the chunk must unpack to; nothing larger is ever allocated */
export function unpackBlosc(chunk: Uint8Array, size: number): Uint8Array {
  const view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength);
  if (chunk.length < HEADER) throw new FileError('A Blosc chunk is shorter than its header');
  const flags = chunk[2];
  const typeSize = chunk[3];
  const nbytes = view.getUint32(4, true);
  const blockSize = view.getUint32(8, true);
  const cbytes = view.getUint32(12, true);
  if (nbytes !== size || cbytes > chunk.length) throw new FileError('A Blosc chunk states a wrong size');
  if (size === 0) return new Uint8Array(0);
  if (flags & PLAIN) {
    if (HEADER + size > chunk.length) throw new FileError('A Blosc chunk ends early');
    return chunk.slice(HEADER, HEADER + size);
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
  if (HEADER + 4 * blocks > chunk.length) throw new FileError('A Blosc chunk ends early');
  const out = new Uint8Array(size);
  for (let b = 0; b < blocks; b++) {
    const from = b * blockSize;
    const length = Math.min(blockSize, size - from);
    const last = length < blockSize;
    const streams = !(flags & NO_SPLIT) && !last && length % typeSize === 0 ? typeSize : 1;
    const block = new Uint8Array(length);
    let at = view.getUint32(HEADER + 4 * b, true);
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

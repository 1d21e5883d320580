// LZ4 blocks. Format: lz4's lz4_Block_format. Ours are a few hundred bytes to some thousand, tens of
// thousands of them in a file, and have to come out the same wherever they are packed: so the table is small
// enough to be cleared for each, which the packages of the registry do not do.
import { FileError } from '../bytes';

const LEAST_MATCH = 4;
/** The last bytes of a block are literals, and no match begins in so many before the end. */
const LAST_LITERALS = 5;
const NO_MATCH = 12;
const FARTHEST = 65535;
const HASH_BITS = 11;

/** Places of the last four bytes with each hash, plus one. */
const places = new Uint16Array(1 << HASH_BITS);

/**
 * Packs fewer than 65535 bytes greedily.
 * @returns how many bytes were written from `at` on; null where they have no room
 */
export function packLz4(data: Uint8Array, out: Uint8Array, at: number): number | null {
  places.fill(0);
  const end = data.length;
  const last = end - NO_MATCH;
  const first = at;
  let anchor = 0;
  let from = 0;
  const length = (n: number): void => {
    for (n -= 15; n >= 255; n -= 255) out[at++] = 255;
    out[at++] = n;
  };

  const sequence = (literals: number, back: number, match: number): boolean => {
    if (at + literals + Math.ceil(literals / 255) + Math.ceil(match / 255) + 5 > out.length) return false;
    const more = match - LEAST_MATCH;
    out[at++] = (Math.min(15, literals) << 4) | (back > 0 ? Math.min(15, more) : 0);
    if (literals >= 15) length(literals);
    for (let i = 0; i < literals; i++) out[at++] = data[anchor + i];
    if (back === 0) return true;
    out[at++] = back & 255;
    out[at++] = back >> 8;
    if (more >= 15) length(more);
    return true;
  };

  let misses = 0;
  while (from < last) {
    const word = data[from] | (data[from + 1] << 8) | (data[from + 2] << 16) | (data[from + 3] << 24);
    const hash = Math.imul(word, 0x9e3779b1) >>> (32 - HASH_BITS);
    const found = places[hash] - 1;
    places[hash] = from + 1;
    const isSame =
      found >= 0 &&
      from - found <= FARTHEST &&
      data[found] === data[from] &&
      data[found + 1] === data[from + 1] &&
      data[found + 2] === data[from + 2] &&
      data[found + 3] === data[from + 3];
    if (!isSame) {
      // where nothing matches, ever larger steps
      from += 1 + (misses++ >> 6);
      continue;
    }

    misses = 0;
    let match = LEAST_MATCH;
    while (from + match < end - LAST_LITERALS && data[found + match] === data[from + match]) match++;
    if (!sequence(from - anchor, from - found, match)) return null;
    from += match;
    anchor = from;
  }

  return sequence(end - anchor, 0, 0) ? at - first : null;
}

/** One LZ4 block, which must fill `out` exactly. */
export function unpackLz4(data: Uint8Array, out: Uint8Array): void {
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

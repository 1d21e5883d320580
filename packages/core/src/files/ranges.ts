// Bytes that are read in pieces: a file of a sequence may be larger than memory.
import { FileError } from './bytes';

export interface ByteRanges {
  readonly size: number;
  /** Bytes from one place up to another; both lie within. */
  read(from: number, end: number): Uint8Array;
}

/** No file is taken into memory whole that is larger; sequences are read frame by frame. */
const MOST_WHOLE_BYTES = 2 ** 31 - 1;

export const rangesOf = (bytes: Uint8Array): ByteRanges => ({
  size: bytes.length,
  read: (from, end) => bytes.subarray(from, end),
});

/** @throws FileError where it is too large for that */
export function whole(ranges: ByteRanges): Uint8Array {
  if (ranges.size > MOST_WHOLE_BYTES)
    throw new FileError(
      `It has ${(ranges.size / 2 ** 30).toFixed(1)} GiB; 2 GiB are the most of a single file. ` +
        'Longer ones come as a ZIP of numbered files.',
    );
  return ranges.read(0, ranges.size);
}

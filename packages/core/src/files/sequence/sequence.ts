// A sequence of files as one: a ZIP of numbered files of one kind. Its frames are unpacked when they are
// asked for.
import { memoize } from '../../base/memoize';
import { FileError } from '../bytes';
import type { ByteRanges } from '../ranges';
import { pureZip, type ZipCodec } from '../zip';
import { readZipDirectory } from './zip-directory';

export interface Sequence {
  readonly ending: string;
  /** The numbers in the files' names, rising. */
  readonly numbers: readonly number[];
  /** Bytes of the file with that place in the list. */
  read(place: number): Uint8Array;
  nameOf(place: number): string;
}

const MOST_FRAMES = 10_000;
const MOST_FRAME_BYTES = 2 ** 30;

/** @throws FileError */
export function openSequence(file: ByteRanges, zip: ZipCodec = pureZip): Sequence {
  const found = readZipDirectory(file, zip)
    .filter(({ name }) => !name.endsWith('/') && !/(^|\/)(\.|__)/.test(name))
    .map((entry) => {
      const { name, size } = entry;
      const number = /(\d+)\D*$/.exec(name.replace(/\.[^.]+$/, ''))?.[1];
      if (number === undefined)
        throw new FileError(`${name} has no number in its name, so it has no place in the sequence.`);
      if (size > MOST_FRAME_BYTES)
        throw new FileError(`${name} is larger than ${MOST_FRAME_BYTES / 2 ** 30} GiB.`);
      return { entry, number: Number(number) };
    });

  if (found.length === 0) throw new FileError('The ZIP file holds no files.');
  if (found.length > MOST_FRAMES)
    throw new FileError(`It holds ${found.length} files; ${MOST_FRAMES} are the most.`);
  found.sort((a, b) => a.number - b.number);
  const endings = new Set(found.map(({ entry }) => /\.([^.]+)$/.exec(entry.name)?.[1].toLowerCase() ?? ''));
  if (endings.size > 1)
    throw new FileError(
      `It holds files of several kinds (${[...endings].join(', ')}). A sequence is of one kind.`,
    );
  const twice = found.find((f, n) => n > 0 && f.number === found[n - 1].number);
  if (twice) throw new FileError(`Two of its files have the number ${twice.number}.`);
  return {
    ending: [...endings][0],
    numbers: found.map((f) => f.number),
    nameOf: (place) => found[place].entry.name,
    read: (place) => found[place].entry.read(),
  };
}

const KEPT = 3;

/** Reads frames and keeps the last few; what is wrong with one is told with its name. */
export function remembered<T extends object>(
  sequence: Sequence,
  decode: (bytes: Uint8Array) => T,
): (place: number) => T {
  return memoize(KEPT, (place: number) => {
    try {
      return decode(sequence.read(place));
    } catch (error) {
      throw error instanceof FileError ? new FileError(`${sequence.nameOf(place)}: ${error.message}`) : error;
    }
  });
}

/** The two frames around a number, and how far it is from the first to the second. */
export function aroundNumber(
  numbers: readonly number[],
  number: number,
): { before: number; after: number; t: number } {
  let before = numbers.length - 1;
  while (before > 0 && numbers[before] > number) before--;
  const after = Math.min(before + 1, numbers.length - 1);
  const span = numbers[after] - numbers[before];
  return { before, after, t: span > 0 ? Math.min(1, Math.max(0, (number - numbers[before]) / span)) : 0 };
}

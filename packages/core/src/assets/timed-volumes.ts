// Volumes of a file or of numbered files over their frames, as they are taken into a cache. Every file is
// read once to look it over; where frames are missing the one before stands in.
import type { ChannelName } from '../base/channels';
import { memoize } from '../base/memoize';
import { adoptVolume, gridReports, type VolumesReport } from '../volume/adopt';
import { emptyChannel, cornerOf, countOf, type CacheVolume } from '../volume/volume';
import { FileError } from '../files/bytes';
import { readVdb } from '../files/vdb/reader';
import type { VdbFile } from '../files/vdb/format';
import { pureZip, type ZipCodec } from '../files/zip';
import { boxMesh, type TimedMesh } from '../geometry/mesh';
import type { Triple } from '../math/vector';

/** Files by their numbers, rising; a name of '' is not told. */
export interface NumberedFiles {
  readonly numbers: readonly number[];
  nameOf(place: number): string;
  read(place: number): Uint8Array;
}

export interface TimedVolumes {
  readonly first: number;
  readonly last: number;
  readonly report: VolumesReport;
  /** The densest voxel of the first frame. */
  readonly greatest: number;
  readonly hasVelocity: boolean;
  /** Around all frames, in the file's units. */
  bounds(): { least: Triple; most: Triple };
  /** The newest frame at a time, with every channel that any frame has. */
  at(time: number): CacheVolume;
}

const KEPT = 3;

export const oneVolume = (bytes: Uint8Array, zip: ZipCodec = pureZip): TimedVolumes =>
  timedVolumes({ numbers: [0], nameOf: () => '', read: () => bytes }, zip);

/** @throws FileError naming the file and what is wrong with it */
export function timedVolumes(files: NumberedFiles, zip: ZipCodec = pureZip): TimedVolumes {
  const { numbers } = files;
  const notes = new Set<string>();
  const channels = new Set<ChannelName>();
  const told = <T>(place: number, act: () => T): T => {
    try {
      return act();
    } catch (error) {
      const name = files.nameOf(place);
      throw error instanceof FileError && name !== '' ? new FileError(`${name}: ${error.message}`) : error;
    }
  };

  const parsed = (place: number): VdbFile => told(place, () => readVdb(files.read(place), { zip }));
  const taken = (place: number, file: VdbFile): CacheVolume =>
    told(place, () => {
      const { volume, notes: own } = adoptVolume(file, numbers[place]);
      own.forEach((n) => notes.add(n));
      return volume;
    });
  const head = parsed(0);
  const read = memoize(KEPT, (place: number) => taken(place, place === 0 ? head : parsed(place)));

  const named = (file: VdbFile): string => [...file.grids, ...file.others].map((g) => g.name).join(', ');
  const least: Triple = [Infinity, Infinity, Infinity];
  const most: Triple = [-Infinity, -Infinity, -Infinity];
  const differ: number[] = [];
  const start = read(0);
  const h = start.voxelSizeM;
  numbers.forEach((number, place) => {
    const file = place === 0 ? head : parsed(place);
    const v = place === 0 ? start : taken(place, file);
    if (Math.abs(v.voxelSizeM - h) > 1e-6 * h)
      throw new FileError(
        `${files.nameOf(place)}: its voxels are of ${v.voxelSizeM} m, those of ${files.nameOf(0)} of ` +
          `${h} m. A sequence is of one size`,
      );
    if (named(file) !== named(head)) differ.push(number);
    for (const c of v.channels.keys()) channels.add(c);
    cornerOf(v).forEach((c, a) => {
      least[a] = Math.min(least[a], c);
      most[a] = Math.max(most[a], c + v.dims[a] * h);
    });
  });
  const first = numbers[0];
  const last = numbers[numbers.length - 1];
  const missing = Array.from({ length: last - first + 1 }, (_, n) => first + n).filter(
    (n) => !numbers.includes(n),
  );
  if (missing.length) notes.add(`frames ${some(missing)} are missing: the frame before stands in`);
  if (differ.length)
    notes.add(`frames ${some(differ)} hold other grids than the first; what they lack is empty there`);
  return {
    first,
    last,
    hasVelocity: channels.has('velocity'),
    report: {
      first,
      last,
      voxelSizeM: h,
      channels: [...channels],
      grids: gridReports(head),
      notes: [...notes],
    },
    greatest: greatestOf(start.channels.get('density')![0]),
    bounds: () => ({ least, most }),
    at(time) {
      const v = read(
        Math.max(
          0,
          numbers.findLastIndex((n) => n <= time + 1e-6),
        ),
      );
      return {
        ...v,
        channels: new Map(
          [...channels].map((c) => [c, v.channels.get(c) ?? emptyChannel(c, countOf(v.dims))] as const),
        ),
      };
    },
  };
}

function greatestOf(values: Float32Array): number {
  let most = 0;
  for (let n = 0; n < values.length; n++) if (values[n] > most) most = values[n];
  return most;
}

const some = (list: readonly number[]): string =>
  `${list.slice(0, 6).join(', ')}${list.length > 6 ? ` and ${list.length - 6} more` : ''}`;

/** What stands for them where a mesh is drawn: the box around all frames. */
export function boxOfVolumes(volumes: TimedVolumes): TimedMesh {
  const { least, most } = volumes.bounds();
  const mesh = boxMesh(least, most);
  return {
    unit: 'frames',
    first: volumes.first,
    last: volumes.last,
    keepsShape: true,
    at: () => mesh,
    bounds: () => ({ least, most }),
  };
}

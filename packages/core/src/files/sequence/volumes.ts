// Volumes of a file or a sequence over its frames, as they are taken into a cache; where frames are missing the one before stands in.
import { adopted, gridReports, type GridReport } from '../../cache/adopt';
import { cornerOf, type CacheVolume } from '../../cache/volume';
import { FileFault } from '../bytes';
import { readVdb } from '../vdb/reader';
import { pureZip, type ZipCodec } from '../zip';
import { boxMesh, type TimedMesh } from '../../geometry/mesh';
import type { Triple } from '../../recipe/recipe';
import { remembered, type Sequence } from './sequence';

export interface TimedVolumes {
  readonly first: number;
  readonly last: number;
  /** The densest voxel of the first frame. */
  readonly greatest: number;
  readonly hasVelocity: boolean;
  readonly grids: readonly GridReport[];
  readonly notes: readonly string[];
  /** Around all frames, in the file's units. */
  bounds(): { least: Triple; most: Triple };
  /** The newest frame at a time. */
  at(time: number): CacheVolume;
}

export function oneVolume(bytes: Uint8Array, zip: ZipCodec = pureZip): TimedVolumes {
  const v = adopt(bytes, 0, zip);
  return timedVolumes(
    [0],
    () => v,
    zip,
    () => bytes,
  );
}

export function volumeSequence(sequence: Sequence, zip: ZipCodec = pureZip): TimedVolumes {
  let place = 0;
  const read = remembered(sequence, (bytes) => adopt(bytes, sequence.numbers[place], zip));
  return timedVolumes(
    sequence.numbers,
    (n) => read((place = n)),
    zip,
    () => sequence.read(0),
  );
}

type Taken = ReturnType<typeof adopted>;
const adopt = (bytes: Uint8Array, frame: number, zip: ZipCodec): Taken => adopted(readVdb(bytes, { zip }), frame);

function timedVolumes(numbers: readonly number[], read: (place: number) => Taken, zip: ZipCodec, bytes: () => Uint8Array): TimedVolumes {
  const first = read(0).volume,
    least: Triple = [Infinity, Infinity, Infinity],
    most: Triple = [-Infinity, -Infinity, -Infinity],
    notes = new Set<string>();
  numbers.forEach((_, n) => {
    const { volume: v, notes: own } = read(n);
    if (Math.abs(v.voxelSizeM - first.voxelSizeM) > 1e-6 * v.voxelSizeM)
      throw new FileFault(
        `Its frame ${numbers[n]} has voxels of ${v.voxelSizeM}, the first one of ${first.voxelSizeM}. A sequence is of one size`,
      );
    own.forEach((note) => notes.add(note));
    cornerOf(v).forEach((c, a) => {
      least[a] = Math.min(least[a], c);
      most[a] = Math.max(most[a], c + v.dims[a] * v.voxelSizeM);
    });
  });
  const last = numbers[numbers.length - 1],
    missing = last - numbers[0] + 1 - numbers.length;
  if (missing > 0) notes.add(`${missing} frames are missing: the one before stands in`);
  return {
    ...{ first: numbers[0], last, notes: [...notes], hasVelocity: first.channels.has('velocity') },
    greatest: first.channels.get('density')![0].reduce((m, d) => Math.max(m, d), 0),
    grids: gridReports(readVdb(bytes(), { zip })),
    bounds: () => ({ least, most }),
    at: (time) => read(Math.max(0, numbers.findLastIndex((n) => n <= time + 1e-6))).volume, // prettier-ignore
  };
}

/** What stands for them where a mesh is drawn: the box around all frames. */
export function boxOfVolumes(volumes: TimedVolumes): TimedMesh {
  const { least, most } = volumes.bounds(),
    mesh = boxMesh(least, most);
  return { unit: 'frames', first: volumes.first, last: volumes.last, keepsShape: true, at: () => mesh, bounds: () => ({ least, most }) };
}

// A sequence of OpenVDB files from elsewhere as a cache of ours: a file, a folder of numbered files, or a ZIP of them.
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { adopted, gridReports, type VolumesReport } from '../../cache/adopt';
import { remembering, type Frames } from '../../cache/frames';
import { PROGRAM, type CachedFrame, type Manifest } from '../../cache/manifest';
import { cornerOf, type CacheVolume } from '../../cache/volume';
import { openSequence } from '../../files/sequence/sequence';
import { readVdb } from '../../files/vdb/reader';
import type { VdbFile } from '../../files/vdb/format';
import { canonicalText } from '../../recipe/document';
import type { Readings } from '../../readings/readings';
import type { Recipe, Triple } from '../../recipe/recipe';
import { ready, writeCache, type OpenCache, type WriteOptions } from './cache';
import { nodeZip, sha256 } from './files';

/** Files of a sequence by their numbers, rising. */
interface Numbered {
  readonly numbers: readonly number[];
  nameOf(place: number): string;
  read(place: number): Uint8Array;
}

/** @throws Error in words where there is no sequence */
function numbered(path: string, name: string): Numbered {
  if (statSync(path).isDirectory()) {
    const files = readdirSync(path)
      .flatMap((name) => {
        const number = /(\d+)\D*\.vdb$/i.exec(name)?.[1];
        return number === undefined ? [] : [{ name, number: Number(number) }];
      })
      .sort((a, b) => a.number - b.number);
    if (files.length === 0) throw new Error(`${path}: holds no numbered .vdb files.`);
    const twice = files.find((f, n) => n > 0 && f.number === files[n - 1].number);
    if (twice) throw new Error(`${path}: two of its files have the number ${twice.number}.`);
    return { numbers: files.map((f) => f.number), nameOf: (n) => files[n].name, read: (n) => readFileSync(join(path, files[n].name)) };
  }
  if (/\.zip$/i.test(path)) {
    const sequence = openSequence(readFileSync(path));
    if (sequence.ending !== 'vdb') throw new Error(`${name}: a sequence of volumes is of .vdb files, not of .${sequence.ending}.`);
    return sequence;
  }
  return { numbers: [Number(/(\d+)\D*\.vdb$/i.exec(name)?.[1] ?? 1)], nameOf: () => name, read: () => readFileSync(path) };
}

interface Brought {
  readonly report: VolumesReport;
  readonly frames: Omit<Frames, 'frameRate' | 'timeS'>;
}

/**
 * Looks a sequence over: every file is read once.
 * @param name what it is called, where its file is called otherwise
 * @throws Error naming the file and what is wrong with it
 */
export function lookAtVolumes(path: string, name = basename(path)): Brought {
  const files = numbered(path, name),
    { numbers } = files,
    notes = new Set<string>();
  const parsed = (place: number): VdbFile => {
    try {
      return readVdb(files.read(place), { zip: nodeZip });
    } catch (error) {
      throw new Error(`${files.nameOf(place)}: ${(error as Error).message}.`, { cause: error });
    }
  };
  const volumeOf = (place: number, file = parsed(place)): CacheVolume => {
    try {
      const { volume, notes: own } = adopted(file, numbers[place]);
      own.forEach((n) => notes.add(n));
      return volume;
    } catch (error) {
      throw new Error(`${files.nameOf(place)}: ${(error as Error).message}.`, { cause: error });
    }
  };
  const named = (file: VdbFile): string => [...file.grids, ...file.others].map((g) => g.name).join(', '),
    least = [Infinity, Infinity, Infinity],
    most = [-Infinity, -Infinity, -Infinity],
    differ: number[] = [],
    channels = new Set<string>();
  const head = parsed(0),
    start = volumeOf(0, head),
    h = start.voxelSizeM;
  numbers.forEach((number, place) => {
    const file = place === 0 ? head : parsed(place),
      v = place === 0 ? start : volumeOf(place, file);
    if (Math.abs(v.voxelSizeM - h) > 1e-6 * h)
      throw new Error(
        `${files.nameOf(place)}: its voxels are of ${v.voxelSizeM} m, those of ${files.nameOf(0)} of ${h} m. A sequence is of one size.`,
      );
    if (named(file) !== named(head)) differ.push(number);
    for (const c of v.channels.keys()) channels.add(c);
    cornerOf(v).forEach((c, a) => {
      least[a] = Math.min(least[a], c);
      most[a] = Math.max(most[a], c + v.dims[a] * h);
    });
  });
  const first = numbers[0],
    last = numbers[numbers.length - 1],
    missing = Array.from({ length: last - first + 1 }, (_, n) => first + n).filter((n) => !numbers.includes(n));
  const some = (list: readonly number[]): string =>
    `${list.slice(0, 6).join(', ')}${list.length > 6 ? ` and ${list.length - 6} more` : ''}`;
  if (missing.length) notes.add(`frames ${some(missing)} are missing: the frame before stands in`);
  if (differ.length) notes.add(`frames ${some(differ)} hold other grids than the first; what they lack is empty there`);
  const room = { least: least as Triple, most: most as Triple };
  return {
    report: { first, last, voxelSizeM: h, channels: [...channels], grids: gridReports(head), notes: [...notes] },
    frames: {
      ...{ first, last, voxelSizeM: h, floorM: room.least[1], room },
      read(frame) {
        const place = numbers.findLastIndex((n) => n <= frame),
          v = volumeOf(Math.max(0, place)),
          count = v.active.length,
          whole = new Map([...channels].map((c) => [c as never, v.channels.get(c as never) ?? blankFor(c, count)] as const));
        return { ...v, frame, channels: whole };
      },
    },
  };
}

const blankFor = (name: string, count: number): Float32Array[] =>
  Array.from({ length: name === 'velocity' || name === 'colour' ? 3 : 1 }, () => new Float32Array(count));

/** What a run would have measured and a file does not say. */
const UNKNOWN: Readings = {
  ...{ mass: 0, greatestDensity: 0, volume: 0, riseHeight: 0, topSpeed: 0, kineticEnergy: 0, divergence: 0, contact: 0, particles: 0 },
  ...{ substeps: 0, cfl: 0, iterations: 0, divergenceBefore: 0, residual: 0, capped: false, unmet: 0, ms: 0 },
};

/**
 * Writes a sequence as a cache.
 * @param recipe whose shot it is brought into: its frame rate, and what stands in the room
 * @throws Error naming the file and what is wrong with it
 */
export function bringVolumes(
  path: string,
  name: string,
  recipe: Recipe,
  options: Omit<WriteOptions, 'precision'>,
): { manifest: Manifest; report: VolumesReport } {
  const { report, frames } = lookAtVolumes(path, name),
    recipeSha256 = sha256(canonicalText(recipe)),
    frameS = recipe.space.timeScale / recipe.space.frameRate;
  const full: Frames = { ...frames, frameRate: recipe.space.frameRate, timeS: (f) => (f - recipe.space.firstFrame + 1) * frameS };
  const head = {
    ...({ format: 'bramblemist-cache', version: 1, precision: 'float' } as const),
    ...{ program: PROGRAM, recipe, recipeSha256, voxelSizeM: report.voxelSizeM, channels: report.channels, complete: false },
    ...{ window: { cells: [0, 0, 0], origin: [0, 0, 0] } as const, range: { first: report.first, last: report.last } },
    frames: [{ frame: report.first, readings: UNKNOWN } as CachedFrame],
  };
  const source: OpenCache = { ...full, folder: path, manifest: head, manifestSha256: '' },
    made = {
      by: 'brought',
      settings: { name, notes: report.notes },
      program: PROGRAM,
      of: { name, recipeSha256, manifestSha256: '' },
    };
  return { report, manifest: writeCache(source, ready(remembering(full), source), [made], { ...options, precision: 'float' }) };
}

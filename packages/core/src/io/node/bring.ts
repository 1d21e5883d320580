// A sequence of OpenVDB files from elsewhere as a cache of ours: a file, a folder of numbered files, or a ZIP
// of them.
import { CoreError } from '../../base/error';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import type { VolumesReport } from '../../volume/adopt';
import { cachedFrames, type FrameSource } from '../../volume/frames';
import { PROGRAM, type CachedFrame, type Manifest } from '../../cache/manifest';
import { openSequence } from '../../files/sequence/sequence';
import { timedVolumes, type NumberedFiles, type TimedVolumes } from '../../assets/timed-volumes';
import { canonicalText } from '../../recipe/document';
import type { Readings } from '../../record/readings';
import type { Recipe } from '../../recipe/types';
import { ready, writeCache, type OpenCache, type WriteOptions } from './cache';
import { nodeZip, rangesOfFile, sha256 } from './files';

/** @throws Error in words where there is no sequence */
function numbered(path: string, name: string): NumberedFiles {
  if (statSync(path).isDirectory()) {
    const files = readdirSync(path, { withFileTypes: true })
      .flatMap((entry) => {
        const { name } = entry;
        // a link may lead anywhere
        if (!entry.isFile()) return [];
        const number = /(\d+)\D*\.vdb$/i.exec(name)?.[1];
        return number === undefined ? [] : [{ name, number: Number(number) }];
      })
      .sort((a, b) => a.number - b.number);
    if (files.length === 0) throw new CoreError('file', `${path}: holds no numbered .vdb files.`);
    const twice = files.find((f, n) => n > 0 && f.number === files[n - 1].number);
    if (twice) throw new CoreError('file', `${path}: two of its files have the number ${twice.number}.`);
    return {
      numbers: files.map((f) => f.number),
      nameOf: (n) => files[n].name,
      read: (n) => readFileSync(join(path, files[n].name)),
    };
  }

  if (/\.zip$/i.test(path)) {
    const sequence = openSequence(rangesOfFile(path), nodeZip);
    if (sequence.ending !== 'vdb')
      throw new CoreError(
        'file',
        `${name}: a sequence of volumes is of .vdb files, not of .${sequence.ending}.`,
      );
    return sequence;
  }

  return {
    numbers: [Number(/(\d+)\D*\.vdb$/i.exec(name)?.[1] ?? 1)],
    nameOf: () => name,
    read: () => readFileSync(path),
  };
}

/**
 * Looks a sequence over: every file is read once.
 * @param name what it is called, where its file is called otherwise
 * @throws Error naming the file and what is wrong with it
 */
export function lookAtVolumes(path: string, name = basename(path)): TimedVolumes {
  return timedVolumes(numbered(path, name), nodeZip);
}

/** What a run would have measured and a file does not say. */
const UNKNOWN: Readings = {
  mass: 0,
  greatestDensity: 0,
  volume: 0,
  riseHeight: 0,
  topSpeed: 0,
  kineticEnergy: 0,
  divergence: 0,
  contact: 0,
  particles: 0,
  substeps: 0,
  cfl: 0,
  iterations: 0,
  divergenceBefore: 0,
  residual: 0,
  capped: false,
  unmet: 0,
  ms: 0,
};

/**
 * Writes a sequence as a cache.
 * @param recipe whose shot it is brought into: its frame rate, and what stands in the domain
 * @throws Error naming the file and what is wrong with it
 */
export function bringVolumes(
  path: string,
  name: string,
  recipe: Recipe,
  options: WriteOptions,
): { manifest: Manifest; report: VolumesReport } {
  const volumes = lookAtVolumes(path, name);
  const { report } = volumes;
  const { first, last, voxelSizeM } = report;
  const recipeSha256 = sha256(canonicalText(recipe));
  const domain = volumes.bounds();
  const frameS = recipe.space.timeScale / recipe.space.frameRate;
  const full: FrameSource = {
    first,
    last,
    voxelSizeM,
    domain,
    floorM: domain.least[1],
    frameRate: recipe.space.frameRate,
    timeS: (f) => (f - recipe.space.firstFrame + 1) * frameS,
    read: (frame) => ({ ...volumes.at(frame), frame }),
  };
  const head = {
    ...({ format: 'bramblemist-cache', version: 1, precision: 'float' } as const),
    program: PROGRAM,
    recipe,
    recipeSha256,
    voxelSizeM: report.voxelSizeM,
    channels: report.channels,
    complete: false,
    window: { cells: [0, 0, 0], origin: [0, 0, 0] } as const,
    range: { first: report.first, last: report.last },
    frames: [{ frame: report.first, readings: UNKNOWN } as CachedFrame],
  };
  const source: OpenCache = { ...full, folder: path, manifest: head, manifestSha256: '' };
  const made = {
    by: 'brought',
    settings: { name, notes: report.notes },
    program: PROGRAM,
    of: { name, recipeSha256, manifestSha256: '' },
  };
  return {
    report,
    manifest: writeCache(source, ready(cachedFrames(full), source, [made]), [made], options),
  };
}

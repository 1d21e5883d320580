// What made a cache: written beside its frames, enough to make it again and to check it.
import type { ChannelNames } from './channel-names';
import type { WriteOptions } from '../files/vdb/writer';
import type { Recipe } from '../recipe/types';
import type { Incident } from '../record/incident';
import type { Readings } from '../record/readings';

export const PROGRAM = 'bramblemist 0.1.0';
/** Raised whenever the same recipe comes out otherwise than before. */
export const SOLVER = 4;

export interface CachedFrame {
  readonly frame: number;
  readonly file: string;
  readonly bytes: number;
  readonly sha256: string;
  /** Checksum of all channels' bits, equal for equal runs. */
  readonly state: string;
  /**
   * Simulated time since the start of the first frame that it shows, s; missing where it is what its number
   * says.
   */
  readonly timeS?: number;
  readonly readings: Readings;
  /** What the run noticed in this frame. */
  readonly incidents: readonly Incident[];
}

export interface SubstepsUntil {
  /** The last frame that was made with them. */
  readonly until: number;
  readonly least: number;
  readonly most: number;
}

/** One thing that was done to the cache that a cache was made of. */
export interface Made {
  readonly by: string;
  readonly settings: unknown;
  readonly program: string;
  /** The cache that it began with: its name, its recipe, and the checksum of its manifest. */
  readonly of: { readonly name: string; readonly recipeSha256: string; readonly manifestSha256: string };
}

export interface Manifest {
  readonly format: 'bramblemist-cache';
  readonly version: 1;
  readonly program: string;
  /** Edition of the solver; missing in caches of the first one. */
  readonly solver?: number;
  readonly recipe: Recipe;
  readonly recipeSha256: string;
  /** Edge of a voxel of the air, m. */
  readonly voxelSizeM: number;
  /** By how much those of the volumes are finer, as the medium's may be; missing: they are the same. */
  readonly finer?: 2;
  /** In voxels of the air. */
  readonly window: {
    readonly cells: readonly [number, number, number];
    readonly origin: readonly [number, number, number];
  };
  readonly channels: readonly string[];
  /** What the grids of the volumes are called; missing: as the channels are. */
  readonly names?: ChannelNames;
  readonly precision: 'half' | 'float';
  /**
   * With which substeps the frames up to others were made, where a run went on with more of them; `recipe`
   * has those of the rest.
   */
  readonly substeps?: readonly SubstepsUntil[];
  /** First and last frame asked for; `frames` lists those that are finished. */
  readonly range: { readonly first: number; readonly last: number };
  readonly complete: boolean;
  /** What was done since the run, the newest last; missing where it came straight from one. */
  readonly made?: readonly Made[];
  readonly frames: readonly CachedFrame[];
}

/** What is wrong with a frame of a cache. */
export interface Damage {
  readonly frame: number;
  readonly file: string;
  readonly what: string;
}

/** NAME.0001.vdb: what other programs expect of a sequence. */
export function frameName(name: string, frame: number, extension: string): string {
  return `${name}.${String(frame).padStart(4, '0')}.${extension}`;
}

/** Names that stand for a device on some systems, whatever their ending. */
const DEVICE = /^(con|prn|aux|nul|com\d|lpt\d)$/;

/** A name that is safe as a file's on every system; letters and digits of any script stay. */
export function fileStem(name: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .replace(/[^\p{L}\p{N}_]+/gu, '_')
    .replace(/^_+|_+$/g, '')
    .toLowerCase();
  const stem = [...plain].slice(0, 60).join('');
  if (stem === '') return 'untitled';
  return DEVICE.test(stem) ? `${stem}_` : stem;
}

/**
 * How a frame's file is packed, and what it and each of its grids say of themselves: who made it, and which
 * moment it is.
 */
export function fileOptionsOf(
  { space, keep }: Recipe,
  frame: number,
  timeS: number,
): Required<Pick<WriteOptions, 'packing' | 'metadata' | 'ofGrids'>> {
  return {
    packing: keep.packing,
    metadata: { creator: PROGRAM },
    ofGrids: { creator: PROGRAM, frame, time: timeS, frame_rate: space.frameRate },
  };
}

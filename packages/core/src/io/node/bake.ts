// A bake: every frame of a recipe onto disk, with a manifest that grows by one frame at a time. While a frame
// is packed and written, the next ones are simulated.
import { CoreError } from '../../base/error';
import { existsSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { keptChannels } from '../../recipe/kept';
import { takePreview } from '../../cache/preview';
import { packFrame } from '../../cache/pack-frame';
import {
  fileStem,
  frameName,
  PROGRAM,
  fileOptionsOf,
  SOLVER,
  type CachedFrame,
  type Manifest,
  type SubstepsUntil,
} from '../../cache/manifest';
import { canonicalText } from '../../recipe/document';
import { RECIPE } from '../../recipe/recipe';
import type { Assets } from '../../assets/assets';
import type { Recipe } from '../../recipe/types';
import { checkpointHead } from '../../cache/checkpoint';
import { compile } from '../../plan/compile';
import { Simulation, type Checkpoint, type FrameReport } from '../../run/simulation';
import type { Look } from '../../look/look';
import { readManifest } from './cache';
import { dropCheckpoints, newestCheckpoint } from './checkpoints';
import { dropParts, sha256, writeWhole } from './files';
import { FrameWriter } from './frame-writer';
import { startThreadPool } from './thread-pool';

export interface BakeOptions {
  readonly folder: string;
  readonly voxelSizeM?: number;
  /** What the recipe's files hold, where it has any. */
  readonly assets?: Assets;
  readonly frames?: { readonly first: number; readonly last: number };
  readonly threads: number;
  /** Small pictures of the volumes for a screen, in the folder preview/. */
  readonly bricks: boolean;
  /** Frames from checkpoint to checkpoint; 0 for none. */
  readonly checkpointEvery?: number;
  /** How frames are pictured, as newest.png and in the folder loop/; without, they are not. */
  readonly look?: Look;
  /** Go on with what the folder holds of the same bake. */
  readonly resume?: boolean;
  /** The recipe may then ask for other substeps: those of the frames that are still to come. */
  readonly otherSubsteps?: boolean;
  readonly onFrame: (frame: CachedFrame, done: number, total: number) => void;
  readonly onStart?: (info: {
    readonly total: number;
    readonly done: number;
    readonly voxels: number;
    readonly bytes: number;
  }) => void;
  /** At the end: what went into simulating, and into waiting for frames to be written. */
  readonly onTimes?: (times: { readonly solverSeconds: number; readonly waitedSeconds: number }) => void;
}

/** What goes wrong begins some frames before it shows: a run with other substeps goes back so far. */
const FRAMES_BACK = 3;

/**
 * Frames before the first wanted one are simulated and not written. A bake that goes on gives the same bits
 * as one that was never broken off.
 * @returns the manifest; it is on disk too, as is every frame that was reported
 * @throws Error where the folder holds another cache; SolverError where the run goes wrong (frames so far are
 * kept)
 */
export function bake(recipe: Recipe, options: BakeOptions): Manifest {
  const plan = compile(recipe, { voxelSizeM: options.voxelSizeM, assets: options.assets }).plan;
  const range = options.frames ?? plan.frames;
  const { folder } = options;
  const manifestPath = join(folder, 'manifest.json');
  const head = {
    format: 'bramblemist-cache',
    version: 1,
    program: PROGRAM,
    solver: SOLVER,
    recipe,
    recipeSha256: sha256(canonicalText(recipe)),
    voxelSizeM: plan.window.voxelSizeM,
    ...(plan.medium ? { finer: 2 as const } : {}),
    window: {
      cells: [plan.window.lattice.nx, plan.window.lattice.ny, plan.window.lattice.nz],
      origin: plan.window.origin,
    },
    channels: keptChannels(recipe),
    precision: recipe.keep.precision,
    range,
  } as const;
  const earlier = existsSync(manifestPath) ? asToday(readManifest(folder)) : null;
  if (earlier && !options.resume)
    throw new CoreError(
      'cache',
      `${folder}: already holds a cache (manifest.json). Nothing is overwritten: choose another ` +
        'folder, go on with --resume, or remove it.',
    );
  const gentler = earlier !== null && options.otherSubsteps === true && differsInSubsteps(earlier, head);
  if (earlier && !gentler) mustBeSame(folder, earlier, head);
  if (earlier?.complete) return earlier;

  const stem = fileStem(recipe.name);
  // before the folder: it refuses what is too large
  const threadPool = startThreadPool(Simulation.pages(plan, options.threads), options.threads);
  mkdirSync(folder, { recursive: true });
  dropParts(folder);
  const newest = earlier?.frames.at(-1)?.frame ?? -1;
  const from = earlier ? newestCheckpoint(plan, folder, gentler ? newest - FRAMES_BACK : newest) : null;
  const frames: CachedFrame[] = earlier && from ? earlier.frames.filter((f) => f.frame <= from.frame) : [];
  // frames after the state that is gone on from are made anew, with today's substeps
  const kept = earlier?.substeps?.map((s) => ({ ...s, until: Math.min(s.until, from?.frame ?? s.until) }));
  const made = gentler ? [...(kept ?? []), substepsFrom(earlier, from)] : kept;
  const substeps = frames.length > 0 && made ? { substeps: made } : {};
  const manifest = (complete: boolean): Manifest => ({ ...head, ...substeps, complete, frames });
  const writer = new FrameWriter({ folder, look: options.look, frames: range });
  let solverMs = 0;
  try {
    const simulation = new Simulation(plan, threadPool, from ?? undefined);
    const total = range.last - range.first + 1;
    let sent = frames.length;
    const { nx, ny, nz } = simulation.window.lattice;
    options.onStart?.({ total, done: frames.length, voxels: nx * ny * nz, bytes: simulation.layout.bytes });
    const send = (report: FrameReport): void => {
      const { frame, readings, incidents } = report;
      const file = frameName(stem, frame, 'vdb');
      const state = simulation.checksum();
      const order = {
        kind: 'frame',
        path: join(folder, file),
        grids: packFrame(simulation),
        options: fileOptionsOf(recipe, frame, (frame - recipe.space.firstFrame + 1) * plan.frameS),
        preview: options.bricks
          ? { path: join(folder, 'preview', frameName(stem, frame, 'brick')), shown: takePreview(simulation) }
          : null,
        frame,
      } as const;
      writer.frame(order, ({ bytes, sha256: digest }) => {
        const entry: CachedFrame = { frame, file, bytes, sha256: digest, state, readings, incidents };
        frames.push(entry);
        writeWhole(manifestPath, JSON.stringify(manifest(frames.length === total), null, 1));
        options.onFrame(entry, frames.length, total);
      });
    };

    try {
      while (simulation.frame < range.last) {
        const began = performance.now();
        const report = simulation.advanceFrame();
        solverMs += performance.now() - began;
        if (report.frame >= range.first) {
          send(report);
          sent++;
        }

        const every = options.checkpointEvery ?? 0;
        if (every > 0 && simulation.frame % every === 0 && simulation.frame < range.last && sent > 0) {
          const checkpoint = simulation.checkpoint();
          writer.checkpoint(checkpointHead(plan, checkpoint), checkpoint.snapshot);
        }
      }
    } finally {
      // frames that were made are kept, whatever stops the run
      writer.settle();
    }
  } finally {
    writer.close();
    threadPool.close();
  }

  dropCheckpoints(folder);
  options.onTimes?.({ solverSeconds: solverMs / 1000, waitedSeconds: writer.waitedMs / 1000 });
  return manifest(true);
}

type Head = Omit<Manifest, 'complete' | 'frames'>;

/** A manifest whose recipe lacks settings that have come since it was written: they get their defaults. */
function asToday(earlier: Manifest): Manifest {
  const recipe = RECIPE.filled(earlier.recipe);
  return { ...earlier, recipe, recipeSha256: sha256(canonicalText(recipe)) };
}

/** Whether a bake is of the same recipe but for its substeps. */
function differsInSubsteps(earlier: Manifest, now: Head): boolean {
  const alike = ({ recipe, voxelSizeM, program, solver, range }: Head): string => {
    const space = { ...recipe.space, substepsLeast: 0, substepsMost: 0 };
    return canonicalText({ recipe: { ...recipe, space }, voxelSizeM, program, solver, range });
  };

  return earlier.recipeSha256 !== now.recipeSha256 && alike(earlier) === alike(now);
}

/** What the frames up to a checkpoint were made with. */
function substepsFrom({ recipe: { space } }: Manifest, from: Checkpoint | null): SubstepsUntil {
  const { substepsLeast: least, substepsMost: most } = space;
  return { until: from?.frame ?? space.firstFrame - 1, least, most };
}

/** @throws Error naming what differs */
function mustBeSame(folder: string, earlier: Manifest, now: Head): void {
  const differs = (['recipeSha256', 'voxelSizeM', 'program', 'solver'] as const).find(
    (key) => earlier[key] !== now[key],
  );
  if (!differs && earlier.range.first === now.range.first && earlier.range.last === now.range.last) return;
  const what =
    {
      recipeSha256: 'the recipe',
      voxelSizeM: 'the voxel size',
      program: 'the version of the program',
      solver: 'the edition of the solver',
    }[differs!] ?? 'the frame range';
  throw new CoreError(
    'cache',
    `${folder}: holds a bake that cannot be gone on with: ${what} differs. Bake into another folder.`,
  );
}

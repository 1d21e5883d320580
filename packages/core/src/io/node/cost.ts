// How long a bake will take on this machine: a probe of about a second with the recipe itself.
import { packFrame } from '../../cache/pack-frame';
import { CHANNEL_NAMES, partsOf } from '../../base/channels';
import { writePacked } from '../../files/vdb/writer';
import { costOf, type Cost } from '../../analysis/cost';
import type { Recipe } from '../../recipe/types';
import type { Assets } from '../../assets/assets';
import { compile, type CompileOptions } from '../../plan/compile';
import { Simulation } from '../../run/simulation';
import { nodeZip } from './files';
import { defaultThreads, startThreadPool } from './thread-pool';

export interface Estimate extends Cost {
  readonly frames: number;
  /** Substeps of all frames, by the CFL rule from the rough run's speeds. */
  readonly substeps: number;
  readonly seconds: number;
  /** Of the whole cache. */
  readonly diskBytes: number;
  /** What each channel takes of it, or would take if it were kept. */
  readonly channels: Readonly<Record<string, number>>;
}

const ROUGH_VOXELS = 14_000;
const DETAIL_VOXELS = 260_000;
const ROUGH_MS = 600;
const DETAIL_MS = 900;

interface Written {
  readonly voxels: number;
  /** To gather the grids, while the run waits. */
  readonly packMs: number;
  /** To deflate and lay out the file, on a thread of its own. */
  readonly writeMs: number;
  /** Of what is kept. */
  readonly bytes: number;
  /** Of each channel alone. */
  readonly channels: Readonly<Record<string, number>>;
}
interface Course {
  readonly ms: number[];
  readonly speed: number[];
  readonly volumeM3: number[];
  readonly substeps: number[];
  readonly voxels: number;
  /** Writing the first and the last frame. */
  readonly written: readonly [Written, Written];
}

/**
 * First the whole shot at a very rough size, for the speeds and the spread of the medium; then some frames at
 * (nearly) the wanted size, for what a voxel costs.
 */
export function estimate(
  recipe: Recipe,
  voxelSizeM: number,
  threads: number,
  frames: number,
  assets?: Assets,
): Estimate {
  const cost = costOf(recipe, voxelSizeM, threads, assets);
  const sizeFor = (voxels: number): number => voxelSizeM * Math.max(1, Math.cbrt(cost.voxels / voxels));
  const rough = run(recipe, { voxelSizeM: sizeFor(ROUGH_VOXELS), assets }, threads, frames, ROUGH_MS);
  const detail = run(recipe, { voxelSizeM: sizeFor(DETAIL_VOXELS), assets }, threads, frames, DETAIL_MS);
  const { cfl, substepsLeast, substepsMost } = recipe.space;
  const frameS = recipe.space.timeScale / recipe.space.frameRate;
  // early frames are cheaper (clear air is passed over): the rough run tells by how much the later ones grow
  const perVoxel = detail.ms.map((ms, f) => ms / detail.substeps[f] / detail.voxels);
  const known = perVoxel.length;
  const settled = perVoxel.slice(Math.floor(known / 2));
  const base = settled.reduce((a, b) => a + b, 0) / settled.length;
  const mean = (v: readonly number[], from: number, to: number): number =>
    v.slice(from, to).reduce((a, b) => a + b, 0) / Math.max(1, to - from);
  const roughCost = rough.ms.map((ms, f) => ms / rough.substeps[f]);
  const reference = mean(
    roughCost,
    Math.floor(Math.min(known, roughCost.length) / 2),
    Math.min(known, roughCost.length),
  );
  const [young, old] = detail.written;
  let substeps = 0;
  let ms = 0;
  let written = 0;
  for (let f = 0; f < frames; f++) {
    const r = Math.min(f, rough.speed.length - 1);
    const n = Math.min(
      substepsMost,
      Math.max(substepsLeast, Math.ceil((frameS * rough.speed[r]) / (cfl * voxelSizeM))),
    );
    substeps += n;
    ms +=
      n *
      cost.voxels *
      base *
      Math.min(1.6, Math.max(0.7, f < known ? 1 : mean(roughCost, Math.max(0, r - 4), r + 1) / reference));
    written += rough.volumeM3[r] / voxelSizeM ** 3;
  }

  // a frame's file takes so much by itself, and so much for each voxel in it
  const overAll = (of: (w: Written) => number, scale = 1): number => {
    const each = Math.max(0, of(old) - of(young)) / Math.max(1, old.voxels - young.voxels);
    return frames * scale * Math.max(0, of(young) - each * young.voxels) + written * each;
  };

  const packing = overAll((w) => w.packMs, cost.voxels / detail.voxels);
  const writing = overAll((w) => w.writeMs);
  // the thread that writes has a core of its own, or its share of those that simulate
  const shared = threads < defaultThreads() ? 0 : writing / threads;
  const diskBytes = overAll((w) => w.bytes);
  const per = diskBytes / Math.max(1, old.bytes);
  return {
    ...cost,
    frames,
    substeps,
    diskBytes,
    seconds: Math.max(ms + packing + shared, writing) / 1000,
    channels: Object.fromEntries(
      CHANNEL_NAMES.map((name) => [name, per * (old.channels[name] ?? old.channels.density * partsOf(name))]),
    ),
  };
}

/** As many frames as the time allows, the first always. */
function run(
  recipe: Recipe,
  options: CompileOptions,
  threads: number,
  frames: number,
  budgetMs: number,
): Course {
  const plan = compile(recipe, options).plan;
  const threadPool = startThreadPool(Simulation.pages(plan, threads), threads);
  try {
    const s = new Simulation(plan, threadPool);
    const { nx, ny, nz } = plan.window.lattice;
    const out = {
      ms: [] as number[],
      speed: [] as number[],
      volumeM3: [] as number[],
      substeps: [] as number[],
    };
    let young: Written | null = null;
    let spent = 0;
    for (let f = 0; f < frames && (f === 0 || spent < budgetMs); f++) {
      const { readings } = s.advanceFrame();
      spent += readings.ms;
      out.ms.push(readings.ms);
      out.speed.push(readings.topSpeed);
      out.volumeM3.push(readings.volume);
      out.substeps.push(readings.substeps);
      young ??= write(s, readings.volume);
    }

    return {
      ...out,
      voxels: nx * ny * nz,
      written: [young!, write(s, out.volumeM3[out.volumeM3.length - 1])],
    };
  } finally {
    threadPool.close();
  }
}

/** The quickest of a few times: the first ones are slow, as nothing is compiled yet. */
function write(s: Simulation, volumeM3: number): Written {
  let [packMs, writeMs, bytes] = [Infinity, Infinity, 0];
  const { keep } = s.plan.recipe;
  const options = { zip: nodeZip, packing: keep.packing };
  for (let n = 0; n < 4; n++) {
    const began = performance.now();
    const grids = packFrame(s);
    const packed = performance.now();
    bytes = writePacked(grids, options).length;
    packMs = Math.min(packMs, packed - began);
    writeMs = Math.min(writeMs, performance.now() - packed);
  }

  const alone = packFrame(s, { ...keep, temperature: true, velocity: true }).map(
    (grid) => [grid.name, writePacked([grid], options).length] as const,
  );
  const voxels = volumeM3 / s.plan.window.voxelSizeM ** 3;
  return { voxels, packMs, writeMs, bytes, channels: Object.fromEntries(alone) };
}

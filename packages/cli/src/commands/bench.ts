// `bench formula`: a formula over every voxel of a cube. `bench step`: one smoke step in a unit cube, timed.
// The set-up is the usual yardstick: a warm source below, a solid sphere in its way, walls all round but an
// open top, so many seconds a step that the air crosses about two voxels.
import { compile } from '@bramblemist/core/plan/compile';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { formulas } from '@bramblemist/core/step/formulas';
import { Simulation, stateOf } from '@bramblemist/core/run/simulation';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { UsageError } from '../failure';

export interface BenchOptions {
  readonly size: number;
  readonly threads: number;
  readonly steps: number;
  readonly warm: number;
  readonly json: boolean;
}

const median = (v: number[]): number => [...v].sort((a, b) => a - b)[Math.floor(v.length / 2)];

function checkSize(size: number): void {
  if (!Number.isInteger(size) || size < 16 || size > 320)
    throw new UsageError(`--size must be a whole number from 16 to 320, not ${size}.`);
}

/** One formula over a cube of voxels, at the end of a step. */
export function benchFormula({
  size,
  threads,
  steps,
  warm,
  text,
  json,
}: BenchOptions & { readonly text: string }): void {
  checkSize(size);
  let recipe;
  try {
    recipe = parseRecipe({
      name: 'Bench',
      space: { size: [1, 1, 1], corner: [0, 0, 0], voxelSize: 1 / size, lastFrame: 100000 },
      formulas: [{ id: 'f', text }],
    });
  } catch (error) {
    throw new UsageError((error as Error).message);
  }

  const plan = compile(recipe).plan;
  const threadPool = startThreadPool(Simulation.pages(plan, threads), threads);
  const state = stateOf(new Simulation(plan, threadPool));
  Object.assign(state, { frame: 1, dtS: 1 / 24 });
  const ns: number[] = [];
  for (let n = 0; n < warm + steps; n++) {
    const began = performance.now();
    formulas(state, 'end');
    if (n >= warm) ns.push(((performance.now() - began) * 1e6) / size ** 3);
  }

  threadPool.close();
  const result = {
    text,
    size,
    threads,
    steps,
    nsAVoxel: median(ns),
    nsLeast: Math.min(...ns),
    nsMost: Math.max(...ns),
  };
  if (json) console.log(JSON.stringify(result));
  else
    console.log(
      `${text}\n${size}³, ${threads} thread${threads > 1 ? 's' : ''}: ${result.nsAVoxel.toFixed(2)} ns ` +
        `a voxel (${result.nsLeast.toFixed(2)}–${result.nsMost.toFixed(2)})`,
    );
}

export function benchStep(options: BenchOptions): void {
  const { size, threads, steps, warm } = options;
  checkSize(size);
  const h = 1 / size;
  const recipe = parseRecipe({
    name: 'Bench',
    space: {
      size: [1, 1, 1],
      corner: [0, 0, 0],
      voxelSize: h,
      lastFrame: 100000,
      frameRate: 240,
      timeScale: Math.min(10, 240 * 1.7 * h),
      sides: { floor: 'wall', top: 'open', left: 'wall', right: 'wall', back: 'wall', front: 'wall' },
      cfl: 5,
      substepsMost: 1,
    },
    sources: [
      {
        id: 's',
        shape: 'sphere',
        centre: [0.5, 0.15, 0.5],
        radius: 0.1,
        density: { amount: 1 },
        temperature: { amount: 1 },
      },
    ],
    obstacles: [{ id: 'o', shape: 'sphere', centre: [0.53, 0.5, 0.51], radius: 0.12 }],
    buoyancy: { lift: 1, weight: 0.1 },
    vorticity: { strength: 0.3 },
    dissipation: { density: 0, temperature: 0 },
  });
  const plan = compile(recipe).plan;
  const threadPool = startThreadPool(Simulation.pages(plan, threads), threads);
  const simulation = new Simulation(plan, threadPool);
  const totals: number[] = [];
  const phases: Record<string, number[]> = {};
  const iterations: number[] = [];
  let cfl = 0;
  for (let s = 0; s < warm + steps; s++) {
    const report = simulation.advanceFrame();
    if (s < warm) continue;
    let sum = 0;
    for (const [name, ms] of Object.entries(report.phasesMs)) {
      (phases[name] ??= []).push(ms);
      sum += ms;
    }

    totals.push(sum);
    iterations.push(report.readings.iterations);
    cfl = Math.max(cfl, report.readings.cfl);
  }

  threadPool.close();
  const ms = median(totals);
  const voxels = size ** 3;
  const result = {
    size,
    threads,
    steps,
    msPerStep: ms,
    msLeast: Math.min(...totals),
    msMost: Math.max(...totals),
    mvoxelStepsPerSecond: voxels / ms / 1000,
    phases: Object.fromEntries(Object.entries(phases).map(([name, v]) => [name, median(v)])),
    iterations: median(iterations),
    cfl,
    bytesPerVoxel: simulation.layout.bytes / voxels,
  };
  if (options.json) console.log(JSON.stringify(result));
  else {
    console.log(
      `${size}³, ${threads} thread${threads > 1 ? 's' : ''}: ${ms.toFixed(1)} ms a step ` +
        `(${result.msLeast.toFixed(1)}–${result.msMost.toFixed(1)}), ` +
        `${result.mvoxelStepsPerSecond.toFixed(1)} Mvoxel-steps/s`,
    );
    for (const [name, v] of Object.entries(result.phases))
      console.log(`  ${name.padEnd(11)} ${v.toFixed(1)} ms`);
    console.log(
      `  ${result.iterations} iterations, CFL ${cfl.toFixed(2)}, ${result.bytesPerVoxel.toFixed(0)} ` +
        'bytes a voxel',
    );
  }
}

// The live run: leads a thread pool in the browser with the same core as the bake, and posts a small picture
// of each frame.
import { CoreError } from '@bramblemist/core/base/error';
import { takePreviewVolume, takeCoarseFlow } from '@bramblemist/core/cache/take-preview';
import { takeParticlePreview } from '@bramblemist/core/cache/particle-preview';
import { lightSweep } from '@bramblemist/core/look/sweep';
import { compile } from '@bramblemist/core/plan/compile';
import { Simulation } from '@bramblemist/core/run/simulation';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { breathe } from '../data/breathe';
import { fetchAssets } from '../data/fetch-assets';
import { PREVIEW_EXTINCTION, PREVIEW_SUN } from '../viewport/light';
import type { FromLive, InMemory, ToLive } from './messages';
import { States } from './states';
import { startThreadPool } from './thread-pool';

let current = 0;
let paused = false;
/** A paused run is to go on for one frame. */
let stepping = false;
let wake: (() => void) | null = null;
/** What the present run is to go on with. */
let changed: { readonly recipe: Recipe; readonly ask: number } | null = null;

/** What states are kept of, and them: a run with a recipe that differs from a frame on can start there. */
const STATES_BUDGET = 320e6;
const states = new States(STATES_BUDGET);
let keptAt = '';

const post = (message: FromLive, transfer: Transferable[] = []): void =>
  self.postMessage(message, { transfer });

function inMemory({ window: { lattice: l }, layout }: Simulation): InMemory {
  return { voxels: l.nx * l.ny * l.nz, bytes: layout.bytes, keptBytes: states.bytes };
}

async function run(message: Extract<ToLive, { type: 'run' }>): Promise<void> {
  const assets = await fetchAssets(message.recipe);
  if (current !== message.run) return;
  const plan = compile(message.recipe, { voxelSizeM: message.voxelSizeM, assets }).plan;
  const { threadPool, end } = await startThreadPool(Simulation.pages(plan, message.threads), message.threads);
  try {
    if (current !== message.run) return;
    // what is carried must be the same; the page says from which frame on the rest is not
    const at = JSON.stringify([
      plan.window,
      plan.medium !== null,
      plan.channels,
      plan.frameS,
      plan.particles.map((p) => [p.part.id, p.room]),
    ]);
    if (at !== keptAt) states.clear();
    keptAt = at;
    const simulation = new Simulation(plan, threadPool, states.before(message.from) ?? undefined);
    post({
      type: 'started',
      run: message.run,
      threads: threadPool.helpers + 1,
      room: inMemory(simulation),
      frame: simulation.frame + 1,
    });
    while (simulation.frame < plan.frames.last) {
      await breathe();
      if (paused && !stepping) await new Promise<void>((done) => (wake = done));
      stepping = false;
      if (current !== message.run) return;
      if (changed) {
        const { recipe, ask } = changed;
        changed = null;
        simulation.continueWith(
          compile(recipe, { voxelSizeM: message.voxelSizeM, assets: await fetchAssets(recipe) }).plan,
        );
        if (current !== message.run) return;
        post({ type: 'changed', run: message.run, frame: simulation.frame + 1, ask });
      }

      const { readings, incidents } = simulation.advanceFrame();
      const brick = takePreviewVolume(simulation);
      const dots = takeParticlePreview(simulation);
      const glimpse = takeCoarseFlow(simulation);
      const light = lightSweep(brick, PREVIEW_SUN, PREVIEW_EXTINCTION);
      post(
        {
          type: 'frame',
          run: message.run,
          brick,
          light,
          dots,
          glimpse,
          readings,
          incidents,
          room: inMemory(simulation),
        },
        [
          brick.bytes.buffer as ArrayBuffer,
          light.buffer as ArrayBuffer,
          glimpse.values.buffer as ArrayBuffer,
          ...(dots ? [dots.places.buffer as ArrayBuffer] : []),
        ],
      );
      if (states.wants(simulation.frame) || simulation.frame === plan.frames.last)
        states.add(simulation.checkpoint());
    }

    post({ type: 'finished', run: message.run });
  } finally {
    end();
  }
}

/** The checksum after so many frames, to be held against another engine's. */
async function checksum(
  recipe: Recipe,
  voxelSizeM: number,
  threads: number,
  frames: number,
): Promise<string> {
  const plan = compile(recipe, { voxelSizeM, assets: await fetchAssets(recipe) }).plan;
  const { threadPool, end } = await startThreadPool(Simulation.pages(plan, threads), threads);
  const simulation = new Simulation(plan, threadPool);
  for (let f = 0; f < frames; f++) simulation.advanceFrame();
  const value = simulation.checksum();
  end();
  return value;
}

self.onmessage = (event: MessageEvent<ToLive>) => {
  const message = event.data;
  if (message.type === 'pause') {
    paused = message.paused;
    if (!paused) wake?.();
    return;
  }

  if (message.type === 'step') {
    stepping = paused;
    wake?.();
    return;
  }

  if (message.type === 'checksum') {
    checksum(message.recipe, message.voxelSizeM, message.threads, message.frames)
      .then((value) => post({ type: 'checksum', value }))
      .catch((error: unknown) => post(troubleOf(0, error)));
    return;
  }

  if (message.type === 'change') {
    if (message.run === current) changed = message;
    return;
  }

  current = message.run;
  changed = null;
  wake?.(); // a paused run looks up, sees that it is no longer wanted, and ends
  run(message).catch((error: unknown) => {
    if (current === message.run) post(troubleOf(message.run, error));
  });
};

function troubleOf(run: number, error: unknown): FromLive {
  return {
    type: 'trouble',
    run,
    message: (error as Error).message,
    solver: error instanceof CoreError && error.code === 'solver',
  };
}

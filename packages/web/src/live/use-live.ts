// The live run as the page sees it: frames arrive and are kept, a change starts it again.
import { create, type StoreApi, type UseBoundStore } from 'zustand';
import type { PreviewVolume } from '@bramblemist/core/volume/preview-volume';
import type { ParticlePreview } from '@bramblemist/core/cache/particle-preview';
import type { CoarseFlow } from '@bramblemist/core/volume/coarse-flow';
import type { Incident } from '@bramblemist/core/record/incident';
import type { Readings } from '@bramblemist/core/record/readings';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { usePlayhead } from '../data/playhead';
import { SturdyWorker } from '../data/sturdy-worker';
import { framesBudget, keepWithin } from './budget';
import type { FromLive, ToLive } from './messages';

export interface ShownBrick {
  readonly brick: PreviewVolume;
  readonly light: Uint8Array;
  /** Particles; null without any. */
  readonly dots: ParticlePreview | null;
  /** The air on a coarse grid; null for frames from disk that earlier programs wrote. */
  readonly glimpse: CoarseFlow | null;
}
export interface LiveState {
  readonly run: number;
  readonly status: 'idle' | 'starting' | 'running' | 'paused' | 'finished' | 'trouble';
  readonly frames: ReadonlyMap<number, ShownBrick>;
  readonly readings: ReadonlyMap<number, Readings>;
  /** What the run noticed, in the order of frames. */
  readonly incidents: readonly Incident[];
  readonly newest: number | null;
  /** Simulated frames a second, smoothed. */
  readonly rate: number;
  readonly threads: number;
  readonly voxels: number;
  readonly bytes: number;
  readonly keptBytes: number;
  /** Of the frames that are kept to be shown. */
  readonly framesBytes: number;
  readonly message: string | null;
  /** Whether a step of the run went wrong: it can go on with smaller ones. */
  readonly wentWrong: boolean;
  /** Why the run began anew by itself: its worker had failed. */
  readonly stumbled: string | null;
  /** The first frame that was made with the settings as they are now; those before it are of earlier ones. */
  readonly changedFrom: number | null;
  /** Settings changed and the run has not taken them up yet. */
  readonly asked: boolean;
}

const MOST_NOTICES = 200;
const EMPTY: LiveState = {
  run: 0,
  status: 'idle',
  frames: new Map(),
  readings: new Map(),
  incidents: [],
  newest: null,
  rate: 0,
  threads: 1,
  voxels: 0,
  bytes: 0,
  keptBytes: 0,
  framesBytes: 0,
  message: null,
  stumbled: null,
  wentWrong: false,
  changedFrom: null,
  asked: false,
};

/** A live run with its worker: the page's own, or one beside it to compare with. */
export interface LiveRun {
  readonly use: UseBoundStore<StoreApi<LiveState>>;
  /** Starts again; frames before the first one that differs stay, the others are let go. */
  start(recipe: Recipe, voxelSizeM: number, threads: number, from?: number): void;
  /** Says that settings changed, before the run takes them up. */
  ask(): void;
  /** The run goes on with other settings. @returns whether it can: it has to be running or paused */
  change(recipe: Recipe): boolean;
  pause(paused: boolean): void;
  /** Computes one frame more of a paused run. */
  step(): void;
  /** Ends the run and frees its memory. */
  end(): void;
}

function liveRun(): LiveRun {
  const use = create<LiveState>(() => EMPTY);
  let lastFrameAt = 0;
  let smoothMs = 0;
  /**
   * Frames that came since the last painted one: the page takes them in at the pace at which it can paint.
   */
  let arrived: Extract<FromLive, { type: 'frame' }>[] = [];
  let started: { recipe: Recipe; voxelSizeM: number; threads: number } | null = null;
  /** What the run was asked to go on with and has not taken up yet, and how many times it was asked. */
  let wanted: Recipe | null = null;
  let asked = 0;

  const isAt = (): boolean => ['starting', 'running', 'paused'].includes(use.getState().status);
  const worker = new SturdyWorker<ToLive, FromLive>({
    makeWorker: () => new Worker(new URL('./live-worker.ts', import.meta.url), { type: 'module' }),
    hear: receive,
    again(why) {
      if (!started || !isAt()) return;
      start(wanted ?? started.recipe, started.voxelSizeM, started.threads);
      use.setState({ stumbled: why });
    },
    failed(why) {
      if (!isAt()) return;
      const cure = 'Change what you changed last, or play it again.';
      use.setState({ status: 'trouble', message: `The run’s worker failed twice (${why}). ${cure}` });
    },
  });

  function showArrived(): void {
    const state = use.getState();
    const own = arrived.filter((m) => m.run === state.run);
    arrived = [];
    if (own.length === 0) return;
    const frames = new Map(state.frames);
    const readings = new Map(state.readings);
    for (const m of own) {
      frames.set(m.brick.frame, { brick: m.brick, light: m.light, dots: m.dots, glimpse: m.glimpse });
      readings.set(m.brick.frame, m.readings);
    }

    const framesBytes = keepWithin(frames, framesBudget(), usePlayhead.getState().frame);
    const incidents = [...state.incidents, ...own.flatMap((m) => m.incidents)].slice(0, MOST_NOTICES);
    const newest = own[own.length - 1];
    use.setState({
      frames,
      readings,
      incidents,
      framesBytes,
      newest: newest.brick.frame,
      rate: smoothMs ? 1000 / smoothMs : 0,
      ...newest.room,
    });
  }

  function receive(message: FromLive): void {
    const state = use.getState();
    if (message.type === 'checksum' || message.run !== state.run) return;
    switch (message.type) {
      case 'started':
        // incidents of frames that are made once more come once more
        use.setState({
          status: 'running',
          threads: message.threads,
          ...message.room,
          incidents: state.incidents.filter((n) => n.frame < message.frame),
        });
        break;
      case 'frame': {
        // the time between frames is smoothed, not the rate: several may arrive at once
        const now = performance.now();
        const ms = lastFrameAt ? now - lastFrameAt : 0;
        lastFrameAt = now;
        if (ms > 0) smoothMs = smoothMs ? smoothMs * 0.9 + ms * 0.1 : ms;
        arrived.push(message);
        if (arrived.length === 1) requestAnimationFrame(showArrived);
        break;
      }
      case 'changed':
        // an earlier wish may be taken up after a later one was sent
        if (message.ask === asked) wanted = null;
        use.setState({ changedFrom: message.frame });
        break;
      case 'finished':
        showArrived();
        use.setState({ status: 'finished' });
        // a change that came too late for this run
        if (wanted && started) start(wanted, started.voxelSizeM, started.threads);
        break;
      case 'trouble':
        use.setState({ status: 'trouble', message: message.message, wentWrong: message.solver });
    }
  }

  function start(recipe: Recipe, voxelSizeM: number, threads: number, from = recipe.space.firstFrame): void {
    // what is here of the run so far stays; the worker may be ahead of it, and makes that once more
    showArrived();
    const before = use.getState();
    let since = recipe.space.firstFrame;
    while (since < from && before.readings.has(since)) since++;
    const run = before.run + 1;
    const stays = <T>(map: ReadonlyMap<number, T>): Map<number, T> =>
      new Map([...map].filter(([frame]) => frame < since));
    const frames = stays(before.frames);
    lastFrameAt = 0;
    smoothMs = 0;
    started = { recipe, voxelSizeM, threads };
    wanted = null;
    arrived = [];
    use.setState({
      ...EMPTY,
      run,
      status: 'starting',
      frames,
      readings: stays(before.readings),
      incidents: before.incidents.filter((n) => n.frame < since),
      newest: frames.size > 0 ? Math.max(...frames.keys()) : null,
      // of frames that stay, those of earlier settings stay so
      changedFrom:
        before.changedFrom === null || since === recipe.space.firstFrame
          ? null
          : Math.min(before.changedFrom, since),
    });
    worker.send({ type: 'pause', paused: false });
    worker.send({ type: 'run', run, recipe, voxelSizeM, threads, from: since });
  }

  return {
    use,
    start,
    ask: () => use.setState({ asked: true }),
    change(recipe) {
      const { run, status } = use.getState();
      if (status !== 'running' && status !== 'paused') return false;
      wanted = recipe;
      use.setState({ asked: false });
      worker.send({ type: 'change', run, recipe, ask: ++asked });
      return true;
    },
    pause(paused) {
      const { status } = use.getState();
      if (status !== 'running' && status !== 'paused') return;
      lastFrameAt = 0;
      use.setState({ status: paused ? 'paused' : 'running' });
      worker.send({ type: 'pause', paused });
    },
    step() {
      if (use.getState().status === 'paused') worker.send({ type: 'step' });
    },
    end() {
      worker.end();
      use.setState({ ...EMPTY, run: use.getState().run + 1 });
    },
  };
}

export const live = liveRun();
export const useLive = live.use;
/** The variant that is played beside it. */
export const beside = liveRun();

const THREADS = 'bramblemist.live-threads';
/** Threads that this machine can give. */
export const mostThreads = (): number => Math.max(1, Math.min(16, navigator.hardwareConcurrency || 2));

/** Threads for a live run: as chosen on this machine, or all cores but what the picture needs. */
export function liveThreads(): number {
  const chosen = Number(localStorage.getItem(THREADS));
  return chosen >= 1 ? Math.min(chosen, mostThreads()) : Math.max(1, Math.min(8, mostThreads() - 1));
}

export function chooseThreads(threads: number): void {
  localStorage.setItem(THREADS, String(threads));
}

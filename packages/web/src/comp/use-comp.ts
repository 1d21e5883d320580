// The frame of the comp that is looked at, and those that are ready to be played.
import { create } from 'zustand';
import { COMBINE_PARTS, type Combine } from '@bramblemist/core/combine/combine';
import type { MeasuredGrain } from '@bramblemist/core/combine/measure-grain';
import { canonicalText } from '@bramblemist/core/recipe/document';
import { liveThreads } from '../live/use-live';
import { shotStore } from '../data/shot-store';
import { SturdyWorker } from '../data/sturdy-worker';
import type { CompNews, CompWish, FromComp, Shown, ToComp } from './messages';

interface CompState {
  /** The newest frame that was wished. */
  readonly news: CompNews | null;
  readonly trouble: string | null;
  /** Frames that are ready at the size of the window. */
  readonly ready: ReadonlySet<number>;
}
const EMPTY: CompState = { news: null, trouble: null, ready: new Set() };
export const useComp = create<CompState>(() => EMPTY);

/** What the window holds the comp against: nothing, its lowest layer alone, or one that was put aside. */
export type Against = 'nothing' | 'plate' | number;

interface CompView extends Shown {
  readonly against: Against;
  /** Where the wipe stands, part of the width. */
  readonly wipe: number;
  readonly safe: boolean;
}
export const useCompView = shotStore<CompView>(
  () => ({ exposure: 0, channel: 'colour', ground: 'squares', against: 'nothing', wipe: 0.5, safe: false }),
  { returns: true },
);

/** What is worked on: a layer, an operation or a mask, by its id. */
export const useChosen = shotStore<{ readonly id: string | null }>(() => ({ id: null }), { returns: true });

const MOST_BYTES = 700 * 2 ** 20;
/** Frames by their numbers, all of one comp at one size. */
const frames = new Map<number, ImageData>();
let framesKey = '';

export const frameReady = (frame: number): ImageData | null => frames.get(frame) ?? null;

let count = 0;
let wished: CompWish | null = null;
let measured: ((grain: MeasuredGrain | null) => void) | null = null;

const keyOf = (comp: Combine, scale: number, shown: Shown): string =>
  canonicalText([COMBINE_PARTS.map(({ key }) => comp[key as keyof Combine]), scale, shown]);

function keep(news: CompNews): void {
  frames.set(
    news.frame,
    new ImageData(news.bytes as Uint8ClampedArray<ArrayBuffer>, news.width, news.height),
  );
  const most = Math.max(2, Math.floor(MOST_BYTES / news.bytes.length));
  // those that were made first are the farthest back
  for (const old of [...frames.keys()].slice(0, Math.max(0, frames.size - most))) frames.delete(old);
}

function hear(data: FromComp): void {
  if ('grain' in data) {
    measured?.(data.grain);
    measured = null;
    return;
  }

  if (data.id !== wished?.id) return;
  if ('trouble' in data) return useComp.setState({ trouble: data.trouble });
  keep(data);
  useComp.setState({
    ready: new Set(frames.keys()),
    trouble: null,
    ...(data.rgba ? { news: data } : {}),
  });
}

/** Grain that was being measured went with the worker. */
function forgetGrain(): void {
  measured?.(null);
  measured = null;
}

const worker = new SturdyWorker<ToComp, FromComp>({
  makeWorker: () => new Worker(new URL('./comp-worker.ts', import.meta.url), { type: 'module' }),
  hear,
  again: () => {
    forgetGrain();
    if (wished) worker.send(wished);
  },
  failed: (why) => {
    forgetGrain();
    useComp.setState({ trouble: `Its worker failed (${why}). Change something to try again.` });
  },
});

/**
 * Begins a frame, and after it those that are not ready yet.
 * @param made which frames of its renders there are
 * @param isGrowing whether more of them are on their way: then nothing is made ahead
 */
export function wantFrame(
  wish: Omit<CompWish, 'id' | 'threads' | 'ahead'>,
  made: string,
  isGrowing: boolean,
): void {
  const key = `${keyOf(wish.comp, wish.scale, wish.shown)} ${made}`;
  if (key !== framesKey) {
    frames.clear();
    framesKey = key;
    useComp.setState({ ready: new Set() });
  }

  const { first, last } = wish.comp.frame;
  const all = Array.from({ length: last - first + 1 }, (_, n) => first + n);
  const order = [...all.filter((f) => f > wish.frame), ...all.filter((f) => f < wish.frame)];
  const ahead = isGrowing ? [] : order.filter((f) => !frames.has(f));
  wished = { ...wish, ahead, id: ++count, threads: liveThreads() };
  worker.send(wished);
}

/** The grain of what feeds a layer at a frame; null where it cannot be told. */
export function measureGrainOf(comp: Combine, frame: number, layer: string): Promise<MeasuredGrain | null> {
  forgetGrain();
  worker.send({ measureGrain: { comp, frame, layer } });
  return new Promise((done) => (measured = done));
}

export function endComp(): void {
  wished = null;
  if (worker.isThere) worker.send('end');
  frames.clear();
  framesKey = '';
  useComp.setState(EMPTY);
}

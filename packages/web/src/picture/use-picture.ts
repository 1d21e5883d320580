// The picture of the frame that is looked at, as the page has it: it begins anew with every change.
import { create } from 'zustand';
import type { Look } from '@bramblemist/core/look/look';
import type { Display } from '@bramblemist/core/look/picture';
import type { PixelBox } from '@bramblemist/core/look/rendered-frame';
import { liveThreads } from '../live/use-live';
import { shotStore } from '../data/shot-store';
import { SturdyWorker } from '../data/sturdy-worker';
import type { ClipCost, FrameSpread, FromPicture, PictureNews, PictureWish, ToPicture } from './messages';

export interface Snapshot {
  readonly id: number;
  readonly name: string;
  readonly look: Look;
  readonly picture: PictureNews;
}

interface PictureState {
  readonly picture: PictureNews | null;
  readonly trouble: string | null;
  /** Asked for, and nothing of it has come yet. */
  readonly isAsked: boolean;
  /** Of the frame that is looked at; null before it was read. */
  readonly spread: FrameSpread | null;
  /** What clipping saves, where it was measured with this clip. */
  readonly clipCost: ClipCost | 'asked' | null;
}
const EMPTY: PictureState = { picture: null, trouble: null, isAsked: false, spread: null, clipCost: null };
export const usePicture = create<PictureState>(() => EMPTY);

interface LightboxState {
  readonly snapshots: readonly Snapshot[];
  /** The one that is held against the picture. */
  readonly against: number | null;
  readonly mode: 'wipe' | 'difference';
  /** Where the wipe stands, part of the width. */
  readonly at: number;
  /** Of the display only, stops. */
  readonly exposure: number;
  /** Of the display only. */
  readonly how: Display;
  readonly region: PixelBox | null;
  /** The layer that is looked at, as files call it; null: the beauty. */
  readonly layer: string | null;
}
export const useLightbox = shotStore<LightboxState>(
  () => ({
    snapshots: [],
    against: null,
    mode: 'wipe',
    at: 0.5,
    exposure: 0,
    how: 'srgb',
    region: null,
    layer: null,
  }),
  { returns: false },
);

let count = 0;
/** What is on its way, to be asked again where the worker fails. */
let wished: PictureWish | null = null;

const worker = new SturdyWorker<ToPicture, FromPicture>({
  makeWorker: () => new Worker(new URL('./picture-worker.ts', import.meta.url), { type: 'module' }),
  hear(data) {
    if ('clipCost' in data) return usePicture.setState({ clipCost: data.clipCost });
    if (data.id !== wished?.id) return;
    if ('spread' in data) usePicture.setState({ spread: data.spread });
    else if ('trouble' in data) usePicture.setState({ trouble: data.trouble, isAsked: false });
    else usePicture.setState({ picture: data, trouble: null, isAsked: false });
  },
  again: () => wished && wantPicture(wished),
  failed: (why) =>
    usePicture.setState({
      trouble: `Its worker failed (${why}). Change the look to try again.`,
      isAsked: false,
    }),
});

/** Begins a picture; one that is under way is left. */
export function wantPicture(wish: Omit<PictureWish, 'id' | 'threads'>): void {
  wished = { ...wish, id: ++count, threads: liveThreads() };
  usePicture.setState({ isAsked: true, clipCost: null });
  worker.send(wished);
}

/** Measures what the look's clip saves; the picture begins anew afterwards. */
export function measureClip(): void {
  if (!wished || !worker.isThere) return;
  usePicture.setState({ clipCost: 'asked' });
  worker.send({ measureClip: wished });
}

/** Leaves what is under way and frees its memory. */
export function endPicture(): void {
  wished = null;
  if (worker.isThere) worker.send('end');
  usePicture.setState(EMPTY);
}

/** Keeps the picture with its look. */
export function takeSnapshot(look: Look): void {
  const { picture } = usePicture.getState();
  if (!picture) return;
  const { snapshots } = useLightbox.getState();
  const id = (snapshots.at(-1)?.id ?? 0) + 1;
  useLightbox.setState({
    snapshots: [...snapshots, { id, name: `Snapshot ${id}`, look, picture }].slice(-12),
  });
}

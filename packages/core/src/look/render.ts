// One frame as a look asks for it: quick, or true to its samples.
import type { ThreadPool } from '../grid/thread-pool';
import { compileLook, type Volume } from './compile-look';
import type { Look } from './look';
import { LookRenderer, renderPages, type RenderedFrame } from './renderer';
import type { Solid } from './solids';

export type { Volume } from './compile-look';
export type { RenderedFrame } from './renderer';

export interface RenderOptions {
  /** Workers in all, the calling one included. */
  readonly threads?: number;
  /** What is solid; see solidsAt. */
  readonly solids?: readonly Solid[];
}

/**
 * Renders with workers of its own, which are let go at the end.
 * @throws CoreError where the volume lacks a channel that the look asks for, or memory is short
 */
export function renderWith(
  startThreadPool: (pages: number, threads: number) => ThreadPool,
  volume: Volume,
  look: Look,
  { threads = 1, solids = [] }: RenderOptions = {},
): RenderedFrame {
  const compiled = compileLook(look, volume, solids);
  const threadPool = startThreadPool(renderPages(compiled, threads), threads);
  try {
    const renderer = new LookRenderer(threadPool, compiled);
    if (look.quality.mode === 'quick') return renderer.march();
    renderer.trace(look.quality.samples);
    // depths are of the medium itself, without any noise
    return { ...renderer.march({ isLit: false }), rgba: renderer.traced() };
  } finally {
    threadPool.close();
  }
}

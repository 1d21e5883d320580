// The browser's door of the core: worker threads over shared memory.
import { createMemory, ThreadPool } from '../../grid/thread-pool';

/** Workers in use: an engine may end one that nothing points at, though it is waited for. */
const living = new Set<Worker>();
/** Milliseconds after which a worker that was let go is ended. */
const GRACE_MS = 500;

/**
 * Workers share memory, which needs a cross-origin isolated page; without it this worker runs alone, with the
 * same bits. Not for the page's own thread: the one that leads waits for the others.
 * @param module the compiled kernels
 * @param threads workers in all, this one included
 */
export async function startThreadPool(
  module: WebAssembly.Module,
  pages: number,
  threads: number,
): Promise<{ threadPool: ThreadPool; end: () => void }> {
  const memory = createMemory(pages);
  const wanted = self.crossOriginIsolated ? threads - 1 : 0;
  const workers = await Promise.all(
    Array.from({ length: wanted }, () => {
      const worker = new Worker(new URL('./thread-worker.ts', import.meta.url), { type: 'module' });
      living.add(worker);
      return new Promise<Worker>((done, fail) => {
        worker.onmessage = () => done(worker);
        worker.onerror = (e) => fail(new Error(e.message));
        worker.postMessage({ module, memory });
      });
    }),
  );
  const threadPool = new ThreadPool(module, memory, workers.length);
  return {
    threadPool,
    end: () => {
      threadPool.close();
      for (const worker of workers) {
        setTimeout(() => worker.terminate(), GRACE_MS);
        living.delete(worker);
      }
    },
  };
}

// The node door of the core: kernels from disk, workers as threads.
import { CoreError } from '../../base/error';
import { existsSync, readFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { dirname, join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { createMemory, ThreadPool } from '../../grid/thread-pool';

/**
 * A built file of the workspace, looked for upward from here, so that it is found from sources, bundles and
 * tests alike.
 */
function workspaceFile(path: string): string {
  for (let at = __dirname; ; at = dirname(at)) {
    const candidate = join(at, path);
    if (existsSync(candidate)) return candidate;
    if (dirname(at) === at) throw new CoreError('cache', `${path} is not built. Run: npm run build`);
  }
}

let compiled: WebAssembly.Module | null = null;

function loadKernels(): WebAssembly.Module {
  compiled ??= new WebAssembly.Module(readFileSync(workspaceFile('packages/kernels/build/kernels.wasm')));
  return compiled;
}

/** Threads that this machine runs at once. */
export function defaultThreads(): number {
  return availableParallelism();
}

/**
 * A team in which this thread leads.
 * @param threads workers in all, this one included
 */
export function startThreadPool(pages: number, threads: number): ThreadPool {
  const module = loadKernels();
  const memory = createMemory(pages);
  for (let i = 1; i < threads; i++) {
    const worker = new Worker(workspaceFile('packages/core/build/thread-worker.cjs'), {
      workerData: { module, memory },
    });
    worker.unref();
  }

  return new ThreadPool(module, memory, threads - 1);
}

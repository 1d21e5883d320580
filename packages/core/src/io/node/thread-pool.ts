// The node door of the core: kernels from disk, workers as threads.
import { readFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { createMemory, ThreadPool } from '../../grid/thread-pool';
import { workspaceFile } from './workspace';

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

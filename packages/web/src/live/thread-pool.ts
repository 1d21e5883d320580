// A thread pool with the page's own copy of the kernels.
import { startThreadPool as start } from '@bramblemist/core/io/browser/thread-pool';
import kernelsUrl from '../../../kernels/build/kernels.wasm?url';

let compiled: Promise<WebAssembly.Module> | null = null;

function kernels(): Promise<WebAssembly.Module> {
  compiled ??= fetch(kernelsUrl).then(async (r) => WebAssembly.compile(await r.arrayBuffer()));
  return compiled;
}

export const startThreadPool = async (pages: number, threads: number): ReturnType<typeof start> =>
  start(await kernels(), pages, threads);

// The browser's door of the core: kernels from the server, helpers as workers.
import { createMemory, Team } from '@bramblemist/core/grid/thread-pool';
import kernelsUrl from '../../../kernels/build/kernels.wasm?url';

let compiled: Promise<WebAssembly.Module> | null = null;

function kernels(): Promise<WebAssembly.Module> {
  compiled ??= fetch(kernelsUrl).then(async (r) => WebAssembly.compile(await r.arrayBuffer()));
  return compiled;
}

/**
 * Helpers share memory, which needs a cross-origin isolated page; without it this worker runs alone, with the
 * same bits.
 */
export async function startTeam(pages: number, threads: number): Promise<{ team: Team; end: () => void }> {
  const module = await kernels();
  const memory = createMemory(pages);
  const wanted = self.crossOriginIsolated ? threads - 1 : 0;
  const workers = await Promise.all(
    Array.from({ length: wanted }, () => {
      const worker = new Worker(new URL('./team-worker.ts', import.meta.url), { type: 'module' });
      return new Promise<Worker>((done, fail) => {
        worker.onmessage = () => done(worker);
        worker.onerror = (e) => fail(new Error(e.message));
        worker.postMessage({ module, memory });
      });
    }),
  );
  const team = new Team(module, memory, workers.length);
  return {
    team,
    end: () => {
      team.close();
      workers.forEach((w) => setTimeout(() => w.terminate(), 500));
    },
  };
}

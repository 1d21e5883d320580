// A helper thread of a thread pool.
import { workerData } from 'node:worker_threads';
import { serveThreadPool } from '../../grid/thread-pool';

const { module, memory } = workerData as { module: WebAssembly.Module; memory: WebAssembly.Memory };
serveThreadPool(module, memory);

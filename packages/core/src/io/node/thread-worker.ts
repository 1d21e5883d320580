// A helper thread of a team.
import { workerData } from 'node:worker_threads';
import { serve } from '../../grid/thread-pool';

const { module, memory } = workerData as { module: WebAssembly.Module; memory: WebAssembly.Memory };
serve(module, memory);

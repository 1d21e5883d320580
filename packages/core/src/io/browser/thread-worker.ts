// A worker of the browser's thread pool: runs kernels until whoever leads lets it go.
import { serveThreadPool } from '../../grid/thread-pool';

self.onmessage = (message: MessageEvent<{ module: WebAssembly.Module; memory: WebAssembly.Memory }>) => {
  self.postMessage('ready');
  serveThreadPool(message.data.module, message.data.memory);
  self.close();
};

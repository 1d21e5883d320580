// A helper of the live team: serves kernels until the lead closes it.
import { serve } from '@bramblemist/core/grid/thread-pool';

self.onmessage = (message: MessageEvent<{ module: WebAssembly.Module; memory: WebAssembly.Memory }>) => {
  self.postMessage('ready');
  serve(message.data.module, message.data.memory);
  self.close();
};

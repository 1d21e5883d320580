// Reads OpenUSD layers by an open library and writes them out again as that library understood them. It asks
// for a worker of a browser, so it runs in a process of its own that looks like one.
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';

process.type = 'renderer';
globalThis.WorkerGlobalScope = class {};
globalThis.self = globalThis;
globalThis.location ??= { href: 'file:///' };
const require = createRequire(import.meta.url);
const { default: load } = await import('tinyusdz/tinyusdz.js');
const usd = await load({ wasmBinary: readFileSync(require.resolve('tinyusdz/tinyusdz.wasm')) });
const layer = new usd.TinyUSDZLoaderNative();
if (!layer.loadAsLayerFromBinary(new Uint8Array(readFileSync(process.argv[2])), 'scene.usda')) {
  process.stderr.write(`${layer.error()}\n`);
  process.exit(1);
}

process.stdout.write(layer.layerToString());

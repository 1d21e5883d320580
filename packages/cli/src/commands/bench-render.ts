// `bench render`: the built-in plume under a sun and an even environment, 960 × 540, timed.
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { compileLook } from '@bramblemist/core/look/compile-look';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { renderPages } from '@bramblemist/core/look/render-layout';
import { LookRenderer } from '@bramblemist/core/look/renderer';
import { TruePicture } from '@bramblemist/core/look/true-picture';
import { plume } from '@bramblemist/core/look/plume';
import { UsageError } from '../failure';

export interface RenderBenchOptions {
  readonly size: number;
  readonly mode: string;
  readonly threads: number;
  readonly samples: number;
  readonly bounces: number;
  readonly repeats: number;
  readonly json: boolean;
}

/** Irradiance of the sun, and directions and places as the yardstick has them. */
const SUN_IRRADIANCE = [8, 7.2, 6.2];
const TO_SUN = [-0.6, 0.6, 0.45];

function benchLook(mode: 'quick' | 'true', samples: number, bounces: number): Look {
  const [x, y, z] = TO_SUN.map((v) => v / Math.hypot(...TO_SUN));
  const degrees = 180 / Math.PI;
  return LOOK.parse({
    medium: { density: 14, scatter: [0.92, 0.94, 0.97], absorb: [0.08, 0.06, 0.03], forward: 0.35 },
    lights: [
      {
        id: 'sun',
        kind: 'sun',
        angle: 0,
        heading: Math.atan2(z, x) * degrees,
        height: Math.asin(y) * degrees,
        stops: 0,
        colour: SUN_IRRADIANCE.map((e) => e / (4 * Math.PI)),
      },
    ],
    sky: { stops: 0, colour: [0.3, 0.36, 0.45] },
    camera: { eye: [1.5, 1.15, 3.7], target: [0, 0.92, 0], focal: 40, width: 960, height: 540 },
    quality: { mode, samples, bounces, octaves: 0 },
  });
}

const meanOf = (rgba: Float32Array, c: number): number => {
  let sum = 0;
  for (let p = c; p < rgba.length; p += 4) sum += rgba[p];
  return sum / (rgba.length / 4);
};

export function benchRender({
  size,
  mode,
  threads,
  samples,
  bounces,
  repeats,
  json,
}: RenderBenchOptions): void {
  if (mode !== 'quick' && mode !== 'true') throw new UsageError(`--mode must be quick or true, not ${mode}.`);
  if (!Number.isInteger(size) || size < 16 || size > 512)
    throw new UsageError(`--size must be a whole number from 16 to 512, not ${size}.`);
  const volume = plume(size);
  const compiled = compileLook(benchLook(mode, samples, bounces), volume);
  const threadPool = startThreadPool(renderPages(compiled, threads), threads);
  const lightS: number[] = [];
  const raysS: number[] = [];
  let rgba = new Float32Array(0);
  let noise = 0;
  let lookUps = 0;
  for (let n = 0; n <= repeats; n++) {
    const renderer = new LookRenderer(threadPool, compiled);
    const picture = new TruePicture(renderer);
    const began = performance.now();
    if (mode === 'quick') renderer.light();
    const lit = performance.now();
    if (mode === 'quick') rgba = renderer.march() as Float32Array<ArrayBuffer>;
    else picture.trace(samples);
    const ended = performance.now();
    if (mode === 'true') {
      rgba = picture.rgba() as Float32Array<ArrayBuffer>;
      noise = picture.noise();
    }

    ({ lookUps } = renderer);
    // the first one warms up
    if (n === 0) continue;
    lightS.push((lit - began) / 1000);
    raysS.push((ended - lit) / 1000);
  }

  threadPool.close();
  const pixels = 960 * 540;
  const [light, rays] = [lightS, raysS].map((v) => Math.min(...v));
  const result = {
    mode,
    size,
    threads,
    secondsPerFrame: light + rays,
    lightSeconds: light,
    raysSeconds: rays,
    samplesPerSecond: (pixels * (mode === 'true' ? samples : 1)) / rays,
    // of all threads together
    nsPerLookup: (1e9 * rays * threads) / lookUps,
    peakMB: threadPool.memory.buffer.byteLength / 1e6,
    volumeMB: volume.density.byteLength / 1e6,
    mean: [0, 1, 2].map((c) => meanOf(rgba, c)),
    alpha: meanOf(rgba, 3),
    noise,
  };
  if (json) console.log(JSON.stringify(result));
  else
    console.log(
      `${size}³, ${mode}, ${threads} thread${threads > 1 ? 's' : ''}: ` +
        `${result.secondsPerFrame.toFixed(3)} s a frame ` +
        `(light ${light.toFixed(3)}, rays ${rays.toFixed(3)}), ` +
        `${(result.samplesPerSecond / 1e6).toFixed(1)} Msamples/s, ` +
        `${result.nsPerLookup.toFixed(1)} ns a look-up, ${result.peakMB.toFixed(0)} MB, ` +
        `mean ${result.mean.map((v) => v.toFixed(5)).join(' ')}, alpha ${result.alpha.toFixed(5)}`,
    );
}

// What a render costs before it is started, and what each saving would save of it and change in the picture:
// measured on this machine.
import { join } from 'node:path';
import { writeExr } from '../../files/exr/writer';
import type { ThreadPool } from '../../grid/thread-pool';
import type { Volume } from '../../look/colouring';
import { compileLook, type Surroundings } from '../../look/compile-look';
import { differenceOf } from '../../look/difference';
import { LOOK, type Look } from '../../look/look';
import { cut, toExr } from '../../look/picture';
import { quickPicture, rendered } from '../../look/render';
import { renderPages } from '../../look/render-layout';
import { LookRenderer } from '../../look/renderer';
import type { PixelBox, RenderedFrame } from '../../look/rendered-frame';
import { savingsFor, type MeasuredSaving, type SavingsSheet } from '../../look/savings';
import { TruePicture } from '../../look/true-picture';
import { setAt } from '../../recipe/paths';
import { nodeZip, writeWhole } from './files';
import { encodePng } from './png';
import { startThreadPool } from './thread-pool';

const PAGE = 65536;
/** Samples of a probe, the bands that it looks at, and how long it goes on at the least, ms. */
const PROBE_SAMPLES = 8;
const BANDS = 16;
const BAND_ROWS = 8;
const PROBE_MS = 1500;
/** Pixels of the part that savings are tried on, at the most. */
const CROP = { width: 480, height: 270 } as const;

/** Of one frame. */
export interface RenderCost {
  readonly seconds: number;
  /** Memory of the renderer, exactly; the volume as it was read stands beside it. */
  readonly bytes: number;
  readonly diskBytes: number;
}

interface World {
  readonly volume: Volume;
  readonly surroundings: Surroundings;
  readonly threads: number;
}

/** The same look at another size, with as much in the frame. */
const sized = (look: Look, width: number, height: number): Look => ({
  ...look,
  camera: { ...look.camera, width, height },
});

/**
 * Judges a frame's cost by some bands of its rows: what does not grow with them is timed apart.
 * @throws CoreError where the look asks for what is not there
 */
export function costOfRender(look: Look, { volume, surroundings, threads }: World): RenderCost {
  const isTrue = look.quality.mode === 'true';
  const samples = Math.min(look.quality.samples, PROBE_SAMPLES);
  const probe = { ...look, quality: { ...look.quality, samples, until: 'samples' as const } };
  const began = performance.now();
  const compiled = compileLook(probe, volume, surroundings);
  // samples change nothing of what is laid out
  const pages = renderPages(compiled, threads);
  const threadPool = startThreadPool(pages, threads);
  try {
    const renderer = new LookRenderer(threadPool, compiled);
    if (!isTrue) renderer.light();
    const laid = performance.now();
    const bands = bandsOf(renderer);
    let least = Infinity;
    let noise = 0;
    let packed = 0;
    // kernels are made faster while they run: a whole frame has them at their best
    do {
      const own = bands.map((band) => probeBand(renderer, band));
      least = Math.min(
        least,
        own.reduce((sum, { ms }) => sum + ms, 0),
      );
      noise = Math.sqrt(own.reduce((sum, one) => sum + one.noise ** 2, 0) / own.length);
      packed = own.reduce((sum, { bytes }) => sum + bytes, 0);
    } while (performance.now() - laid < PROBE_MS);

    const whole = performance.now();
    if (isTrue) {
      renderer.sense();
      if (look.quality.denoise === 'always') quickPicture(renderer, renderer.all(), true);
    }

    const ended = performance.now();
    const rows = bands.reduce((sum, { from, end }) => sum + end[1] - from[1], 0);
    const grows = look.camera.height / rows;
    const more = isTrue ? samplesOf(look, samples, noise) / samples : 1;
    return {
      seconds: (laid - began + least * grows * more + ended - whole) / 1000,
      bytes: pages * PAGE,
      diskBytes: Math.round(packed * grows),
    };
  } finally {
    threadPool.close();
  }
}

/** Some bands of rows, evenly over the frame. */
function bandsOf({ width, height }: LookRenderer): PixelBox[] {
  if (height <= 2 * BANDS * BAND_ROWS) return [{ from: [0, 0], end: [width, height] }];
  return Array.from({ length: BANDS }, (_, n) => {
    const top = Math.floor(((n + 0.5) / BANDS) * height - BAND_ROWS / 2);
    return { from: [0, top], end: [width, top + BAND_ROWS] };
  });
}

/** Milliseconds of a band, the noise that is left in it, and what it takes in files. */
function probeBand(renderer: LookRenderer, band: PixelBox): { ms: number; noise: number; bytes: number } {
  const began = performance.now();
  let noise = 0;
  let ms: number;
  let picture: RenderedFrame;
  if (renderer.compiled.look.quality.mode === 'true') {
    const own = new TruePicture(renderer, band);
    const cleared = performance.now();
    own.trace(renderer.compiled.look.quality.samples);
    ms = performance.now() - cleared;
    noise = own.noise();
    const { width, height } = renderer;
    picture = cut({ width, height, rgba: own.rgba(), layers: own.layers() }, band);
  } else {
    const made = rendered(renderer, band);
    ms = performance.now() - began;
    picture = cut(made, band);
  }

  return { ms, noise, bytes: writeExr(toExr(picture), nodeZip).length + encodePng(picture).length };
}

/** How many samples a picture will have, by the noise that some have left. */
function samplesOf({ quality }: Look, samples: number, noise: number): number {
  if (quality.until === 'samples') return quality.samples;
  return Math.min(quality.samples, Math.max(1, samples * (noise / quality.noise) ** 2));
}

/**
 * Renders a part of the frame as the look has it and with each saving, and compares both.
 * @param folder where pictures go
 * @param onSaving called after each
 */
export function measureSavings(
  look: Look,
  { volume, surroundings, threads }: World,
  folder: string,
  onSaving: (done: number, total: number) => void = () => undefined,
): SavingsSheet {
  // passes are not what is looked at
  const plain = { ...look, passes: LOOK.parse({ passes: NO_PASSES }).passes };
  const threadPool = startThreadPool(renderPages(compileLook(plain, volume, surroundings), threads), threads);
  try {
    const run = (own: Look, box: PixelBox): Timed => timed(threadPool, own, volume, surroundings, box);
    const { box, grows } = affordable(threadPool, plain, volume, surroundings);
    const base = run(plain, box);
    const whole = ({ fixed, rays }: Timed): number => fixed + rays * grows;
    const write = (name: string, picture: Parameters<typeof encodePng>[0]): string => {
      writeWhole(join(folder, name), encodePng(picture));
      return name;
    };

    const picture = write('as-it-is.png', base.picture);
    const all = savingsFor(look, volume);
    const savings = all.map((saving, n): MeasuredSaving => {
      const changed = LOOK.parse(saving.changes.reduce((l, { path, value }) => setAt(l, path, value), plain));
      const scale = changed.camera.width / plain.camera.width;
      const own = run(changed, scaled(box, scale));
      const shown = scale === 1 ? own.picture : enlarged(own.picture, base.picture);
      const { map, mean } = differenceOf(base.picture, shown);
      onSaving(n + 1, all.length);
      return {
        ...saving,
        seconds: own.fixed + own.rays * grows,
        difference: mean,
        picture: write(`saving-${n + 1}.png`, shown),
        map: write(`saving-${n + 1}-map.png`, mapPicture(map, base.picture)),
      };
    });
    return { seconds: whole(base), fixedSeconds: base.fixed, picture, box, savings };
  } finally {
    threadPool.close();
  }
}

const NO_PASSES = Object.fromEntries(Object.keys(LOOK.parse({}).passes).map((name) => [name, false]));

interface Flat {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
}
interface Timed {
  readonly fixed: number;
  readonly rays: number;
  readonly picture: Flat;
}

function timed(
  threadPool: ThreadPool,
  look: Look,
  volume: Volume,
  surroundings: Surroundings,
  box: PixelBox,
): Timed {
  const began = performance.now();
  const compiled = compileLook(look, volume, surroundings);
  threadPool.ensurePages(renderPages(compiled, threadPool.helpers + 1));
  const renderer = new LookRenderer(threadPool, compiled);
  if (look.quality.mode === 'quick') renderer.light();
  const ready = performance.now();
  const made = rendered(renderer, box);
  const ended = performance.now();
  return { fixed: (ready - began) / 1000, rays: (ended - ready) / 1000, picture: cut(made, box) };
}

/** A part of the frame about the middle of what is seen, and how much more the whole frame shows. */
function cropOf(
  threadPool: ThreadPool,
  look: Look,
  volume: Volume,
  surroundings: Surroundings,
): { box: PixelBox; grows: number } {
  const { width, height } = look.camera;
  const scale = Math.min(1, 160 / width);
  const small = sized(
    look,
    Math.max(16, Math.round(width * scale)),
    Math.max(16, Math.round(height * scale)),
  );
  const compiled = compileLook(small, volume, surroundings);
  threadPool.ensurePages(renderPages(compiled, threadPool.helpers + 1));
  const rgba = new LookRenderer(threadPool, compiled).march();
  let [x, y, all] = [0, 0, 0];
  const wide = small.camera.width;
  for (let p = 0; p < rgba.length / 4; p++) {
    const alpha = rgba[4 * p + 3];
    all += alpha;
    x += alpha * (p % wide);
    y += alpha * Math.floor(p / wide);
  }

  const size = [Math.min(width, CROP.width), Math.min(height, CROP.height)];
  const middle =
    all > 0 ? [(x / all / wide) * width, (y / all / small.camera.height) * height] : [width / 2, height / 2];
  const from = [width, height].map((n, a) =>
    Math.round(Math.min(n - size[a], Math.max(0, middle[a] - size[a] / 2))),
  );
  const box: PixelBox = {
    from: [from[0], from[1]],
    end: [from[0] + size[0], from[1] + size[1]],
  };
  // time goes with what shows something
  let inside = 0;
  let seen = 0;
  for (let p = 0; p < rgba.length / 4; p++) {
    if (rgba[4 * p + 3] <= 0) continue;
    seen++;
    const [px, py] = [
      (((p % wide) + 0.5) / wide) * width,
      ((Math.floor(p / wide) + 0.5) / small.camera.height) * height,
    ];
    if (px >= box.from[0] && px < box.end[0] && py >= box.from[1] && py < box.end[1]) inside++;
  }

  return { box, grows: inside > 0 ? seen / inside : (width * height) / (size[0] * size[1]) };
}

/** Seconds that the part may take as the look has it; eight savings are to be done within minutes. */
const CROP_S = 12;
const TRIED_SAMPLES = 2;

/** The part, or a smaller one about its middle where a true picture of it would take too long. */
function affordable(
  threadPool: ThreadPool,
  look: Look,
  volume: Volume,
  surroundings: Surroundings,
): ReturnType<typeof cropOf> {
  const whole = cropOf(threadPool, look, volume, surroundings);
  if (look.quality.mode === 'quick') return whole;
  const tried = { ...look, quality: { ...look.quality, samples: TRIED_SAMPLES, until: 'samples' as const } };
  const { rays } = timed(threadPool, tried, volume, surroundings, whole.box);
  const part = Math.sqrt(CROP_S / Math.max(CROP_S, (rays * look.quality.samples) / TRIED_SAMPLES));
  if (part === 1) return whole;
  const { from, end } = whole.box;
  const inner = [0, 1].map((a) => {
    const side = end[a] - from[a];
    const size = Math.min(side, Math.max(64, Math.round(side * part)));
    const middle = Math.round((from[a] + end[a]) / 2);
    return [middle - Math.floor(size / 2), middle - Math.floor(size / 2) + size];
  });
  const area = (box: PixelBox): number => (box.end[0] - box.from[0]) * (box.end[1] - box.from[1]);
  const box: PixelBox = { from: [inner[0][0], inner[1][0]], end: [inner[0][1], inner[1][1]] };
  return { box, grows: (whole.grows * area(whole.box)) / area(box) };
}

const scaled = ({ from, end }: PixelBox, by: number): PixelBox => ({
  from: [Math.floor(from[0] * by), Math.floor(from[1] * by)],
  end: [Math.ceil(end[0] * by), Math.ceil(end[1] * by)],
});

/** A smaller picture at the size of another, interpolated. */
function enlarged(small: Flat, { width, height }: Flat): Flat {
  const rgba = new Float32Array(width * height * 4);
  const within = (v: number, n: number): number => Math.min(n - 1, Math.max(0, v));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const u = ((x + 0.5) * small.width) / width - 0.5;
      const v = ((y + 0.5) * small.height) / height - 0.5;
      const [i, j] = [Math.floor(u), Math.floor(v)];
      for (let c = 0; c < 4; c++) {
        const at = (p: number, q: number): number =>
          small.rgba[4 * (within(q, small.height) * small.width + within(p, small.width)) + c];
        const near = at(i, j) + (u - i) * (at(i + 1, j) - at(i, j));
        const far = at(i, j + 1) + (u - i) * (at(i + 1, j + 1) - at(i, j + 1));
        rgba[4 * (y * width + x) + c] = near + (v - j) * (far - near);
      }
    }

  return { width, height, rgba };
}

/** Where pictures differ: from black over red to yellow. */
function mapPicture(map: Float32Array, { width, height }: Flat): Flat {
  const rgba = new Float32Array(map.length * 4);
  map.forEach((v, p) => {
    rgba[4 * p] = Math.min(1, 2 * v) ** 2;
    rgba[4 * p + 1] = Math.max(0, 2 * v - 1) ** 2;
    rgba[4 * p + 3] = 1;
  });
  return { width, height, rgba };
}

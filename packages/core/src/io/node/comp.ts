// Frames of a comp to files: OpenEXR in linear light, PNG and JPEG as its display shows it.
import { join } from 'node:path';
import { frameName, fileStem } from '../../cache/manifest';
import type { Combine } from '../../combine/combine';
import { Composer } from '../../combine/composer';
import { gather, type Feeds } from '../../combine/gather';
import { wordsFor } from '../../combine/light';
import { writeExr } from '../../files/exr/writer';
import type { LinearPicture } from '../../files/picture';
import { timeSaid } from '../../look/said';
import { encodeJpeg } from './ffmpeg';
import { nodeZip, writeWhole } from './files';
import { encodePngWords } from './png';
import { startThreadPool } from './thread-pool';

export interface CompOutput {
  /** What values of OpenEXR are. */
  readonly exr: 'half' | 'float';
  /** Bits of a value of PNG. */
  readonly png: 8 | 16;
  readonly jpeg: boolean;
  /** Of the frame: 1 is full size. */
  readonly scale: number;
}

/** Pages of 64 kB that a thread pool begins with; it grows. */
const FIRST_PAGES = 64;

export interface CompFrame {
  readonly frame: number;
  readonly exr: string;
  readonly png: string;
  readonly notes: readonly string[];
}

/**
 * Makes frames of a comp and writes them; a frame is there when its PNG is.
 * @param onFrame called after each
 * @throws CoreError naming the layer or the file that stands in the way
 */
export async function writeComp(
  comp: Combine,
  frames: readonly number[],
  folder: string,
  feeds: Feeds,
  output: CompOutput,
  threads: number,
  onFrame: (done: number, frame: CompFrame) => void = () => undefined,
): Promise<void> {
  const pool = startThreadPool(FIRST_PAGES, threads);
  try {
    const composer = new Composer(pool, comp, output.scale);
    for (const [n, frame] of frames.entries()) {
      const ingredients = await gather(comp, frame, feeds);
      const picture = composer.compose(ingredients);
      const written = await writeFrame(comp, frame, folder, picture, output, ingredients.tables);
      onFrame(n + 1, { ...written, frame, notes: ingredients.notes });
    }
  } finally {
    pool.close();
  }
}

async function writeFrame(
  comp: Combine,
  frame: number,
  folder: string,
  picture: LinearPicture,
  { exr, png, jpeg }: CompOutput,
  tables: Awaited<ReturnType<typeof gather>>['tables'],
): Promise<{ exr: string; png: string }> {
  const { width, height, rgba } = picture;
  const path = (ending: string): string => join(folder, frameName(fileStem(comp.name), frame, ending));
  const channels = ['R', 'G', 'B', 'A'].map((name, c) => ({
    name,
    type: exr,
    values: Float32Array.from({ length: width * height }, (_, p) => rgba[4 * p + c]),
  }));
  const said = {
    text: { software: 'Bramblemist', comp: JSON.stringify(comp) },
    ...timeSaid({ frame, frameRate: comp.frame.rate }),
  };
  const image = { width, height, channels, pixelAspect: comp.frame.squeeze };
  writeWhole(path('exr'), writeExr(image, nodeZip, said));
  const { display, table } = comp.frame;
  const bits = png === 8 ? 255 : 65535;
  const words = wordsFor(picture, display, tables.get(table) ?? null, bits);
  if (jpeg) {
    const opaque = wordsFor({ ...picture, rgba: overBlack(rgba) }, display, tables.get(table) ?? null, 255);
    writeWhole(path('jpg'), await encodeJpeg(Uint8Array.from(opaque), width, height));
  }

  writeWhole(path('png'), encodePngWords(words, width, height, png));
  return { exr: path('exr'), png: path('png') };
}

function overBlack(rgba: Float32Array): Float32Array {
  const out = rgba.slice();
  for (let n = 3; n < out.length; n += 4) out[n] = 1;
  return out;
}

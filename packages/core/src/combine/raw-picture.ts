// A frame of a feed as a decoder gives it, and what it means as light: the same in the page and on the
// server.
import { CoreError } from '../base/error';
import type { ColourTable } from '../files/cube/cube';
import { laidFlat, readExrPasses } from '../files/exr/colours';
import type { ExrDeepImage } from '../files/exr/deep';
import { readDeepExr } from '../files/exr/deep-reader';
import { readExrHead } from '../files/exr/header';
import { readHdr } from '../files/hdr/hdr';
import type { ZipCodec } from '../files/zip';
import type { CompFile } from './combine';
import { DEEP, type DeepPixels, type FeedPicture } from './feed-picture';
import { linearOf, type Encoding } from './light';

export type RawPicture =
  | { readonly kind: 'exr' | 'hdr'; readonly bytes: Uint8Array }
  | {
      readonly kind: 'words';
      readonly width: number;
      readonly height: number;
      readonly pixelAspect: number;
      readonly hasAlpha: boolean;
      /** What its file says, or what its kind has as a rule. */
      readonly encoding: Encoding;
      /** Of 16 bits, four a pixel: red, green, blue and straight alpha. */
      readonly words: Uint16Array;
    };

/** By what a frame of a file is known again. */
export const keyOfFrame = ({ sha256, name, encoding, alpha, table }: CompFile, frame: number): string =>
  `${sha256 || name} ${frame} ${encoding} ${alpha} ${table}`;

interface Told {
  readonly key: string;
  /** What it is called where it cannot be read. */
  readonly name: string;
  readonly passes: readonly string[];
  readonly table: ColourTable | null;
  readonly zip: ZipCodec;
}

/** @param file how its numbers are to be read; null for what was rendered here */
export async function pictureFrom(
  raw: RawPicture,
  file: Pick<CompFile, 'encoding' | 'alpha'> | null,
  { key, name, passes, table, zip }: Told,
): Promise<FeedPicture> {
  try {
    if ('bytes' in raw) {
      if (raw.kind === 'hdr') return { ...fromHdr(raw.bytes), key };
      if (readExrHead(raw.bytes).parts[0].isDeep) return { ...fromDeep(raw.bytes, passes, zip), key };
      return { ...(await readExrPasses(raw.bytes, passes, zip)), key };
    }

    const { words, width, height, pixelAspect, hasAlpha } = raw;
    const encoding = !file || file.encoding === 'told' ? raw.encoding : file.encoding;
    const own = hasAlpha ? 'straight' : 'none';
    const alpha = !file || file.alpha === 'told' ? own : file.alpha;
    return { ...linearOf(words, width, height, encoding, alpha, table), pixelAspect, passes: new Map(), key };
  } catch (error) {
    throw new CoreError('file', `${name}: ${(error as Error).message}`);
  }
}

/** Deep pixels as a file has them. */
export function deepPixels({ width, height, counts, samples }: ExrDeepImage): DeepPixels {
  const starts = new Uint32Array(counts.length + 1);
  counts.forEach((count, n) => (starts[n + 1] = starts[n] + count));
  return { width, height, starts, samples };
}

function fromDeep(bytes: Uint8Array, passes: readonly string[], zip: ZipCodec): Omit<FeedPicture, 'key'> {
  const image = readDeepExr(bytes, zip);
  const { width, height, pixelAspect = 1 } = image;
  const flat = { width, height, pixelAspect, rgba: laidFlat(image), passes: new Map() };
  return passes.includes(DEEP) ? { ...flat, deep: deepPixels(image) } : flat;
}

function fromHdr(bytes: Uint8Array): Omit<FeedPicture, 'key'> {
  const { width, height, planes } = readHdr(bytes).picture;
  const size = width * height;
  const rgba = new Float32Array(4 * size).fill(1);
  // its bottom row comes first
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++)
        rgba[4 * ((height - 1 - y) * width + x) + c] = planes[c * size + y * width + x];
  return { width, height, rgba, pixelAspect: 1, passes: new Map() };
}

/** Bytes before the words of a raw picture that goes from the server to the page. */
const HEAD = 20;

/** Words with what they are, as bytes. */
export function packWords(raw: Extract<RawPicture, { kind: 'words' }>): Uint8Array {
  const out = new Uint8Array(HEAD + raw.words.byteLength);
  const view = new DataView(out.buffer);
  view.setUint32(0, raw.width, true);
  view.setUint32(4, raw.height, true);
  view.setUint32(8, raw.hasAlpha ? 1 : 0, true);
  view.setUint32(12, raw.encoding === 'srgb' ? 0 : 1, true);
  view.setFloat32(16, raw.pixelAspect, true);
  out.set(new Uint8Array(raw.words.buffer, raw.words.byteOffset, raw.words.byteLength), HEAD);
  return out;
}

export function unpackWords(bytes: Uint8Array): RawPicture {
  const view = new DataView(bytes.buffer, bytes.byteOffset, HEAD);
  return {
    kind: 'words',
    width: view.getUint32(0, true),
    height: view.getUint32(4, true),
    hasAlpha: view.getUint32(8, true) === 1,
    encoding: view.getUint32(12, true) === 0 ? 'srgb' : 'rec709',
    pixelAspect: view.getFloat32(16, true),
    words: new Uint16Array(bytes.slice(HEAD).buffer),
  };
}

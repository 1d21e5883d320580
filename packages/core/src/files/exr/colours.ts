// The colours of any OpenEXR picture as it is to be seen: what is packed in ways that we do not unpack
// ourselves goes through a library, and the data window is set into the display window.
import { FileError } from '../bytes';
import { pureZip, type ZipCodec } from '../zip';
import { DEEP_FLOATS, type ExrDeepImage } from './deep';
import { readDeepExr } from './deep-reader';
import { readExrHead, sizeOf, type ExrPart } from './header';
import { isPlain, kindOf, readExr, type ExrImage } from './reader';
import { textureOf, withBrightness, type Texture } from '../picture';

export interface ExrColours {
  readonly width: number;
  readonly height: number;
  /** Red, green, blue and alpha of each pixel, top row first; linear, premultiplied. */
  readonly rgba: Float32Array;
  readonly pixelAspect: number;
  /** What was left out or changed. */
  readonly remarks: readonly string[];
}

/** @throws FileError naming what is wrong, or what it is that cannot be read */
export async function readExrColours(bytes: Uint8Array, zip: ZipCodec = pureZip): Promise<ExrColours> {
  const { parts } = readExrHead(bytes);
  const [part] = parts;
  const remarks: string[] = [];
  if (parts.length > 1)
    remarks.push(`it has ${parts.length} parts; the first${part.name ? `, ${part.name},` : ''} is taken`);
  if (part.isDeep) {
    const deep = readDeepExr(bytes, zip);
    const { width, height, pixelAspect = 1 } = deep;
    return { width, height, rgba: laidFlat(deep), pixelAspect, remarks };
  }

  const rgba = isPlain(part) ? coloursOf(readExr(bytes, zip)) : await byLibrary(bytes, part, remarks);
  const { min, max } = part.display;
  const [width, height] = sizeOf(part.display);
  if (width < 1 || height < 1 || width * height > 2 ** 27)
    throw new FileError(`A picture of ${width} × ${height} is absurd`);
  const [dw, dh] = sizeOf(part.data);
  const out = inDisplay(rgba, part);
  if (out === rgba) return { width, height, rgba, pixelAspect: part.pixelAspect, remarks };
  const inside = part.data.min.every((v, a) => v >= min[a]) && part.data.max.every((v, a) => v <= max[a]);
  remarks.push(
    inside
      ? `its pixels fill ${dw} × ${dh} of ${width} × ${height}; around them it is empty`
      : `of ${dw} × ${dh} pixels those in the frame of ${width} × ${height} are taken`,
  );
  return { width, height, rgba: out, pixelAspect: part.pixelAspect, remarks };
}

/**
 * A picture as sources and lights look it up: one that fills its frame is unpacked straight into place.
 * @throws FileError as above
 */
export async function readExrTexture(
  bytes: Uint8Array,
  zip: ZipCodec = pureZip,
): Promise<{ picture: Texture; remarks: readonly string[] }> {
  const { parts } = readExrHead(bytes);
  const [part] = parts;
  const isWhole =
    part.data.min.concat(part.data.max).join() === part.display.min.concat(part.display.max).join();
  const hasColours = COLOURS.every((name) => part.channels.some((c) => c.name === name));
  if (parts.length > 1 || part.isDeep || !isPlain(part) || !isWhole || !hasColours) {
    const { width, height, rgba, remarks } = await readExrColours(bytes, zip);
    const line = (y: number, rgb: Float32Array): void => {
      const from = 4 * y * width;
      for (let x = 0; x < width; x++) for (let c = 0; c < 3; c++) rgb[3 * x + c] = rgba[from + 4 * x + c];
    };

    return { picture: textureOf(width, height, line), remarks };
  }

  let planes = new Float32Array(0);
  const { width, height } = readExr(bytes, zip, {
    isWanted: (name) => COLOURS.includes(name),
    room: (name, pixels) => {
      if (planes.length === 0) planes = new Float32Array(4 * pixels);
      const c = COLOURS.indexOf(name);
      return planes.subarray(c * pixels, (c + 1) * pixels);
    },
  });
  turnOver(planes, width, height);
  return { picture: { width, height, planes: withBrightness(planes) }, remarks: [] };
}

const COLOURS: readonly string[] = ['R', 'G', 'B'];

/** Lines of the three colours from the bottom one. */
function turnOver(planes: Float32Array, width: number, height: number): void {
  for (let c = 0; c < 3; c++)
    for (let y = 0; y < height >> 1; y++) {
      const [above, below] = [c * height + y, (c + 1) * height - 1 - y].map((n) => n * width);
      const kept = planes.slice(above, above + width);
      planes.copyWithin(above, below, below + width);
      planes.set(kept, below);
    }
}

/** A deep picture's samples laid over one another: red, green, blue and alpha of each pixel. */
export function laidFlat({ counts, samples }: Pick<ExrDeepImage, 'counts' | 'samples'>): Float32Array {
  const rgba = new Float32Array(4 * counts.length);
  let n = 0;
  counts.forEach((count, p) => {
    let left = 1;
    for (const end = n + count; n < end; n++) {
      for (let c = 0; c < 4; c++) rgba[4 * p + c] += left * samples[DEEP_FLOATS * n + c];
      left *= 1 - samples[DEEP_FLOATS * n + 3];
    }
  });
  return rgba;
}

/** Pixels of the data window, four values each, set into the display window. */
function inDisplay(rgba: Float32Array, { data, display }: ExrPart): Float32Array {
  const [width, height] = sizeOf(display);
  const [dw, dh] = sizeOf(data);
  const off = data.min.map((v, a) => v - display.min[a]);
  if (off.every((v) => v === 0) && dw === width && dh === height) return rgba;
  const out = new Float32Array(4 * width * height);
  const x0 = Math.max(0, off[0]);
  const x1 = Math.min(width, off[0] + dw);
  for (let y = Math.max(0, off[1]); y < Math.min(height, off[1] + dh); y++)
    if (x1 > x0) {
      const from = (y - off[1]) * dw + x0 - off[0];
      out.set(rgba.subarray(4 * from, 4 * (from + x1 - x0)), 4 * (y * width + x0));
    }

  return out;
}

/** The colours of a picture with some of its layers, each as four values a pixel. */
export interface ExrPasses extends ExrColours {
  /**
   * By name; one that the file does not have is missing. Where it has no alpha of its own, that of the
   * picture.
   */
  readonly passes: ReadonlyMap<string, Float32Array>;
}

/** Names of the layers that a file has, in the order of their channels. */
export function layersIn(bytes: Uint8Array): string[] {
  const names = readExrHead(bytes).parts.flatMap(({ channels }) => channels.map(({ name }) => layerOf(name)));
  return [...new Set(names)].filter((name) => name !== '');
}

const layerOf = (channel: string): string => channel.slice(0, Math.max(0, channel.lastIndexOf('.')));

/**
 * @param wanted names of layers
 * @throws FileError naming what is wrong, or what it is that cannot be read
 */
export async function readExrPasses(
  bytes: Uint8Array,
  wanted: readonly string[],
  zip: ZipCodec = pureZip,
): Promise<ExrPasses> {
  const { parts } = readExrHead(bytes);
  const passes = new Map<string, Float32Array>();
  if (!isPlain(parts[0]) || parts[0].isDeep) return { ...(await readExrColours(bytes, zip)), passes };
  const isColour = (name: string): boolean => /^[RGBAY]$/.test(name);
  const found: { part: ExrPart; channels: ExrImage['channels'] }[] = [];
  for (const [n, part] of parts.entries()) {
    const isWanted = (name: string): boolean => (n === 0 && isColour(name)) || wanted.includes(layerOf(name));
    if (isPlain(part) && !part.isDeep && part.channels.some(({ name }) => isWanted(name)))
      found.push({ part, channels: readExr(bytes, zip, { part: n, isWanted }).channels });
  }

  const [width, height] = sizeOf(parts[0].display);
  const [dw, dh] = sizeOf(parts[0].data);
  const beauty = found.find(({ part }) => part === parts[0])?.channels ?? [];
  const own = coloursOf({ width: dw, height: dh, channels: beauty.filter(({ name }) => isColour(name)) });
  for (const name of wanted) {
    const of = found.find(({ channels }) => channels.some((c) => layerOf(c.name) === name));
    if (!of) continue;
    const channels = of.channels.filter((c) => layerOf(c.name) === name);
    const [w, h] = sizeOf(of.part.data);
    const values = layerColours(channels, own.length === 4 * w * h ? own : null, w * h);
    passes.set(name, inDisplay(values, of.part));
  }

  return {
    width,
    height,
    rgba: inDisplay(own, parts[0]),
    pixelAspect: parts[0].pixelAspect,
    remarks: [],
    passes,
  };
}

/** In which order the channels of a layer stand in red, green and blue. */
const ORDER = ['R', 'G', 'B', 'X', 'Y', 'Z', 'ZMiddle', 'ZBack', 'A'];

function layerColours(
  channels: ExrImage['channels'],
  beauty: Float32Array | null,
  pixels: number,
): Float32Array {
  const own = (name: string): string => name.slice(name.lastIndexOf('.') + 1);
  const sorted = [...channels].sort((a, b) => ORDER.indexOf(own(a.name)) - ORDER.indexOf(own(b.name)));
  const alpha = sorted.find((c) => own(c.name) === 'A');
  const colours = sorted.filter((c) => c !== alpha);
  // one value alone is grey
  const rgb = colours.length === 1 ? [colours[0], colours[0], colours[0]] : colours.slice(0, 3);
  const out = new Float32Array(4 * pixels);
  for (let p = 0; p < pixels; p++) {
    rgb.forEach(({ values }, c) => (out[4 * p + c] = values[p]));
    out[4 * p + 3] = alpha ? alpha.values[p] : (beauty?.[4 * p + 3] ?? 1);
  }

  return out;
}

function coloursOf({ width, height, channels }: ExrImage): Float32Array {
  const plane = (...names: string[]): Float32Array | undefined =>
    channels.find((c) => names.includes(c.name))?.values;
  const rgb = ['R', 'G', 'B'].map((c) => {
    const found = plane(c) ?? plane('Y');
    if (!found)
      throw new FileError(
        `It has neither the channels R, G, B nor Y (it has: ${channels.map((ch) => ch.name).join(', ')})`,
      );
    return found;
  });
  const alpha = plane('A');
  const rgba = new Float32Array(4 * width * height);
  for (let p = 0; p < width * height; p++) {
    for (let c = 0; c < 3; c++) rgba[4 * p + c] = rgb[c][p];
    rgba[4 * p + 3] = alpha ? alpha[p] : 1;
  }

  return rgba;
}

async function byLibrary(bytes: Uint8Array, part: ExrPart, remarks: string[]): Promise<Float32Array> {
  const refuse = (why: string): never => {
    throw new FileError(`It is ${kindOf(part)}, ${why}; save it with ZIP`);
  };

  const sub = part.channels.find((c) => c.sampling > 1);
  if (sub) throw new FileError(`Its channel ${sub.name} is subsampled; save it with whole colours`);
  // the library takes all colours to be of one type, and numbers without a point to take no room
  const colours = part.channels.filter((c) => /^(R|G|B|A|Y|RY|BY)$/.test(c.name));
  if (new Set(colours.map((c) => c.type)).size > 1) refuse('with colours of several types');
  if (part.channels.some((c) => c.type === 'uint')) refuse('with channels of whole numbers');
  // tried against the format's own library: of these it makes other pictures
  const isDwa = part.compression.startsWith('DWA');
  if (isDwa && !colours.some((c) => c.name === 'R')) refuse('and of grey alone');
  if (isDwa && part.tile && part.compression === 'DWAA') refuse('which is not read in tiles');
  const [width, height] = sizeOf(part.data);
  if (4 * width * height > bytes.length * 1100 + 65536)
    throw new FileError('The picture is larger than the file can hold');
  const [{ EXRLoader }, { FloatType }] = await Promise.all([
    import('three/examples/jsm/loaders/EXRLoader.js'),
    import('three'),
  ]);
  let found: { width: number; height: number; data: unknown };
  try {
    found = new EXRLoader().setDataType(FloatType).parse(new Uint8Array(bytes).buffer) as typeof found;
  } catch (error) {
    const why = (error as Error).message.replace(/^THREE\.EXRLoader: /, '');
    throw new FileError(`It is ${kindOf(part)}, and cannot be unpacked: ${why}`);
  }

  const { data } = found;
  if (found.width !== width || found.height !== height || !(data instanceof Float32Array))
    return refuse('which is not read whole');
  if (part.compression.startsWith('B44') || part.compression.startsWith('DWA'))
    remarks.push(`${part.compression} has lost a little of it when it was saved`);
  // the library has the bottom row first
  const parts = data.length / (width * height);
  const rgba = new Float32Array(4 * width * height).fill(1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = parts * ((height - 1 - y) * width + x);
      const to = 4 * (y * width + x);
      if (parts === 4) rgba.set(data.subarray(from, from + 4), to);
      else rgba.fill(data[from], to, to + 3);
    }

  return rgba;
}

// OpenEXR scan-line images: writer (half and float channels, ZIP) and reader (none, ZIPS, ZIP). Facts: the
// format's own papers.
import { ByteReader, ByteWriter, FileError } from '../bytes';
import { fromHalf, toHalf } from '../../math/half';
import { pureZip, type ZipCodec } from '../zip';

export interface ExrChannel {
  readonly name: string;
  readonly type: 'half' | 'float' | 'uint';
  /** width · height values, top row first. */
  readonly values: Float32Array;
}
export interface ExrImage {
  readonly width: number;
  readonly height: number;
  readonly channels: readonly ExrChannel[];
}

const MAGIC = 20000630;
const TYPES = ['uint', 'half', 'float'] as const;
const NO_COMPRESSION = 0;
const ZIPS = 2;
const ZIP = 3;
const LINES = 16;
/** No honest picture of ours is larger; bounds what a hostile header can make us allocate. */
const MOST_PIXELS = 2 ** 28;

export function writeExr(image: ExrImage, zip: ZipCodec = pureZip): Uint8Array {
  const { width, height } = image;
  const channels = [...image.channels].sort((a, b) => (a.name < b.name ? -1 : 1));
  const out = new ByteWriter(1 << 18);
  const attribute = (name: string, type: string, size: number): void => {
    out.ascii(`${name}\0${type}\0`);
    out.i32(size);
  };

  out.i32(MAGIC);
  out.i32(2);
  attribute(
    'channels',
    'chlist',
    channels.reduce((n, c) => n + c.name.length + 17, 1),
  );
  for (const c of channels) {
    out.ascii(`${c.name}\0`);
    out.i32(TYPES.indexOf(c.type));
    out.i32(0); // not perceptually linear
    out.i32(1);
    out.i32(1);
  }

  out.u8(0);
  attribute('compression', 'compression', 1);
  out.u8(ZIP);
  for (const name of ['dataWindow', 'displayWindow']) {
    attribute(name, 'box2i', 16);
    for (const v of [0, 0, width - 1, height - 1]) out.i32(v);
  }

  attribute('lineOrder', 'lineOrder', 1);
  out.u8(0);
  attribute('pixelAspectRatio', 'float', 4);
  out.f32(1);
  attribute('screenWindowCenter', 'v2f', 8);
  out.f32(0);
  out.f32(0);
  attribute('screenWindowWidth', 'float', 4);
  out.f32(1);
  out.u8(0);
  const blocks = Math.ceil(height / LINES);
  const table = out.length;
  for (let b = 0; b < blocks; b++) out.i64(0);
  for (let b = 0; b < blocks; b++) {
    out.patchI64(table + 8 * b, out.length);
    const y0 = b * LINES;
    const y1 = Math.min(height, y0 + LINES);
    const raw = new ByteWriter(1 << 16);
    for (let y = y0; y < y1; y++) {
      for (const c of channels) {
        for (let x = 0; x < width; x++) {
          const v = c.values[y * width + x];
          if (c.type === 'half') raw.u16(toHalf(v));
          else if (c.type === 'float') raw.f32(v);
          else raw.u32(v);
        }
      }
    }

    const plain = raw.done();
    const packed = zip.deflate(predict(plain));
    const smaller = packed.length < plain.length;
    out.i32(y0);
    out.i32(smaller ? packed.length : plain.length);
    out.bytes(smaller ? packed : plain);
  }

  return out.done();
}

/** Even bytes first, then odd ones, each as its difference to the one before. */
function predict(raw: Uint8Array): Uint8Array {
  const n = raw.length;
  const half = (n + 1) >> 1;
  const out = new Uint8Array(n);
  for (let i = 0; i < n; i++) out[(i & 1 ? half : 0) + (i >> 1)] = raw[i];
  for (let i = n - 1; i > 0; i--) out[i] = out[i] - out[i - 1] + 128;
  return out;
}

function unpredict(data: Uint8Array): Uint8Array {
  const n = data.length;
  const half = (n + 1) >> 1;
  const out = new Uint8Array(n);
  for (let i = 1; i < n; i++) data[i] = data[i] + data[i - 1] - 128;
  for (let i = 0; i < n; i++) out[i] = data[(i & 1 ? half : 0) + (i >> 1)];
  return out;
}

/** @throws FileError naming what is wrong */
export function readExr(data: Uint8Array, zip: ZipCodec = pureZip): ExrImage {
  const r = new ByteReader(data);
  if (r.size < 8 || r.i32() !== MAGIC) throw new FileError('This is not an OpenEXR file');
  const version = r.i32();
  if ((version & 0xff) !== 2 || version & 0x1a00)
    throw new FileError(
      'Tiled, deep and multi-part OpenEXR files are not supported; save it as a plain scan-line file',
    );
  const word = (): string => {
    let s = '';
    for (let c = r.u8('a name'); c !== 0; c = r.u8('a name')) {
      s += String.fromCharCode(c);
      if (s.length > 255) throw new FileError('A name in the header is too long', r.at);
    }

    return s;
  };

  let compression = -1;
  let box: number[] | null = null;
  const list: { name: string; type: (typeof TYPES)[number] }[] = [];
  for (let name = word(); name !== ''; name = word()) {
    word();
    const size = r.i32('an attribute size');
    const end = r.at + size;
    if (size < 0 || size > r.left) throw new FileError(`Attribute ${name} has an absurd size`, r.at - 4);
    if (name === 'channels') {
      for (let c = word(); c !== ''; c = word()) {
        const type = TYPES[r.i32('a channel type')];
        if (!type) throw new FileError(`Channel ${c} has an unknown type`, r.at - 4);
        r.i32();
        if (r.i32() !== 1 || r.i32() !== 1)
          throw new FileError(`Channel ${c} is subsampled, which is not supported`, r.at);
        list.push({ name: c, type });
      }
    } else if (name === 'compression') compression = r.u8();
    else if (name === 'dataWindow') box = [r.i32(), r.i32(), r.i32(), r.i32()];
    r.jump(end, `The end of attribute ${name}`);
  }

  if (!box || list.length === 0) throw new FileError('The header lacks its channels or its data window');
  const width = box[2] - box[0] + 1;
  const height = box[3] - box[1] + 1;
  if (width < 1 || height < 1 || width * height > MOST_PIXELS)
    throw new FileError(`A picture of ${width} × ${height} is absurd`);
  if (![NO_COMPRESSION, ZIPS, ZIP].includes(compression))
    throw new FileError('Only uncompressed, ZIPS and ZIP files are supported; save it with ZIP');
  const lines = compression === ZIP ? LINES : 1;
  const blocks = Math.ceil(height / lines);
  if (blocks * 8 > r.left) throw new FileError('The file ends inside the offset table', r.at);
  const stride = list.reduce((n, c) => n + width * (c.type === 'half' ? 2 : 4), 0);
  // zlib packs at most about a thousand times, so a small file cannot claim a huge picture
  if (stride * height > r.size * 1100 + 65536)
    throw new FileError('The picture is larger than the file can hold');
  const channels = list.map((c) => ({ ...c, values: new Float32Array(width * height) }));
  const offsets = Array.from({ length: blocks }, () => r.i64('an offset'));
  for (const offset of offsets) {
    r.jump(offset, 'A block');
    const y0 = r.i32('a block') - box[1];
    const packed = r.i32('a block size');
    if (y0 < 0 || y0 >= height || y0 % lines !== 0)
      throw new FileError('A block has a line that is not in the picture', offset);
    const count = Math.min(lines, height - y0);
    const size = stride * count;
    const from = r.at;
    const block = r.bytes(packed, 'a block');
    let raw: Uint8Array = block;
    if (packed !== size) {
      if (compression === NO_COMPRESSION) throw new FileError('A block has the wrong size', from);
      try {
        raw = unpredict(zip.inflate(block, size).slice());
      } catch (error) {
        throw new FileError(`A block cannot be unpacked: ${(error as Error).message}`, from);
      }
    }

    const v = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
    let at = 0;
    for (let y = y0; y < y0 + count; y++) {
      for (const c of channels) {
        for (let x = 0; x < width; x++) {
          if (c.type === 'half') {
            c.values[y * width + x] = fromHalf(v.getUint16(at, true));
            at += 2;
          } else {
            c.values[y * width + x] = c.type === 'float' ? v.getFloat32(at, true) : v.getUint32(at, true);
            at += 4;
          }
        }
      }
    }
  }

  return { width, height, channels };
}

// Radiance HDR pictures (after Ward, Real Pixels, 1991, and the format's own papers): a text head, then lines
// of red, green, blue and a shared exponent; as they are, in runs of the old kind or of the new.
import { FileError } from '../bytes';
import { type Texture, textureOf } from '../picture';

const MOST_PIXELS = 2 ** 26;
/** A run of equal values takes two bytes for up to 127, an old one four for up to 255. */
const MOST_PER_BYTE = 64;
/** Lines of other lengths are never in runs of the new kind. */
const RUN_LENGTHS = [8, 0x7fff] as const;

/** @throws FileError */
export function readHdr(bytes: Uint8Array): { picture: Texture; remarks: string[] } {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 65536));
  const size = /\n([-+])Y (\d+) ([-+])X (\d+)\n/.exec(head);
  if (!head.startsWith('#?') || !size)
    throw new FileError('It is no Radiance HDR picture: its head does not say so, or gives no size.');
  const said = head.slice(0, size.index);
  const format = /^FORMAT=(\S+)/m.exec(said)?.[1] ?? '32-bit_rle_rgbe';
  if (format !== '32-bit_rle_rgbe')
    throw new FileError(`Its colours are kept as ${format}; save it as red, green and blue.`);
  const [, down, high, right, wide] = size;
  const [width, height] = [Number(wide), Number(high)];
  const pixels = width * height;
  if (pixels === 0 || pixels > MOST_PIXELS || pixels > bytes.length * MOST_PER_BYTE)
    throw new FileError(`Its head says ${width} × ${height} pixels, more than the file can hold.`);
  const rgbe = unpacked(bytes, size.index + size[0].length, width, height);
  // every exposure that was ever laid over it multiplied the pixels
  const exposures = [...said.matchAll(/^EXPOSURE=\s*(\S+)/gm)].map((m) => Number(m[1]));
  const exposure = exposures.reduce((all, e) => all * (e > 0 ? e : 1), 1);
  const scales = Float32Array.from({ length: 256 }, (_, e) => (e === 0 ? 0 : 2 ** (e - 136) / exposure));
  const line = (y: number, rgb: Float32Array): void => {
    const from = 4 * width * (down === '-' ? y : height - 1 - y);
    for (let x = 0; x < width; x++) {
      const at = from + 4 * (right === '+' ? x : width - 1 - x);
      const scale = scales[rgbe[at + 3]];
      for (let c = 0; c < 3; c++) rgb[3 * x + c] = rgbe[at + c] * scale;
    }
  };

  const remarks = exposure === 1 ? [] : [`its exposure of ${Number(exposure.toPrecision(4))} is taken back`];
  return { picture: textureOf(width, height, line), remarks };
}

function unpacked(bytes: Uint8Array, start: number, width: number, height: number): Uint8Array {
  const out = new Uint8Array(4 * width * height);
  let at = start;
  const short = (): FileError => new FileError('The file ends inside a line.', bytes.length);
  for (let y = 0; y < height; y++) {
    const line = out.subarray(4 * y * width, 4 * (y + 1) * width);
    const isRuns =
      width >= RUN_LENGTHS[0] &&
      width <= RUN_LENGTHS[1] &&
      bytes[at] === 2 &&
      bytes[at + 1] === 2 &&
      ((bytes[at + 2] << 8) | bytes[at + 3]) === width;
    if (!isRuns) {
      at = oldLine(bytes, at, line, short);
      continue;
    }

    at += 4;
    for (let c = 0; c < 4; c++)
      for (let x = 0; x < width;) {
        const count = bytes[at++];
        const length = count > 128 ? count - 128 : count;
        if (count === undefined || length === 0 || x + length > width)
          throw new FileError('A run is longer than its line.', at - 1);
        if (at + (count > 128 ? 1 : length) > bytes.length) throw short();
        for (let n = 0; n < length; n++) line[4 * (x + n) + c] = bytes[count > 128 ? at : at + n];
        at += count > 128 ? 1 : length;
        x += length;
      }
  }

  return out;
}

/** Pixels as they are; 1, 1, 1, n repeats the one before n times, each further such 256 times as often. */
function oldLine(bytes: Uint8Array, start: number, line: Uint8Array, short: () => FileError): number {
  let at = start;
  let shift = 0;
  for (let to = 0; to < line.length; at += 4) {
    if (at + 4 > bytes.length) throw short();
    const isRun = bytes[at] === 1 && bytes[at + 1] === 1 && bytes[at + 2] === 1;
    if (!isRun) {
      for (let c = 0; c < 4; c++) line[to++] = bytes[at + c];
      shift = 0;
      continue;
    }

    const count = bytes[at + 3] * 2 ** shift;
    if (to === 0 || count > (line.length - to) / 4) throw new FileError('A run is longer than its line.', at);
    for (let n = 0; n < count; n++, to += 4) line.copyWithin(to, to - 4, to);
    shift += 8;
  }

  return at;
}

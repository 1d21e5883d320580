import { zlibSync } from 'fflate';

/** A PNG of any depth and kind, with chunks of one's own before the pixels. */
export function png(
  kind: number,
  depth: number,
  width: number,
  height: number,
  samples: number[],
  chunks: readonly (readonly [string, readonly number[]])[] = [],
): Uint8Array {
  const parts = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }[kind]!;
  const stride = Math.ceil((width * parts * depth) / 8);
  const raw = new Uint8Array((stride + 1) * height);
  samples.forEach((v, n) => {
    const [x, y] = [n % (width * parts), Math.floor(n / (width * parts))];
    const at = (stride + 1) * y + 1;
    if (depth === 16) {
      raw[at + 2 * x] = v >> 8;
      raw[at + 2 * x + 1] = v & 255;
    } else raw[at + ((x * depth) >> 3)] |= v << (8 - depth - ((x * depth) & 7));
  });
  const crc = (bytes: Uint8Array): number => {
    let c = -1;
    for (const b of bytes) {
      c ^= b;
      for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
    }

    return ~c >>> 0;
  };

  const out: number[] = [137, 80, 78, 71, 13, 10, 26, 10];
  const word = (v: number): number[] => [v >>> 24, (v >>> 16) & 255, (v >>> 8) & 255, v & 255];
  const chunk = (name: string, data: readonly number[]): void => {
    const body = [...new TextEncoder().encode(name), ...data];
    out.push(...word(data.length), ...body, ...word(crc(Uint8Array.from(body))));
  };

  chunk('IHDR', [...word(width), ...word(height), depth, kind, 0, 0, 0]);
  for (const [name, data] of chunks) chunk(name, data);
  chunk('IDAT', [...zlibSync(raw)]);
  chunk('IEND', []);
  return Uint8Array.from(out);
}

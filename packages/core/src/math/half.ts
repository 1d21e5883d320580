// Half floats (IEEE 754 binary16), by tables (van der Zijp 2012), rounding to nearest even.

const f32 = new Float32Array(1);
const u32 = new Uint32Array(f32.buffer);

export function toHalf(value: number): number {
  f32[0] = value;
  const x = u32[0];
  const sign = (x >>> 16) & 0x8000;
  const magnitude = x & 0x7fffffff;
  if (magnitude >= 0x7f800000) return sign | (magnitude > 0x7f800000 ? 0x7e00 : 0x7c00);
  if (magnitude >= 0x47800000) return sign | 0x7c00; // 65536 and more
  if (magnitude < 0x38800000) {
    // subnormal half: add a float whose last bit weighs 2^-24, so that the hardware rounds
    f32[0] = (sign ? -value : value) + 0.5;
    return sign | (u32[0] - 0x3f000000);
  }

  return sign | ((magnitude - 0x38000000 + 0xfff + ((magnitude >>> 13) & 1)) >>> 13);
}

let table: Float32Array | null = null;

/** Numbers by their sixteen bits. */
export function halfTable(): Float32Array {
  if (table) return table;
  table = new Float32Array(65536);
  for (let h = 0; h < 65536; h++) {
    const e = (h >> 10) & 31;
    const m = h & 1023;
    const s = h & 0x8000 ? -1 : 1;
    if (e === 0) table[h] = s * m * 2 ** -24;
    else if (e === 31) table[h] = m ? NaN : s * Infinity;
    else table[h] = s * (1 + m / 1024) * 2 ** (e - 15);
  }

  return table;
}

export const fromHalf = (half: number): number => (table ?? halfTable())[half];

export function toHalves(values: Float32Array): Uint16Array {
  const out = new Uint16Array(values.length);
  for (let i = 0; i < values.length; i++) out[i] = toHalf(values[i]);
  return out;
}

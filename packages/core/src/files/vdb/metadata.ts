// What a file and each of its grids say of themselves.
import { ByteReader, FileError } from '../bytes';
import type { MetaValue } from './format';

/** @throws FileError where they do not fit into the file */
export function readMetadata(r: ByteReader): Record<string, MetaValue> {
  const count = r.u32('the number of metadata');
  if (count > r.left / 12) throw new FileError(`${count} metadata cannot fit in the file`, r.at - 4);
  const out: Record<string, MetaValue> = {};
  for (let i = 0; i < count; i++) {
    const key = r.text('a metadata name');
    const type = r.text('a metadata type');
    const size = r.u32('a metadata size');
    const value = new ByteReader(r.bytes(size, `metadata ${key}`));
    if (type === 'string') out[key] = new TextDecoder().decode(value.bytes(size));
    else if (type === 'bool') out[key] = value.u8() !== 0;
    else if (type === 'int32') out[key] = value.i32();
    else if (type === 'int64') out[key] = value.i64();
    else if (type === 'float') out[key] = value.f32();
    else if (type === 'double') out[key] = value.f64();
    else {
      const several = /^(?:vec([234])|mat([34])|quat)([isd])$/.exec(type);
      if (!several) continue; // of a type that only its own program knows
      const [, wide, square, scalar] = several;
      const length = wide ? Number(wide) : Number(square ?? 2) * Number(square ?? 2);
      const read = { i: () => value.i32(), s: () => value.f32(), d: () => value.f64() }[scalar]!;
      out[key] = Array.from({ length }, read);
    }
  }

  return out;
}

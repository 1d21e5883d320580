// Little-endian bytes: a writer that grows, and a reader that refuses to go past the end.

import { CoreError } from '../base/error';

/** Something wrong in a file: what, and at which byte. */
export class FileError extends CoreError {
  constructor(
    message: string,
    readonly offset?: number,
  ) {
    super('file', offset === undefined ? message : `${message} (at byte ${offset})`);
  }
}

export class ByteWriter {
  private buffer: Uint8Array;
  private view: DataView;
  length = 0;

  constructor(capacity = 1 << 16) {
    this.buffer = new Uint8Array(capacity);
    this.view = new DataView(this.buffer.buffer);
  }

  /** Makes room for n bytes and returns where; may replace buffer and view, so call it before using them. */
  private room(n: number): number {
    const at = this.length;
    if (at + n > this.buffer.length) {
      const bigger = new Uint8Array(Math.max(this.buffer.length * 2, at + n));
      bigger.set(this.buffer.subarray(0, at));
      this.buffer = bigger;
      this.view = new DataView(bigger.buffer);
    }

    this.length += n;
    return at;
  }

  u8(v: number): void {
    const at = this.room(1);
    this.view.setUint8(at, v);
  }

  u16(v: number): void {
    const at = this.room(2);
    this.view.setUint16(at, v, true);
  }

  i32(v: number): void {
    const at = this.room(4);
    this.view.setInt32(at, v, true);
  }

  u32(v: number): void {
    const at = this.room(4);
    this.view.setUint32(at, v, true);
  }

  i64(v: number): void {
    const at = this.room(8);
    this.view.setBigInt64(at, BigInt(v), true);
  }

  f32(v: number): void {
    const at = this.room(4);
    this.view.setFloat32(at, v, true);
  }

  f64(v: number): void {
    const at = this.room(8);
    this.view.setFloat64(at, v, true);
  }

  bytes(b: Uint8Array): void {
    const at = this.room(b.length);
    this.buffer.set(b, at);
  }

  ascii(text: string): void {
    this.bytes(new TextEncoder().encode(text));
  }

  /** Overwrites eight bytes written before. */
  patchI64(at: number, v: number): void {
    this.view.setBigInt64(at, BigInt(v), true);
  }

  patchI32(at: number, v: number): void {
    this.view.setInt32(at, v, true);
  }

  done(): Uint8Array {
    return this.buffer.slice(0, this.length);
  }
}

export class ByteReader {
  private readonly view: DataView;
  constructor(
    private readonly data: Uint8Array,
    public at = 0,
  ) {
    this.view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  }

  get left(): number {
    return this.data.length - this.at;
  }

  get size(): number {
    return this.data.length;
  }

  private take(n: number, what: string): number {
    if (!(n >= 0) || n > this.left) throw new FileError(`The file ends inside ${what}`, this.at);
    const at = this.at;
    this.at += n;
    return at;
  }

  u8(what = 'a byte'): number {
    return this.view.getUint8(this.take(1, what));
  }

  u16(what = 'a number'): number {
    return this.view.getUint16(this.take(2, what), true);
  }

  i32(what = 'a number'): number {
    return this.view.getInt32(this.take(4, what), true);
  }

  u32(what = 'a number'): number {
    return this.view.getUint32(this.take(4, what), true);
  }

  i64(what = 'a number'): number {
    const at = this.take(8, what);
    const v = this.view.getBigInt64(at, true);
    if (v > BigInt(Number.MAX_SAFE_INTEGER) || v < -BigInt(Number.MAX_SAFE_INTEGER))
      throw new FileError(`${what} is absurd`, at);
    return Number(v);
  }

  f32(what = 'a number'): number {
    return this.view.getFloat32(this.take(4, what), true);
  }

  f64(what = 'a number'): number {
    return this.view.getFloat64(this.take(8, what), true);
  }

  /** Goes past the next n bytes. */
  pass(n: number, what = 'data'): void {
    this.take(n, what);
  }

  /** A view of the next n bytes; nothing is copied. */
  bytes(n: number, what = 'data'): Uint8Array {
    const at = this.take(n, what);
    return this.data.subarray(at, at + n);
  }

  /** A text whose length stands before it. */
  text(what = 'a text'): string {
    const n = this.u32(`the length of ${what}`);
    if (n > this.left) throw new FileError(`The length of ${what} is absurd`, this.at - 4);
    return new TextDecoder().decode(this.bytes(n, what));
  }

  jump(to: number, what: string): void {
    if (!(to >= 0) || to > this.data.length) throw new FileError(`${what} lies outside of the file`, this.at);
    this.at = to;
  }
}

// A block of memory that kernels read as one object: where its fields lie, and how they are written.

type Setter = 'setInt32' | 'setUint32' | 'setFloat32' | 'setFloat64';

export class Struct<T extends object> {
  /**
   * @param bytes of the whole block
   * @param fields byte offset of each field, and how it is written
   */
  constructor(
    readonly bytes: number,
    private readonly fields: { readonly [K in keyof T]: readonly [offset: number, setter: Setter] },
  ) {}

  /** Writes all fields at an address; memory is read anew, as it may have grown. */
  write(memory: WebAssembly.Memory, address: number, values: T): void {
    const view = new DataView(memory.buffer, address, this.bytes);
    for (const name in this.fields) this.put(view, name, values[name]);
  }

  /** Writes one field of a block that is there already. */
  set<K extends keyof T>(memory: WebAssembly.Memory, address: number, name: K, value: number): void {
    this.put(new DataView(memory.buffer, address, this.bytes), name, value);
  }

  private put(view: DataView, name: keyof T, value: unknown): void {
    const [offset, setter] = this.fields[name];
    view[setter](offset, value as number, true);
  }
}

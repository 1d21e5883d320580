// Lists of numbers whose length is not known beforehand, held as flat as they end up.

class Growing<T extends Float32Array | Float64Array | Uint32Array> {
  length = 0;

  constructor(private values: T) {}

  /** Of what is already there. */
  at(n: number): number {
    return this.values[n];
  }

  push(v: number): void {
    if (this.length === this.values.length) {
      const more = new (this.values.constructor as new (length: number) => T)(2 * this.length);
      more.set(this.values);
      this.values = more;
    }

    this.values[this.length++] = v;
  }

  /** The values so far; of the same memory. */
  done(): T {
    return this.values.subarray(0, this.length) as T;
  }
}

const FIRST = 1024;

export type FloatList = Growing<Float32Array<ArrayBuffer>>;
export type DoubleList = Growing<Float64Array<ArrayBuffer>>;
export type IndexList = Growing<Uint32Array<ArrayBuffer>>;
export const floatList = (): FloatList => new Growing(new Float32Array(FIRST));
export const doubleList = (): DoubleList => new Growing(new Float64Array(FIRST));
export const indexList = (): IndexList => new Growing(new Uint32Array(FIRST));

// The single steps that a formula becomes, each taken once.
import type { CarriedField } from '../base/channels';

export type Op =
  | 'constant'
  | 'field'
  | 'faces'
  | 'place'
  | 'add'
  | 'sub'
  | 'mul'
  | 'div'
  | 'min'
  | 'max'
  | 'less'
  | 'upto'
  | 'same'
  | 'choose'
  | 'abs'
  | 'sqrt'
  | 'floor'
  | 'sin'
  | 'cos'
  | 'exp'
  | 'log'
  | 'pow'
  | 'noise'
  | 'curl'
  | 'curlPart';
/** One step: a number for each voxel, from earlier ones. */
export interface Operation {
  readonly op: Op;
  readonly from: readonly number[];
  /** Of a constant its value, or what it is at the time. */
  readonly value?: number | 'time' | 'step' | 'frame' | 'voxel';
  /** Of a field: which; of a place or a face: the axis. */
  readonly field?: FieldName;
  readonly axis?: number;
  readonly seed?: number;
  readonly period?: number;
}
export type FieldName = CarriedField | 'pushX' | 'pushY' | 'pushZ';

export const MOST_STEPS = 500;

/** Where in the text something is wrong. */
export class FormulaError extends Error {
  constructor(
    readonly place: { start: number; end: number },
    message: string,
  ) {
    super(message);
  }
}

/** A list of steps in the making. */
export class Steps {
  readonly list: Operation[] = [];
  /** The same step is not taken twice. */
  private readonly known = new Map<string, number>();

  /** @param length of the text, characters */
  constructor(private readonly length: number) {}

  step(one: Operation): number {
    const key = JSON.stringify(one);
    const known = this.known.get(key);
    if (known !== undefined) return known;
    if (this.list.length >= MOST_STEPS)
      throw new FormulaError(
        { start: 0, end: this.length },
        `This takes more than ${MOST_STEPS} steps a voxel: too much. Split it into two formulas.`,
      );
    this.known.set(key, this.list.push(one) - 1);
    return this.list.length - 1;
  }

  number(value: number | 'time' | 'step' | 'frame' | 'voxel'): number {
    return this.step({ op: 'constant', from: [], value });
  }

  do(op: Op, ...from: number[]): number {
    const values = from
      .map((n) => this.list[n])
      .map((s) => (s.op === 'constant' && typeof s.value === 'number' ? s.value : NaN));
    const folded = { add: values[0] + values[1], sub: values[0] - values[1], mul: values[0] * values[1] }[
      op as 'add'
    ];
    if (folded !== undefined && Number.isFinite(folded)) return this.number(Math.fround(folded));
    return this.step({ op, from });
  }
}

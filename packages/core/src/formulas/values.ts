// Numbers and vectors in the making, with their units: what goes together, and what becomes of it.
import type { Node } from 'acorn';
import { FormulaError, type Steps } from './steps';
import { divisor, nameOf, over, PLAIN, same, times, toThe, type Dimension } from './units';

/**
 * A number or a vector in the making. unit null: a bare number, which fits any unit where it is added or
 * compared.
 */
export interface Value {
  readonly parts: readonly number[];
  readonly unit: Dimension | null;
}

/** A unit as sentences say it. */
export const withUnit = (unit: Dimension): string =>
  same(unit, PLAIN) ? 'a plain number' : `in ${nameOf(unit)}`;

/** How to get from one unit to the other; nothing where there is no known way. */
export function hint(from: Dimension, to: Dimension): string {
  const way = divisor(from, to);
  return way ? `: ${way}` : '';
}

export class Arithmetic {
  constructor(readonly steps: Steps) {}

  one(v: Value, node: Node): number {
    if (v.parts.length !== 1)
      throw new FormulaError(
        node,
        'One number is wanted here, this is a vector: take .x, .y, .z or length(…).',
      );
    return v.parts[0];
  }

  /** Two values part by part, in one unit. */
  alike(a: Value, b: Value, node: Node): [readonly number[], readonly number[], Dimension | null] {
    if (a.unit && b.unit && !same(a.unit, b.unit))
      throw new FormulaError(
        node,
        `${withUnit(a.unit)} and ${withUnit(b.unit)} do not go together${hint(b.unit, a.unit)}.`,
      );
    const size = Math.max(a.parts.length, b.parts.length);
    const wide = (v: Value): readonly number[] =>
      v.parts.length === size ? v.parts : Array.from({ length: size }, () => v.parts[0]);
    return [wide(a), wide(b), a.unit ?? b.unit];
  }

  combine(operator: '+' | '-' | '*' | '/' | string, a: Value, b: Value, node: Node): Value {
    if (operator === '+' || operator === '-') {
      const [x, y, unit] = this.alike(a, b, node);
      return { parts: x.map((p, n) => this.steps.do(operator === '+' ? 'add' : 'sub', p, y[n])), unit };
    }

    const bare = a.unit === null && b.unit === null;
    const [x, y] = this.alike({ ...a, unit: null }, { ...b, unit: null }, node);
    const joined = operator === '*' ? times : over;
    const unit = bare ? null : joined(a.unit ?? PLAIN, b.unit ?? PLAIN);
    return { parts: x.map((p, n) => this.steps.do(operator === '*' ? 'mul' : 'div', p, y[n])), unit };
  }

  power(a: Value, b: Value, node: Node): Value {
    const n = this.one(b, node);
    const { value } = this.steps.list[n];
    if (b.unit && !same(b.unit, PLAIN))
      throw new FormulaError(
        node,
        `A power is a plain number, this is in ${nameOf(b.unit)}${hint(b.unit, PLAIN)}.`,
      );
    if (typeof value === 'number' && Number.isInteger(value) && value > 0 && value <= 4) {
      const parts = a.parts.map((p) =>
        Array.from({ length: value - 1 }).reduce<number>((q) => this.steps.do('mul', q, p), p),
      );
      return { parts, unit: a.unit && toThe(a.unit, value) };
    }

    if (a.unit && !same(a.unit, PLAIN) && typeof value !== 'number')
      throw new FormulaError(node, `What is in ${nameOf(a.unit)} needs a power that is a number.`);
    return {
      parts: a.parts.map((p) => this.steps.do('pow', p, n)),
      unit: a.unit && typeof value === 'number' ? toThe(a.unit, value) : a.unit,
    };
  }

  long(v: Value): Value {
    const squares = v.parts.map((p) => this.steps.do('mul', p, p));
    return {
      parts: [
        this.steps.do(
          'sqrt',
          squares.reduce((a, b) => this.steps.do('add', a, b)),
        ),
      ],
      unit: v.unit,
    };
  }
}

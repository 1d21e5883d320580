// What the functions of formulas come to, in single steps.
import type { CallExpression, Node } from 'acorn';
import { FormulaError, type Op } from './steps';
import { nameOf, PLAIN, same, toThe, type Dimension } from './units';
import { hint, withUnit, type Arithmetic, type Value } from './values';

/**
 * @param node where it is called, for faults
 * @param given what it is called with: as many values as it takes
 * @throws FormulaError where they are of a kind that it does not take
 */
export function callFunction(
  name: string,
  node: CallExpression,
  given: readonly Value[],
  arithmetic: Arithmetic,
): Value {
  const { steps } = arithmetic;
  const at = (n: number): Node => node.arguments[n];
  const plain = (n: number): Value => {
    const { unit } = given[n];
    if (unit && !same(unit, PLAIN))
      throw new FormulaError(
        at(n),
        `A plain number is wanted here, this is in ${nameOf(unit)}${hint(unit, PLAIN)}.`,
      );
    return given[n];
  };

  const each = (op: Op, unit: Dimension | null): Value => ({
    parts: given[0].parts.map((p) => steps.do(op, p)),
    unit,
  });
  const vector = (n: number): Value => {
    if (given[n].parts.length !== 3)
      throw new FormulaError(at(n), 'A vector is wanted here, such as velocity or vec(x, y, z).');
    return given[n];
  };

  /** A value that must be known before the run: a seed, a period. */
  const fixed = (n: number, otherwise: number): number => {
    if (given.length <= n) return otherwise;
    const { value } = steps.list[arithmetic.one(given[n], at(n))];
    if (typeof value !== 'number')
      throw new FormulaError(at(n), 'A number is wanted here that is the same everywhere and at all times.');
    return value;
  };

  switch (name) {
    case 'clamp': {
      const [a, low, unit] = arithmetic.alike(given[0], given[1], node);
      const raised = { parts: a.map((p, n) => steps.do('max', p, low[n])), unit };
      const [b, high, both] = arithmetic.alike(raised, given[2], node);
      return { parts: b.map((p, n) => steps.do('min', p, high[n])), unit: both };
    }
    case 'min':
    case 'max': {
      const [a, b, unit] = arithmetic.alike(given[0], given[1], node);
      return { parts: a.map((p, n) => steps.do(name as Op, p, b[n])), unit };
    }
    case 'mix': {
      const [a, b, unit] = arithmetic.alike(given[0], given[1], node);
      const t = arithmetic.one(plain(2), at(2));
      return {
        parts: a.map((p, n) => steps.do('add', p, steps.do('mul', t, steps.do('sub', b[n], p)))),
        unit,
      };
    }
    case 'smoothstep': {
      const [low, high, unit] = arithmetic.alike(given[0], given[1], node);
      const [a, from] = arithmetic.alike(given[2], { parts: low, unit }, node);
      const parts = a.map((p, n) => {
        const share = steps.do(
          'div',
          steps.do('sub', p, from[n]),
          steps.do('sub', high[n] ?? high[0], from[n]),
        );
        const t = steps.do('min', steps.do('max', share, steps.number(0)), steps.number(1));
        return steps.do(
          'mul',
          steps.do('mul', t, t),
          steps.do('sub', steps.number(3), steps.do('add', t, t)),
        );
      });
      return { parts, unit: PLAIN };
    }
    case 'abs':
    case 'floor':
      return each(name, given[0].unit);
    case 'fract':
      return {
        parts: given[0].parts.map((p) => steps.do('sub', p, steps.do('floor', p))),
        unit: given[0].unit,
      };
    case 'sign': {
      const zero = steps.number(0);
      return {
        parts: given[0].parts.map((p) =>
          steps.do('sub', steps.do('less', zero, p), steps.do('less', p, zero)),
        ),
        unit: PLAIN,
      };
    }
    case 'sqrt':
      return each('sqrt', given[0].unit && toThe(given[0].unit, 0.5));
    case 'pow':
      return arithmetic.power(given[0], given[1], at(1));
    case 'exp':
    case 'log':
    case 'sin':
    case 'cos':
      plain(0);
      return each(name, PLAIN);
    case 'vec': {
      const parts = given.map((v, n) => arithmetic.one(v, at(n)));
      const units = given.map((v) => v.unit).filter((u): u is Dimension => u !== null);
      const odd = given.findIndex((v) => v.unit !== null && !same(v.unit, units[0]));
      if (odd >= 0)
        throw new FormulaError(
          at(odd),
          `${withUnit(units[0])} and ${withUnit(given[odd].unit!)} do not go into one vector.`,
        );
      return { parts, unit: units[0] ?? null };
    }
    case 'length':
      return arithmetic.long(vector(0));
    case 'normalize': {
      const long = arithmetic.long(vector(0)).parts[0];
      return { parts: given[0].parts.map((p) => steps.do('div', p, long)), unit: PLAIN };
    }
    case 'dot': {
      const products = vector(0).parts.map((p, n) => steps.do('mul', p, vector(1).parts[n]));
      return {
        parts: [products.reduce((a, b) => steps.do('add', a, b))],
        unit: arithmetic.combine('*', given[0], given[1], node).unit,
      };
    }
    case 'cross': {
      const [a, b] = [vector(0).parts, vector(1).parts];
      const parts = [1, 2, 0].map((m, n) => {
        const l = [2, 0, 1][n];
        return steps.do('sub', steps.do('mul', a[m], b[l]), steps.do('mul', a[l], b[m]));
      });
      return { parts, unit: arithmetic.combine('*', given[0], given[1], node).unit };
    }
    case 'noise':
    case 'curlnoise': {
      const place = vector(0).parts;
      if (given[0].unit && !same(given[0].unit, PLAIN) && !same(given[0].unit, [1, 0, 0]))
        throw new FormulaError(at(0), `A place is wanted here, this is in ${nameOf(given[0].unit)}.`);
      const seed = Math.trunc(fixed(2, 1));
      if (name === 'noise') {
        const change = given.length > 1 ? arithmetic.one(given[1], at(1)) : steps.number(0);
        return { parts: [steps.step({ op: 'noise', from: [...place, change], seed })], unit: PLAIN };
      }

      const whirl = steps.step({ op: 'curl', from: [...place], seed, period: fixed(1, 0) });
      return {
        parts: [0, 1, 2].map((axis) => steps.step({ op: 'curlPart', from: [whirl], axis })),
        unit: PLAIN,
      };
    }

    default:
      throw new FormulaError(node.callee, `${name} cannot be worked out.`);
  }
}

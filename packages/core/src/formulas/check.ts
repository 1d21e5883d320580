// From a formula's text to a list of single steps on numbers: reads it, checks names, types and units, and
// points at the place where something is wrong. Only arithmetic gets through; nothing of the text is ever run
// as a program.
import { CHANNELS } from '../base/channels';
import {
  parse,
  type AssignmentExpression,
  type BinaryExpression,
  type CallExpression,
  type Expression,
  type Node,
} from 'acorn';
import { distance } from 'fastest-levenshtein';
import { CALLS, VARIABLES, CONSTANTS, GIVEN, type FormulaKeep, type Moment } from './language';
import { callFunction } from './functions';
import { FormulaError, Steps, type FieldName, type Operation } from './steps';
import { nameOf, PLAIN, same } from './units';
import { Arithmetic, hint, withUnit, type Value } from './values';

/** Where in the text something is wrong, and what to do. */
export interface FormulaFault {
  readonly from: number;
  readonly to: number;
  readonly message: string;
}
export interface Write {
  readonly field: FieldName;
  readonly value: number;
}
/** A formula that is well formed. */
export interface Checked {
  readonly steps: readonly Operation[];
  readonly writes: readonly Write[];
  /** What its last line is worth; −1 where that writes. */
  readonly value: number;
}
export interface CheckOptions {
  /** When it is worked out; null: it may write nothing and has to give one plain number. */
  readonly moment: Moment | null;
  /** What the run keeps. */
  readonly keep: FormulaKeep;
}
export type CheckResult =
  { readonly ok: true; readonly checked: Checked } | { readonly ok: false; readonly fault: FormulaFault };

export const MOST_CHARACTERS = 2000;
const MOST_DEPTH = 40;

export function check(text: string, options: CheckOptions): CheckResult {
  const wrong = (from: number, to: number, message: string): CheckResult => ({
    ok: false,
    fault: { from, to, message },
  });
  if (text.length > MOST_CHARACTERS)
    return wrong(
      MOST_CHARACTERS,
      text.length,
      `A formula has at most ${MOST_CHARACTERS} characters; this has ${text.length}.`,
    );
  if (text.trim() === '')
    return wrong(0, text.length, 'The formula is empty. Try density = clamp(density, 0, 1)');
  const deep = tooDeep(text);
  if (deep >= 0)
    return wrong(
      deep,
      deep + 1,
      `This is nested deeper than ${MOST_DEPTH} times. Give parts of it names on lines of their own.`,
    );
  let lines: readonly Node[];
  try {
    lines = parse(text, { ecmaVersion: 2020 }).body;
  } catch (error) {
    return wrong(...unread(text, error as Error & { pos?: number }));
  }

  try {
    return { ok: true, checked: new Checker(text, options).all(lines) };
  } catch (error) {
    if (error instanceof FormulaError) return wrong(error.place.start, error.place.end, error.message);
    throw error;
  }
}

/** Where brackets, signs or choices pile up; −1 where they do not. A parser must not meet such text. */
function tooDeep(text: string): number {
  let depth = 0;
  let run = 0;
  for (let n = 0; n < text.length; n++) {
    const c = text[n];
    if ('([{'.includes(c)) depth++;
    if (')]}'.includes(c)) depth--;
    if (c === '?' || c === '=') run += 4;
    else if ('+-!~*/'.includes(c)) run++;
    else if (c === '\n' || c === ';') run = 0;
    else if (!/\s/.test(c)) run = Math.max(0, run - 1);
    if (depth > MOST_DEPTH || run > 4 * MOST_DEPTH) return n;
  }

  return -1;
}

function unread(text: string, error: Error & { pos?: number }): [number, number, string] {
  const at = Math.min(error.pos ?? 0, text.length);
  const rest = text.slice(at);
  if (rest.trim() === '')
    return [
      Math.max(0, text.trimEnd().length - 1),
      text.length,
      'The formula ends too early: something is missing here.',
    ];
  const word = /^(\w+|\S)/.exec(rest)?.[0] ?? rest[0];
  if (/^[²³°·×÷−]/.test(rest))
    return [
      at,
      at + 1,
      `“${word}” cannot be typed here: use ** for powers, * for times, / for parts, - for minus.`,
    ];
  return [at, at + word.length, `“${word}” is not expected here.`];
}

class Checker {
  private readonly steps: Steps;
  private readonly arithmetic: Arithmetic;
  private readonly names = new Map<string, Value>();
  private readonly writes = new Map<FieldName, number>();
  /** What channels hold after what was written so far. */
  private readonly now = new Map<string, Value>();

  constructor(
    private readonly text: string,
    private readonly options: CheckOptions,
  ) {
    this.steps = new Steps(text.length);
    this.arithmetic = new Arithmetic(this.steps);
  }

  all(lines: readonly Node[]): Checked {
    let last: Value | null = null;
    for (const line of lines) {
      if (line.type === 'EmptyStatement') continue;
      if (line.type !== 'ExpressionStatement')
        throw new FormulaError(
          line,
          'Only lines like density = density * 0.5 can stand here, or a name of your own: edge = ' +
            'smoothstep(0, 0.2, density).',
        );
      const { expression } = line as unknown as { expression: Expression };
      if (expression.type === 'AssignmentExpression') {
        this.assign(expression);
        last = null;
      } else {
        if (this.options.moment !== null)
          throw new FormulaError(expression, 'This line changes nothing. Say what it writes: density = …');
        last = this.value(expression);
        if (last.parts.length !== 1)
          throw new FormulaError(
            expression,
            'One number is wanted here, this is a vector: take .x, .y, .z or length(…).',
          );
        if (last.unit && !same(last.unit, PLAIN))
          throw new FormulaError(
            expression,
            `A plain number is wanted here, this is in ${nameOf(last.unit)}${hint(last.unit, PLAIN)}.`,
          );
      }
    }

    const place = { start: 0, end: this.text.length };
    if (this.options.moment === null && !last)
      throw new FormulaError(
        place,
        'The last line has to be a number from 0 to 1, such as smoothstep(0, 1, density).',
      );
    if (this.options.moment !== null && this.writes.size === 0)
      throw new FormulaError(
        place,
        `It writes no channel: begin a line with ${VARIABLES.map((c) => c.name).join(', ')}.`,
      );
    return {
      steps: this.steps.list,
      writes: [...this.writes].map(([field, value]) => ({ field, value })),
      value: last ? last.parts[0] : -1,
    };
  }

  // What is written
  // ---------------------------------------------------------------------------------------------------

  private assign(node: AssignmentExpression): void {
    const { left, right, operator } = node;
    if (left.type !== 'Identifier')
      throw new FormulaError(
        left,
        left.type === 'MemberExpression'
          ? 'Write all of a vector at once: velocity = vec(0, velocity.y, 0).'
          : 'A channel’s name has to stand here.',
      );
    const op = { '=': null, '+=': '+', '-=': '-', '*=': '*', '/=': '/' }[operator as '='];
    if (op === undefined)
      throw new FormulaError(node, `“${operator}” cannot be used: take =, +=, -=, *= or /=.`);
    const given =
      op === null
        ? this.value(right)
        : this.arithmetic.combine(op, this.value(left), this.value(right), node);
    const channel = VARIABLES.find((c) => c.name === left.name);
    if (!channel) {
      if ([...GIVEN, ...CONSTANTS, ...CALLS].some((w) => w.name === left.name))
        throw new FormulaError(left, `${left.name} is given and cannot be written.`);
      this.names.set(left.name, given);
      return;
    }

    const { moment, keep } = this.options;
    if (moment === null)
      throw new FormulaError(left, 'Nothing can be written here: only a number from 0 to 1 is worked out.');
    if (channel.written.length === 0)
      throw new FormulaError(left, `${channel.name} is given and cannot be written.`);
    if (!channel.written.includes(moment))
      throw new FormulaError(
        left,
        `${channel.name} can be written with the forces only: choose that moment.`,
      );
    if (channel.keep && !keep[channel.keep])
      throw new FormulaError(left, `The run does not carry ${channel.name}: turn it on under Keep.`);
    if (given.parts.length > channel.size)
      throw new FormulaError(
        right,
        `${channel.name} is one number, this is a vector: take .x, .y, .z or length(…).`,
      );
    if (given.unit && !same(given.unit, channel.unit))
      throw new FormulaError(
        right,
        `${channel.name} is ${withUnit(channel.unit)}, this is ` +
          `${withUnit(given.unit)}${hint(given.unit, channel.unit)}.`,
      );
    const parts =
      channel.size === 3 && given.parts.length === 1
        ? [given.parts[0], given.parts[0], given.parts[0]]
        : given.parts;
    if (
      channel.size === 3 &&
      given.parts.length === 1 &&
      channel.name !== 'colour' &&
      !this.isNothing(given.parts[0])
    )
      throw new FormulaError(right, `${channel.name} is a vector: vec(x, y, z).`);
    this.write(channel.name, { parts, unit: channel.unit });
  }

  private isNothing(part: number): boolean {
    return this.steps.list[part].op === 'constant' && this.steps.list[part].value === 0;
  }

  private write(name: string, value: Value): void {
    this.now.set(name, value);
    if (name === 'density' || name === 'temperature') this.writes.set(name, value.parts[0]);
    else if (name === 'push')
      (['pushX', 'pushY', 'pushZ'] as const).forEach((f, a) => this.writes.set(f, value.parts[a]));
    else if (name === 'velocity') {
      // what is missing to the speed that is wanted, as a push over the substep
      const step = this.steps.number('step');
      const push = this.read('push');
      const air = [0, 1, 2].map((axis) => this.steps.step({ op: 'faces', from: [], axis }));
      const parts = push.parts.map((p, a) =>
        this.steps.do('add', p, this.steps.do('div', this.steps.do('sub', value.parts[a], air[a]), step)),
      );
      this.write('push', { parts, unit: push.unit });
    }

    // colour and age lie in memory as amounts, so that they mix by mass
    const density = (): number => this.read('density').parts[0];
    if (name === 'age') this.writes.set('age', this.steps.do('mul', value.parts[0], density()));
    if (name === 'colour')
      CHANNELS.colour.fields.forEach((f, a) =>
        this.writes.set(f, this.steps.do('mul', value.parts[a], density())),
      );
    if (name === 'density')
      for (const other of ['colour', 'age'] as const)
        if (this.options.keep[other]) this.write(other, this.now.get(other) ?? this.before(other));
  }

  // What is read
  // ------------------------------------------------------------------------------------------------------

  /** A channel as it was when the formula began. */
  private before(name: string): Value {
    const field = (f: FieldName): number => this.steps.step({ op: 'field', from: [], field: f });
    const share = (f: FieldName): number => this.steps.do('div', field(f), field('density'));
    const { unit } = VARIABLES.find((c) => c.name === name)!;
    switch (name) {
      case 'velocity':
        return { parts: [0, 1, 2].map((axis) => this.steps.step({ op: 'faces', from: [], axis })), unit };
      case 'push':
        return { parts: (['pushX', 'pushY', 'pushZ'] as const).map(field), unit };
      case 'colour':
        return { parts: CHANNELS.colour.fields.map(share), unit };
      case 'age':
        return { parts: [share('age')], unit };
      case 'deposit':
        // it lies in memory as density times voxels
        return { parts: [this.steps.do('mul', field('deposit'), this.steps.number('voxel'))], unit };
      default:
        return { parts: [field(name as FieldName)], unit };
    }
  }

  private read(name: string): Value {
    return this.now.get(name) ?? this.before(name);
  }

  private named(node: { name: string; start: number; end: number }): Value {
    const { name } = node;
    const own = this.names.get(name);
    if (own) return own;
    const channel = VARIABLES.find((c) => c.name === name);
    if (channel) {
      if (channel.keep && !this.options.keep[channel.keep])
        throw new FormulaError(
          node,
          channel.keep === 'deposit'
            ? 'Nothing settles and lies in this run: let the medium fall, under Settling.'
            : `The run does not carry ${name}: turn it on under Keep.`,
        );
      if (name === 'push' && this.options.moment !== 'pushed')
        throw new FormulaError(node, 'push is there with the forces only: choose that moment.');
      return this.read(name);
    }

    const constant = CONSTANTS.find((c) => c.name === name);
    if (constant) return { parts: [this.steps.number(Math.fround(constant.value))], unit: constant.unit };
    const given = GIVEN.find((g) => g.name === name);
    const place = (axis: number): number => this.steps.step({ op: 'place', from: [], axis });
    if (given?.name === 'position') return { parts: [0, 1, 2].map(place), unit: given.unit };
    if (given && 'xyz'.includes(name)) return { parts: [place('xyz'.indexOf(name))], unit: given.unit };
    if (given?.name === 'speed') return this.arithmetic.long(this.read('velocity'));
    if (given) return { parts: [this.steps.number(name as 'time')], unit: given.unit };
    throw new FormulaError(
      node,
      `There is nothing called ${name}${this.nearest(
        name,
        [...VARIABLES, ...GIVEN, ...CONSTANTS].map((w) => w.name),
      )}`,
    );
  }

  private nearest(name: string, among: readonly string[]): string {
    const all = [...among, ...this.names.keys()];
    const call = CALLS.find((c) => c.name === name);
    if (call && !among.includes(name)) return `: it is a function, ${call.usage}.`;
    const [best] = all
      .map((w) => ({ w, d: distance(w.toLowerCase(), name.toLowerCase()) }))
      .sort((a, b) => a.d - b.d);
    return best.d <= Math.max(1, name.length / 3)
      ? `. Did you mean ${best.w}?`
      : `. There are: ${among.join(', ')}.`;
  }

  private value(
    node: Expression | AssignmentExpression['left'] | CallExpression['arguments'][number],
  ): Value {
    switch (node.type) {
      case 'Literal':
        if (typeof node.value !== 'number')
          throw new FormulaError(node, 'Only numbers and names can stand here.');
        return { parts: [this.steps.number(Math.fround(node.value))], unit: null };
      case 'Identifier':
        return this.named(node);
      case 'ParenthesizedExpression':
        return this.value(node.expression);
      case 'UnaryExpression': {
        const v = this.value(node.argument);
        if (node.operator === '+') return v;
        if (node.operator === '-')
          return { ...v, parts: v.parts.map((p) => this.steps.do('sub', this.steps.number(0), p)) };
        if (node.operator === '!')
          return {
            parts: [this.steps.do('same', this.arithmetic.one(v, node.argument), this.steps.number(0))],
            unit: PLAIN,
          };
        throw new FormulaError(node, `“${node.operator}” cannot be used in a formula.`);
      }
      case 'BinaryExpression':
        return this.binary(node);
      case 'LogicalExpression': {
        const [a, b] = [
          this.arithmetic.one(this.value(node.left), node.left),
          this.arithmetic.one(this.value(node.right), node.right),
        ].map((p) =>
          this.steps.do('sub', this.steps.number(1), this.steps.do('same', p, this.steps.number(0))),
        );
        if (node.operator === '??') throw new FormulaError(node, '“??” cannot be used in a formula.');
        return { parts: [this.steps.do(node.operator === '&&' ? 'min' : 'max', a, b)], unit: PLAIN };
      }
      case 'ConditionalExpression': {
        const test = this.arithmetic.one(this.value(node.test), node.test);
        const [a, b, unit] = this.arithmetic.alike(
          this.value(node.consequent),
          this.value(node.alternate),
          node,
        );
        return { parts: a.map((p, n) => this.steps.do('choose', test, p, b[n])), unit };
      }
      case 'MemberExpression': {
        const of = this.value(node.object as Expression);
        const name = node.property.type === 'Identifier' && !node.computed ? node.property.name : '';
        const axis = 'xyz'.indexOf(name);
        if (name.length !== 1 || axis < 0)
          throw new FormulaError(node.property, 'Only .x, .y and .z can be taken of a vector.');
        if (of.parts.length !== 3) throw new FormulaError(node, `This is one number and has no .${name}.`);
        return { parts: [of.parts[axis]], unit: of.unit };
      }
      case 'CallExpression':
        return this.call(node);
      case 'AssignmentExpression':
        throw new FormulaError(node, 'Only one = a line. To compare, use ==.');
      default:
        throw new FormulaError(
          node,
          'Only arithmetic can stand here: numbers, names, + − * / and functions.',
        );
    }
  }

  private binary(node: BinaryExpression): Value {
    if (node.left.type === 'PrivateIdentifier')
      throw new FormulaError(node.left, 'A name cannot begin with #.');
    const a = this.value(node.left);
    const b = this.value(node.right);
    switch (node.operator) {
      case '+':
      case '-':
      case '*':
      case '/':
        return this.arithmetic.combine(node.operator, a, b, node);
      case '%': {
        const [x, y, unit] = this.arithmetic.alike(a, b, node);
        return {
          parts: x.map((p, n) =>
            this.steps.do(
              'sub',
              p,
              this.steps.do('mul', y[n], this.steps.do('floor', this.steps.do('div', p, y[n]))),
            ),
          ),
          unit,
        };
      }
      case '**':
        return this.arithmetic.power(a, b, node.right);
      case '<':
      case '>':
      case '<=':
      case '>=':
      case '==':
      case '!=':
      case '===':
      case '!==': {
        const [x, y] = this.arithmetic.alike(a, b, node);
        if (x.length > 1)
          throw new FormulaError(node, 'Vectors cannot be compared: take .x, .y, .z or length(…).');
        const { operator } = node;
        if (operator.startsWith('<'))
          return { parts: [this.steps.do(operator === '<' ? 'less' : 'upto', x[0], y[0])], unit: PLAIN };
        if (operator.startsWith('>'))
          return { parts: [this.steps.do(operator === '>' ? 'less' : 'upto', y[0], x[0])], unit: PLAIN };
        const equal = this.steps.do('same', x[0], y[0]);
        return {
          parts: [operator.startsWith('=') ? equal : this.steps.do('sub', this.steps.number(1), equal)],
          unit: PLAIN,
        };
      }
      case '^':
        throw new FormulaError(node, 'For powers use **, or pow(a, n).');
      default:
        throw new FormulaError(node, `“${node.operator}” cannot be used in a formula.`);
    }
  }

  private call(node: CallExpression): Value {
    const { callee } = node;
    if (callee.type !== 'Identifier')
      throw new FormulaError(callee, 'Only functions by their names can be called.');
    const known = CALLS.find((c) => c.name === callee.name);
    if (!known)
      throw new FormulaError(
        callee,
        `There is no function ${callee.name}${this.nearest(
          callee.name,
          CALLS.map((c) => c.name),
        )}`,
      );
    if (node.arguments.length < known.least || node.arguments.length > known.most)
      throw new FormulaError(
        node,
        `It is ${known.usage}; here ` +
          `${node.arguments.length === 1 ? 'is one value' : `are ${node.arguments.length} values`}.`,
      );
    return callFunction(
      known.name,
      node,
      node.arguments.map((a) => this.value(a)),
      this.arithmetic,
    );
  }
}

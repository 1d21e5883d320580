// From a formula's text to a list of single steps on numbers: reads it, checks names, types and units, and
// points at the place where something is wrong. Only arithmetic gets through; nothing of the text is ever run
// as a program.
import { CHANNELS, type CarriedField } from '../base/channels';
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
import { divisor, nameOf, over, PLAIN, same, times, toThe, type Dimension } from './units';

/** Where in the text something is wrong, and what to do. */
export interface FormulaFault {
  readonly from: number;
  readonly to: number;
  readonly message: string;
}
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
export const MOST_STEPS = 500;
const MOST_DEPTH = 40;

class FormulaError extends Error {
  constructor(
    readonly place: { start: number; end: number },
    message: string,
  ) {
    super(message);
  }
}

/**
 * A number or a vector in the making. unit null: a bare number, which fits any unit where it is added or
 * compared.
 */
interface Value {
  readonly parts: readonly number[];
  readonly unit: Dimension | null;
}

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
  private readonly steps: Operation[] = [];
  /** The same step is not taken twice. */
  private readonly known = new Map<string, number>();
  private readonly names = new Map<string, Value>();
  private readonly writes = new Map<FieldName, number>();
  /** What channels hold after what was written so far. */
  private readonly now = new Map<string, Value>();

  constructor(
    private readonly text: string,
    private readonly options: CheckOptions,
  ) {}

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
      steps: this.steps,
      writes: [...this.writes].map(([field, value]) => ({ field, value })),
      value: last ? last.parts[0] : -1,
    };
  }

  private step(one: Operation): number {
    const key = JSON.stringify(one);
    const known = this.known.get(key);
    if (known !== undefined) return known;
    if (this.steps.length >= MOST_STEPS)
      throw new FormulaError(
        { start: 0, end: this.text.length },
        `This takes more than ${MOST_STEPS} steps a voxel: too much. Split it into two formulas.`,
      );
    this.known.set(key, this.steps.push(one) - 1);
    return this.steps.length - 1;
  }

  private number(value: number | 'time' | 'step' | 'frame' | 'voxel'): number {
    return this.step({ op: 'constant', from: [], value });
  }

  private do(op: Op, ...from: number[]): number {
    const values = from
      .map((n) => this.steps[n])
      .map((s) => (s.op === 'constant' && typeof s.value === 'number' ? s.value : NaN));
    const folded = { add: values[0] + values[1], sub: values[0] - values[1], mul: values[0] * values[1] }[
      op as 'add'
    ];
    if (folded !== undefined && Number.isFinite(folded)) return this.number(Math.fround(folded));
    return this.step({ op, from });
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
      op === null ? this.value(right) : this.arithmetic(op, this.value(left), this.value(right), node);
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
    return this.steps[part].op === 'constant' && this.steps[part].value === 0;
  }

  private write(name: string, value: Value): void {
    this.now.set(name, value);
    if (name === 'density' || name === 'temperature') this.writes.set(name, value.parts[0]);
    else if (name === 'push')
      (['pushX', 'pushY', 'pushZ'] as const).forEach((f, a) => this.writes.set(f, value.parts[a]));
    else if (name === 'velocity') {
      // what is missing to the speed that is wanted, as a push over the substep
      const step = this.number('step');
      const push = this.read('push');
      const air = [0, 1, 2].map((axis) => this.step({ op: 'faces', from: [], axis }));
      const parts = push.parts.map((p, a) =>
        this.do('add', p, this.do('div', this.do('sub', value.parts[a], air[a]), step)),
      );
      this.write('push', { parts, unit: push.unit });
    }

    // colour and age lie in memory as amounts, so that they mix by mass
    const density = (): number => this.read('density').parts[0];
    if (name === 'age') this.writes.set('age', this.do('mul', value.parts[0], density()));
    if (name === 'colour')
      CHANNELS.colour.fields.forEach((f, a) => this.writes.set(f, this.do('mul', value.parts[a], density())));
    if (name === 'density')
      for (const other of ['colour', 'age'] as const)
        if (this.options.keep[other]) this.write(other, this.now.get(other) ?? this.before(other));
  }

  // What is read
  // ------------------------------------------------------------------------------------------------------

  /** A channel as it was when the formula began. */
  private before(name: string): Value {
    const field = (f: FieldName): number => this.step({ op: 'field', from: [], field: f });
    const share = (f: FieldName): number => this.do('div', field(f), field('density'));
    const { unit } = VARIABLES.find((c) => c.name === name)!;
    switch (name) {
      case 'velocity':
        return { parts: [0, 1, 2].map((axis) => this.step({ op: 'faces', from: [], axis })), unit };
      case 'push':
        return { parts: (['pushX', 'pushY', 'pushZ'] as const).map(field), unit };
      case 'colour':
        return { parts: CHANNELS.colour.fields.map(share), unit };
      case 'age':
        return { parts: [share('age')], unit };
      case 'deposit':
        // it lies in memory as density times voxels
        return { parts: [this.do('mul', field('deposit'), this.number('voxel'))], unit };
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
    if (constant) return { parts: [this.number(Math.fround(constant.value))], unit: constant.unit };
    const given = GIVEN.find((g) => g.name === name);
    const place = (axis: number): number => this.step({ op: 'place', from: [], axis });
    if (given?.name === 'position') return { parts: [0, 1, 2].map(place), unit: given.unit };
    if (given && 'xyz'.includes(name)) return { parts: [place('xyz'.indexOf(name))], unit: given.unit };
    if (given?.name === 'speed') return this.long(this.read('velocity'));
    if (given) return { parts: [this.number(name as 'time')], unit: given.unit };
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
        return { parts: [this.number(Math.fround(node.value))], unit: null };
      case 'Identifier':
        return this.named(node);
      case 'ParenthesizedExpression':
        return this.value(node.expression);
      case 'UnaryExpression': {
        const v = this.value(node.argument);
        if (node.operator === '+') return v;
        if (node.operator === '-')
          return { ...v, parts: v.parts.map((p) => this.do('sub', this.number(0), p)) };
        if (node.operator === '!')
          return { parts: [this.do('same', this.one(v, node.argument), this.number(0))], unit: PLAIN };
        throw new FormulaError(node, `“${node.operator}” cannot be used in a formula.`);
      }
      case 'BinaryExpression':
        return this.binary(node);
      case 'LogicalExpression': {
        const [a, b] = [
          this.one(this.value(node.left), node.left),
          this.one(this.value(node.right), node.right),
        ].map((p) => this.do('sub', this.number(1), this.do('same', p, this.number(0))));
        if (node.operator === '??') throw new FormulaError(node, '“??” cannot be used in a formula.');
        return { parts: [this.do(node.operator === '&&' ? 'min' : 'max', a, b)], unit: PLAIN };
      }
      case 'ConditionalExpression': {
        const test = this.one(this.value(node.test), node.test);
        const [a, b, unit] = this.alike(this.value(node.consequent), this.value(node.alternate), node);
        return { parts: a.map((p, n) => this.do('choose', test, p, b[n])), unit };
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

  private one(v: Value, node: Node): number {
    if (v.parts.length !== 1)
      throw new FormulaError(
        node,
        'One number is wanted here, this is a vector: take .x, .y, .z or length(…).',
      );
    return v.parts[0];
  }

  /** Two values part by part, in one unit. */
  private alike(a: Value, b: Value, node: Node): [readonly number[], readonly number[], Dimension | null] {
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
        return this.arithmetic(node.operator, a, b, node);
      case '%': {
        const [x, y, unit] = this.alike(a, b, node);
        return {
          parts: x.map((p, n) =>
            this.do('sub', p, this.do('mul', y[n], this.do('floor', this.do('div', p, y[n])))),
          ),
          unit,
        };
      }
      case '**':
        return this.power(a, b, node.right);
      case '<':
      case '>':
      case '<=':
      case '>=':
      case '==':
      case '!=':
      case '===':
      case '!==': {
        const [x, y] = this.alike(a, b, node);
        if (x.length > 1)
          throw new FormulaError(node, 'Vectors cannot be compared: take .x, .y, .z or length(…).');
        const { operator } = node;
        if (operator.startsWith('<'))
          return { parts: [this.do(operator === '<' ? 'less' : 'upto', x[0], y[0])], unit: PLAIN };
        if (operator.startsWith('>'))
          return { parts: [this.do(operator === '>' ? 'less' : 'upto', y[0], x[0])], unit: PLAIN };
        const equal = this.do('same', x[0], y[0]);
        return {
          parts: [operator.startsWith('=') ? equal : this.do('sub', this.number(1), equal)],
          unit: PLAIN,
        };
      }
      case '^':
        throw new FormulaError(node, 'For powers use **, or pow(a, n).');
      default:
        throw new FormulaError(node, `“${node.operator}” cannot be used in a formula.`);
    }
  }

  private arithmetic(operator: '+' | '-' | '*' | '/' | string, a: Value, b: Value, node: Node): Value {
    if (operator === '+' || operator === '-') {
      const [x, y, unit] = this.alike(a, b, node);
      return { parts: x.map((p, n) => this.do(operator === '+' ? 'add' : 'sub', p, y[n])), unit };
    }

    const bare = a.unit === null && b.unit === null;
    const [x, y] = this.alike({ ...a, unit: null }, { ...b, unit: null }, node);
    const joined = operator === '*' ? times : over;
    const unit = bare ? null : joined(a.unit ?? PLAIN, b.unit ?? PLAIN);
    return { parts: x.map((p, n) => this.do(operator === '*' ? 'mul' : 'div', p, y[n])), unit };
  }

  private power(a: Value, b: Value, node: Node): Value {
    const n = this.one(b, node);
    const { value } = this.steps[n];
    if (b.unit && !same(b.unit, PLAIN))
      throw new FormulaError(
        node,
        `A power is a plain number, this is in ${nameOf(b.unit)}${hint(b.unit, PLAIN)}.`,
      );
    if (typeof value === 'number' && Number.isInteger(value) && value > 0 && value <= 4) {
      const parts = a.parts.map((p) =>
        Array.from({ length: value - 1 }).reduce<number>((q) => this.do('mul', q, p), p),
      );
      return { parts, unit: a.unit && toThe(a.unit, value) };
    }

    if (a.unit && !same(a.unit, PLAIN) && typeof value !== 'number')
      throw new FormulaError(node, `What is in ${nameOf(a.unit)} needs a power that is a number.`);
    return {
      parts: a.parts.map((p) => this.do('pow', p, n)),
      unit: a.unit && typeof value === 'number' ? toThe(a.unit, value) : a.unit,
    };
  }

  private long(v: Value): Value {
    const squares = v.parts.map((p) => this.do('mul', p, p));
    return {
      parts: [
        this.do(
          'sqrt',
          squares.reduce((a, b) => this.do('add', a, b)),
        ),
      ],
      unit: v.unit,
    };
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
    const given = node.arguments.map((a) => this.value(a));
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
      parts: given[0].parts.map((p) => this.do(op, p)),
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
      const { value } = this.steps[this.one(given[n], at(n))];
      if (typeof value !== 'number')
        throw new FormulaError(
          at(n),
          'A number is wanted here that is the same everywhere and at all times.',
        );
      return value;
    };

    switch (known.name) {
      case 'clamp': {
        const [a, low, unit] = this.alike(given[0], given[1], node);
        const raised = { parts: a.map((p, n) => this.do('max', p, low[n])), unit };
        const [b, high, both] = this.alike(raised, given[2], node);
        return { parts: b.map((p, n) => this.do('min', p, high[n])), unit: both };
      }
      case 'min':
      case 'max': {
        const [a, b, unit] = this.alike(given[0], given[1], node);
        return { parts: a.map((p, n) => this.do(known.name as Op, p, b[n])), unit };
      }
      case 'mix': {
        const [a, b, unit] = this.alike(given[0], given[1], node);
        const t = this.one(plain(2), at(2));
        return {
          parts: a.map((p, n) => this.do('add', p, this.do('mul', t, this.do('sub', b[n], p)))),
          unit,
        };
      }
      case 'smoothstep': {
        const [low, high, unit] = this.alike(given[0], given[1], node);
        const [a, from] = this.alike(given[2], { parts: low, unit }, node);
        const parts = a.map((p, n) => {
          const share = this.do(
            'div',
            this.do('sub', p, from[n]),
            this.do('sub', high[n] ?? high[0], from[n]),
          );
          const t = this.do('min', this.do('max', share, this.number(0)), this.number(1));
          return this.do('mul', this.do('mul', t, t), this.do('sub', this.number(3), this.do('add', t, t)));
        });
        return { parts, unit: PLAIN };
      }
      case 'abs':
      case 'floor':
        return each(known.name, given[0].unit);
      case 'fract':
        return {
          parts: given[0].parts.map((p) => this.do('sub', p, this.do('floor', p))),
          unit: given[0].unit,
        };
      case 'sign': {
        const zero = this.number(0);
        return {
          parts: given[0].parts.map((p) =>
            this.do('sub', this.do('less', zero, p), this.do('less', p, zero)),
          ),
          unit: PLAIN,
        };
      }
      case 'sqrt':
        return each('sqrt', given[0].unit && toThe(given[0].unit, 0.5));
      case 'pow':
        return this.power(given[0], given[1], at(1));
      case 'exp':
      case 'log':
      case 'sin':
      case 'cos':
        plain(0);
        return each(known.name, PLAIN);
      case 'vec': {
        const parts = given.map((v, n) => this.one(v, at(n)));
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
        return this.long(vector(0));
      case 'normalize': {
        const long = this.long(vector(0)).parts[0];
        return { parts: given[0].parts.map((p) => this.do('div', p, long)), unit: PLAIN };
      }
      case 'dot': {
        const products = vector(0).parts.map((p, n) => this.do('mul', p, vector(1).parts[n]));
        return {
          parts: [products.reduce((a, b) => this.do('add', a, b))],
          unit: this.arithmetic('*', given[0], given[1], node).unit,
        };
      }
      case 'cross': {
        const [a, b] = [vector(0).parts, vector(1).parts];
        const parts = [1, 2, 0].map((m, n) => {
          const l = [2, 0, 1][n];
          return this.do('sub', this.do('mul', a[m], b[l]), this.do('mul', a[l], b[m]));
        });
        return { parts, unit: this.arithmetic('*', given[0], given[1], node).unit };
      }
      case 'noise':
      case 'curlnoise': {
        const place = vector(0).parts;
        if (given[0].unit && !same(given[0].unit, PLAIN) && !same(given[0].unit, [1, 0, 0]))
          throw new FormulaError(at(0), `A place is wanted here, this is in ${nameOf(given[0].unit)}.`);
        const seed = Math.trunc(fixed(2, 1));
        if (known.name === 'noise') {
          const change = given.length > 1 ? this.one(given[1], at(1)) : this.number(0);
          return { parts: [this.step({ op: 'noise', from: [...place, change], seed })], unit: PLAIN };
        }

        const whirl = this.step({ op: 'curl', from: [...place], seed, period: fixed(1, 0) });
        return {
          parts: [0, 1, 2].map((axis) => this.step({ op: 'curlPart', from: [whirl], axis })),
          unit: PLAIN,
        };
      }

      default:
        throw new FormulaError(callee, `${known.name} cannot be worked out.`);
    }
  }
}

const withUnit = (unit: Dimension): string => (same(unit, PLAIN) ? 'a plain number' : `in ${nameOf(unit)}`);

function hint(from: Dimension, to: Dimension): string {
  const way = divisor(from, to);
  return way ? `: ${way}` : '';
}

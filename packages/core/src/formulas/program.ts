// From checked steps to what the kernel runs (formula.ts there): instructions over a few registers.
import {
  FormulaInstructionStruct,
  FormulaOp,
  type FormulaInstructionFields,
} from '@bramblemist/kernels/seam';
import type { Checked } from './check';
import type { FieldName, Operation } from './steps';

/** Bytes of a register: sixty-four voxels. */
const REGISTER = 256;
export const INSTRUCTION_BYTES = FormulaInstructionStruct.bytes;

export interface Instruction {
  readonly op: Exclude<Operation['op'], 'curlPart'> | 'store';
  /** Registers. */
  readonly to: number;
  readonly from: readonly number[];
  readonly step: Operation | null;
  /** Of a store: where to. */
  readonly field?: FieldName | 'result';
}
export interface Program {
  readonly instructions: readonly Instruction[];
  readonly registers: number;
  /** Seeds and periods of its curl noises, in their order: each needs a table of gradients. */
  readonly curls: readonly { readonly seed: number; readonly period: number }[];
}

/** Puts steps into as few registers as the life of their values allows. */
export function assemble({ steps, writes, value }: Checked): Program {
  const stores: { field: FieldName | 'result'; value: number }[] =
    value >= 0 ? [{ field: 'result', value }] : [...writes];
  const wanted = new Set<number>();
  const want = (n: number): void => {
    if (wanted.has(n)) return;
    wanted.add(n);
    steps[n].from.forEach(want);
  };

  stores.forEach((s) => want(s.value));
  const last = new Map<number, number>();
  const owner = (n: number): number => (steps[n].op === 'curlPart' ? steps[n].from[0] : n);
  steps.forEach((s, n) => wanted.has(n) && s.from.forEach((f) => last.set(owner(f), n)));
  steps.forEach((s, n) => {
    if (wanted.has(n) && s.op === 'curlPart')
      last.set(s.from[0], Math.max(last.get(s.from[0]) ?? n, last.get(n) ?? n));
  });
  // everything is stored at the end, so what is stored lives to the end
  stores.forEach((s) => last.set(owner(s.value), Infinity));

  const free: number[] = [];
  const place = new Map<number, number>();
  const instructions: Instruction[] = [];
  const curls: { seed: number; period: number }[] = [];
  let registers = 0;
  const take = (many: number): number => {
    if (many === 1 && free.length > 0) return free.pop()!;
    registers += many;
    return registers - many;
  };

  const registerOf = (n: number): number =>
    steps[n].op === 'curlPart' ? place.get(steps[n].from[0])! + steps[n].axis! : place.get(n)!;
  steps.forEach((step, n) => {
    if (!wanted.has(n) || step.op === 'curlPart') return;
    const from = step.from.map(registerOf);
    const to = take(step.op === 'curl' ? 3 : 1);
    place.set(n, to);
    if (step.op === 'curl') curls.push({ seed: step.seed!, period: step.period! });
    instructions.push({ op: step.op, to, from, step });
    for (const f of new Set(step.from.map(owner)))
      if (last.get(f) === n)
        free.push(...(steps[f].op === 'curl' ? [0, 1, 2] : [0]).map((m) => place.get(f)! + m));
  });
  for (const s of stores)
    instructions.push({ op: 'store', to: 0, from: [registerOf(s.value)], step: null, field: s.field });
  return { instructions, registers, curls };
}

/** Bytes that the registers of one worker's planes take. */
export const registerBytes = (p: Program): number => p.registers * REGISTER;

export interface Bindings {
  readonly values: Readonly<Record<'time' | 'step' | 'frame' | 'voxel', number>>;
  /** Addresses of the fields; of the faces also how many bytes on the next one lies. */
  readonly field: (name: FieldName | 'result') => number;
  readonly faces: readonly { readonly address: number; readonly next: number }[];
  /** Of a store how far it counts: address of a field, 0: all. */
  readonly weight: number;
  /** Address of the table of gradients of the n-th curl noise. */
  readonly table: (n: number) => number;
}

/** Writes the instructions where the kernel reads them. */
export function encode(program: Program, memory: WebAssembly.Memory, address: number, bind: Bindings): void {
  let curls = 0;
  program.instructions.forEach((instruction, n) => {
    const { op, to, from, field } = instruction;
    const [a = 0, b = 0, c = 0, d = 0] = from.map((register) => register * REGISTER);
    const plain = { op: FormulaOp[numberOf(op)], to: to * REGISTER, a, b, c, d, word: 0, value: 0 };
    FormulaInstructionStruct.write(memory, address + n * INSTRUCTION_BYTES, {
      ...plain,
      ...(op === 'store'
        ? { to: bind.field(field!), b: bind.weight }
        : bound(instruction.step!, bind, curls)),
    });
    if (op === 'curl') curls++;
  });
}

const numberOf = <Op extends Instruction['op']>(op: Op): Uppercase<Op> => op.toUpperCase() as Uppercase<Op>;

/** What a step reads besides its registers. @param curls curl noises before it */
function bound(step: Operation, bind: Bindings, curls: number): Partial<FormulaInstructionFields> {
  switch (step.op) {
    case 'constant':
      return { value: typeof step.value === 'number' ? step.value : bind.values[step.value!] };
    case 'field':
      return { a: bind.field(step.field!) };
    case 'place':
      return { word: step.axis! };
    case 'noise':
      return { word: step.seed! };
    case 'faces':
      return { a: bind.faces[step.axis!].address, word: bind.faces[step.axis!].next };
    case 'curl':
      return { d: bind.table(curls), word: step.seed! };
    default:
      return {};
  }
}

// From checked steps to what the kernel runs (formula.ts there): instructions over a few registers.
import type { Checked, FieldName, Step } from './check';

const OPS = {
  constant: 0,
  field: 1,
  faces: 2,
  place: 3,
  add: 4,
  sub: 5,
  mul: 6,
  div: 7,
  min: 8,
  max: 9,
  less: 10,
  upto: 11,
  same: 12,
  choose: 13,
  abs: 14,
  sqrt: 15,
  floor: 16,
  sin: 17,
  cos: 18,
  exp: 19,
  log: 20,
  pow: 21,
  noise: 22,
  curl: 23,
  store: 24,
} as const;

/** Bytes of a register: sixty-four voxels; and of an instruction. */
const REGISTER = 256;
export const INSTRUCTION_BYTES = 32;

export interface Instruction {
  readonly op: keyof typeof OPS;
  /** Registers. */
  readonly to: number;
  readonly from: readonly number[];
  readonly step: Step | null;
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
  const view = new DataView(memory.buffer, address, program.instructions.length * INSTRUCTION_BYTES);
  let curl = 0;
  program.instructions.forEach(({ op, to, from, step, field }, n) => {
    const at = n * INSTRUCTION_BYTES;
    const word = (w: number, value: number): void => view.setInt32(at + 4 * w, value, true);
    word(0, OPS[op]);
    word(1, op === 'store' ? bind.field(field!) : to * REGISTER);
    from.forEach((r, m) => word(2 + m, r * REGISTER));
    if (op === 'store') word(3, bind.weight);
    if (!step) return;
    if (op === 'constant')
      view.setFloat32(at + 28, typeof step.value === 'number' ? step.value : bind.values[step.value!], true);
    if (op === 'field') word(2, bind.field(step.field!));
    if (op === 'place') word(6, step.axis!);
    if (op === 'noise') word(6, step.seed!);
    if (op === 'faces') {
      word(2, bind.faces[step.axis!].address);
      word(6, bind.faces[step.axis!].next);
    }

    if (op === 'curl') {
      word(5, bind.table(curl++));
      word(6, step.seed!);
    }
  });
}

// The workers that run kernels together. One of them leads: it says which kernel, with which arguments, over
// how many planes; all (the lead too) take slabs from a shared counter until none is left. Slabs have a fixed
// size and reductions are kept a plane each, so results do not depend on how many work. A helper that is
// asleep or held up elsewhere is not waited for: an order is open until its slabs are taken, and the lead
// waits only for those who came in before it closed.
import { CoreError } from '../base/error';
import {
  PARAMETERS,
  type KernelArguments,
  type KernelName,
  type SlabArguments,
  type SlabKernelName,
} from '@bramblemist/kernels/seam';
import { COMMAND_BYTE } from './memory';

/** Slots of the command block, 32-bit words from COMMAND_BYTE; arguments are doubles 64 bytes on. */
const GENERATION = 0;
const NEXT = 1;
const PLANES = 2;
const SLAB = 3;
const KERNEL = 4;
const ARGUMENTS = 5;
/** How many helpers are inside the open order. */
const INSIDE = 6;
const QUIT = 7;
/** The generation of the order that may be entered; 0 when none may. */
const OPEN = 8;
const ARGUMENT_BYTE = COMMAND_BYTE + 64;
const MAX_ARGUMENTS = 32;
/** Looks at the counter before sleeping: about twenty microseconds, longer than most pauses inside a step. */
const SPINS = 4000;

/** Arguments in the order in which the kernel takes them; undefined where they are not told. */
function valuesOf<K extends KernelName>(kernel: K, args: object): number[] {
  return PARAMETERS[kernel].map((name) => (args as Record<string, number>)[name as string]);
}

type KernelFunction = (...values: number[]) => number;
export type Kernels = Readonly<Record<string, KernelFunction>>;

/** Kernel names in the one order that all workers share. */
function kernelNames(module: WebAssembly.Module): string[] {
  return WebAssembly.Module.exports(module)
    .filter((e) => e.kind === 'function')
    .map((e) => e.name)
    .sort();
}

function instantiate(module: WebAssembly.Module, memory: WebAssembly.Memory): Kernels {
  return new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as Kernels;
}

/** Shared memory of so many pages; its ceiling is the kernels' (4 GiB of addresses, taken only as used). */
export function createMemory(pages: number): WebAssembly.Memory {
  try {
    return new WebAssembly.Memory({ initial: pages, maximum: 65536, shared: true });
  } catch {
    throw outOfMemory(pages);
  }
}

function outOfMemory(pages: number): CoreError {
  return new CoreError(
    'memory',
    `This machine has no ${(pages / 16384).toFixed(1)} GiB of memory to give. Use larger voxels or a ` +
      'smaller space, or close other programs.',
  );
}

/** Takes slabs of the current order until none is left. */
function takeSlabs(words: Int32Array, values: number[], kernel: KernelFunction): void {
  const planes = words[PLANES];
  const slab = words[SLAB];
  const n = values.length;
  for (;;) {
    const k0 = Atomics.add(words, NEXT, 1) * slab;
    if (k0 >= planes) return;
    values[n] = k0;
    values[n + 1] = Math.min(k0 + slab, planes);
    kernel(...values);
    values.length = n;
  }
}

/** What a worker that does not lead does all its life; returns when the lead closes the thread pool. */
export function serveThreadPool(module: WebAssembly.Module, memory: WebAssembly.Memory): void {
  const kernels = instantiate(module, memory);
  const names = kernelNames(module);
  const words = new Int32Array(memory.buffer, COMMAND_BYTE, 16);
  const shared = new Float64Array(memory.buffer, ARGUMENT_BYTE, MAX_ARGUMENTS);
  let seen = 0;
  for (;;) {
    let spins = 0;
    let now: number;
    while ((now = Atomics.load(words, GENERATION)) === seen)
      if (++spins > SPINS) Atomics.wait(words, GENERATION, seen);
    seen = now;
    if (Atomics.load(words, QUIT)) return;
    // first in, then a look whether it is still open: the lead closes first and then looks who is in, so one
    // sees the other
    Atomics.add(words, INSIDE, 1);
    if (Atomics.load(words, OPEN) === seen) {
      takeSlabs(words, Array.from(shared.subarray(0, words[ARGUMENTS])), kernels[names[words[KERNEL]]]);
    }

    Atomics.sub(words, INSIDE, 1);
    Atomics.notify(words, INSIDE);
  }
}

/** The lead's side. */
export class ThreadPool {
  private readonly kernels: Kernels;
  private readonly index = new Map<string, number>();
  private readonly words: Int32Array;
  private readonly shared: Float64Array;
  private generation = 0;

  /**
   * @param helpers how many workers run `serve` on this memory
   */
  constructor(
    readonly module: WebAssembly.Module,
    readonly memory: WebAssembly.Memory,
    readonly helpers: number,
  ) {
    this.kernels = instantiate(module, memory);
    kernelNames(module).forEach((name, i) => this.index.set(name, i));
    this.words = new Int32Array(memory.buffer, COMMAND_BYTE, 16);
    this.shared = new Float64Array(memory.buffer, ARGUMENT_BYTE, MAX_ARGUMENTS);
  }

  /**
   * Runs a kernel over a range that is handed out in slabs: 0…planes, so many at a time. Its last two
   * arguments, the range, are added here.
   */
  run<K extends SlabKernelName>(kernel: K, planes: number, slab: number, args: SlabArguments[K]): void {
    const { words } = this;
    const values = valuesOf(kernel, args);
    values.length -= 2;
    words[PLANES] = planes;
    words[SLAB] = slab;
    words[KERNEL] = this.index.get(kernel)!;
    words[ARGUMENTS] = values.length;
    for (let i = 0; i < values.length; i++) this.shared[i] = values[i];
    words[NEXT] = 0;
    if (this.helpers === 0) return takeSlabs(words, values.slice(), this.kernels[kernel]);
    this.generation = (this.generation % 0x3fffffff) + 1;
    Atomics.store(words, OPEN, this.generation);
    Atomics.store(words, GENERATION, this.generation);
    Atomics.notify(words, GENERATION);
    takeSlabs(words, values.slice(), this.kernels[kernel]);
    Atomics.store(words, OPEN, 0);
    let spins = 0;
    let inside: number;
    while ((inside = Atomics.load(words, INSIDE)) > 0)
      if (++spins > SPINS) Atomics.wait(words, INSIDE, inside);
  }

  /** Grows the memory where it is smaller; views taken before stay valid over what they covered. */
  ensurePages(pages: number): void {
    const missing = pages - this.memory.buffer.byteLength / 65536;
    if (missing <= 0) return;
    try {
      this.memory.grow(missing);
    } catch {
      throw outOfMemory(pages);
    }
  }

  /** Runs a kernel here alone, over the range that is told. */
  solo<K extends KernelName>(kernel: K, args: KernelArguments[K]): number {
    return this.kernels[kernel](...valuesOf(kernel, args));
  }

  /** Lets the helpers return. */
  close(): void {
    Atomics.store(this.words, QUIT, 1);
    Atomics.store(this.words, GENERATION, ++this.generation);
    Atomics.notify(this.words, GENERATION);
  }
}

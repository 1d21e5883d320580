// Formulas: a list of instructions over registers of sixty-four voxels of a row (core/formulas/program.ts
// writes it). One pass of an instruction goes over the whole block, so that choosing what to do costs little
// beside doing it.
import { row } from './common';
import { curlAt, curlX, curlY, curlZ } from './noise';
import { valueNoise4 } from './patterns';

const enum FormulaOp {
  CONSTANT = 0,
  FIELD = 1,
  FACES = 2,
  PLACE = 3,
  ADD = 4,
  SUB = 5,
  MUL = 6,
  DIV = 7,
  MIN = 8,
  MAX = 9,
  LESS = 10,
  UPTO = 11,
  SAME = 12,
  CHOOSE = 13,
  ABS = 14,
  SQRT = 15,
  FLOOR = 16,
  SIN = 17,
  COS = 18,
  EXP = 19,
  LOG = 20,
  POW = 21,
  NOISE = 22,
  CURL = 23,
  STORE = 24,
}


@unmanaged
class FormulaInstruction {
  op: i32;
  /** Registers as byte offsets; of a field its address. */
  to: i32;
  a: i32;
  b: i32;
  c: i32;
  d: i32;
  /** A seed, an axis, a stride in bytes; a table of gradients. */
  word: i32;
  value: f32;
}

/** Bytes of an instruction, floats of a register. */
const SIZE = 32;
const BLOCK = 64;


@unmanaged
class FormulaProgram {
  code: usize;
  count: i32;
  /** One set of registers for each slab of this many planes, bytes of a set. */
  registers: usize;
  setBytes: i32;
  slab: i32;
  /** Place of the window's corner, m; voxel size. */
  x: f32;
  y: f32;
  z: f32;
  h: f32;
}

/** Runs a program over every voxel of the planes. */
export function runFormula(
  program: usize,
  nx: i32,
  ny: i32,
  rowStride: i32,
  planeStride: i32,
  k0: i32,
  k1: i32,
): void {
  const G = changetype<FormulaProgram>(program);
  const set = G.registers + <usize>(k0 / G.slab) * G.setBytes;
  const end = G.code + <usize>G.count * SIZE;
  for (let k = k0; k < k1; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i += BLOCK) {
        const o = row(0, j, k, rowStride, planeStride) + ((<usize>i) << 2);
        const bytes = (<usize>min(BLOCK, nx - i)) << 2;
        for (let at = G.code; at < end; at += SIZE)
          step(G, changetype<FormulaInstruction>(at), set, o, bytes, i, j, k);
      }
}

/** A place for a noise: a number, and one whose cell has a number too. */
// @ts-ignore: decorator
@inline
function near(at: usize): f32 {
  const x = load<f32>(at);
  return x == x ? min<f32>(max<f32>(x, -1e6), 1e6) : 0;
}

// @ts-ignore: decorator
@inline
function near4(at: usize): v128 {
  const x = v128.load(at);
  const within = f32x4.pmin(f32x4.pmax(x, f32x4.splat(-1e6)), f32x4.splat(1e6));
  return v128.and(within, f32x4.eq(x, x));
}

function step(
  G: FormulaProgram,
  I: FormulaInstruction,
  set: usize,
  o: usize,
  bytes: usize,
  i: i32,
  j: i32,
  k: i32,
): void {
  const to = set + <usize>I.to;
  const a = set + <usize>I.a;
  const b = set + <usize>I.b;
  const c = set + <usize>I.c;
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  switch (I.op) {
    case FormulaOp.CONSTANT: {
      const v = f32x4.splat(I.value);
      for (let n: usize = 0; n < bytes; n += 16) v128.store(to + n, v);
      break;
    }
    case FormulaOp.FIELD:
      memory.copy(to, <usize>I.a + o, bytes);
      break;
    case FormulaOp.FACES: {
      const half = f32x4.splat(0.5);
      const from = <usize>I.a + o;
      const next = from + <usize>I.word;
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, f32x4.mul(half, f32x4.add(v128.load(from + n), v128.load(next + n))));
      break;
    }
    case FormulaOp.PLACE: {
      if (I.word == 0) {
        for (let n: usize = 0; n < bytes; n += 4)
          store<f32>(to + n, G.x + (<f32>(i + <i32>(n >> 2)) + <f32>0.5) * G.h);
        break;
      }

      const v = f32x4.splat(I.word == 1 ? G.y + (<f32>j + <f32>0.5) * G.h : G.z + (<f32>k + <f32>0.5) * G.h);
      for (let n: usize = 0; n < bytes; n += 16) v128.store(to + n, v);
      break;
    }
    case FormulaOp.ADD:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, f32x4.add(v128.load(a + n), v128.load(b + n)));
      break;
    case FormulaOp.SUB:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, f32x4.sub(v128.load(a + n), v128.load(b + n)));
      break;
    case FormulaOp.MUL:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, f32x4.mul(v128.load(a + n), v128.load(b + n)));
      break;
    // by nothing gives nothing, so that a ratio of two channels is safe where there is no medium
    case FormulaOp.DIV:
      for (let n: usize = 0; n < bytes; n += 16) {
        const y = v128.load(b + n);
        v128.store(to + n, v128.and(f32x4.div(v128.load(a + n), y), f32x4.ne(y, zero)));
      }

      break;
    case FormulaOp.MIN:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, f32x4.pmin(v128.load(a + n), v128.load(b + n)));
      break;
    case FormulaOp.MAX:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, f32x4.pmax(v128.load(a + n), v128.load(b + n)));
      break;
    case FormulaOp.LESS:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, v128.and(one, f32x4.lt(v128.load(a + n), v128.load(b + n))));
      break;
    case FormulaOp.UPTO:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, v128.and(one, f32x4.le(v128.load(a + n), v128.load(b + n))));
      break;
    case FormulaOp.SAME:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, v128.and(one, f32x4.eq(v128.load(a + n), v128.load(b + n))));
      break;
    case FormulaOp.CHOOSE:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(
          to + n,
          v128.bitselect(v128.load(b + n), v128.load(c + n), f32x4.ne(v128.load(a + n), zero)),
        );
      break;
    case FormulaOp.ABS:
      for (let n: usize = 0; n < bytes; n += 16) v128.store(to + n, f32x4.abs(v128.load(a + n)));
      break;
    case FormulaOp.SQRT:
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, f32x4.sqrt(f32x4.pmax(v128.load(a + n), zero)));
      break;
    case FormulaOp.FLOOR:
      for (let n: usize = 0; n < bytes; n += 16) v128.store(to + n, f32x4.floor(v128.load(a + n)));
      break;
    case FormulaOp.SIN:
      for (let n: usize = 0; n < bytes; n += 4)
        store<f32>(to + n, <f32>NativeMath.sin(<f64>load<f32>(a + n)));
      break;
    case FormulaOp.COS:
      for (let n: usize = 0; n < bytes; n += 4)
        store<f32>(to + n, <f32>NativeMath.cos(<f64>load<f32>(a + n)));
      break;
    case FormulaOp.EXP:
      for (let n: usize = 0; n < bytes; n += 4)
        store<f32>(to + n, <f32>NativeMath.exp(<f64>load<f32>(a + n)));
      break;
    case FormulaOp.LOG:
      for (let n: usize = 0; n < bytes; n += 4)
        store<f32>(to + n, <f32>NativeMath.log(<f64>load<f32>(a + n)));
      break;
    case FormulaOp.POW:
      for (let n: usize = 0; n < bytes; n += 4)
        store<f32>(to + n, <f32>NativeMath.pow(<f64>load<f32>(a + n), <f64>load<f32>(b + n)));
      break;
    case FormulaOp.NOISE: {
      const d = set + <usize>I.d;
      for (let n: usize = 0; n < bytes; n += 16)
        v128.store(to + n, valueNoise4(near4(a + n), near4(b + n), near4(c + n), near4(d + n), I.word));
      break;
    }
    case FormulaOp.CURL: {
      // three registers one behind the other
      for (let n: usize = 0; n < bytes; n += 4) {
        curlAt(<usize>I.d, I.word, <f64>near(a + n), <f64>near(b + n), <f64>near(c + n));
        store<f32>(to + n, curlX);
        store<f32>(to + (BLOCK << 2) + n, curlY);
        store<f32>(to + (BLOCK << 3) + n, curlZ);
      }

      break;
    }
    case FormulaOp.STORE: {
      // what is no number leaves the voxel as it was
      const f = <usize>I.to + o;
      const weight = <usize>I.b;
      for (let n: usize = 0; n < bytes; n += 16) {
        const old = v128.load(f + n);
        const wanted = v128.load(a + n);
        const by = f32x4.sub(wanted, old);
        const next = weight ? f32x4.add(old, f32x4.mul(v128.load(weight + o + n), by)) : wanted;
        v128.store(f + n, v128.bitselect(next, old, f32x4.eq(f32x4.sub(by, by), zero)));
      }

      break;
    }
  }
}

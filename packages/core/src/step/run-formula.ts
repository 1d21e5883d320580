// Runs a formula's program over the window.
import { FormulaProgramStruct } from '@bramblemist/kernels/seam';
import { extent, SLAB, named } from '../grid/sweep';

import { channelField, type SimulationState } from './state';
import { encode, registerBytes, type Program } from '../formulas/program';

/**
 * @param weight address of a field by which what is written counts; 0: wholly
 * @param result address of the field that a formula which is worth a number goes to
 */
export function runFormula(state: SimulationState, program: Program, weight: number, result = 0): void {
  const { threadPool, layout, window } = state;
  const l = window.lattice;
  const h = window.voxelSizeM;
  const midS = state.timeS + state.dtS / 2;
  program.curls.forEach(({ seed, period }, n) =>
    threadPool.solo('gradientTable', {
      table: layout.formula.tables[n],
      seed,
      turns: period > 0 ? midS / period : 0,
    }),
  );
  encode(program, threadPool.memory, layout.formula.code, {
    values: { time: midS, step: state.dtS, frame: state.frame, voxel: h },
    field: (name) => {
      if (name === 'result') return result;
      if (name.startsWith('push')) return layout.acceleration['XYZ'.indexOf(name[4])].address;
      return channelField(state, name as 'density')!.address;
    },
    faces: layout.velocity.map((f, axis) => ({
      address: f.address,
      next: [4, l.rowStride * 4, l.planeStride * 4][axis],
    })),
    weight,
    table: (n) => layout.formula.tables[n],
  });
  FormulaProgramStruct.write(threadPool.memory, layout.formula.block, {
    code: layout.formula.code,
    count: program.instructions.length,
    registers: layout.formula.registers,
    setBytes: registerBytes(program),
    slab: SLAB,
    ...named(
      ['x', 'y', 'z'],
      window.origin.map((o) => o * h),
    ),
    h,
  });
  threadPool.run('runFormula', l.nz, SLAB, { program: layout.formula.block, ...extent(l) });
}

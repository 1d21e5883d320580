// Runs a formula's program over the window.
import { shape, SLAB } from '../grid/sweep';
import { Words } from '../geometry/shape';
import { channelField, type StepState } from './state';
import { encode, registerBytes, type Program } from '../formulas/program';

/**
 * @param weight address of a field by which what is written counts; 0: wholly
 * @param result address of the field that a formula which is worth a number goes to
 */
export function work(state: StepState, program: Program, weight: number, result = 0): void {
  const { team, layout, window } = state;
  const l = window.lattice;
  const h = window.voxelSizeM;
  const midS = state.timeS + state.dtS / 2;
  const [, , , P, PP] = shape(l);
  program.curls.forEach(({ seed, period }, n) =>
    team.solo('gradientTable', layout.formula.tables[n], seed, period > 0 ? midS / period : 0),
  );
  encode(program, team.memory, layout.formula.code, {
    values: { time: midS, step: state.dtS, frame: state.frame, voxel: h },
    field: (name) => {
      if (name === 'result') return result;
      if (name.startsWith('push')) return layout.acceleration['XYZ'.indexOf(name[4])].address;
      return channelField(state, name as 'density')!.address;
    },
    faces: layout.velocity.map((f, axis) => ({ address: f.address, next: [4, P * 4, PP * 4][axis] })),
    weight,
    table: (n) => layout.formula.tables[n],
  });
  new Words(new DataView(team.memory.buffer), layout.formula.block)
    .ints(
      layout.formula.code,
      program.instructions.length,
      layout.formula.registers,
      registerBytes(program),
      SLAB,
    )
    .floats(...window.origin.map((o) => o * h), h);
  team.run('formula', l.nz, SLAB, layout.formula.block, l.nx, l.ny, P, PP);
}

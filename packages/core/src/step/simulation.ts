// A run: memory laid out and filled once, then frame after frame through the pipeline, with readings of each.
import { readField, type Field } from '../grid/memory';
import type { Team } from '../grid/team';
import { coarsenFaces, writeFaces } from '../obstacles/faces';
import { takeReadings, type Readings } from '../readings/readings';
import type { Plan } from './compile';
import { STAGES, substepLength, type Stage } from './pipeline';
import { describeLevels, layOut, reduce, sites, StepTrouble, type Layout, type StepState } from './state';

/** Milliseconds a stage took in the last frame. */
export type PhaseTimes = Record<Stage['name'], number>;

export interface FrameReport {
  readonly frame: number;
  readonly readings: Readings;
  readonly phasesMs: PhaseTimes;
}

export const CHANNELS = ['density', 'temperature', 'velocityX', 'velocityY', 'velocityZ'] as const;
export type Channel = (typeof CHANNELS)[number];

export class Simulation {
  private readonly state: StepState;
  private readonly timeOrigin: number;

  /**
   * @param team a team whose memory holds at least `Simulation.pages(plan)` pages, all zero
   */
  constructor(
    readonly plan: Plan,
    readonly team: Team,
  ) {
    const layout = layOut(plan.window.lattice, team.helpers + 1);
    this.state = {
      plan,
      team,
      layout,
      frame: plan.frames.first - 1,
      substep: 0,
      timeS: 0,
      dtS: plan.frameS,
      topSpeeds: [0, 0, 0],
      solve: { iterations: 0, before: 0, left: 0, met: true },
    };
    this.timeOrigin = plan.recipe.space.firstFrame;
    describeLevels(layout, plan.sides, team.memory);
    writeFaces(plan, layout, team.memory);
    coarsenFaces(team, layout);
  }

  /** Wasm pages a run of this plan needs with so many threads. */
  static pages(plan: Plan, threads: number): number {
    return layOut(plan.window.lattice, threads).pages;
  }

  /** The last finished frame; one before the first at the start. */
  get frame(): number {
    return this.state.frame;
  }

  get layout(): Layout {
    return this.state.layout;
  }

  /**
   * Simulates the next frame.
   * @throws StepTrouble where a field stops being finite; the fields then hold nothing of use
   */
  advanceFrame(): FrameReport {
    const { state, plan } = this;
    const phasesMs: PhaseTimes = { emission: 0, transport: 0, forces: 0, projection: 0 };
    const start = performance.now();
    state.frame++;
    state.substep = 0;
    const startS = (state.frame - this.timeOrigin) * plan.frameS;
    let rest = plan.frameS,
      iterations = 0,
      worstLeft = 0,
      cfl = 0,
      capped = false,
      unmet = 0;
    while (rest > 1e-9 * plan.frameS) {
      const choice = substepLength(state, rest);
      capped ||= choice.capped;
      state.dtS = choice.dtS;
      state.timeS = startS + plan.frameS - rest;
      for (const stage of STAGES) {
        const t = performance.now();
        stage.run(state);
        phasesMs[stage.name] += performance.now() - t;
      }
      rest = rest - choice.dtS > 1e-9 * plan.frameS ? rest - choice.dtS : 0;
      state.substep++;
      iterations = Math.max(iterations, state.solve.iterations);
      worstLeft = Math.max(worstLeft, state.solve.left);
      cfl = Math.max(cfl, (Math.max(...state.topSpeeds) * choice.dtS) / plan.window.voxelSizeM);
      if (!state.solve.met) unmet++;
    }
    const readings = takeReadings(state, {
      substeps: state.substep,
      iterations,
      left: worstLeft,
      cfl,
      capped,
      unmet,
      ms: performance.now() - start,
    });
    if (!readings.finite)
      throw new StepTrouble(state, 'A value is no longer finite.', 'Raise the least substeps or lower the strongest force.');
    return { frame: state.frame, readings, phasesMs };
  }

  /** Where a channel lies now; transport swaps fields, so ask again after each frame. */
  field(channel: Channel): Field {
    const { layout } = this.state;
    if (channel === 'density' || channel === 'temperature') return layout[channel];
    return layout.velocity['XYZ'.indexOf(channel[8])];
  }

  /** A tight copy, x fastest: nx·ny·nz values, one more along its axis for a velocity component (on faces, m/s). */
  read(channel: Channel): Float32Array {
    const axis = channel.startsWith('velocity') ? 'XYZ'.indexOf(channel[8]) : 3;
    const l = this.field(channel).lattice,
      m = sites(l, axis);
    return readField(this.team.memory, this.field(channel), [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz]);
  }

  /** A short text that is equal for equal bits of all channels. */
  checksum(): string {
    const { layout, team } = this.state;
    let h = 0x811c9dc5;
    for (const channel of CHANNELS) {
      const f = this.field(channel),
        l = f.lattice;
      team.run('checksum', l.nz, 4, f.address, l.nx, l.ny, l.rowStride, l.planeStride, layout.partials);
      const parts = new Float64Array(team.memory.buffer, layout.partials, l.nz * 8);
      for (let k = 0; k < l.nz; k++) for (const s of [0, 1]) h = Math.imul(h ^ (parts[k * 8 + s] >>> 0), 0x01000193) >>> 0;
    }
    return h.toString(16).padStart(8, '0');
  }

  /** Greatest density, for scaling pictures. */
  greatestDensity(): number {
    const { layout, team } = this.state,
      f = layout.density,
      l = f.lattice;
    team.run('maxAbs', l.nz, 4, f.address, l.nx, l.ny, l.rowStride, l.planeStride, layout.partials, 0);
    return reduce(this.state, l.nz, 0, 'max');
  }
}

// A run: memory laid out and filled once, then frame after frame through the pipeline, with readings of each.
import { CHANNELS, type CarriedField, type ChannelField, type ChannelName } from '../base/channels';
import { CoreError } from '../base/error';
import type { ActiveWindow } from '../grid/lattice';
import { readField, type Field } from '../grid/memory';
import type { ThreadPool } from '../grid/thread-pool';
import { checkFrame, checkSource } from '../measure/check-frame';
import { takeReadings } from '../measure/take-readings';
import type { Readings, ForceShares } from '../record/readings';
import { measureForces } from '../measure/force-shares';
import type { Plan } from '../plan/plan';
import { STAGES, substepLength, type Phase } from '../step/pipeline';
import { sites, extent } from '../grid/sweep';
import { ARRAYS, poolViews, takePool, type ArrayName } from '../plan/particle-pool';
import { planLayout, type Layout } from '../plan/layout';
import { emptyLedger } from '../record/ledger';
import { openLedger } from '../step/ledger';
import { channelField, greatestOf, type SimulationState } from '../step/state';
import type { Incident } from '../record/incident';
import { checkSubstep } from './check-substep';
import { restoreSnapshot, takeSnapshot, type FieldSnapshot } from '../step/snapshot';
import { writeFaces } from '../step/cut-cells';
import { mediumOf, refineCells, refineFaces } from '../step/finer';
import { farBoxOf } from '../step/far-field';
import { firstWindow, fitWindow, domainAt } from '../step/window';

/** Milliseconds a phase took in the last frame. */
export type PhaseTimes = Record<Phase, number>;

export interface FrameReport {
  readonly frame: number;
  readonly readings: Readings;
  readonly incidents: readonly Incident[];
  readonly phasesMs: PhaseTimes;
}

const FACES = CHANNELS.velocity.fields;

/** All that a run needs to go on from the end of a frame with the same bits. */
export interface Checkpoint {
  readonly frame: number;
  readonly topSpeeds: readonly [number, number, number];
  readonly snapshot: FieldSnapshot;
}

export class Simulation {
  private readonly state: SimulationState;

  /**
   * @param team a thread pool whose memory holds at least `Simulation.pages(plan, threads)` pages, all zero
   * @param from where to go on, instead of the start
   */
  constructor(
    plan: Plan,
    readonly threadPool: ThreadPool,
    from?: Checkpoint,
  ) {
    const frame = from?.frame ?? plan.frames.first - 1;
    this.state = {
      plan,
      threadPool,
      window: plan.window,
      sides: plan.sides,
      layout: undefined as unknown as Layout, // setContents lays it out
      solidBoxes: [],
      pools: [],
      incidents: [],
      frame,
      substep: 0,
      timeS: 0,
      dtS: plan.frameS,
      topSpeeds: from ? [...from.topSpeeds] : [0, 0, 0],
      velocityIsFinite: true,
      weightedLayout: null,
      onForce: null,
      solve: { iterations: 0, before: 0, left: 0, met: true },
      ledger: emptyLedger(),
      covers: new Map(),
    };
    const timeS = this.startOf(frame + 1);
    restoreSnapshot(
      this.state,
      domainAt(plan, timeS),
      from?.snapshot.window ?? firstWindow(plan),
      from?.snapshot ?? null,
      timeS,
    );
  }

  /** Wasm pages that a run of this plan starts with. */
  static pages(plan: Plan, threads: number): number {
    const window = firstWindow(plan);
    const domain = domainAt(plan, (plan.frames.first - plan.recipe.space.firstFrame) * plan.frameS);
    return planLayout(window.lattice, plan, threads, farBoxOf(plan, domain, window)).pages;
  }

  /** The last finished frame; one before the first at the start. */
  get frame(): number {
    return this.state.frame;
  }

  get plan(): Plan {
    return this.state.plan;
  }

  get layout(): Layout {
    return this.state.layout;
  }

  /** The part of the domain that is in memory now. */
  get window(): ActiveWindow {
    return this.state.window;
  }

  /** Simulated seconds since the shot's first frame at which a frame starts. */
  private startOf(frame: number): number {
    return (frame - this.plan.recipe.space.firstFrame) * this.plan.frameS;
  }

  /**
   * Simulates the next frame.
   * @throws SolverError where something goes wrong; the fields then hold nothing of use, what was kept of
   * earlier frames does
   */
  advanceFrame(): FrameReport {
    const { state, plan } = this;
    const phasesMs: PhaseTimes = {
      obstacles: 0,
      particles: 0,
      regions: 0,
      emission: 0,
      formulas: 0,
      transport: 0,
      forces: 0,
      diffusion: 0,
      projection: 0,
      settling: 0,
      checks: 0,
    };
    const start = performance.now();
    state.frame++;
    state.substep = 0;
    state.incidents = [];
    openLedger(state);
    for (const source of plan.sources) checkSource(state, source);
    const startS = this.startOf(state.frame);
    const { firstFrame, delay } = plan.recipe.space;
    const waits = state.frame < firstFrame + delay;
    if (waits) writeFaces(state, startS + plan.frameS);
    let rest = waits ? 0 : plan.frameS;
    let iterations = 0;
    let worstBefore = 0;
    let worstLeft = 0;
    let cfl = 0;
    let capped = false;
    let unmet = 0;
    let forces: ForceShares = {};
    while (rest > 1e-9 * plan.frameS) {
      const choice = substepLength(state, rest);
      capped ||= choice.capped;
      state.dtS = choice.dtS;
      state.timeS = startS + plan.frameS - rest;
      const watch = choice.dtS >= rest * (1 - 1e-9) ? measureForces(state) : null;
      state.onForce = watch?.witness ?? null;
      for (const stage of STAGES) {
        const t = performance.now();
        stage.run(state);
        phasesMs[stage.name] += performance.now() - t;
      }

      if (watch) forces = watch.seen();
      state.onForce = null;
      const checked = performance.now();
      checkSubstep(state, choice.capped);
      rest = rest - choice.dtS > 1e-9 * plan.frameS ? rest - choice.dtS : 0;
      fitWindow(state, startS + plan.frameS - rest);
      phasesMs.checks += performance.now() - checked;
      state.substep++;
      iterations = Math.max(iterations, state.solve.iterations);
      worstBefore = Math.max(worstBefore, state.solve.before);
      worstLeft = Math.max(worstLeft, state.solve.left);
      cfl = Math.max(cfl, (Math.max(...state.topSpeeds) * choice.dtS) / plan.window.voxelSizeM);
      if (!state.solve.met) unmet++;
    }

    const readings = takeReadings(state, {
      substeps: state.substep,
      iterations,
      before: worstBefore,
      left: worstLeft,
      cfl,
      capped,
      unmet,
      forces,
      ms: performance.now() - start,
    });
    checkFrame(state, readings);
    return { frame: state.frame, readings, incidents: state.incidents, phasesMs };
  }

  /**
   * Goes on with another plan from here: for changes of how the air moves while it runs.
   * @param plan of the same domain, voxel size, channels and particles
   * @throws Error where it is not
   */
  continueWith(plan: Plan): void {
    const { state } = this;
    const same = (p: Plan): string =>
      JSON.stringify([
        p.window,
        p.medium?.window,
        p.sides,
        p.channels,
        p.frameS,
        p.particles.map((q) => [q.part.id, q.room]),
      ]);
    if (same(plan) !== same(state.plan))
      throw new CoreError(
        'settings',
        'The domain or what is carried is another one: the run has to start again.',
      );
    const timeS = this.startOf(this.frame + 1);
    const contents = takeSnapshot(state);
    state.plan = plan;
    restoreSnapshot(state, domainAt(plan, timeS), contents.window, contents, timeS);
  }

  /** Puts other contents in place of the present ones, as at the end of a frame. */
  restore(frame: number, contents: FieldSnapshot): void {
    const { state } = this;
    state.frame = frame;
    state.substep = 0;
    state.timeS = this.startOf(frame + 1);
    state.dtS = state.plan.frameS;
    restoreSnapshot(state, domainAt(state.plan, state.timeS), contents.window, contents, state.timeS);
  }

  /** All that the next frame needs; copies. */
  checkpoint(): Checkpoint {
    return { frame: this.frame, topSpeeds: [...this.state.topSpeeds], snapshot: takeSnapshot(this.state) };
  }

  get channels(): readonly ChannelField[] {
    return [...this.plan.channels.map((c) => c.name), ...FACES];
  }

  /** The same in the cells that the medium lies on: the air's, or half as large. */
  get mediumWindow(): ActiveWindow {
    return mediumOf(this.state).window;
  }

  /**
   * Where the parts of a channel lie on those, until the next call. What lies on larger ones is refined: the
   * air's speed free of divergence, temperature and ways linearly, a deposit evenly.
   */
  onMedium(channel: ChannelName): readonly Field[] {
    const { state } = this;
    const { medium } = state.layout;
    const { fields } = CHANNELS[channel];
    if (!medium) return fields.map((name) => this.field(name));
    if (channel === 'velocity') {
      refineFaces(state, state.layout.velocity, medium.flows, 1);
      return medium.flows;
    }

    return fields.map((name, part) => {
      const own = channelField(mediumOf(state), name as CarriedField);
      if (!own) refineCells(state, this.field(name).address, medium.flows[part], channel !== 'deposit');
      return own ?? medium.flows[part];
    });
  }

  /** Where a channel lies on the air's cells; transport swaps fields, so ask again after each frame. */
  field(channel: ChannelField): Field {
    const axis = FACES.indexOf(channel as (typeof FACES)[number]);
    const field = axis >= 0 ? this.layout.velocity[axis] : channelField(this.state, channel as CarriedField);
    if (!field) throw new CoreError('settings', `This run does not carry ${channel}.`);
    return field;
  }

  /**
   * A tight copy, x fastest: nx·ny·nz values, one more along its axis for a velocity component (on faces,
   * m/s).
   */
  read(channel: ChannelField, field = this.field(channel)): Float32Array {
    const axis = channel.startsWith('velocity') ? 'XYZ'.indexOf(channel[8]) : 3;
    const l = field.lattice;
    const m = sites(l, axis);
    return readField(this.threadPool.memory, field, [m[0] - l.nx, m[1] - l.ny, m[2] - l.nz]);
  }

  /** A copy of all particles of a part that is on, array by array. */
  particles(id: string): { readonly count: number } & Readonly<Record<ArrayName, Float32Array>> {
    const n = this.plan.particles.findIndex((p) => p.part.id === id);
    if (n < 0) throw new CoreError('settings', `This run has no particles called ${id}.`);
    const { count } = this.state.pools[n];
    const views = poolViews(this.threadPool.memory, this.layout.pools[n]);
    const arrays = Object.fromEntries(ARRAYS.map((name) => [name, views[name].slice(0, count)])) as Record<
      ArrayName,
      Float32Array
    >;
    return { count, ...arrays };
  }

  /** A short text that is equal for equal bits of all channels. */
  checksum(): string {
    const { layout, threadPool } = this.state;
    const { partials } = layout.medium ?? layout;
    let h = 0x811c9dc5;
    for (const f of [...this.channels.map((c) => this.field(c)), ...(layout.medium?.channels ?? [])]) {
      const l = f.lattice;
      threadPool.run('checksum', l.nz, 4, { f: f.address, ...extent(l), partials });
      const parts = new Float64Array(threadPool.memory.buffer, partials, l.nz * 8);
      for (let k = 0; k < l.nz; k++)
        for (const s of [0, 1]) h = Math.imul(h ^ (parts[k * 8 + s] >>> 0), 0x01000193) >>> 0;
    }

    this.plan.particles.forEach((_, n) => {
      const { values } = takePool(threadPool.memory, layout.pools[n], this.state.pools[n]);
      for (const word of new Int32Array(values.buffer)) h = Math.imul(h ^ word, 0x01000193) >>> 0;
    });
    return h.toString(16).padStart(8, '0');
  }

  /** Greatest value of a channel, without its sign; for scaling pictures. */
  greatest(channel: CarriedField): number {
    const medium = mediumOf(this.state);
    const own = channelField(medium, channel);
    return greatestOf(own ? medium : this.state, own ?? this.field(channel));
  }
}

/** The state behind a run: for what looks at it stage by stage. What uses a run has no need of it. */
export const stateOf = (simulation: Simulation): SimulationState => simulation['state'];

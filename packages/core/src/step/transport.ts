// Stage 4: everything is carried along by the velocity that the last projection left, and fades on the way:
// MacCormack with limiting (Selle et al. 2008) or first order, see advect.ts of the kernels; or without loss,
// see flux.ts.
import { AdvectionStruct, TraceStage } from '@bramblemist/kernels/seam';
import { dissipate, dissipationGain } from './dissipation';
import type { Field } from '../grid/memory';
import { fillHalo, share, sites, SLAB, named, extent, addresses } from '../grid/sweep';
import { eachRegionVariant } from './region-variants';
import type { SimulationState } from './state';

const { MIDPOINT, RALSTON } = TraceStage;

/** Follows the air back and ahead over a time: fills the displacements that the carry functions use. */
export function trace(state: SimulationState, dtS: number): void {
  const { plan, threadPool, layout, window } = state;
  const l = window.lattice;
  const kappa = dtS / window.voxelSizeM;
  const fields = [...layout.velocity, ...layout.back, ...layout.ahead].map((f) => f.address);
  layout.velocity.forEach((f, axis) => fillHalo(threadPool, f, axis, 0));
  const stages = plan.recipe.method.trace === 'third' ? [MIDPOINT, RALSTON] : [MIDPOINT];
  for (const stage of stages)
    threadPool.run('trace', l.nz, SLAB, {
      ...named(['u', 'v', 'w', 'dx', 'dy', 'dz', 'ex', 'ey', 'ez'], fields),
      ...extent(l),
      kappa,
      stage,
    });
  for (const d of [...layout.back, ...layout.ahead]) fillHalo(threadPool, d, 3, 0);
}

/** All channels, over dtS; the displacements are traced for the same time. */
export function advectChannels(state: SimulationState, dtS: number): void {
  const { plan, threadPool, layout, window } = state;
  const l = window.lattice;
  const empty = state.sides.reduce((bits, rule, side) => (rule === 'open' ? bits | (1 << side) : bits), 0);
  const { dissipation } = plan.at(state.timeS + state.dtS / 2);
  const alike =
    dissipation.bias === 0 && dissipation.where === '' && !plan.changes.some((c) => c.key === 'dissipation');
  plan.channels.forEach((channel, n) => {
    // where it fades everywhere alike, it does so on the way
    const gain = alike && channel.fades ? dissipationGain(dtS, dissipation[channel.fades]) : 1;
    if (channel.carried === 'kept') {
      advectConservative(state, layout.channels[n], empty, gain, dtS);
      return;
    }

    fillHalo(threadPool, layout.channels[n], 3, empty);
    advectField(
      state,
      layout.channels[n],
      layout.spare,
      3,
      empty,
      gain,
      dtS,
      channel.carried === 'sharp' ? 1 : 0,
    );
    [layout.channels[n], layout.spare] = [layout.spare, layout.channels[n]];
  });
  if (!alike) fadeInPlaces(state, dtS);
  plan.channels.forEach(({ name }, n) => {
    const to = layout.channels[n].address;
    // what there is grows older; the way from the start grows by the way of this step
    if (name === 'age') growOlder(state, to, dtS);
    const axis = ['wayX', 'wayY', 'wayZ'].indexOf(name);
    if (axis >= 0)
      threadPool.run('addScaled', l.nz, SLAB, {
        f: to,
        g: layout.back[axis].address,
        ...extent(l),
        gain: window.voxelSizeM,
      });
  });
}

/** What there is grows older by the time, and no bit of it is older than it can be. */
function growOlder(state: SimulationState, f: number, dtS: number): void {
  const { plan, threadPool, layout, window, timeS } = state;
  const l = window.lattice;
  const density = layout.channels[0].address;
  threadPool.run('addScaled', l.nz, SLAB, { f, g: density, ...extent(l), gain: dtS });
  if (!plan.oldest) return;
  const most = plan.oldest.givenS + plan.oldest.perSecond * (timeS + dtS);
  threadPool.run('capAmount', l.nz, SLAB, { f, density, most, ...extent(l) });
}

function fadeInPlaces(state: SimulationState, dtS: number): void {
  const { plan, layout } = state;
  const [density] = layout.channels;
  eachRegionVariant(
    state,
    ['dissipation'],
    (r) => r.dissipation,
    ({ dissipation }, weight) => {
      // density last: the others lean by what it was
      for (let n = plan.channels.length - 1; n >= 0; n--) {
        const { fades } = plan.channels[n];
        if (fades)
          dissipate(
            { state, dtS },
            layout.channels[n],
            density,
            dissipation[fades],
            dissipation.bias,
            dissipation.even,
            weight,
          );
      }
    },
  );
}

/** The velocity components from → to, over the time that the displacements are traced for. */
export function advectVelocity(
  state: SimulationState,
  from: readonly Field[],
  to: readonly Field[],
  dtS: number,
): void {
  from.forEach((f, axis) => {
    // trace has filled those of the air itself
    if (f !== state.layout.velocity[axis]) fillHalo(state.threadPool, f, axis, 0);
    advectField(state, f, to[axis], axis, 0, 1, dtS, 1);
  });
}

function advectField(
  state: SimulationState,
  f: Field,
  to: Field,
  axis: number,
  zeroSides: number,
  gain: number,
  dtS: number,
  order: 0 | 1,
): void {
  const { threadPool, layout, plan } = state;
  const { block } = layout.levels[0];
  const l = f.lattice;
  const planes = sites(l, axis)[2];
  const slab = share(planes, threadPool);
  const marks = axis === 3 ? layout.marks : 0;
  // look-ups reach as far as the fastest air goes, with room for its change, and a cell on
  const reach = state.topSpeeds.map(
    (speed) => Math.floor(((speed * dtS) / state.window.voxelSizeM) * 1.5) + 2,
  );
  if (marks) threadPool.run('markRows', l.nz, SLAB, { f: f.address, marks, ...extent(l) });
  const [hat, lo, hi] = addresses(layout.scratch);
  AdvectionStruct.write(threadPool.memory, layout.advection, {
    f: f.address,
    hat,
    lo,
    hi,
    out: to.address,
    ...named(['dx', 'dy', 'dz'], addresses(layout.back)),
    ...named(['ex', 'ey', 'ez'], addresses(layout.ahead)),
    axis,
    zeroSides,
    ...named(['reachX', 'reachY', 'reachZ'], reach),
    order,
    marks,
    guard: Number(plan.obstacles.length > 0),
    gain,
  });
  threadPool.run('advectChannel', planes, slab, { level: block, channel: layout.advection });
  threadPool.run('advectChannelEdges', planes, slab, { level: block, channel: layout.advection });
}

/**
 * Of a cell's width, the most that one sweep may move: both of its faces can then give off what they ask for.
 */
const MOST_COURANT = 0.5;

function advectConservative(
  state: SimulationState,
  f: Field,
  zeroSides: number,
  gain: number,
  dtS: number,
): void {
  const { threadPool, layout, window } = state;
  const { block } = layout.levels[0];
  const l = f.lattice;
  const [q] = layout.scratch;
  const faces = layout.velocity.map((v) => v.address);
  const parts = Math.max(
    1,
    Math.ceil((Math.max(...state.topSpeeds) * dtS) / window.voxelSizeM / MOST_COURANT),
  );
  const kappa = dtS / window.voxelSizeM / parts;
  for (let part = 0; part < parts; part++) {
    // the order of the directions turns round, so that none is favoured
    const order = (part + state.substep + state.frame) % 2 === 0 ? [0, 1, 2] : [2, 1, 0];
    order.forEach((axis, n) => {
      const done = order.slice(0, n).reduce((bits, a) => bits | (1 << a), 0);
      threadPool.run('concentration', l.nz, SLAB, {
        level: block,
        f: f.address,
        q: q.address,
        ...named(['u', 'v', 'w'], faces),
        done,
        kappa,
      });
      fillHalo(threadPool, q, 3, zeroSides);
      threadPool.run('fluxSweep', l.nz, SLAB, {
        level: block,
        f: f.address,
        q: q.address,
        vel: faces[axis],
        axis,
        kappa,
      });
    });
  }

  if (gain !== 1) threadPool.run('scaleField', l.nz, SLAB, { f: f.address, ...extent(l), gain });
}

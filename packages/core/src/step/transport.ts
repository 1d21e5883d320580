// Stage 4: the air's own velocity, and the ways it has come, are carried along by the velocity that the last
// projection left: MacCormack with limiting (Selle et al. 2008), see advect.ts of the kernels.
import { AdvectionStruct, TraceStage } from '@bramblemist/kernels/seam';
import type { Field } from '../grid/memory';
import { fillHalo, fillHaloZ, share, sites, SLAB, named, extent, addresses } from '../grid/sweep';
import type { SimulationState } from './state';

const { MIDPOINT, RALSTON } = TraceStage;

/** Follows the air back and ahead over a substep: fills the displacements that the two below use. */
export function trace(state: SimulationState): void {
  const { plan, threadPool, layout, window, dtS } = state;
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
  for (const d of [...layout.back, ...layout.ahead]) fillHaloZ(threadPool, d, 3, 0);
}

/** Where the air of each voxel was at the start. */
export function advectWays(state: SimulationState): void {
  const { plan, threadPool, layout, window } = state;
  const l = window.lattice;
  plan.channels.forEach(({ name }, n) => {
    const axis = ['wayX', 'wayY', 'wayZ'].indexOf(name);
    if (axis < 0) return;
    fillHalo(threadPool, layout.channels[n], 3, 0);
    advectField(state, layout.channels[n], layout.spare, 3);
    [layout.channels[n], layout.spare] = [layout.spare, layout.channels[n]];
    // the way from the start grows by the way of this step
    threadPool.run('addScaled', l.nz, SLAB, {
      f: layout.channels[n].address,
      g: layout.back[axis].address,
      ...extent(l),
      gain: window.voxelSizeM,
    });
  });
}

/** The velocity itself, along what was traced. */
export function advectVelocity(state: SimulationState): void {
  const { layout, threadPool } = state;
  layout.velocity.forEach((f, axis) => {
    fillHalo(threadPool, f, axis, 0);
    advectField(state, f, layout.velocityNext[axis], axis);
  });
  [layout.velocity, layout.velocityNext] = [layout.velocityNext, layout.velocity];
}

function advectField(state: SimulationState, f: Field, to: Field, axis: number): void {
  const { threadPool, layout, plan, dtS } = state;
  const { block } = layout.levels[0];
  const planes = sites(f.lattice, axis)[2];
  const slab = share(planes, threadPool);
  // look-ups reach as far as the fastest air goes, with room for its change, and a cell on
  const reach = state.topSpeeds.map(
    (speed) => Math.floor(((speed * dtS) / state.window.voxelSizeM) * 1.5) + 2,
  );
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
    ...named(['reachX', 'reachY', 'reachZ'], reach),
    guard: Number(plan.obstacles.length > 0),
  });
  threadPool.run('advectChannel', planes, slab, { level: block, channel: layout.advection });
  threadPool.run('advectChannelEdges', planes, slab, { level: block, channel: layout.advection });
}

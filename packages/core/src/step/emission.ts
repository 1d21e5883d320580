// Stage 2: sources write into the channels and into what has to flow out; nothing is written inside an obstacle.
import { SLAB } from '../grid/sweep';
import { channelField, type StepState } from './state';

export function emission(state: StepState): void {
  const { plan, team, layout, window } = state,
    { memory } = team;
  const l = window.lattice,
    at = layout.emission;
  const address = (name: Parameters<typeof channelField>[1]): number => channelField(state, name)?.address ?? 0;
  const outflow = layout.outflow?.address ?? 0;
  const active = plan.sources.filter((s) => state.frame >= s.from && state.frame <= s.until);
  for (const s of active) {
    const centre = s.shape.centre.map((c, a) => c - window.origin[a]);
    new Int32Array(memory.buffer, at, 7).set([
      ...(['density', 'temperature', 'red', 'green', 'blue'] as const).map(address),
      ...[outflow, s.shape.kind === 'box' ? 1 : 0],
    ]);
    new Float32Array(memory.buffer, at + 28, 12).set([
      ...centre,
      ...s.shape.half,
      ...[s.ratePerS * state.dtS, s.kelvin, ...s.colour, s.expansion * window.voxelSizeM],
    ]);
    team.run('emit', l.nz, SLAB, at, l.nx, l.ny, l.rowStride, l.planeStride);
  }
  if (plan.obstacles.length === 0 || (active.length === 0 && !outflow)) return;
  for (const f of layout.channels) team.run('clearSolid', l.nz, SLAB, layout.levels[0].block, f.address);
}

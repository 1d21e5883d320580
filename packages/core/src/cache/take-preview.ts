// What a screen shows of the present state of a run: density as bytes, the air on a coarse grid.
import type { Simulation } from '../run/simulation';
import { SLAB, extent } from '../grid/sweep';
import type { Field } from '../grid/memory';
import { type PreviewVolume, type PreviewColour, FAINT, greatestSeen } from '../volume/preview-volume';
import type { Triple } from '../math/vector';
import { type CoarseFlow, COARSE_FLOW_CHANNELS } from '../volume/coarse-flow';

/** Voxels along the longest edge of what is shown of a live run; more where its medium is finer. */
const LIVE = 96;
const LIVE_FINER = 128;

/** The present density, averaged down to at most `longest` voxels along an edge. */
export function takePreviewVolume(
  simulation: Simulation,
  longest = simulation.plan.medium ? LIVE_FINER : LIVE,
): PreviewVolume {
  const window = simulation.mediumWindow;
  const l = window.lattice;
  const { threadPool } = simulation;
  const step = Math.ceil(Math.max(l.nx, l.ny, l.nz) / longest);
  const dims: Triple = [Math.floor(l.nx / step), Math.floor(l.ny / step), Math.floor(l.nz / step)];
  const deposits = simulation.plan.channels.some((c) => c.name === 'deposit');
  const greatest = greatestSeen(
    simulation.greatest('density'),
    deposits ? simulation.greatest('deposit') : 0,
  );
  const density = deposits ? withDeposit(simulation) : simulation.onMedium('density')[0];
  const room = freeFields(simulation)[1];
  const target = room.address - l.lead * 4;
  threadPool.run('packBytes', dims[2], 4, {
    f: density.address,
    out: target,
    step,
    scale: 255 / greatest,
    mx: dims[0],
    my: dims[1],
    rowStride: l.rowStride,
    planeStride: l.planeStride,
  });
  const h = window.voxelSizeM;
  const bytes = new Uint8Array(threadPool.memory.buffer, target, dims[0] * dims[1] * dims[2]).slice();
  return {
    frame: simulation.frame,
    dims,
    voxelSizeM: h * step,
    greatest,
    corner: [window.origin[0] * h, window.origin[1] * h, window.origin[2] * h],
    bytes,
    colour: simulation.plan.channels.some((c) => c.name === 'red')
      ? takeColour(simulation, 2 * step, greatest)
      : null,
  };
}

/** Two fields of the medium's cells in which nothing lives between frames. */
function freeFields({ layout }: Simulation): readonly [Field, Field] {
  return layout.medium ? layout.medium.cover.whole : [layout.scratch[0], layout.scratch[2]];
}

/** Density and what lies in its voxels, in a field that holds until the next stage. */
function withDeposit(simulation: Simulation): Field {
  const { threadPool } = simulation;
  const l = simulation.mediumWindow.lattice;
  const [sum] = freeFields(simulation);
  const density = simulation.onMedium('density')[0];
  const deposit = simulation.onMedium('deposit')[0];
  threadPool.solo('copyBytes', {
    to: sum.address - l.lead * 4,
    from: density.address - l.lead * 4,
    bytes: l.size * 4,
  });
  threadPool.run('addScaled', l.nz, SLAB, { f: sum.address, g: deposit.address, ...extent(l), gain: 1 });
  return sum;
}

/**
 * Means of a field over cubes of step³ cells, x fastest; the view holds until the next call.
 * @param next bytes to the other face of a cell, where the field lies on faces; 0: in the middles
 */
function meansOf(
  { threadPool, layout }: Simulation,
  field: Field,
  step: number,
  dims: Triple,
  next = 0,
): Float32Array {
  const { rowStride, planeStride } = field.lattice;
  const [, , free] = layout.scratch;
  const out = free.address - free.lattice.lead * 4;
  const [mx, my, mz] = dims;
  const f = field.address;
  threadPool.run('packMeans', mz, 4, { f, next, out, step, mx, my, rowStride, planeStride });
  return new Float32Array(threadPool.memory.buffer, out, mx * my * mz);
}

function takeColour(simulation: Simulation, step: number, greatest: number): PreviewColour {
  const l = simulation.mediumWindow.lattice;
  const dims = [l.nx, l.ny, l.nz].map((n) => Math.max(1, Math.floor(n / step))) as unknown as Triple;
  const count = dims[0] * dims[1] * dims[2];
  const fields = [...simulation.onMedium('colour'), ...simulation.onMedium('density')];
  const [red, green, blue, density] = fields.map((f) => meansOf(simulation, f, step, dims).slice());
  const bytes = new Uint8Array(4 * count);
  for (let n = 0; n < count; n++) {
    if (density[n] < FAINT * greatest) continue;
    const per = 255 / density[n];
    bytes[4 * n] = Math.min(255, Math.max(0, red[n] * per + 0.5));
    bytes[4 * n + 1] = Math.min(255, Math.max(0, green[n] * per + 0.5));
    bytes[4 * n + 2] = Math.min(255, Math.max(0, blue[n] * per + 0.5));
    bytes[4 * n + 3] = 255;
  }

  return { dims, bytes };
}

/** The present state, averaged down to at most `longest` cells along an edge. */
export function takeCoarseFlow(simulation: Simulation, longest = 32): CoarseFlow {
  const { window } = simulation;
  const l = window.lattice;
  const h = window.voxelSizeM;
  const step = Math.ceil(Math.max(l.nx, l.ny, l.nz) / longest);
  const dims: Triple = [Math.floor(l.nx / step), Math.floor(l.ny / step), Math.floor(l.nz / step)];
  const count = dims[0] * dims[1] * dims[2];
  const values = new Float32Array(COARSE_FLOW_CHANNELS.length * count);
  COARSE_FLOW_CHANNELS.forEach((name, n) => {
    const next = [4, l.rowStride * 4, l.planeStride * 4, 0, 0][n];
    values.set(meansOf(simulation, simulation.field(name), step, dims, next), n * count);
  });
  return {
    frame: simulation.frame,
    dims,
    corner: window.origin.map((o) => o * h) as Triple,
    cellM: h * step,
    values,
  };
}

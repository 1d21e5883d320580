// What a screen shows of the present state of a run: density as bytes, the air on a coarse grid.
import type { Simulation } from '../run/simulation';
import { type PreviewVolume, type PreviewColour, FAINT } from '../volume/preview-volume';
import type { Triple } from '../math/vector';
import { type CoarseFlow, COARSE_FLOW_CHANNELS } from '../volume/coarse-flow';

/** The present density, averaged down to at most `longest` voxels along an edge. */
export function takePreviewVolume(simulation: Simulation, longest = 96): PreviewVolume {
  const { window } = simulation;
  const l = window.lattice;
  const { threadPool } = simulation;
  const step = Math.ceil(Math.max(l.nx, l.ny, l.nz) / longest);
  const dims: Triple = [Math.floor(l.nx / step), Math.floor(l.ny / step), Math.floor(l.nz / step)];
  const greatest = Math.max(simulation.greatestDensity(), 1e-6);
  const density = simulation.field('density');
  const room = simulation.layout.scratch[2];
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

function takeColour(simulation: Simulation, step: number, greatest: number): PreviewColour {
  const { window, threadPool, layout } = simulation;
  const l = window.lattice;
  const dims = [l.nx, l.ny, l.nz].map((n) => Math.max(1, Math.floor(n / step))) as unknown as Triple;
  const count = dims[0] * dims[1] * dims[2];
  const target = layout.scratch[2].address - l.lead * 4;
  const [red, green, blue, density] = (['red', 'green', 'blue', 'density'] as const).map((name) => {
    threadPool.run('packMeans', dims[2], 4, {
      f: simulation.field(name).address,
      next: 0,
      out: target,
      step,
      mx: dims[0],
      my: dims[1],
      rowStride: l.rowStride,
      planeStride: l.planeStride,
    });
    return new Float32Array(threadPool.memory.buffer, target, count).slice();
  });
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
  const { window, threadPool, layout } = simulation;
  const l = window.lattice;
  const h = window.voxelSizeM;
  const step = Math.ceil(Math.max(l.nx, l.ny, l.nz) / longest);
  const dims: Triple = [Math.floor(l.nx / step), Math.floor(l.ny / step), Math.floor(l.nz / step)];
  const count = dims[0] * dims[1] * dims[2];
  const values = new Float32Array(COARSE_FLOW_CHANNELS.length * count);
  const target = layout.scratch[2].address - l.lead * 4;
  COARSE_FLOW_CHANNELS.forEach((name, n) => {
    const f = simulation.field(name);
    const next = [4, l.rowStride * 4, l.planeStride * 4, 0, 0][n];
    threadPool.run('packMeans', dims[2], 4, {
      f: f.address,
      next,
      out: target,
      step,
      mx: dims[0],
      my: dims[1],
      rowStride: l.rowStride,
      planeStride: l.planeStride,
    });
    values.set(new Float32Array(threadPool.memory.buffer, target, count), n * count);
  });
  return {
    frame: simulation.frame,
    dims,
    corner: window.origin.map((o) => o * h) as Triple,
    cellM: h * step,
    values,
  };
}

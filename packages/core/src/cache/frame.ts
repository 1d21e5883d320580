// One frame of a run as a dense volume, for tools: the channels that the recipe keeps, where density is above
// its threshold.
import { CHANNELS, type ChannelName } from '../base/channels';
import { keptChannels } from '../recipe/kept';
import type { Simulation } from '../run/simulation';
import { facesAbout, type CacheVolume } from '../volume/volume';
import type { Triple } from '../math/vector';

/**
 * On the cells that the medium lies on.
 * Voxel centres sit at half a voxel: index (0,0,0) of a grid is the centre of the world lattice's cell
 * (0,0,0).
 * @param keep which channels; those that the run carries are there in any case
 */
export function frameVolume(simulation: Simulation, keep = simulation.plan.recipe.keep): CacheVolume {
  const { lattice: l, origin, voxelSizeM: h } = simulation.mediumWindow;
  const dims: Triple = [l.nx, l.ny, l.nz];
  const read = (name: ChannelName, part = 0): Float32Array =>
    simulation.read(CHANNELS[name].fields[part], simulation.onMedium(name)[part]);
  const density = read('density');
  const active = new Uint8Array(density.length);
  const names = keptChannels({ ...simulation.plan.recipe, keep });
  const deposit = names.includes('deposit') ? read('deposit') : null;
  for (let i = 0; i < density.length; i++)
    active[i] = density[i] > keep.threshold || (deposit && deposit[i] > keep.threshold) ? 1 : 0;
  const part = (name: ChannelName, axis: number): Float32Array => {
    const { held } = CHANNELS[name];
    const values = read(name, axis);
    switch (held) {
      case 'value':
        return values;
      case 'layer':
        return values.map((v) => v * h);
      case 'amount':
        return values.map((v, i) => (active[i] && density[i] > 0 ? v / density[i] : 0));
      case 'faces':
        return dropLast(values, dims, axis);
      case 'way': {
        // its own place plus the way that was carried
        const per = [1, l.nx, l.nx * l.ny][axis];
        return values.map((v, i) => v + ((Math.floor(i / per) % dims[axis]) + 0.5 + origin[axis]) * h);
      }
    }
  };

  const channels = new Map(
    names.map((name) => [name, CHANNELS[name].fields.map((_, axis) => part(name, axis))]),
  );
  return {
    frame: simulation.frame,
    voxelSizeM: h,
    translation: [h / 2, h / 2, h / 2],
    min: [...origin],
    dims,
    active,
    channels,
    moving: keep.air === 'room' ? new Uint8Array(active.length).fill(1) : facesAbout(active, dims),
  };
}

/** Faces to cells: leaves the last face along the axis out. */
function dropLast(values: Float32Array, dims: Triple, axis: number): Float32Array {
  const [nx, ny, nz] = dims;
  const mx = nx + Number(axis === 0);
  const my = ny + Number(axis === 1);
  if (axis === 2) return values.subarray(0, nx * ny * nz);
  const out = new Float32Array(nx * ny * nz);
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      out.set(values.subarray((k * my + j) * mx, (k * my + j) * mx + nx), (k * ny + j) * nx);
  return out;
}

// A volume file as a look sees it: density, and only those other channels that the look asks for.
import { FileError } from '../files/bytes';
import type { VdbFile, VdbGrid } from '../files/vdb/format';
import { activeBounds, toDense } from '../files/vdb/leaves';
import type { Triple } from '../math/vector';
import type { Volume } from './colouring';

/** A render keeps a dense copy of what is active; larger ones are refused before they are made. */
const MOST_VOXELS = 2 ** 28;

/** Names of the grids that a look reads of a file. */
export const gridsFor = (asked: ReadonlySet<string>): ReadonlySet<string> =>
  new Set(['density', ...asked, ...(asked.has('speed') ? ['velocity'] : [])]);

/**
 * @param asked channels besides density: see channelsAsked and channelsOfPasses; those that are not there are
 *   left out
 * @throws FileError where there is no density, or it spans too much
 */
export function volumeOf(
  file: Pick<VdbFile, 'grids' | 'others'>,
  asked: ReadonlySet<string> = new Set(),
): Volume {
  const named = (name: string, kind: VdbGrid['kind']): VdbGrid | undefined =>
    file.grids.find((g) => g.name === name && g.kind === kind);
  const grid = named('density', 'float');
  if (!grid) {
    const names = [...file.grids, ...file.others].map((g) => g.name).join(', ') || 'none';
    throw new FileError(`holds no float grid called density (it holds: ${names}).`);
  }

  const h = grid.voxelSize[0];
  const bounds = activeBounds(grid);
  const min = bounds ? bounds.min : ([0, 0, 0] as Triple);
  const dims = (bounds ? bounds.max.map((m, a) => m - min[a] + 1) : [1, 1, 1]) as Triple;
  if (dims[0] * dims[1] * dims[2] > MOST_VOXELS)
    throw new FileError(`its active voxels span ${dims.join(' × ')}, too large to render at once.`);
  const colour = asked.has('colour') ? named('colour', 'vec3') : undefined;
  const scalars = ['temperature', 'age'].flatMap((name) => {
    const scalar = asked.has(name) ? named(name, 'float') : undefined;
    return scalar ? [[name, toDense(scalar, min, dims)[0]] as const] : [];
  });
  const moves = asked.has('speed') || asked.has('velocity') ? named('velocity', 'vec3') : undefined;
  const velocity = moves && inMiddles(moves, min, dims);
  const density = toDense(grid, min, dims)[0];
  const deposit = asked.has('deposit') ? named('deposit', 'float') : undefined;
  // what lies in a voxel is as thick as when it was in its air
  if (deposit) toDense(deposit, min, dims)[0].forEach((v, n) => (density[n] += v / h));
  return {
    dims,
    density,
    corner: min.map((m, a) => grid.translation[a] + (m - 0.5) * h) as Triple,
    voxelSizeM: h,
    ...(colour ? { colour: toDense(colour, min, dims) } : {}),
    channels: {
      ...Object.fromEntries(scalars),
      ...(velocity && asked.has('speed') ? { speed: speedOf(velocity) } : {}),
    },
    ...(velocity && asked.has('velocity') ? { velocity } : {}),
  };
}

/** Velocity in the middles of voxels, from that on their lower faces. */
function inMiddles(velocity: VdbGrid, min: Triple, dims: Triple): Float32Array[] {
  const wide = dims.map((d) => d + 1) as Triple;
  const row = wide[0];
  const plane = wide[0] * wide[1];
  return toDense(velocity, min, wide).map((part, axis) => {
    const step = [1, row, plane][axis];
    const out = new Float32Array(dims[0] * dims[1] * dims[2]);
    for (let k = 0, n = 0; k < dims[2]; k++)
      for (let j = 0; j < dims[1]; j++)
        for (let i = 0; i < dims[0]; i++, n++) {
          const at = k * plane + j * row + i;
          out[n] = (part[at] + part[at + step]) / 2;
        }

    return out;
  });
}

const speedOf = ([u, v, w]: readonly Float32Array[]): Float32Array =>
  Float32Array.from(u, (_, n) => Math.hypot(u[n], v[n], w[n]));

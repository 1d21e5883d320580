// One frame of a run as OpenVDB grids: active voxels only, in the precision that the recipe asks for.
import type { VdbGrid } from '../files/vdb/format';
import { toLeaves } from '../files/vdb/leaves';
import type { Simulation } from '../step/simulation';

/** Voxel centres sit at half a voxel: index (0,0,0) of a grid is the centre of the world lattice's cell (0,0,0). */
export function frameGrids(simulation: Simulation): VdbGrid[] {
  const { keep } = simulation.plan.recipe,
    { lattice: l, origin, voxelSizeM: h } = simulation.window;
  const dims: [number, number, number] = [l.nx, l.ny, l.nz];
  const density = simulation.read('density');
  const active = new Uint8Array(density.length);
  for (let i = 0; i < density.length; i++) active[i] = density[i] > keep.threshold ? 1 : 0;
  const base = { half: keep.precision === 'half', translation: [h / 2, h / 2, h / 2], voxelSize: [h, h, h], tiles: [] } as const;
  const grids: VdbGrid[] = [
    {
      ...base,
      name: 'density',
      kind: 'float',
      background: [0],
      metadata: { class: 'fog volume' },
      leaves: toLeaves([density], active, dims, origin),
    },
  ];
  if (keep.temperature) {
    grids.push({
      ...base,
      name: 'temperature',
      kind: 'float',
      background: [0],
      metadata: { class: 'unknown' },
      leaves: toLeaves([simulation.read('temperature')], active, dims, origin),
    });
  }
  /** Carried amounts over the density that carries them. */
  const perDensity = (name: 'red' | 'green' | 'blue' | 'age'): Float32Array =>
    simulation.read(name).map((v, i) => (active[i] ? v / density[i] : 0));
  if (keep.colour) {
    grids.push({
      ...base,
      ...{ name: 'colour', kind: 'vec3', background: [0, 0, 0], metadata: { class: 'unknown', vector_type: 'invariant' } },
      leaves: toLeaves((['red', 'green', 'blue'] as const).map(perDensity), active, dims, origin),
    });
  }
  if (keep.age) {
    grids.push({
      ...base,
      ...{ name: 'age', kind: 'float', background: [0], metadata: { class: 'unknown' } },
      leaves: toLeaves([perDensity('age')], active, dims, origin),
    });
  }
  if (keep.coordinates) {
    // where the air of a voxel was at the start: its own place plus the way that was carried
    const place = (axis: number): Float32Array => {
      const way = simulation.read((['wayX', 'wayY', 'wayZ'] as const)[axis]),
        per = [1, l.nx, l.nx * l.ny][axis],
        n = dims[axis];
      return way.map((v, i) => v + ((Math.floor(i / per) % n) + 0.5 + origin[axis]) * h);
    };
    grids.push({
      ...base,
      ...{ name: 'coordinates', kind: 'vec3', background: [0, 0, 0], metadata: { class: 'unknown', vector_type: 'invariant' } },
      leaves: toLeaves([0, 1, 2].map(place), active, dims, origin),
    });
  }
  if (keep.velocity) {
    // on faces: voxel (i,j,k) holds the faces on its lower sides, so the voxels behind the medium hold its upper faces
    const faces = new Uint8Array(active.length),
      [nx, ny, nz] = dims;
    for (let k = 0; k < nz; k++)
      for (let j = 0; j < ny; j++)
        for (let i = 0; i < nx; i++) {
          const n = (k * ny + j) * nx + i;
          faces[n] = active[n] | (i > 0 ? active[n - 1] : 0) | (j > 0 ? active[n - nx] : 0) | (k > 0 ? active[n - nx * ny] : 0);
        }
    const parts = (['velocityX', 'velocityY', 'velocityZ'] as const).map((c, axis) => dropLast(simulation.read(c), dims, axis));
    grids.push({
      ...base,
      name: 'velocity',
      kind: 'vec3',
      background: [0, 0, 0],
      metadata: { class: 'staggered', vector_type: 'contravariant relative' },
      leaves: toLeaves(parts, faces, dims, origin),
    });
  }
  return grids;
}

/** Faces to cells: leaves the last face along the axis out. */
function dropLast(values: Float32Array, dims: readonly [number, number, number], axis: number): Float32Array {
  const [nx, ny, nz] = dims,
    mx = nx + Number(axis === 0),
    my = ny + Number(axis === 1);
  if (axis === 2) return values.subarray(0, nx * ny * nz);
  const out = new Float32Array(nx * ny * nz);
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++) out.set(values.subarray((k * my + j) * mx, (k * my + j) * mx + nx), (k * ny + j) * nx);
  return out;
}

// Volumes of other programs as frames of a cache of ours: which grid is what, on a lattice of ours, with what
// had to be guessed.
import { CHANNELS, isVector, type ChannelName } from '../base/channels';
import { lengthOf } from '../math/exact';
import { FileError } from '../files/bytes';
import type { VdbFile, VdbGrid } from '../files/vdb/format';
import { activeBounds } from '../files/vdb/leaves';
import type { Triple } from '../math/vector';
import { facesAbout, cropToActive, volumeFrom, type CacheVolume } from './volume';

/** What a file may hold besides the medium itself. */
const BESIDE = ['temperature', 'colour', 'age', 'velocity'] as const satisfies readonly ChannelName[];
const KNOWN_NAMES: readonly string[] = BESIDE.flatMap((name) => CHANNELS[name].names);
/** Values above this belong to the medium, where a file has no mask of its own that says so. */
const FAINTEST = 1e-6;

export interface Adopted {
  readonly volume: CacheVolume;
  /** What was made of which grid, and what was left out. */
  readonly notes: readonly string[];
}

/** What a grid is, for a list. */
export interface GridReport {
  readonly name: string;
  readonly type: string;
  readonly voxelSizeM: number;
  readonly voxels: number;
  /** World box of what is active, m; null without any. */
  readonly box: { readonly least: Triple; readonly most: Triple } | null;
  readonly range: readonly [number, number] | null;
}
/** What a sequence of volumes is. */
export interface VolumesReport {
  readonly first: number;
  readonly last: number;
  readonly voxelSizeM: number;
  /** As they are called in the cache that is made of it. */
  readonly channels: readonly string[];
  /** Of the first frame. */
  readonly grids: readonly GridReport[];
  /** Gaps, grids that differ from frame to frame, what was guessed and what is left out. */
  readonly notes: readonly string[];
}

export function gridReports(file: VdbFile): GridReport[] {
  const own = file.grids.map((g): GridReport => {
    const bounds = activeBounds(g);
    const h = g.voxelSize;
    const at = (i: Triple, past: number): Triple =>
      i.map((v, a) => g.translation[a] + (v + past - 0.5) * h[a]) as Triple;
    let least = Infinity;
    let most = -Infinity;
    const size = (values: ArrayLike<number>, v: number): number =>
      g.kind === 'vec3' ? lengthOf(values[3 * v], values[3 * v + 1], values[3 * v + 2]) : values[v];
    const meet = (value: number): void => {
      if (value < least) least = value;
      if (value > most) most = value;
    };

    for (const t of g.tiles) if (t.active) meet(size(t.value, 0));
    for (const leaf of g.leaves)
      for (let v = 0; v < 512; v++) {
        if (!((leaf.active[v >> 3] >> (v & 7)) & 1)) continue;
        meet(size(leaf.values, v));
      }

    return {
      name: g.name,
      type: `${g.kind}${g.half ? ', half' : ''}`,
      voxelSizeM: h[0],
      voxels: bounds?.voxels ?? 0,
      box: bounds && { least: at(bounds.min, 0), most: at(bounds.max, 1) },
      range: most >= least ? [least, most] : null,
    };
  });
  return [
    ...own,
    ...file.others.map((o) => ({
      name: o.name,
      type: `${o.type}, not read`,
      voxelSizeM: 0,
      voxels: 0,
      box: null,
      range: null,
    })),
  ];
}

/** @throws FileError where nothing in the file can be a medium */
export function adoptVolume(file: VdbFile, frame: number): Adopted {
  const notes: string[] = [...file.remarks];
  const floats = file.grids.filter((g) => g.kind === 'float');
  const named = (names: readonly string[], kind: VdbGrid['kind']): VdbGrid | undefined =>
    names.map((n) => file.grids.find((g) => g.kind === kind && g.name.toLowerCase() === n)).find((g) => g);
  const main =
    floats.find((g) => g.name.toLowerCase() === 'density') ??
    floats.find((g) => isLevelSet(g)) ??
    floats.find((g) => !KNOWN_NAMES.includes(g.name.toLowerCase()));
  if (!main)
    throw new FileError(
      'It holds no float grid that can be a medium (it holds: ' +
        `${[...file.grids, ...file.others].map((g) => g.name).join(', ') || 'none'})`,
    );
  if (main.name !== 'density') notes.push(`${main.name || 'a grid without a name'} is taken as the density`);
  const [h] = main.voxelSize;
  if (main.askew) throw new FileError(`${askewIn(main)}. Resample it to an upright grid first`);
  if (main.voxelSize.some((s) => Math.abs(s - h) > 1e-4 * h))
    throw new FileError(
      `The voxels of ${main.name} are no cubes ` +
        `(${main.voxelSize.map((v) => v.toPrecision(3)).join(' × ')} m)`,
    );
  const grids: VdbGrid[] = [{ ...(isLevelSet(main) ? asFog(main, notes) : main), name: 'density' }];
  for (const name of BESIDE) {
    const grid = named(CHANNELS[name].names, isVector(name) ? 'vec3' : 'float');
    if (!grid || grid === main) continue;
    if (grid.askew) {
      notes.push(`${askewIn(grid)}, and is left out`);
      continue;
    }

    const far = Math.max(
      ...grid.voxelSize.map((s) => Math.abs(s - h)),
      ...grid.translation.map((t, a) => Math.abs(t - main.translation[a])),
    );
    if (far > 1e-4 * h && !(name === 'velocity' && far <= 0.51 * h)) {
      notes.push(`${grid.name} lies on another lattice than ${main.name}, and is left out`);
      continue;
    }

    grids.push({ ...grid, name, translation: main.translation, voxelSize: main.voxelSize });
    if (grid.name !== name) notes.push(`${grid.name} is taken as ${name}`);
  }

  const left = file.grids
    .filter((g) => g !== main && !KNOWN_NAMES.includes(g.name.toLowerCase()))
    .map((g) => g.name);
  left.push(...file.others.map((o) => `${o.name} (${o.type})`));
  if (left.length) notes.push(`left out: ${left.join(', ')}`);
  const velocity = file.grids.find(
    (g) => (CHANNELS.velocity.names as readonly string[]).includes(g.name.toLowerCase()) && g.kind === 'vec3',
  );
  const onFaces = String(velocity?.metadata.class ?? '') === 'staggered';
  let v = volumeFrom({ ...file, grids }, frame);
  const [density] = v.channels.get('density')!;
  for (let n = 0; n < density.length; n++) if (!(density[n] > FAINTEST)) v.active[n] = 0;
  if (v.channels.has('velocity')) v = onFaces ? v : facesFromMiddles(v, notes);
  return { volume: cropToActive(onLattice(tamed(v))), notes };
}

const askewIn = (g: VdbGrid): string => `The axes of ${g.name} are ${g.askew}`;
const isLevelSet = (g: VdbGrid): boolean => String(g.metadata.class ?? '') === 'level set';

/** A surface as a medium: 1 inside, fading over a voxel. */
function asFog(g: VdbGrid, notes: string[]): VdbGrid {
  notes.push(`${g.name} is a surface: what lies inside of it is taken as full`);
  const h = g.voxelSize[0];
  const thick = (d: number): number => Math.min(1, Math.max(0, 0.5 - d / h));
  return {
    ...g,
    leaves: g.leaves.map((l) => ({
      ...l,
      active: new Uint8Array(64).fill(255),
      values: l.values.map(thick),
    })),
    tiles: g.tiles.map((t) => ({ ...t, value: [thick(t.value[0])], active: t.value[0] < 0 })),
    background: [0],
  };
}

/** Velocity at the voxels' middles onto their lower faces. */
function facesFromMiddles(v: CacheVolume, notes: string[]): CacheVolume {
  notes.push('velocity was at the voxels’ middles, and is brought to their faces');
  const steps = [1, v.dims[0], v.dims[0] * v.dims[1]];
  const known = v.moving;
  const parts = v.channels.get('velocity')!.map((p, a) =>
    p.map((x, n) => {
      const m = n - steps[a];
      const inside = Math.floor(n / steps[a]) % v.dims[a] > 0;
      if (!inside || !known[m]) return x;
      return known[n] ? 0.5 * (x + p[m]) : p[m];
    }),
  );
  return { ...v, moving: facesAbout(known, v.dims), channels: new Map(v.channels).set('velocity', parts) };
}

/** What is infinite or no number becomes 0: it was told of as the file was read. */
function tamed(v: CacheVolume): CacheVolume {
  const isWild = (p: Float32Array): boolean => {
    // what is not finite leaves no 0 behind
    let sum = 0;
    for (let n = 0; n < p.length; n++) sum += p[n] - p[n];
    return sum !== 0;
  };

  const tame = (p: Float32Array): Float32Array =>
    isWild(p) ? p.map((x) => (Number.isFinite(x) ? x : 0)) : p;
  return { ...v, channels: new Map([...v.channels].map(([name, parts]) => [name, parts.map(tame)])) };
}

/**
 * With its first voxel's corner less than a voxel from the world's origin: by whole voxels, so that nothing
 * is looked up anew. A lattice that lies between ours stays where it is.
 */
function onLattice(v: CacheVolume): CacheVolume {
  const h = v.voxelSizeM;
  const near = 1e-4; // parts of a voxel that are rounding
  const off = v.translation.map((t) => Math.floor((t - h / 2) / h + near)) as Triple;
  const translation = v.translation.map((t, a) => {
    const rest = t - h / 2 - off[a] * h;
    return h / 2 + (Math.abs(rest) < near * h ? 0 : rest);
  }) as Triple;
  return { ...v, translation, min: v.min.map((m, a) => m + off[a]) as Triple };
}

// What a recipe brings in, resolved once: each part with what its file gives. The plan is made from this, and
// looks no file up again.
import { CoreError } from '../base/error';
import type { Texture } from '../files/picture';
import { inMetres } from '../geometry/mesh';
import type { MeshShape } from '../geometry/shape';
import type { FilePart, ParticlesPart, Recipe, ShapedPart, SpacePart } from '../recipe/types';
import type { Assets } from './assets';
import { meshShape } from './mesh-shape';
import { ownTime } from './own-time';
import type { MovedPoints, TimedPointClouds } from './timed-point-clouds';
import { volumeShape, type VolumeUse } from './volume-shape';

/** Particles of a file as a run takes them. */
export interface ResolvedParticles {
  /** The most of any frame. */
  readonly most: number;
  /** Where they are at a simulated time and were at an earlier one, in metres. */
  readonly at: (timeS: number, earlierS: number) => MovedPoints;
}

/** By the ids of the parts that want them. */
export interface ResolvedAssets {
  /** Of sources, obstacles, particles, currents and regions whose shape is a mesh or a volume. */
  readonly shapes: ReadonlyMap<string, MeshShape>;
  readonly particles: ReadonlyMap<string, ResolvedParticles>;
  /** Pictures of patterns. */
  readonly textures: ReadonlyMap<string, Texture>;
}

const SHAPED = ['sources', 'obstacles', 'currents', 'regions', 'particles'] as const;

/**
 * @param voxelSizeM edge of a voxel: meshes become distances on the lattice
 * @throws CoreError naming the part where a file is wanted that is not there or does not fit
 */
export function resolveAssets(recipe: Recipe, voxelSizeM: number, assets?: Assets): ResolvedAssets {
  const { space } = recipe;
  const opened = openerOf(recipe, assets);
  const shapes = new Map<string, MeshShape>();
  for (const list of SHAPED)
    for (const part of recipe[list] as readonly ShapedPart[]) {
      const use = meshUse(list, part);
      if (!use) continue;
      const { file, from } = opened(part.file, part.name);
      const volumes = from.volumes(file);
      if (use === 'current' && !volumes)
        throw new CoreError('asset', `${part.name}: ${file.name} holds no volume that the air could follow.`);
      shapes.set(
        part.id,
        volumes
          ? volumeShape(part.name, file, volumes, space, voxelSizeM, use)
          : meshShape(part, file, from.mesh(file), space, voxelSizeM, use),
      );
    }

  const particles = new Map<string, ResolvedParticles>();
  for (const part of recipe.particles)
    if (part.on && part.born === 'file') particles.set(part.id, resolveParticles(part, recipe, assets));

  const textures = new Map<string, Texture>();
  for (const pattern of recipe.patterns) {
    if (!pattern.on || pattern.noise !== 'picture' || pattern.source === '') continue;
    const { file, from } = opened(pattern.file, pattern.name);
    textures.set(pattern.id, from.picture(file));
  }

  return { shapes, particles, textures };
}

/** @throws CoreError where the part has no file, or nobody can read it */
export function resolveParticles(part: ParticlesPart, recipe: Recipe, assets?: Assets): ResolvedParticles {
  const { file, from } = openerOf(recipe, assets)(part.sequence, part.name);
  const clouds = from.clouds(file);
  return {
    most: clouds.most,
    at: (timeS, earlierS) => particlesInMetres(clouds, file, recipe.space, timeS, earlierS),
  };
}

const openerOf =
  (recipe: Recipe, assets: Assets | undefined) =>
  (id: string, who: string): { file: FilePart; from: Assets } => {
    const file = recipe.files.find((f) => f.id === id);
    if (!file)
      throw new CoreError(
        'asset',
        `${who} has no file yet. Choose one that was brought in, or another shape.`,
      );
    if (!assets)
      throw new CoreError(
        'asset',
        `The file ${file.name} cannot be read here: no folder of files was given.`,
      );
    return { file, from: assets };
  };

/** Ids of the files that a recipe's run asks for. */
export function filesWanted(recipe: Recipe): ReadonlySet<string> {
  const wanted = new Set<string>();
  for (const list of SHAPED)
    for (const part of recipe[list] as readonly ShapedPart[]) if (meshUse(list, part)) wanted.add(part.file);

  for (const p of recipe.particles) if (p.on && p.born === 'file') wanted.add(p.sequence);
  for (const p of recipe.patterns) if (p.on && p.noise === 'picture') wanted.add(p.file);
  return wanted;
}

/** What a part uses a mesh or a volume for; null where it wants none. */
function meshUse(list: (typeof SHAPED)[number], part: ShapedPart): VolumeUse | null {
  if (!part.on) return null;
  if ('does' in part && part.does === 'volume') return 'current';
  const shapeless = 'born' in part && part.born !== 'burst' && part.born !== 'rate';
  if (part.shape !== 'mesh' || shapeless) return null;
  return list === 'obstacles' ? 'obstacle' : 'source';
}

/** Particles of a file where they are at a time of the run, in metres. */
function particlesInMetres(
  clouds: TimedPointClouds,
  file: FilePart,
  space: SpacePart,
  timeS: number,
  earlierS: number,
): MovedPoints {
  const at = (t: number): number => ownTime(file, clouds, space, t);
  // where a loop starts again, nothing flies back
  const [now, before] = [at(timeS), Math.min(at(earlierS), at(timeS))];
  const flown = clouds.at(now, before);
  const turned = (positions: Float32Array): Float32Array =>
    inMetres({ positions, triangles: new Uint32Array(0), colours: null }, file).positions;
  return {
    ...flown,
    positions: turned(flown.positions),
    earlier: turned(flown.earlier),
    velocities: flown.velocities && turned(flown.velocities),
    radii: flown.radii && flown.radii.map((r) => r * file.scale),
  };
}

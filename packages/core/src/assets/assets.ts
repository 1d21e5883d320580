// What the recipe's files hold, and how sources, obstacles and patterns get at it.
import { lengthOf } from '../math/exact';
import type { TimedClouds } from './timed-clouds';
import type { TimedVolumes } from './timed-volumes';
import type { FilePart, ParticlesPart, PatternPart, Recipe, ShapedPart } from '../recipe/types';
import type { Triple } from '../math/vector';
import type { MeshMoment, MeshShape, DistanceGrid } from '../geometry/shape';
import { volumeShape, type VolumeUse } from './volume-shape';
import { colourMask, meshDistances, paintMask } from '../geometry/distance';
import { boundsInMetres, inMetres, movesByItself, type Mesh, type TimedMesh } from '../geometry/mesh';
import type { Picture } from '../files/picture';
import { ownTime } from './own-time';
/** Decoded files by the recipe's file part; made by the door that can read them. */
export interface Assets {
  /** In the file's own units and axes; the same object for the same file. */
  mesh(file: FilePart): TimedMesh;
  picture(file: FilePart): Picture;
  clouds(file: FilePart): TimedClouds;
  /** Null where the file holds something else. */
  volumes(file: FilePart): TimedVolumes | null;
}

function fileOf(recipe: Recipe, id: string, who: string): FilePart {
  const file = recipe.files.find((f) => f.id === id);
  if (!file) throw new Error(`${who} has no file yet. Choose one that was brought in, or another shape.`);
  return file;
}

function need(assets: Assets | undefined, file: FilePart): Assets {
  if (!assets) throw new Error(`The file ${file.name} cannot be read here: no folder of files was given.`);
  return assets;
}

/** @throws Error where there are none */
export function cloudsOf(
  part: ParticlesPart,
  recipe: Recipe,
  assets: Assets | undefined,
): { clouds: TimedClouds; file: FilePart } {
  const file = fileOf(recipe, part.sequence, part.name);
  return { clouds: need(assets, file).clouds(file), file };
}

export function pictureOf(pattern: PatternPart, recipe: Recipe, assets: Assets | undefined): Picture {
  const file = fileOf(recipe, pattern.file, pattern.name);
  return need(assets, file).picture(file);
}

/** Nodes around a mesh, so that the distance is known a little outside of it. */
const AROUND = 3;
const MOST_NODES = 2 ** 27;
const MOST_KEPT = 24;
const MOST_MOMENTS = 2;
/**
 * What was made of a mesh, by what it was made with: a run starts again with every change, its meshes stay.
 */
const kept = new WeakMap<TimedMesh, Map<string, MeshShape>>();

/**
 * @param h voxel size, m
 * @param use an obstacle's distances stand where the faces have their corners, all others are finer, so that
 * a source gives off what its volume says
 */
export function meshShape(
  part: ShapedPart,
  recipe: Recipe,
  h: number,
  use: VolumeUse,
  assets: Assets | undefined,
): MeshShape {
  const file = fileOf(recipe, part.file, part.name);
  const volumes = need(assets, file).volumes(file);
  if (volumes || use === 'current') {
    if (!volumes) throw new Error(`${part.name}: ${file.name} holds no volume that the air could follow.`);
    return volumeShape(part.name, file, volumes, recipe.space, h, use);
  }

  const own = need(assets, file).mesh(file);
  const { space } = recipe;
  const perCell = use === 'obstacle' ? 1 : 2;
  const mask = part.mask && part.mask !== 'none' ? part.mask : null;
  if (mask && mask !== 'painted' && !own.at(own.first).colours)
    throw new Error(
      `${part.name}: ${file.name} has no colours at its vertices, so they cannot mask it. Paint the ` +
        'mask, or set it to the whole surface.',
    );
  const moves = movesByItself(own);
  const times = moves
    ? [file.start, file.rate, file.pace, file.after, space.firstFrame, space.frameRate, space.timeScale]
    : [];
  const spacingM = h / perCell;
  const key = [
    file.scale,
    file.up,
    h,
    perCell,
    mask,
    ...times,
    mask === 'painted' ? part.paint!.flat() : '',
  ].join();
  const ofMesh = kept.get(own) ?? new Map<string, MeshShape>();
  kept.set(own, ofMesh);
  const found = ofMesh.get(key);
  if (found) return found;
  const { least, most } = boundsInMetres(own.bounds(), file);
  const first = least.map((v) => Math.floor(v / spacingM) - AROUND) as Triple;
  const nodes = most.map((v, a) => Math.ceil(v / spacingM) + AROUND - first[a] + 1) as Triple;
  if (nodes[0] * nodes[1] * nodes[2] > MOST_NODES)
    throw new Error(
      `${part.name}: ${file.name} is ${most.map((v, a) => (v - least[a]).toPrecision(3)).join(' × ')} ` +
        `m, too large for voxels of ${h} m. Correct the file’s scale, or use larger voxels.`,
    );
  const place = { first, nodes, spacingM };
  const meshAt = (timeS: number): Mesh => inMetres(own.at(ownTime(file, own, space, timeS)), file);
  const maskOf = !mask
    ? null
    : mask === 'painted'
      ? paintMask(part.paint!, inMetres(own.at(own.first), file).positions)
      : colourMask(own.at(own.first).colours!, mask);
  const moments = new Map<string, MeshMoment>();
  const outline = {
    nodes,
    first: first.map((v) => v / perCell) as Triple,
    nodesPerCell: perCell,
    distances: new Float32Array(0),
  };
  const shape: MeshShape = {
    nodes,
    moves,
    outline,
    masked: mask !== null,
    at: (timeS, lengthS = 0) => {
      const when = moves ? `${timeS} ${lengthS}` : '';
      const known = moments.get(when);
      if (known) return known;
      const mesh = meshAt(timeS);
      const flows = moves && lengthS > 0 && own.keepsShape;
      const made = meshDistances(
        mesh,
        place,
        maskOf,
        flows ? { positions: meshAt(timeS - lengthS).positions, seconds: lengthS } : null,
      );
      const grid: DistanceGrid = { ...outline, distances: made.distances.map((d) => d / perCell) };
      const moment = { grid, mask: made.mask, flow: made.flow, ways: null };
      moments.set(when, moment);
      if (moments.size > MOST_MOMENTS) moments.delete(moments.keys().next().value!);
      return moment;
    },
    wayBetween: (fromS, toS) => {
      if (!moves || !own.keepsShape) return 0;
      const a = meshAt(fromS).positions;
      const b = meshAt(toS).positions;
      let longest = 0;
      for (let n = 0; n < a.length; n += 3)
        longest = Math.max(longest, lengthOf(a[n] - b[n], a[n + 1] - b[n + 1], a[n + 2] - b[n + 2]));
      return longest / h;
    },
  };
  ofMesh.set(key, shape);
  if (ofMesh.size > MOST_KEPT) ofMesh.delete(ofMesh.keys().next().value!);
  return shape;
}

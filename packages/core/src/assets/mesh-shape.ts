// A mesh on the lattice: its distances, mask and surface speeds at a moment, kept as long as the mesh is.
import { LRUCache } from 'lru-cache';
import type { FilePart, ShapedPart, SpacePart } from '../recipe/types';
import { type TimedMesh, movesByItself, boundsInMetres, type Mesh, inMetres } from '../geometry/mesh';
import type { MeshShape, MeshMoment, DistanceGrid } from '../geometry/shape';
import type { VolumeUse } from './volume-shape';
import { CoreError } from '../base/error';
import type { Triple } from '../math/vector';
import { ownTime } from './own-time';
import { paintMask, colourMask, meshDistances } from '../geometry/distance';
import { lengthOf } from '../math/exact';

/** Nodes around a mesh, so that the distance is known a little outside of it. */
const AROUND = 3;

const MOST_NODES = 2 ** 27;

const MOST_KEPT = 24;

const MOST_MOMENTS = 2;

/**
 * What was made of a mesh, by what it was made with: a run starts again with every change, its meshes stay.
 */
const kept = new WeakMap<TimedMesh, LRUCache<string, MeshShape>>();

/**
 * @param h voxel size, m
 * @param use an obstacle's distances stand where the faces have their corners, all others are finer, so that
 * a source gives off what its volume says
 */
export function meshShape(
  part: ShapedPart,
  file: FilePart,
  own: TimedMesh,
  space: SpacePart,
  h: number,
  use: VolumeUse,
): MeshShape {
  const perCell = use === 'obstacle' ? 1 : 2;
  const mask = part.mask && part.mask !== 'none' ? part.mask : null;
  if (mask && mask !== 'painted' && !own.at(own.first).colours)
    throw new CoreError(
      'asset',
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
  const ofMesh = kept.get(own) ?? new LRUCache<string, MeshShape>({ max: MOST_KEPT });
  kept.set(own, ofMesh);
  const found = ofMesh.get(key);
  if (found) return found;
  const { least, most } = boundsInMetres(own.bounds(), file);
  const first = least.map((v) => Math.floor(v / spacingM) - AROUND) as Triple;
  const nodes = most.map((v, a) => Math.ceil(v / spacingM) + AROUND - first[a] + 1) as Triple;
  if (nodes[0] * nodes[1] * nodes[2] > MOST_NODES)
    throw new CoreError(
      'asset',
      `${part.name}: ${file.name} is ${most.map((v, a) => (v - least[a]).toPrecision(3)).join(' × ')} ` +
        `m, too large for voxels of ${h} m. Correct the file’s scale, or use larger voxels.`,
    );
  const place = { first, nodes, spacingM };
  const meshAt = (timeS: number): Mesh => inMetres(own.at(ownTime(file, own, space, timeS)), file);
  const first0 = own.at(own.first);
  const maskOf =
    mask === 'painted'
      ? paintMask(part.paint!, inMetres(first0, file).positions)
      : mask && colourMask(first0.colours!, mask);
  const moments = new LRUCache<string, MeshMoment>({ max: MOST_MOMENTS });
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
      return moment;
    },
    surfaceAt: meshAt,
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
  return shape;
}

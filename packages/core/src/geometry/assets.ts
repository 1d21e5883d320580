// What the recipe's files hold, and how sources, obstacles and patterns get at it.
import type { MeshShape } from '../step/compile';
import type { FilePart, PatternPart, Recipe, SourcePart, StandingPart, Triple } from '../recipe/recipe';
import { meshDistances, type MeshDistances } from './distance';
import type { DistanceGrid } from './shape';
import { boundsOfMesh, inMetres, type Mesh } from './mesh';

/** A picture as four planes one behind the other, bottom row first: red, green, blue (linear) and brightness. */
export interface Picture {
  readonly width: number;
  readonly height: number;
  readonly planes: Float32Array;
}
/** Decoded files by the recipe's file part; made by the door that can read them. */
export interface Assets {
  /** In the file's own units and axes; the same object for the same file. */
  mesh(file: FilePart): Mesh;
  picture(file: FilePart): Picture;
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

export function pictureOf(pattern: PatternPart, recipe: Recipe, assets: Assets | undefined): Picture {
  const file = fileOf(recipe, pattern.file, pattern.name);
  return need(assets, file).picture(file);
}

/** Nodes around a mesh, so that the distance is known a little outside of it. */
const AROUND = 3,
  MOST_NODES = 2 ** 27,
  MOST_KEPT = 24;
/** What was made of a mesh, by what it was made with: a run starts again with every change, its meshes stay. */
const kept = new WeakMap<Mesh, Map<string, MeshShape>>();

/**
 * @param h voxel size, m
 * @param perCell nodes of its distances along a cell: an obstacle's stand where the faces have their corners, a source's are
 * finer, so that it gives off what its volume says
 */
export function meshShape(
  part: StandingPart & Partial<SourcePart>,
  recipe: Recipe,
  h: number,
  perCell: number,
  assets: Assets | undefined,
): MeshShape {
  const file = fileOf(recipe, part.file, part.name),
    own = need(assets, file).mesh(file);
  const mask = part.mask && part.mask !== 'none' ? part.mask : null;
  if (mask && !own.colours)
    throw new Error(
      `${part.name}: ${file.name} has no colours at its vertices, so they cannot mask it. Set its mask to the whole surface.`,
    );
  const spacingM = h / perCell,
    key = [file.scale, file.up, h, perCell, mask].join(),
    ofMesh = kept.get(own) ?? new Map<string, MeshShape>();
  kept.set(own, ofMesh);
  const found = ofMesh.get(key);
  if (found) return found;
  const mesh = inMetres(own, file),
    { least, most } = boundsOfMesh(mesh);
  const first = least.map((v) => Math.floor(v / spacingM) - AROUND) as Triple,
    nodes = most.map((v, a) => Math.ceil(v / spacingM) + AROUND - first[a] + 1) as Triple;
  if (nodes[0] * nodes[1] * nodes[2] > MOST_NODES)
    throw new Error(
      `${part.name}: ${file.name} is ${most.map((v, a) => (v - least[a]).toPrecision(3)).join(' × ')} m, too large for voxels of ${h} m. Correct the file’s scale, or use larger voxels.`,
    );
  let made: MeshDistances | null = null,
    grid: DistanceGrid | null = null;
  const make = (): MeshDistances => (made ??= meshDistances(mesh, { first, nodes, spacingM }, mask));
  const shape: MeshShape = {
    nodes,
    grid: () =>
      (grid ??= {
        nodes,
        first: first.map((v) => v / perCell) as Triple,
        nodesPerCell: perCell,
        distances: make().distances.map((d) => d / perCell),
      }),
    mask: mask ? () => make().mask! : null,
  };
  ofMesh.set(key, shape);
  if (ofMesh.size > MOST_KEPT) ofMesh.delete(ofMesh.keys().next().value!);
  return shape;
}

// The door through which a recipe's files come: decoded, as whoever can read them gives them.
import type { Texture } from '../files/picture';
import type { TimedMesh } from '../geometry/mesh';
import type { FilePart } from '../recipe/types';
import type { TimedPointClouds } from './timed-point-clouds';
import type { TimedVolumes } from './timed-volumes';

/** Decoded files by the recipe's file part; made by the door that can read them. */
export interface Assets {
  /** In the file's own units and axes; the same object for the same file. */
  mesh(file: FilePart): TimedMesh;
  picture(file: FilePart): Texture;
  clouds(file: FilePart): TimedPointClouds;
  /** Null where the file holds something else. */
  volumes(file: FilePart): TimedVolumes | null;
}

// What files that artists bring in may be, and what they hold once they were read; the readers themselves
// stand in import-asset.ts, which is large.
import { CoreError } from '../base/error';
import type { Texture } from '../files/picture';
import type { TimedMesh } from '../geometry/mesh';
import type { FilePart } from '../recipe/types';
import type { Assets } from './assets';
import type { TimedPointClouds } from './timed-point-clouds';
import type { TimedVolumes } from './timed-volumes';

export const MESH_ENDINGS: readonly string[] = ['obj', 'ply', 'stl', 'glb', 'gltf'];
export const VOLUME_ENDINGS: readonly string[] = ['vdb'];
export const PICTURE_ENDINGS: readonly string[] = ['png', 'exr', 'hdr'];
export const PARTICLE_ENDINGS: readonly string[] = ['ply', 'csv'];
/** Numbered meshes or particles in one file. */
export const SEQUENCE_ENDING = 'zip';
export const ALL_ENDINGS: readonly string[] = [
  ...new Set([...MESH_ENDINGS, ...PARTICLE_ENDINGS, ...VOLUME_ENDINGS, SEQUENCE_ENDING, ...PICTURE_ENDINGS]),
];
export function endingOf(name: string): string {
  return /\.([^.]+)$/.exec(name)?.[1].toLowerCase() ?? '';
}

/** What a file holds. */
export type ImportedAsset = (
  | { readonly kind: 'mesh'; readonly mesh: TimedMesh }
  | { readonly kind: 'particles'; readonly clouds: TimedPointClouds }
  | { readonly kind: 'picture'; readonly picture: Texture }
  | { readonly kind: 'volume'; readonly volumes: TimedVolumes; readonly box: TimedMesh }
) & {
  /** What of the file was left out or changed. */
  readonly remarks: readonly string[];
};

/**
 * What a recipe's files hold, from what was read of each; it throws in words where a file is not of the kind
 * that is wanted.
 */
export function assetsFrom(find: (file: FilePart) => ImportedAsset | undefined): Assets {
  const of = <K extends ImportedAsset['kind']>(
    file: FilePart,
    kind: K,
  ): Extract<ImportedAsset, { kind: K }> => {
    const found = find(file);
    if (!found) throw new CoreError('asset', `${file.name} was not read.`);
    if (found.kind !== kind)
      throw new CoreError(
        'asset',
        `${file.name} is wanted as ${WORDS[kind]}, but holds ${WORDS[found.kind]}.`,
      );
    return found as Extract<ImportedAsset, { kind: K }>;
  };

  return {
    // a volume is drawn as the box around it
    mesh: (file) => {
      const found = find(file);
      return found?.kind === 'volume' ? found.box : of(file, 'mesh').mesh;
    },
    volumes: (file) => {
      const found = find(file);
      return found?.kind === 'volume' ? found.volumes : null;
    },
    picture: (file) => of(file, 'picture').picture,
    clouds: (file) => of(file, 'particles').clouds,
  };
}

const WORDS = { mesh: 'a mesh', picture: 'a picture', particles: 'particles', volume: 'a volume' } as const;

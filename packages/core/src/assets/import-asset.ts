// Files that artists bring in: which reader takes them, and what every one of them must hold to.
import {
  boundsOfMesh,
  checkMesh,
  stillMesh,
  type Mesh,
  type MeshReport,
  type TimedMesh,
} from '../geometry/mesh';
import type { Triple } from '../math/vector';
import type { GridReport } from '../volume/adopt';
import { FileError } from '../files/bytes';
import {
  ALL_ENDINGS,
  endingOf,
  MESH_ENDINGS,
  PARTICLE_ENDINGS,
  PICTURE_ENDINGS,
  SEQUENCE_ENDING,
  VOLUME_ENDINGS,
  type ImportedAsset,
} from './imported';
import { withoutLoose } from '../files/faces';
import { readExrTexture } from '../files/exr/colours';
import { readHdr } from '../files/hdr/hdr';
import { readObj } from '../files/obj/obj';
import type { PointCloud } from '../files/point-cloud';
import { readCsvCloud } from '../files/csv/particles';
import { hasFaces, readPly, readPlyCloud } from '../files/ply/ply';
import { readPngPicture } from '../files/png/png';
import { cloudSequence, oneCloud } from './timed-point-clouds';
import { meshSequence } from './timed-meshes';
import { openSequence } from '../files/sequence/sequence';
import { boxOfVolumes, oneVolume, timedVolumes, type TimedVolumes } from './timed-volumes';
import { rangesOf, whole, type ByteRanges } from '../files/ranges';
import { pureZip, type ZipCodec } from '../files/zip';
import { readStl } from '../files/stl/stl';

const MOST_TRIANGLES = 5_000_000;
const MOST_PARTICLES = 5_000_000;

/** A sequence or an animation, in its own time. */
export interface InTime {
  readonly unit: TimedMesh['unit'];
  readonly first: number;
  readonly last: number;
  /** Its faces stay the same, so that its surface has a speed. */
  readonly keepsShape: boolean;
}
/** What a check finds in a file; lengths in the file's units. */
export type FileReport = (
  | ({
      readonly kind: 'mesh';
      readonly least: Triple;
      readonly most: Triple;
      readonly coloured: boolean;
      readonly time: InTime | null;
    } & MeshReport)
  | ({ readonly kind: 'particles'; readonly most: number; readonly time: InTime | null } & Pick<
      CloudReport,
      'size' | 'hasSpeeds' | 'hasRadii' | 'hasIds'
    >)
  | { readonly kind: 'picture'; readonly width: number; readonly height: number }
  | {
      readonly kind: 'volume';
      readonly size: Triple;
      readonly hasVelocity: boolean;
      readonly grids: readonly GridReport[];
      readonly time: InTime | null;
    }
  | {
      readonly kind: 'movie';
      readonly width: number;
      readonly height: number;
      readonly pixelAspect: number;
      /** Frames a second. */
      readonly rate: number;
      readonly frames: number;
      readonly hasAlpha: boolean;
      readonly codec: string;
      readonly encoding: 'srgb' | 'rec709';
    }
  /** Numbered ones. */
  | {
      readonly kind: 'pictures';
      readonly width: number;
      readonly height: number;
      readonly first: number;
      readonly last: number;
      readonly frames: number;
      readonly ending: string;
    }
  | {
      readonly kind: 'track';
      readonly of: 'point' | 'corners';
      readonly first: number;
      readonly last: number;
      /** Of the plate that it is of, pixels. */
      readonly size: readonly [number, number] | null;
    }
  | { readonly kind: 'table'; readonly edges: 'line' | 'cube'; readonly size: number }
) & {
  /** Gaps, and what was guessed, changed or left out. */
  readonly notes: readonly string[];
};
interface CloudReport {
  /** Edges of the box around the first frame. */
  readonly size: Triple;
  readonly hasSpeeds: boolean;
  readonly hasRadii: boolean;
  readonly hasIds: boolean;
}

export function reportOf(brought: ImportedAsset): FileReport {
  const timeOf = (t: {
    unit?: TimedMesh['unit'];
    first: number;
    last: number;
    keepsShape?: boolean;
  }): InTime | null =>
    t.last > t.first
      ? { unit: t.unit ?? 'frames', first: t.first, last: t.last, keepsShape: t.keepsShape ?? true }
      : null;
  const notes = brought.remarks;
  if (brought.kind === 'picture')
    return { kind: 'picture', width: brought.picture.width, height: brought.picture.height, notes };
  if (brought.kind === 'volume') {
    const { volumes } = brought;
    const { hasVelocity } = volumes;
    const { grids } = volumes.report;
    const { least, most } = volumes.bounds();
    return {
      kind: 'volume',
      size: most.map((v, a) => v - least[a]) as Triple,
      hasVelocity,
      grids,
      notes,
      time: timeOf(volumes),
    };
  }

  if (brought.kind === 'mesh') {
    const mesh = brought.mesh.at(brought.mesh.first);
    return {
      kind: 'mesh',
      ...checkMesh(mesh),
      ...brought.mesh.bounds(),
      coloured: mesh.colours !== null,
      notes,
      time: timeOf(brought.mesh),
    };
  }

  const { clouds } = brought;
  const first = clouds.at(clouds.first, clouds.first);
  const { least, most } = boundsOfMesh(first);
  return {
    kind: 'particles',
    most: clouds.most,
    size: first.count ? (most.map((v, a) => v - least[a]) as Triple) : [0, 0, 0],
    hasSpeeds: first.velocities !== null,
    hasRadii: first.radii !== null,
    hasIds: clouds.hasIds,
    notes,
    time: timeOf(clouds),
  };
}

const takenKinds =
  `Meshes come as ${MESH_ENDINGS.join(', ')}, particles as ${PARTICLE_ENDINGS.join(', ')}, volumes as ` +
  `${VOLUME_ENDINGS.join(', ')}, sequences of them as ${SEQUENCE_ENDING} of numbered files, pictures as ` +
  `${PICTURE_ENDINGS.join(', ')}; for comps also jpg, webp, tif, dpx, movies, tracks as csv or json ` +
  'and tables as cube.';

/**
 * @param content of a sequence only what is asked for is read
 * @throws FileError in words that name the place and the cure
 */
export async function importAsset(
  name: string,
  content: Uint8Array | ByteRanges,
  zip: ZipCodec = pureZip,
): Promise<ImportedAsset> {
  const file = content instanceof Uint8Array ? rangesOf(content) : content;
  const ending = endingOf(name);
  if (!ALL_ENDINGS.includes(ending)) throw new FileError(`No file of this kind is taken. ${takenKinds}`);
  if (file.size === 0) throw new FileError('The file is empty.');
  if (ending === SEQUENCE_ENDING) return readSequence(file, zip);
  const bytes = whole(file);
  if (PICTURE_ENDINGS.includes(ending)) return readPicture(name, bytes, zip);
  if (VOLUME_ENDINGS.includes(ending)) return volumeBrought(oneVolume(bytes, zip));
  if (ending === 'glb' || ending === 'gltf') {
    // its reader is large, and few files are of that kind
    const { readGltf } = await import('../files/gltf/gltf');
    const { mesh, remarks } = await readGltf(bytes, MOST_TRIANGLES);
    soundMesh(mesh.at(mesh.first));
    return { kind: 'mesh', mesh, remarks };
  }

  if (isCloud(ending, bytes))
    return { kind: 'particles', clouds: oneCloud(readCloud(ending, bytes)), remarks: [] };
  const { mesh, loose } = plainMesh(ending, bytes);
  return { kind: 'mesh', mesh: stillMesh(mesh), remarks: looseTold(loose) };
}

const looseTold = (loose: number): string[] =>
  loose === 0 ? [] : [`vertices that no face uses are left out: ${loose}`];

const volumeBrought = (volumes: TimedVolumes): ImportedAsset => ({
  kind: 'volume',
  volumes,
  box: boxOfVolumes(volumes),
  remarks: volumes.report.notes,
});

function readSequence(file: ByteRanges, zip: ZipCodec): ImportedAsset {
  const sequence = openSequence(file, zip);
  const { ending } = sequence;
  if (VOLUME_ENDINGS.includes(ending)) return volumeBrought(timedVolumes(sequence, zip));
  if (!['obj', 'ply', 'stl', 'csv'].includes(ending))
    throw new FileError(
      'A sequence is of numbered OBJ, PLY, STL, CSV or VDB files, not of ' +
        `${ending || 'files without an ending'}.`,
    );
  return isCloud(ending, sequence.read(0))
    ? { kind: 'particles', clouds: cloudSequence(sequence, (frame) => readCloud(ending, frame)), remarks: [] }
    : {
        kind: 'mesh',
        mesh: meshSequence(sequence, (frame) => plainMesh(ending, frame).mesh),
        remarks: looseTold(plainMesh(ending, sequence.read(0)).loose),
      };
}

const isCloud = (ending: string, bytes: Uint8Array): boolean =>
  ending === 'csv' || (ending === 'ply' && !hasFaces(bytes));

function readCloud(ending: string, bytes: Uint8Array): PointCloud {
  const cloud = ending === 'csv' ? readCsvCloud(bytes) : readPlyCloud(bytes);
  if (cloud.count > MOST_PARTICLES)
    throw new FileError(
      `It holds ${(cloud.count / 1e6).toFixed(1)} million particles; ${MOST_PARTICLES / 1e6} million ` +
        'are the most.',
    );
  return cloud;
}

function plainMesh(ending: string, bytes: Uint8Array): { mesh: Mesh; loose: number } {
  const read = { obj: readObj, ply: readPly }[ending] ?? readStl;
  const mesh = read(bytes);
  soundMesh(mesh);
  return withoutLoose(mesh);
}

/** @throws FileError */
function soundMesh(mesh: Mesh): void {
  const triangles = mesh.triangles.length / 3;
  if (triangles === 0)
    throw new FileError('It holds no triangles. Points and lines cannot be used as a mesh.');
  if (triangles > MOST_TRIANGLES)
    throw new FileError(
      `It holds ${(triangles / 1e6).toFixed(1)} million triangles; ${MOST_TRIANGLES / 1e6} million are ` +
        'the most. Reduce it first.',
    );
  const bad = mesh.positions.findIndex((v) => !Number.isFinite(v));
  if (bad >= 0) throw new FileError(`Vertex ${Math.floor(bad / 3)} is at no place (not a finite number).`);
}

/** @throws FileError */
async function readPicture(name: string, bytes: Uint8Array, zip: ZipCodec): Promise<ImportedAsset> {
  const ending = endingOf(name);
  if (ending === 'png') return { kind: 'picture', ...readPngPicture(bytes) };
  if (ending === 'hdr') return { kind: 'picture', ...readHdr(bytes) };
  return { kind: 'picture', ...(await readExrTexture(bytes, zip)) };
}

// Reads OpenVDB files. Every count and size is held against what the file can hold before anything is
// allocated.
import { ByteReader, FileError } from '../bytes';
import { pureZip, type ZipCodec } from '../zip';
import { FILE_VERSION, MAGIC, OLDEST_VERSION, type OtherGrid, type VdbFile, type VdbGrid } from './format';
import { GridReader, type Scalar } from './grid-reader';
import { readMetadata } from './metadata';

export interface ReadOptions {
  readonly zip?: ZipCodec;
  /** The grids that are wanted, by name; the rest is passed over and only named. */
  readonly only?: ReadonlySet<string>;
}

const TREE = /^Tree_(float|double|vec3s|vec3d)_5_4_3(_HalfFloat)?$/;
/** @throws FileError naming what is wrong and the byte */
export function readVdb(data: Uint8Array, options: ReadOptions = {}): VdbFile {
  const r = new ByteReader(data);
  if (r.size < 8 || r.u32() !== MAGIC || r.u32() !== 0) throw new FileError('This is not an OpenVDB file');
  const version = r.u32('the file version');
  if (version < OLDEST_VERSION || version > FILE_VERSION)
    throw new FileError(
      `OpenVDB file version ${version} is not supported (${OLDEST_VERSION} to ${FILE_VERSION} are)`,
    );
  r.u32('the library version');
  r.u32('the library version');
  const hasOffsets = r.u8('the offset flag') !== 0;
  r.bytes(36, 'the file id');
  const metadata = readMetadata(r);
  const count = r.i32('the number of grids');
  if (count < 0 || count > r.left / 12)
    throw new FileError(`${count} grids cannot fit in the file`, r.at - 4);
  const grids: VdbGrid[] = [];
  const others: OtherGrid[] = [];
  const remarks: string[] = [];
  /** By the names that tell grids of one name apart, which instances go by. */
  const known = new Map<string, VdbGrid>();
  const instances: { place: number; of: string }[] = [];
  for (let g = 0; g < count; g++) {
    const unique = r.text('a grid name');
    const [name] = unique.split('\x1e');
    const type = r.text('a grid type');
    const parent = r.text('an instance name');
    const gridAt = r.i64('a grid offset');
    const blockAt = r.i64('a block offset');
    const end = r.i64('an end offset');
    if (Math.min(gridAt, blockAt, end) < 0)
      throw new FileError(`Grid ${name} has an offset before the start of the file`, r.at - 24);
    const match = TREE.exec(type);
    const wanted = !options.only || options.only.has(name);
    if (match && wanted) {
      if (hasOffsets && gridAt > 0) r.jump(gridAt, `The start of grid ${name}`);
      const [, scalar, half] = match;
      const grid = new GridReader(r, name, scalar as Scalar, half !== undefined, options.zip ?? pureZip);
      const read = parent === '' ? grid.read() : grid.head();
      if (parent !== '') instances.push({ place: grids.length, of: parent });
      if (scalar.endsWith('d') || scalar === 'double')
        remarks.push(`${name} is of double precision, and is kept as floats`);
      if (grid.wild > 0) remarks.push(`${grid.wild} active voxels of ${name} are infinite or no numbers`);
      known.set(unique, read);
      grids.push(read);
    } else others.push({ name, type });
    if (hasOffsets && end > 0) {
      if (end < r.at && match && wanted) throw new FileError(`Grid ${name} runs past its stated end`, r.at);
      if (end < blockAt) throw new FileError(`Grid ${name} has offsets out of order`, r.at);
      r.jump(end, `The end of grid ${name}`);
    } else if (!match || !wanted) {
      if (g < count - 1)
        throw new FileError(
          `Grid ${name} of type ${type} cannot be passed over, since the file has no offsets`,
          r.at,
        );
    }
  }

  for (const { place, of } of instances) {
    const parent = known.get(of);
    if (parent) grids[place] = { ...parent, ...positionOf(grids[place]), name: grids[place].name };
    else if (!options.only)
      throw new FileError(`Grid ${grids[place].name} shares the voxels of ${of}, which is not in the file`);
  }

  return { grids, others, metadata, remarks };
}

/** What an instance has of its own. */
const positionOf = ({ translation, voxelSize, askew, metadata }: VdbGrid) => ({
  translation,
  voxelSize,
  askew,
  metadata,
});

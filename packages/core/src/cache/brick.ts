// A brick: a small picture of one frame's density for a screen, a byte a voxel.
import { ByteReader, ByteWriter, FileFault } from '../files/bytes';
import { pureZip, type ZipCodec } from '../files/zip';
import type { Simulation } from '../step/simulation';
import type { Triple } from '../recipe/recipe';

export interface Brick {
  readonly frame: number;
  readonly dims: Triple;
  /** World position of the least corner and edge of a brick voxel, m. */
  readonly corner: Triple;
  readonly voxelSizeM: number;
  /** The density that the byte 255 stands for. */
  readonly greatest: number;
  /** x fastest. */
  readonly bytes: Uint8Array;
}

const MAGIC = 0x314b4d42; // "BMK1"
const MOST = 512;

/** The present density, averaged down to at most `longest` voxels along an edge. */
export function takeBrick(simulation: Simulation, longest = 96): Brick {
  const { window } = simulation,
    l = window.lattice,
    { team } = simulation;
  const step = Math.ceil(Math.max(l.nx, l.ny, l.nz) / longest);
  const dims: Triple = [Math.floor(l.nx / step), Math.floor(l.ny / step), Math.floor(l.nz / step)];
  const greatest = Math.max(simulation.greatestDensity(), 1e-6);
  const density = simulation.field('density'),
    room = simulation.layout.scratch[2];
  const target = room.address - l.lead * 4;
  team.run('packBytes', dims[2], 4, density.address, target, step, 255 / greatest, dims[0], dims[1], l.rowStride, l.planeStride);
  const h = window.voxelSizeM;
  return {
    frame: simulation.frame,
    dims,
    voxelSizeM: h * step,
    greatest,
    corner: [window.origin[0] * h, window.origin[1] * h, window.origin[2] * h],
    bytes: new Uint8Array(team.memory.buffer, target, dims[0] * dims[1] * dims[2]).slice(),
  };
}

export function encodeBrick(brick: Brick, zip: ZipCodec = pureZip): Uint8Array {
  const out = new ByteWriter(brick.bytes.length / 4 + 64);
  out.u32(MAGIC);
  out.i32(brick.frame);
  for (const d of brick.dims) out.u16(d);
  for (const c of brick.corner) out.f32(c);
  out.f32(brick.voxelSizeM);
  out.f32(brick.greatest);
  out.bytes(zip.deflate(brick.bytes));
  return out.done();
}

export function decodeBrick(data: Uint8Array, zip: ZipCodec = pureZip): Brick {
  const r = new ByteReader(data);
  if (r.u32() !== MAGIC) throw new FileFault('This is not a preview brick');
  const frame = r.i32();
  const dims: Triple = [r.u16(), r.u16(), r.u16()];
  if (dims.some((d) => d < 1 || d > MOST)) throw new FileFault('A preview brick has absurd dimensions');
  const corner: Triple = [r.f32(), r.f32(), r.f32()],
    voxelSizeM = r.f32(),
    greatest = r.f32();
  return { frame, dims, corner, voxelSizeM, greatest, bytes: zip.inflate(r.bytes(r.left), dims[0] * dims[1] * dims[2]) };
}

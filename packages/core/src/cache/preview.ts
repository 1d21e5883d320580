// What a screen shows of a frame, as a small file beside the cache: a brick of the medium and a glimpse of
// the air.
import { ByteReader, ByteWriter, FileError } from '../files/bytes';
import { fromHalf, toHalves } from '../math/half';
import { pureZip, type ZipCodec } from '../files/zip';
import type { Triple } from '../math/vector';
import type { Simulation } from '../run/simulation';
import { previewVolumeOf, type PreviewVolume } from '../volume/preview-volume';
import { takePreviewVolume, takeCoarseFlow } from './take-preview';
import { COARSE_FLOW_CHANNELS, coarseFlowOf, type CoarseFlow } from '../volume/coarse-flow';
import type { CacheVolume } from '../volume/volume';

export interface Preview {
  readonly brick: PreviewVolume;
  /** Null in files of earlier programs. */
  readonly glimpse: CoarseFlow | null;
}

const FIRST = 0x314b4d42; // "BMK1": density alone
const SECOND = 0x324b4d42; // "BMK2"
const MOST = 512;
/**
 * Voxels along the longest edge that a screen is shown of a baked frame; more of a medium that is finer than
 * the air, or that would not show.
 */
const BAKED = 128;
const BAKED_FINER = 192;

export function takePreview(
  simulation: Simulation,
  longest = simulation.plan.medium ? BAKED_FINER : BAKED,
): Preview {
  return { brick: takePreviewVolume(simulation, longest), glimpse: takeCoarseFlow(simulation) };
}

/** The same of a frame that was read from disk. */
export function previewOf(volume: CacheVolume): Preview {
  return { brick: previewVolumeOf(volume, BAKED), glimpse: coarseFlowOf(volume) };
}

/** Density and colour exactly, the air in halves. */
export function encodePreview({ brick, glimpse }: Preview, zip: ZipCodec = pureZip): Uint8Array {
  const out = new ByteWriter(brick.bytes.length / 2 + 64);
  const dims = (d: Triple): void => d.forEach((n) => out.u16(n));
  const packed = (bytes: Uint8Array): void => {
    const data = zip.deflate(bytes);
    out.u32(data.length);
    out.bytes(data);
  };

  out.u32(SECOND);
  out.i32(brick.frame);
  dims(brick.dims);
  for (const c of brick.corner) out.f32(c);
  out.f32(brick.voxelSizeM);
  out.f32(brick.greatest);
  packed(brick.bytes);
  dims(brick.colour?.dims ?? [0, 0, 0]);
  if (brick.colour) packed(brick.colour.bytes);
  dims(glimpse?.dims ?? [0, 0, 0]);
  if (glimpse) {
    for (const c of glimpse.corner) out.f32(c);
    out.f32(glimpse.cellM);
    const halves = toHalves(glimpse.values);
    packed(new Uint8Array(halves.buffer, halves.byteOffset, halves.byteLength));
  }

  return out.done();
}

/** @throws FileError where it is not one, Error where it is damaged */
export function decodePreview(data: Uint8Array, zip: ZipCodec = pureZip): Preview {
  const r = new ByteReader(data);
  const magic = r.u32();
  if (magic !== FIRST && magic !== SECOND) throw new FileError('This is not a preview');
  const frame = r.i32();
  const sizes = (least: number): Triple => {
    const d: Triple = [r.u16(), r.u16(), r.u16()];
    if (d.some((n) => n < least || n > MOST)) throw new FileError('A preview has absurd dimensions');
    return d;
  };

  const place = (): Triple => [r.f32(), r.f32(), r.f32()];
  const many = (d: Triple): number => d[0] * d[1] * d[2];
  const packed = (size: number): Uint8Array => zip.inflate(r.bytes(magic === FIRST ? r.left : r.u32()), size);
  const dims = sizes(1);
  const head = { frame, dims, corner: place(), voxelSizeM: r.f32(), greatest: r.f32() };
  const bytes = packed(many(dims));
  if (magic === FIRST) return { brick: { ...head, bytes, colour: null }, glimpse: null };
  const coloured = sizes(0);
  const colour = many(coloured) > 0 ? { dims: coloured, bytes: packed(4 * many(coloured)) } : null;
  const cells = sizes(0);
  if (many(cells) === 0) return { brick: { ...head, bytes, colour }, glimpse: null };
  const corner = place();
  const cellM = r.f32();
  const count = COARSE_FLOW_CHANNELS.length * many(cells);
  const raw = packed(2 * count);
  const halves = new Uint16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + 2 * count));
  return {
    brick: { ...head, bytes, colour },
    glimpse: { frame, dims: cells, corner, cellM, values: Float32Array.from(halves, fromHalf) },
  };
}

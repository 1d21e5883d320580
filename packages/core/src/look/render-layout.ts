// Where everything stands in a renderer's memory, and how much of it that takes.
import {
  Ambient,
  LampStruct,
  LightSweepStruct,
  MediumStruct,
  PathField,
  RayStruct,
  SceneStruct,
  Sense,
  SensingStruct,
  SurfaceStruct,
} from '@bramblemist/kernels/seam';
import { MemoryPlan } from '../grid/memory';
import type { Triple } from '../math/vector';
import type { CompiledLook } from './compile-look';
import { denoiseBytes } from './denoise';
import type { FieldName } from './fields';
import type { CompiledLamp } from './lamps';
import { fieldsSeen, isSensed } from './passes';
import type { SeenSolid } from './seen-solids';
import { placeOn } from './solids';
import { directionRule } from './sphere-rule';
import { triangleTree, type TriangleTree } from './triangle-tree';

const BLOCK = 8;
export const BAND = 24;
const ROOMS_HEAD = 256;
export const VALUES_PER_PIXEL = 6;
export const SUMS = 5;
/** How far the lattice of light from all round reaches beyond the medium, of its size: at least, at most. */
const AROUND = [0.25, 3] as const;
export const CAUGHT = 3;
/** Pixels along a side of what a worker takes at a time. */
export const TILE = 32;
/** Rows of a deep picture that are made at a time, and places that a ray is parted at, at the most. */
export const DEEP_ROWS = 64;
export const MOST_BOUNDS = 32;
const CURVE_BYTES = 1025 * 4;
/** Room before and behind a field of the medium, bytes: vectors reach a little over its ends. */
export const MARGIN = 1024;
/** A quadrature of so few directions integrates phase functions up to this asymmetry by itself. */
const EVEN_ENOUGH = 0.45;

export interface Box {
  /** Values along the axes with the ring. */
  readonly n: Triple;
  readonly row: number;
  readonly plane: number;
  readonly bytes: number;
}

interface SurfacePlace {
  readonly address: number;
  readonly seen: SeenSolid;
  readonly tree: { readonly nodes: number; readonly triangles: number; readonly made: TriangleTree } | null;
  readonly corners: number;
  readonly grid: number;
}

export interface Layout {
  readonly box: Box;
  readonly turned: Box;
  readonly blocks: Triple;
  readonly medium: number;
  readonly scene: number;
  readonly sweep: number;
  readonly lamps: number;
  /** Of each lamp its transmittances in quick pictures, and its triangles; 0 where it has none. */
  readonly lit: readonly number[];
  readonly glowing: readonly number[];
  readonly sky: number;
  readonly surfaces: readonly SurfacePlace[];
  readonly curve: number;
  readonly extinction: number;
  readonly light: number;
  readonly out: number;
  readonly turnedExtinction: number;
  readonly turnedOut: number;
  readonly full: number;
  readonly tint: number;
  readonly takes: number;
  readonly tops: number;
  readonly needed: number;
  readonly held: number;
  readonly rooms: number;
  readonly roomBytes: number;
  readonly limits: number;
  readonly quick: number;
  readonly sums: number;
  readonly lookUps: number;
  /** Sums of each light apart; 0 where they are not asked for. */
  readonly apart: number;
  /** Light from all round among solids; 0 where there are none. */
  readonly ambient: number;
  readonly ambientRays: number;
  readonly ambientDirections: number;
  /** 0 where nothing catches shadows. */
  readonly caught: number;
  /** What is sensed along rays: how, its sums, a list of fields, and solids as they stand a frame later. */
  readonly sensing: number;
  readonly sensed: number;
  readonly sensedFields: number;
  readonly nextSurfaces: number;
  readonly fields: ReadonlyMap<FieldName, number>;
  /** The medium and its colours at the frame's moment, where they are blurred by motion; else 0. */
  readonly still: number;
  readonly stillTint: number;
  /** Deep pictures, a band of rows: where rays are parted, and sums of the parts; else 0. */
  readonly bounds: number;
  readonly deep: number;
  /** Where noise is taken out; 0 where it stays. */
  readonly denoise: number;
  /** For each tile its first sample and how many. */
  readonly shares: number;
  readonly pages: number;
}

/**
 * Pictures of light that are kept apart in true renders: each light's, and single and multiple scattering.
 */
export const apartCount = ({ apart, look }: CompiledLook): number =>
  apart.length + (look.passes.orders ? 2 : 0);

function boxOf(n: Triple, least = 0): Box {
  const wide = Math.max(n[0], least);
  let row = Math.ceil((wide + 1) / 8) * 8;
  // rows above one another would meet in the same cache sets
  if (row % 128 === 0) row += 8;
  const plane = row * n[1];
  return { n, row, plane, bytes: plane * n[2] * 4 };
}

/** Bytes that a worker needs for its paths and their rays, see path.ts of the kernels. */
const PATHS = 256;
const PATH_ROOM = PATHS * (4 * PathField.COUNT + RayStruct.bytes + 8) + 1024;

/** Values along an axis of the coarser lattice on which the light of lamps stands. */
export const coarse = (n: number): number => Math.floor((n + 3) / 2) + 1;

export function layOut(compiled: CompiledLook, threads: number): Layout {
  const { medium, lamps, solids, look } = compiled;
  const memory = new MemoryPlan();
  const n = medium.dims.map((d) => d + 2) as Triple;
  const blocks = medium.dims.map((d) => Math.ceil((d + 1) / BLOCK) + 2) as Triple;
  const box = boxOf(n, (blocks[0] - 2) * BLOCK);
  const turned = boxOf([n[2], n[1], n[0]]);
  const field = (bytes: number): number => memory.bytes(bytes + 2 * MARGIN) + MARGIN;
  const pixels = look.camera.width * look.camera.height;
  const lean = Math.max(...n, ...turned.n);
  const columns = 2 * lean + 64;
  const roomBytes = Math.max(PATH_ROOM, 4 * columns * (2 * (BAND + 1) + 2) + 2048);
  const isSolid = solids.length > 0;
  const { passes } = look;
  const senses = isSensed(passes) || passes.deep;
  const moves = look.camera.moving === 'blurred' && medium.fields.has('velocityX');
  const deepPixels = look.camera.width * Math.min(DEEP_ROWS, look.camera.height);
  const places = Ambient.SIDE ** 3;
  const ways = directionRule().length;
  const key = keyOf(compiled);
  const [cx, cy, cz] = medium.dims.map(coarse);
  const isBent = Math.abs(medium.phase.forward) > EVEN_ENOUGH;
  const tint = medium.tint ? field(2 * box.bytes) : 0;
  const placed = solids.map((seen): Omit<SurfacePlace, 'address'> => {
    const { solid } = seen;
    const tree = solid.mesh ? triangleTree(solid.mesh, 1 / medium.voxelSizeM) : null;
    return {
      seen,
      tree: tree && {
        nodes: memory.bytes(tree.nodes.byteLength),
        triangles: memory.bytes(tree.triangles.byteLength + 64),
        made: tree,
      },
      corners: memory.bytes(solid.shape.corners.length * 12),
      grid: memory.bytes((solid.shape.grid?.distances.length ?? 0) * 4),
    };
  });
  const surfaces = memory.bytes(Math.max(1, solids.length) * SurfaceStruct.bytes);
  return {
    box,
    turned,
    blocks,
    medium: memory.bytes(MediumStruct.bytes),
    scene: memory.bytes(SceneStruct.bytes),
    sweep: memory.bytes(LightSweepStruct.bytes),
    lamps: memory.bytes(Math.max(1, lamps.length) * LampStruct.bytes),
    lit: lamps.map((lamp) =>
      lamp === key || lamp.lights === 'true' ? 0 : memory.bytes((cx * cy * cz + cx * cy + cx + 4) * 4),
    ),
    glowing: lamps.map(({ glowing }) => (glowing ? memory.bytes(glowing.triangles.byteLength) : 0)),
    sky: compiled.environment ? memory.bytes(compiled.environment.table.byteLength) : 0,
    surfaces: placed.map((p, i) => ({ ...p, address: surfaces + i * SurfaceStruct.bytes })),
    curve: memory.bytes(CURVE_BYTES),
    extinction: field(box.bytes),
    light: field(box.bytes),
    out: field(box.bytes),
    turnedExtinction: field(turned.bytes),
    turnedOut: field(turned.bytes),
    full: isBent ? field(box.bytes) : 0,
    tint,
    takes: medium.takes && medium.takes !== medium.tint ? field(2 * box.bytes) : tint,
    tops: memory.bytes(blocks[0] * blocks[1] * blocks[2] * 4),
    needed: memory.bytes((box.row / 8) * n[1] * n[2]),
    held: memory.bytes(n[1] * n[2]),
    rooms: memory.bytes(ROOMS_HEAD + threads * roomBytes),
    roomBytes,
    limits: solids.length > 0 || passes.deep ? memory.bytes((pixels + look.camera.width + 8) * 4) : 0,
    quick: memory.bytes(pixels * VALUES_PER_PIXEL * 4),
    sums: memory.bytes(pixels * SUMS * 8),
    lookUps: memory.bytes(8),
    apart: apartCount(compiled) > 0 ? memory.bytes(apartCount(compiled) * pixels * 3 * 8) : 0,
    ambient: isSolid ? memory.bytes(2 * places * Ambient.VALUE * 4 + 16) : 0,
    ambientRays: isSolid ? memory.bytes(places * ways * Ambient.RAY * 4) : 0,
    ambientDirections: memory.bytes(ways * Ambient.WAY * 4),
    caught: solids.some(({ seen }) => seen === 'catcher') ? memory.bytes(pixels * CAUGHT * 8) : 0,
    sensing: memory.bytes(SensingStruct.bytes),
    sensed: senses ? memory.bytes(pixels * (Sense.COUNT + fieldsSeen(compiled).length) * 4) : 0,
    sensedFields: memory.bytes(64),
    nextSurfaces: passes.motion ? memory.bytes(Math.max(1, solids.length) * SurfaceStruct.bytes) : 0,
    fields: new Map([...medium.fields.keys()].map((name) => [name, field(box.bytes)])),
    still: moves ? field(box.bytes) : 0,
    stillTint: moves && tint ? field(2 * box.bytes) : 0,
    bounds: passes.deep ? memory.bytes(deepPixels * MOST_BOUNDS * 4) : 0,
    deep: passes.deep ? memory.bytes(deepPixels * (MOST_BOUNDS + 1) * 4 * 8) : 0,
    denoise:
      look.quality.mode === 'true' && look.quality.denoise !== 'never'
        ? memory.bytes(denoiseBytes(look.camera.width, look.camera.height))
        : 0,
    shares: memory.bytes(Math.ceil(look.camera.width / TILE) * Math.ceil(look.camera.height / TILE) * 8),
    pages: memory.pages,
  };
}

/** The lamp that quick pictures have from its light volume. */
export const keyOf = ({ lamps }: CompiledLook): CompiledLamp | null => {
  const last = lamps.findLast(({ lights }) => lights === 'all');
  return last?.kind === 'sun' ? last : null;
};

/** Which of the lamps light a picture: where they begin, and how many. */
export function lampsFor(
  { lamps }: CompiledLook,
  picture: 'quick' | 'true',
): { from: number; count: number } {
  const other = picture === 'quick' ? 'true' : 'quick';
  const from = lamps.findIndex(({ lights }) => lights !== other);
  return { from: Math.max(0, from), count: lamps.filter(({ lights }) => lights !== other).length };
}

/** Pages of memory that a renderer of a compiled look needs. */
export const renderPages = (compiled: CompiledLook, threads: number): number =>
  layOut(compiled, threads).pages;

/** The medium's box with what stands around it, cells: what is far away is left beside it. */
export function boundsAround({ medium, solids }: CompiledLook): {
  readonly from: Triple;
  readonly end: Triple;
} {
  const { dims, corner, voxelSizeM } = medium;
  const boxes = solids
    .filter(({ solid }) => solid.kind !== 'ground')
    .map(({ solid: { shape, cellM } }) => {
      const middle = placeOn(
        corner,
        voxelSizeM,
        shape.centre.map((c) => c * cellM),
      );
      const radius = (Math.hypot(...shape.half) * cellM) / voxelSizeM;
      return { middle, radius };
    });
  const bound = (a: number, side: -1 | 1): number => {
    const own = side < 0 ? 0 : dims[a];
    const out = boxes.map(({ middle, radius }) => side * (middle[a] + side * radius - own));
    const wide = Math.max(...dims);
    const reach = Math.min(AROUND[1] * wide, Math.max(AROUND[0] * dims[a], ...out));
    return own + side * reach;
  };

  const all = (side: -1 | 1): Triple => [bound(0, side), bound(1, side), bound(2, side)];
  return { from: all(-1), end: all(1) };
}

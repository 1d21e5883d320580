// A compiled look's world in the memory of a thread pool: the medium, the lamps, and what is solid.
import { LampKind, LampStruct, MediumStruct, SurfaceSeen, SurfaceStruct } from '@bramblemist/kernels/seam';
import { putFloats } from '../grid/memory';
import { named } from '../grid/sweep';
import type { ThreadPool } from '../grid/thread-pool';
import type { CompiledLook } from './compile-look';
import { VELOCITY } from './fields';
import { MARGIN, type Layout } from './render-layout';
import type { SeenSolid } from './seen-solids';
import { placeOn } from './solids';

/** A look and where all of it stands. */
export interface Place {
  readonly threadPool: ThreadPool;
  readonly layout: Layout;
  readonly compiled: CompiledLook;
}

const LAMP_KINDS = {
  sun: LampKind.SUN,
  point: LampKind.POINT,
  spot: LampKind.SPOT,
  rectangle: LampKind.RECTANGLE,
  disc: LampKind.DISC,
  environment: LampKind.ENVIRONMENT,
  mesh: LampKind.MESH,
} as const;

const SEEN = {
  seen: SurfaceSeen.SEEN,
  'held-out': SurfaceSeen.HELD_OUT,
  catcher: SurfaceSeen.CATCHER,
  unseen: SurfaceSeen.UNSEEN,
} as const;

/**
 * The medium with its colours and fields, the greatest extinction of its blocks, and where light is needed.
 */
export function writeMedium(place: Place): void {
  const { threadPool, layout, compiled } = place;
  const { memory } = threadPool;
  const { medium } = compiled;
  const { box } = layout;
  const [nx, ny, nz] = medium.dims;
  writeField(place, medium.density, layout.extinction, 1);
  for (const [name, address] of layout.fields) {
    const isVelocity = VELOCITY.some((v) => v === name);
    const scale = isVelocity ? (compiled.timing?.frameS ?? 0) / medium.voxelSizeM : 1;
    writeField(place, medium.fields.get(name)!, address, scale);
  }

  if (medium.tint) writeTint(place, medium.tint, layout.tint);
  if (medium.takes && medium.takes !== medium.tint) writeTint(place, medium.takes, layout.takes);
  if (medium.curve) putFloats(memory, layout.curve, medium.curve.values);
  threadPool.run('toExtinction', box.n[2], 4, {
    field: layout.extinction,
    plane: box.plane,
    sigma: medium.sigma,
    curve: medium.curve ? layout.curve : 0,
    most: medium.curve?.most ?? 0,
  });
  MediumStruct.write(memory, layout.medium, {
    nx,
    ny,
    nz,
    row: box.row,
    plane: box.plane,
    extinction: layout.extinction,
    light: layout.light,
    tint: layout.tint,
    takes: layout.takes,
    needed: layout.needed,
    held: layout.held,
    blocks: layout.tops,
    blocksX: layout.blocks[0],
    blocksY: layout.blocks[1],
    blocksZ: layout.blocks[2],
  });
  markBlocks(place);
  threadPool.run('markNeeded', box.n[2], 4, { medium: layout.medium });
  const copy = (from: number, to: number, values: number): void => {
    const bytes = new Uint8Array(memory.buffer);
    bytes.copyWithin(to - MARGIN, from - MARGIN, from + values * box.bytes + MARGIN);
  };

  if (layout.still) copy(layout.extinction, layout.still, 1);
  if (layout.stillTint) copy(layout.tint, layout.stillTint, 2);
}

/** The greatest extinction of each block, and in which octants something lies ahead of it. */
export function markBlocks({ threadPool, layout }: Place): void {
  const [bx, by, bz] = layout.blocks;
  new Uint32Array(threadPool.memory.buffer, layout.tops, bx * by * bz).fill(0);
  threadPool.run('topsOfBlocks', bz - 2, 1, { medium: layout.medium });
  threadPool.solo('markAhead', { medium: layout.medium });
}

function writeField(
  { layout, threadPool, compiled }: Place,
  values: Float32Array,
  address: number,
  scale: number,
): void {
  const { box } = layout;
  const [nx, ny, nz] = compiled.medium.dims;
  const field = new Float32Array(
    threadPool.memory.buffer,
    address - MARGIN,
    (box.bytes + 2 * MARGIN) / 4,
  ).fill(0);
  const lead = MARGIN / 4;
  for (let k = 0, from = 0; k < nz; k++)
    for (let j = 0; j < ny; j++, from += nx) {
      const row = values.subarray(from, from + nx);
      const to = lead + (k + 1) * box.plane + (j + 1) * box.row + 1;
      field.set(scale === 1 ? row : row.map((v) => v * scale), to);
    }
}

/** Colours with the nearest one in the ring, so that the medium's edge does not fade to black. */
function writeTint({ layout, threadPool, compiled }: Place, tint: Uint16Array, address: number): void {
  const { box } = layout;
  const [nx, ny, nz] = compiled.medium.dims;
  const words = new Uint16Array(threadPool.memory.buffer, address, 2 * (box.bytes / 2));
  const near = (v: number, n: number): number => Math.min(n - 1, Math.max(0, v - 1));
  for (let k = 0; k < nz + 2; k++)
    for (let j = 0; j < ny + 2; j++) {
      const from = (near(k, nz) * ny + near(j, ny)) * nx;
      const to = 4 * (k * box.plane + j * box.row);
      words.set(tint.subarray(4 * from, 4 * (from + nx)), to + 4);
      words.copyWithin(to, to + 4, to + 8);
      words.copyWithin(to + 4 * (nx + 1), to + 4 * nx, to + 4 * (nx + 1));
    }
}

export function writeLamps({ threadPool, layout, compiled }: Place): void {
  compiled.lamps.forEach((lamp, n) =>
    LampStruct.write(threadPool.memory, layout.lamps + n * LampStruct.bytes, {
      kind: LAMP_KINDS[lamp.kind],
      shadows: Number(lamp.shadows),
      ...named(['x', 'y', 'z'], lamp.place),
      ...named(['aimX', 'aimY', 'aimZ'], lamp.aim),
      ...named(['uX', 'uY', 'uZ'], lamp.u),
      ...named(['vX', 'vY', 'vZ'], lamp.v),
      ...named(['red', 'green', 'blue'], lamp.power),
      cosineEnd: lamp.cosineEnd,
      cosineFull: lamp.cosineFull,
      lit: layout.lit[n],
      within: lamp.within,
      triangles: layout.glowing[n],
      triangleCount: (lamp.glowing?.triangles.length ?? 0) / 10,
      area: lamp.glowing?.area ?? 0,
      apart: Math.max(
        0,
        compiled.apart.findIndex(({ of }) => of === lamp.apart),
      ),
    }),
  );
  compiled.lamps.forEach(({ glowing }, n) => {
    if (glowing) putFloats(threadPool.memory, layout.glowing[n], glowing.triangles);
  });
  if (compiled.environment) putFloats(threadPool.memory, layout.sky, compiled.environment.table);
}

/** What is solid, with its meshes and distances. */
export function writeSurfaces(place: Place): void {
  const { memory } = place.threadPool;
  const { voxelSizeM } = place.compiled.medium;
  for (const { seen, tree, corners, grid } of place.layout.surfaces) {
    const { shape, cellM } = seen.solid;
    const f = cellM / voxelSizeM;
    putFloats(memory, corners, Float32Array.from(shape.corners.flatMap((v) => v.map((x) => x * f))));
    if (shape.grid)
      putFloats(
        memory,
        grid,
        shape.grid.distances.map((d) => d * f),
      );
    if (!tree) continue;
    new Uint8Array(memory.buffer, tree.nodes, tree.made.nodes.byteLength).set(
      new Uint8Array(tree.made.nodes),
    );
    putFloats(memory, tree.triangles, tree.made.triangles);
  }

  placeSurfaces(place, place.compiled.solids, place.layout.surfaces[0]?.address ?? 0);
}

/** Where solids stand: as many as the look's own, which say what they are made of. */
export function placeSurfaces(
  { threadPool, layout, compiled }: Place,
  solids: readonly SeenSolid[],
  first: number,
): void {
  const { memory } = threadPool;
  const { medium } = compiled;
  layout.surfaces.forEach(({ tree, corners, grid }, n) => {
    const seen = solids[n];
    const { shape, cellM } = seen.solid;
    // from cells of the plan to cells of the volume
    const f = cellM / medium.voxelSizeM;
    const times = (v: readonly number[]): number[] => v.map((x) => x * f);
    SurfaceStruct.write(memory, first + n * SurfaceStruct.bytes, {
      kind: shape.kind,
      ...named(
        ['cx', 'cy', 'cz'],
        placeOn(
          medium.corner,
          medium.voxelSizeM,
          shape.centre.map((c) => c * cellM),
        ),
      ),
      ...named(['hx', 'hy', 'hz'], times(shape.half)),
      ...named(['a00', 'a01', 'a02', 'a10', 'a11', 'a12', 'a20', 'a21', 'a22'], shape.toOwn.flat()),
      grow: shape.grow * f,
      facing: shape.facing,
      grid,
      ...named(['gnx', 'gny', 'gnz'], shape.grid?.nodes ?? [0, 0, 0]),
      ...named(['gx', 'gy', 'gz'], times(shape.grid?.first ?? [0, 0, 0])),
      perCell: (shape.grid?.nodesPerCell ?? 1) / f,
      points: corners,
      count: shape.corners.length,
      flow: 0,
      seen: SEEN[seen.seen],
      shadows: Number(seen.shadows),
      ...named(['red', 'green', 'blue'], seen.colour),
      ...named(['glowR', 'glowG', 'glowB'], seen.glow),
      isLamp: Number(seen.isLamp),
      nodes: tree?.nodes ?? 0,
      triangles: tree?.triangles ?? 0,
    });
  });
}

// A shape as the kernels read it: the first fields of every block that begins with one (shape.ts of the
// kernels).
import type { ShapeFields } from '@bramblemist/kernels/seam';
import type { CellShape } from '../geometry/shape';
import { putFloats } from '../grid/memory';
import { named } from '../grid/sweep';
import type { ActiveWindow } from '../grid/lattice';
import type { ThreadPool } from '../grid/thread-pool';
import type { Layout } from '../plan/layout';

/**
 * Puts the corners of a path where kernels find them, and tells the rest by name.
 * @param grid address of its distances, where it is a mesh
 * @param flow address of the speeds of its surface; 0: rigid
 */
export function placeShape(
  {
    threadPool,
    layout,
    window,
  }: {
    readonly threadPool: ThreadPool;
    readonly layout: Pick<Layout, 'corners'>;
    readonly window: ActiveWindow;
  },
  s: CellShape,
  grid: number,
  flow = 0,
): ShapeFields {
  putFloats(threadPool.memory, layout.corners, Float32Array.from(s.corners.flat()));
  return {
    kind: s.kind,
    ...named(
      ['cx', 'cy', 'cz'],
      s.centre.map((c, a) => c - window.origin[a]),
    ),
    ...named(['hx', 'hy', 'hz'], s.half),
    ...named(['a00', 'a01', 'a02', 'a10', 'a11', 'a12', 'a20', 'a21', 'a22'], s.toOwn.flat()),
    grow: s.grow,
    facing: s.facing,
    grid,
    ...named(['gnx', 'gny', 'gnz'], s.grid?.nodes ?? [0, 0, 0]),
    ...named(['gx', 'gy', 'gz'], s.grid?.first ?? [0, 0, 0]),
    perCell: s.grid?.nodesPerCell ?? 1,
    points: layout.corners,
    count: s.corners.length,
    flow,
  };
}

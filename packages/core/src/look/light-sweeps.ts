// Light from given directions through the medium, plane after plane: what is left of it at every place,
// summed for the light volumes of quick pictures.
import { LightSweepStruct } from '@bramblemist/kernels/seam';
import type { ThreadPool } from '../grid/thread-pool';
import type { Triple } from '../math/vector';
import type { CompiledLook } from './compile-look';
import { BAND, type Box, type Layout, MARGIN } from './render-layout';
import { placeOn } from './solids';

/** Where light comes from, and how much it counts. */
interface Direction {
  readonly to: Triple;
  readonly weight: number;
}

export class LightSweeps {
  constructor(
    private readonly threadPool: ThreadPool,
    private readonly layout: Layout,
    private readonly compiled: CompiledLook,
  ) {}

  /** What was gathered, as the bytes of light volumes. */
  pack(full: number, high: boolean): void {
    const { threadPool, layout } = this;
    threadPool.run('packLight', layout.box.n[2], 4, {
      part: layout.out,
      full,
      words: layout.light,
      plane: layout.box.plane,
      high: Number(high),
    });
  }

  private clear(address: number, box: Box): void {
    new Float32Array(this.threadPool.memory.buffer, address - MARGIN, (box.bytes + 2 * MARGIN) / 4).fill(0);
  }

  /** A field with its x and z changed over, added to what stands there or in its place. */
  private turnOver([from, a]: readonly [number, Box], [to, b]: readonly [number, Box], add: boolean): void {
    this.threadPool.run('turnOver', a.n[1], 4, {
      from,
      to,
      nx: a.n[0],
      nz: a.n[2],
      fromRow: a.row,
      fromPlane: a.plane,
      toRow: b.row,
      toPlane: b.plane,
      add: Number(add),
    });
  }

  /** Sums weight · transmittance (· phase function) over directions into `out`. */
  gather(directions: readonly Direction[], lean: number): void {
    const { layout } = this;
    const { box, turned } = layout;
    const isAlongX = ({ to }: { to: Triple }): boolean =>
      Math.abs(to[0]) > Math.abs(to[1]) && Math.abs(to[0]) > Math.abs(to[2]);
    const turning = directions.filter(isAlongX);
    this.clear(layout.out, box);
    if (turning.length > 0) {
      this.clear(layout.turnedExtinction, turned);
      this.clear(layout.turnedOut, turned);
      this.turnOver([layout.extinction, box], [layout.turnedExtinction, turned], false);
      for (const d of turning)
        this.sweep({ to: [d.to[2], d.to[1], d.to[0]], weight: d.weight }, lean, turned, true);
      this.turnOver([layout.turnedOut, turned], [layout.out, box], true);
    }

    for (const d of directions) if (!isAlongX(d)) this.sweep(d, lean, box, false);
  }

  /** What the directions would give through nothing. */
  through(directions: readonly Direction[], lean: number): void {
    const { threadPool, layout } = this;
    this.clear(layout.full, layout.box);
    for (const d of directions) {
      this.writeSweep(d, lean, layout.box, false, 2, layout.full);
      threadPool.run('sweepNothing', layout.box.n[2], 4, { sweep: layout.sweep });
    }
  }

  private sweep(d: Direction, lean: number, box: Box, isTurned: boolean): void {
    const axis = Math.abs(d.to[2]) >= Math.abs(d.to[1]) ? 2 : 1;
    const bands = this.writeSweep(
      d,
      lean,
      box,
      isTurned,
      axis,
      isTurned ? this.layout.turnedOut : this.layout.out,
    );
    this.threadPool.run('sweepLight', bands, 1, { sweep: this.layout.sweep });
  }

  /** @returns bands of rows of columns */
  private writeSweep(
    { to, weight }: Direction,
    lean: number,
    { n, row, plane }: Box,
    isTurned: boolean,
    axis: 1 | 2,
    out: number,
  ): number {
    const { threadPool, layout, compiled } = this;
    const { medium, look } = compiled;
    const { taking } = medium;
    const other = axis === 2 ? 1 : 2;
    const main = Math.abs(to[axis]);
    const leanX = -to[0] / main;
    const leanRow = -to[other] / main;
    const reach = (by: number, count: number): [number, number] => {
      const far = -(n[axis] - 1) * by;
      return [Math.floor(Math.min(0, far)) - 2, Math.ceil(count - 1 + Math.max(0, far)) + 2];
    };

    const columns = Math.min(row, Math.ceil(n[0] / 4) * 4);
    const [firstColumn, lastColumn] = reach(leanX, columns);
    const [firstRow, lastRow] = reach(leanRow, n[other]);
    const seen = placeOn(medium.corner, medium.voxelSizeM, look.camera.eye);
    const eye = isTurned ? [seen[2], seen[1], seen[0]] : seen;
    const taken = (taking.takes0[0] + taking.takes0[1] + taking.takes0[2]) / 3;
    LightSweepStruct.write(threadPool.memory, layout.sweep, {
      extinction: isTurned ? layout.turnedExtinction : layout.extinction,
      out,
      columns,
      rows: n[other],
      planes: n[axis],
      rowStride: axis === 2 ? row : plane,
      planeStride: axis === 2 ? plane : row,
      fromLast: Number(to[axis] > 0),
      leanX,
      leanRow,
      half: (0.5 / main) * look.medium.shadow * taken,
      firstColumn,
      firstRow,
      wide: Math.ceil((lastColumn - firstColumn + 1 + 20) / 16) * 16,
      lastRow,
      weight,
      forward: lean,
      toX: to[0],
      toRow: to[other],
      toPlane: to[axis],
      eyeX: eye[0],
      eyeRow: eye[other],
      eyePlane: eye[axis],
      needed: isTurned ? 0 : layout.needed,
      neededRow: axis === 2 ? row : row * n[1],
      neededPlane: axis === 2 ? row * n[1] : row,
      held: isTurned ? 0 : layout.held,
      heldRow: axis === 2 ? 1 : n[1],
      heldPlane: axis === 2 ? n[1] : 1,
      rooms: layout.rooms,
      roomBytes: layout.roomBytes,
    });
    return Math.ceil((lastRow - firstRow) / BAND);
  }
}

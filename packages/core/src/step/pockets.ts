// Pockets: open cells that obstacles and walls close in on all sides. What an obstacle presses in one has
// nowhere to go, so no pressure can be found for it: its mean is given up, and all else is solved.
import { fieldView, split, type Field } from '../grid/memory';
import type { Triple } from '../math/vector';
import { raiseIncident, type SimulationState } from './state';

/** Part of what flows in a pocket that has nowhere to go, beyond what cut cells leave open. */
const PRESSED = 0.2;

export interface Pocket {
  /** Cell indices, x fastest, without the spare floats of a field. */
  readonly cells: Int32Array;
  /** Its middle, m. */
  readonly placeM: Triple;
}

/** A pocket for each group of open cells from which no side that is open can be reached. */
export function findPockets(state: SimulationState): Pocket[] {
  const { layout, threadPool, window, sides } = state;
  const { nx, ny, nz, rowStride, planeStride, lead } = window.lattice;
  const [ax, ay, az] = layout.levels[0].open.map((f: Field) => fieldView(threadPool.memory, f));
  const seen = new Uint8Array(nx * ny * nz);
  const queue = new Int32Array(nx * ny * nz);
  let head = 0;
  let tail = 0;
  const reach = (n: number): void => {
    if (seen[n]) return;
    seen[n] = 1;
    queue[tail++] = n;
  };

  const place = (n: number): Triple => [n % nx, Math.floor(n / nx) % ny, Math.floor(n / nx / ny)];
  const offset = (i: number, j: number, k: number): number => lead + k * planeStride + j * rowStride + i;
  const spread = (): void => {
    for (; head < tail; head++) {
      const n = queue[head];
      const [i, j, k] = place(n);
      const o = offset(i, j, k);
      if (i > 0 && ax[o] > 0) reach(n - 1);
      if (i < nx - 1 && ax[o + 1] > 0) reach(n + 1);
      if (j > 0 && ay[o] > 0) reach(n - nx);
      if (j < ny - 1 && ay[o + rowStride] > 0) reach(n + nx);
      if (k > 0 && az[o] > 0) reach(n - nx * ny);
      if (k < nz - 1 && az[o + planeStride] > 0) reach(n + nx * ny);
    }
  };

  for (let n = 0; n < seen.length; n++) {
    const [i, j, k] = place(n);
    const o = offset(i, j, k);
    if (
      (i === 0 && sides[0] === 'open' && ax[o] > 0) ||
      (i === nx - 1 && sides[1] === 'open' && ax[o + 1] > 0) ||
      (j === 0 && sides[2] === 'open' && ay[o] > 0) ||
      (j === ny - 1 && sides[3] === 'open' && ay[o + rowStride] > 0) ||
      (k === 0 && sides[4] === 'open' && az[o] > 0) ||
      (k === nz - 1 && sides[5] === 'open' && az[o + planeStride] > 0)
    )
      reach(n);
  }

  spread();
  const pockets: Pocket[] = [];
  for (let n = 0; n < seen.length; n++) {
    if (seen[n]) continue;
    const [i, j, k] = place(n);
    const o = offset(i, j, k);
    if (ax[o] + ax[o + 1] + ay[o] + ay[o + rowStride] + az[o] + az[o + planeStride] === 0) continue;
    const first = tail;
    reach(n);
    spread();
    const cells = queue.slice(first, tail);
    const middle = [0, 0, 0].map((_, a) => cells.reduce((s, c) => s + place(c)[a], 0) / cells.length);
    const placeM = middle.map((c, a) => (c + 0.5 + window.origin[a]) * window.voxelSizeM) as Triple;
    pockets.push({ cells, placeM });
  }

  return pockets;
}

/** What flows in the cells has no pressure yet: the residual, and where a cell's stands in it. */
function residualOf({ layout, threadPool, window }: SimulationState): {
  residual: Float32Array;
  at: (n: number) => number;
} {
  const { nx, ny } = window.lattice;
  const { row, plane, half } = split(window.lattice);
  const start = layout.levels[0].r / 4;
  return {
    residual: new Float32Array(threadPool.memory.buffer),
    at: (n) => {
      const i = n % nx;
      const across = Math.floor(n / nx) % ny;
      const k = Math.floor(n / nx / ny);
      return start + (k * plane + across * row + (i & 1 ? half + 16 : 0)) / 4 + (i >> 1);
    },
  };
}

/** Tells of pockets in which something flows that has nowhere to go. */
export function tellOfPressed(state: SimulationState, pockets: readonly Pocket[]): void {
  const { residual, at } = residualOf(state);
  for (const { cells, placeM } of pockets) {
    let sum = 0;
    let all = 0;
    for (const n of cells) {
      sum += residual[at(n)];
      all += Math.abs(residual[at(n)]);
    }

    if (Math.abs(sum) > PRESSED * all)
      raiseIncident(state, {
        kind: 'pocket',
        what: 'An obstacle presses air in a pocket that is closed on all sides: it is squeezed where it is.',
        cure: 'Leave it a way out where it should flow away.',
        placeM,
      });
  }
}

/** Takes the mean of the residual out of each pocket; returns the greatest that is left anywhere. */
export function evenPockets(state: SimulationState, pockets: readonly Pocket[]): number {
  const { nx, ny, nz } = state.window.lattice;
  const { residual, at } = residualOf(state);

  for (const { cells } of pockets) {
    let sum = 0;
    for (const n of cells) sum += residual[at(n)];
    for (const n of cells) residual[at(n)] -= sum / cells.length;
  }

  let most = 0;
  for (let n = 0; n < nx * ny * nz; n++) most = Math.max(most, Math.abs(residual[at(n)]));
  return most;
}

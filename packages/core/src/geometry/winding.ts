// The winding number of a mesh (Jacobson, Kavan, Sorkine-Hornung 2013), summed over a tree with far parts
// taken together (Barill and others 2018). Only sums, products and roots are used: same bits everywhere.

/** Arc tangent of y / x, −π…π, to about 1e-7: of sums and products only. */
function arc(y: number, x: number): number {
  const ax = Math.abs(x);
  const ay = Math.abs(y);
  if (ax === 0 && ay === 0) return 0;
  const swap = ay > ax;
  const s = swap ? ax / ay : ay / ax;
  // half the angle twice, so that the series is short
  const h = s / (1 + Math.sqrt(1 + s * s));
  const q = h / (1 + Math.sqrt(1 + h * h));
  const q2 = q * q;
  let a = 4 * q * (1 - q2 * (1 / 3 - q2 * (1 / 5 - q2 * (1 / 7 - q2 / 9))));
  if (swap) a = Math.PI / 2 - a;
  if (x < 0) a = Math.PI - a;
  return y < 0 ? -a : a;
}

const FEW = 8;
/** A part of the tree is taken as one where the place is this many of its radii away. */
const FAR_AWAY = 2;

/** The winding number of a mesh about any place. */
import { square } from '../math/exact';

export class Winding {
  /** Of each node: middle, radius², area vector; triangles from, to (leaf) or −1, and the second child. */
  private readonly data: number[] = [];
  private readonly links: number[] = [];
  private readonly order: Uint32Array;
  /** Nodes that are still to be seen; a tree that is halved each time is no deeper. */
  private readonly stack = new Int32Array(64);

  constructor(
    private readonly p: Float64Array,
    private readonly t: Uint32Array,
  ) {
    const count = t.length / 3;
    this.order = Uint32Array.from({ length: count }, (_, n) => n);
    const middles = new Float64Array(3 * count);
    for (let n = 0; n < count; n++)
      for (let a = 0; a < 3; a++)
        middles[3 * n + a] = (p[3 * t[3 * n] + a] + p[3 * t[3 * n + 1] + a] + p[3 * t[3 * n + 2] + a]) / 3;
    if (count > 0) this.build(0, count, middles);
  }

  private build(from: number, to: number, middles: Float64Array): number {
    const { p, t, order } = this;
    const node = this.links.length / 3;
    this.links.push(from, to, -1);
    const least = [Infinity, Infinity, Infinity];
    const most = [-Infinity, -Infinity, -Infinity];
    let area = 0;
    let [ax, ay, az] = [0, 0, 0];
    let [cx, cy, cz] = [0, 0, 0];
    for (let n = from; n < to; n++) {
      const first = 3 * order[n];
      const a = 3 * t[first];
      const b = 3 * t[first + 1];
      const c = 3 * t[first + 2];
      const x =
        ((p[b + 1] - p[a + 1]) * (p[c + 2] - p[a + 2]) - (p[b + 2] - p[a + 2]) * (p[c + 1] - p[a + 1])) / 2;
      const y = ((p[b + 2] - p[a + 2]) * (p[c] - p[a]) - (p[b] - p[a]) * (p[c + 2] - p[a + 2])) / 2;
      const z = ((p[b] - p[a]) * (p[c + 1] - p[a + 1]) - (p[b + 1] - p[a + 1]) * (p[c] - p[a])) / 2;
      const own = Math.sqrt(x * x + y * y + z * z);
      area += own;
      ax += x;
      ay += y;
      az += z;
      const m = 3 * order[n];
      cx += own * middles[m];
      cy += own * middles[m + 1];
      cz += own * middles[m + 2];
      for (let d = 0; d < 3; d++) {
        least[d] = Math.min(least[d], middles[m + d]);
        most[d] = Math.max(most[d], middles[m + d]);
      }
    }

    const middle = area > 0 ? [cx / area, cy / area, cz / area] : least.map((v, d) => (v + most[d]) / 2);
    let radius2 = 0;
    for (let n = from; n < to; n++)
      for (let e = 0; e < 3; e++) {
        const v = 3 * t[3 * order[n] + e];
        radius2 = Math.max(
          radius2,
          square(p[v] - middle[0]) + square(p[v + 1] - middle[1]) + square(p[v + 2] - middle[2]),
        );
      }

    this.data.push(middle[0], middle[1], middle[2], radius2, ax, ay, az);
    if (to - from > FEW) {
      const spread = most.map((v, d) => v - least[d]);
      const axis = spread.indexOf(Math.max(...spread));
      const half = (from + to) >> 1;
      order.subarray(from, to).sort((m, n) => middles[3 * m + axis] - middles[3 * n + axis] || m - n);
      this.build(from, half, middles);
      this.links[3 * node + 2] = this.build(half, to, middles);
    }

    return node;
  }

  /** 1 inside of a closed mesh, 0 outside, between them beside holes. */
  at(x: number, y: number, z: number): number {
    const { data, links, p, t, order, stack } = this;
    let sum = 0;
    let height = links.length > 0 ? 1 : 0;
    stack[0] = 0;
    while (height > 0) {
      const node = stack[--height];
      const o = 7 * node;
      const dx = data[o] - x;
      const dy = data[o + 1] - y;
      const dz = data[o + 2] - z;
      const d2 = dx * dx + dy * dy + dz * dz;
      if (d2 > FAR_AWAY * FAR_AWAY * data[o + 3] && d2 > 0) {
        sum += (data[o + 4] * dx + data[o + 5] * dy + data[o + 6] * dz) / (d2 * Math.sqrt(d2));
        continue;
      }

      const second = links[3 * node + 2];
      if (second >= 0) {
        stack[height++] = second;
        stack[height++] = node + 1;
        continue;
      }

      for (let n = links[3 * node]; n < links[3 * node + 1]; n++) {
        const a = 3 * t[3 * order[n]];
        const b = 3 * t[3 * order[n] + 1];
        const c = 3 * t[3 * order[n] + 2];
        // solid angle (van Oosterom, Strackee 1983)
        const ux = p[a] - x;
        const uy = p[a + 1] - y;
        const uz = p[a + 2] - z;
        const vx = p[b] - x;
        const vy = p[b + 1] - y;
        const vz = p[b + 2] - z;
        const wx = p[c] - x;
        const wy = p[c + 1] - y;
        const wz = p[c + 2] - z;
        const u = Math.sqrt(ux * ux + uy * uy + uz * uz);
        const v = Math.sqrt(vx * vx + vy * vy + vz * vz);
        const w = Math.sqrt(wx * wx + wy * wy + wz * wz);
        const top = ux * (vy * wz - vz * wy) + uy * (vz * wx - vx * wz) + uz * (vx * wy - vy * wx);
        const bottom =
          u * v * w +
          (ux * vx + uy * vy + uz * vz) * w +
          (vx * wx + vy * wy + vz * wz) * u +
          (wx * ux + wy * uy + wz * uz) * v;
        sum += 2 * arc(top, bottom);
      }
    }

    return sum / (4 * Math.PI);
  }
}

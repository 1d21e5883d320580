// Signed distance of a mesh at the nodes of a grid. Near the surface the exact distance to the nearest
// triangle; inside is where the winding number (Jacobson, Kavan, Sorkine-Hornung 2013) is above a half, so
// that open, overlapping and unclean meshes have an inside too; it is summed over a tree with far parts taken
// together (Barill and others 2018). Away from the surface distances are filled in by fast sweeping (Zhao
// 2004). Only sums, products and roots are used: same bits everywhere.
import { luminanceOf } from '../math/luminance';
import type { Triple } from '../math/vector';
import type { Mesh } from './mesh';
import { paintedAt } from './paint';
import type { Dab } from '../recipe/settings';
import { Winding } from './winding';

export interface GridPlace {
  /** Place of node (0, 0, 0) in spacings, nodes along each axis, metres from node to node. */
  readonly first: Triple;
  readonly nodes: Triple;
  readonly spacingM: number;
}
/** The mask at a place of the surface: the three corners of its triangle and their weights. */
export type MaskOf = (a: number, b: number, c: number, weights: ArrayLike<number>) => number;
export type MaskName = 'red' | 'green' | 'blue' | 'light';
/** By the colours of the vertices, 0…1. */
export function colourMask(colours: Float32Array, name: MaskName): MaskOf {
  const value = (v: number): number =>
    name === 'light'
      ? luminanceOf(colours[3 * v], colours[3 * v + 1], colours[3 * v + 2])
      : colours[3 * v + ['red', 'green', 'blue'].indexOf(name)];
  return (a, b, c, w) => w[0] * value(a) + w[1] * value(b) + w[2] * value(c);
}

/** By what is painted on the mesh as it is at rest, whose vertices are these, m. */
export function paintMask(dabs: readonly Dab[], rest: Float32Array): MaskOf {
  return (a, b, c, w) => {
    const at = (axis: number): number =>
      w[0] * rest[3 * a + axis] + w[1] * rest[3 * b + axis] + w[2] * rest[3 * c + axis];
    return paintedAt(dabs, at(0), at(1), at(2));
  };
}

export interface MeshDistances {
  /** Spacings, negative inside, x fastest; no further than five. */
  readonly distances: Float32Array;
  /** The mask at the nearest place of the surface, near it; null where none was asked for. */
  readonly mask: Float32Array | null;
  /**
   * How fast the nearest place of the surface goes, near it, m/s: x, y, z one behind the other; null where
   * nothing was asked.
   */
  readonly flow: Float32Array | null;
}
/** The same mesh a while ago. */
export interface Earlier {
  readonly positions: Float32Array;
  readonly seconds: number;
}

/** Nodes this near (spacings) know their distance exactly. */
const BAND = 2.2;
/** Sheets thinner than two of this are made so thick: air must not pass between two nodes. */
const THINNEST = 0.6;
const BLOCK = 4;

export function meshDistances(
  mesh: Mesh,
  place: GridPlace,
  maskOf: MaskOf | null,
  earlier: Earlier | null = null,
): MeshDistances {
  const [nx, ny, nz] = place.nodes;
  const size = nx * ny * nz;
  // corners in spacings from node (0, 0, 0)
  const p = new Float64Array(mesh.positions.length);
  for (let n = 0; n < p.length; n++) p[n] = mesh.positions[n] / place.spacingM - place.first[n % 3];
  const squared = new Float32Array(size).fill(Infinity);
  const asked = maskOf !== null || earlier !== null;
  const nearest = new Int32Array(asked ? size : 0).fill(-1);
  splat(p, mesh.triangles, place.nodes, squared, asked ? nearest : null);
  const distances = new Float32Array(size);
  for (let n = 0; n < size; n++) distances[n] = squared[n] === Infinity ? Infinity : Math.sqrt(squared[n]);
  const winding = new Winding(p, mesh.triangles);
  sign(distances, place.nodes, winding);
  closeHoles(distances, place.nodes);
  thicken(distances, place.nodes);
  fillAround(distances, place.nodes);
  const mask = maskOf ? maskAt(p, mesh, maskOf, place.nodes, nearest) : null;
  const flow = earlier ? flowAt(p, mesh, earlier, place.nodes, nearest) : null;
  return { distances, mask, flow };
}

// Exact distance
// ----------------------------------------

/**
 * Squared distance of a point to a triangle, and where on it: weights of the corners (Ericson 2005, 5.1.5).
 */
const weights = new Float64Array(3);

function toTriangle(
  p: Float64Array,
  a: number,
  b: number,
  c: number,
  x: number,
  y: number,
  z: number,
): number {
  const abx = p[b] - p[a];
  const aby = p[b + 1] - p[a + 1];
  const abz = p[b + 2] - p[a + 2];
  const acx = p[c] - p[a];
  const acy = p[c + 1] - p[a + 1];
  const acz = p[c + 2] - p[a + 2];
  const apx = x - p[a];
  const apy = y - p[a + 1];
  const apz = z - p[a + 2];
  const d1 = abx * apx + aby * apy + abz * apz;
  const d2 = acx * apx + acy * apy + acz * apz;
  let u = 0;
  let v = 0;
  if (d1 <= 0 && d2 <= 0) {
    // corner a
  } else {
    const bpx = x - p[b];
    const bpy = y - p[b + 1];
    const bpz = z - p[b + 2];
    const d3 = abx * bpx + aby * bpy + abz * bpz;
    const d4 = acx * bpx + acy * bpy + acz * bpz;
    const cpx = x - p[c];
    const cpy = y - p[c + 1];
    const cpz = z - p[c + 2];
    const d5 = abx * cpx + aby * cpy + abz * cpz;
    const d6 = acx * cpx + acy * cpy + acz * cpz;
    const vc = d1 * d4 - d3 * d2;
    const vb = d5 * d2 - d1 * d6;
    const va = d3 * d6 - d5 * d4;
    if (d3 >= 0 && d4 <= d3) u = 1;
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) u = d1 / (d1 - d3);
    else if (d6 >= 0 && d5 <= d6) v = 1;
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) v = d2 / (d2 - d6);
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      v = (d4 - d3) / (d4 - d3 + (d5 - d6));
      u = 1 - v;
    } else {
      const all = va + vb + vc;
      u = vb / all;
      v = vc / all;
    }
  }

  weights[0] = 1 - u - v;
  weights[1] = u;
  weights[2] = v;
  const dx = apx - u * abx - v * acx;
  const dy = apy - u * aby - v * acy;
  const dz = apz - u * abz - v * acz;
  return dx * dx + dy * dy + dz * dz;
}

function splat(
  p: Float64Array,
  t: Uint32Array,
  [nx, ny, nz]: Triple,
  squared: Float32Array,
  nearest: Int32Array | null,
): void {
  for (let n = 0; n < t.length; n += 3) {
    const a = 3 * t[n];
    const b = 3 * t[n + 1];
    const c = 3 * t[n + 2];
    const i0 = Math.max(0, Math.ceil(Math.min(p[a], p[b], p[c]) - BAND));
    const i1 = Math.min(nx - 1, Math.floor(Math.max(p[a], p[b], p[c]) + BAND));
    const j0 = Math.max(0, Math.ceil(Math.min(p[a + 1], p[b + 1], p[c + 1]) - BAND));
    const j1 = Math.min(ny - 1, Math.floor(Math.max(p[a + 1], p[b + 1], p[c + 1]) + BAND));
    const k0 = Math.max(0, Math.ceil(Math.min(p[a + 2], p[b + 2], p[c + 2]) - BAND));
    const k1 = Math.min(nz - 1, Math.floor(Math.max(p[a + 2], p[b + 2], p[c + 2]) + BAND));
    // of large triangles most of the box is far: rows are entered where the plane is near
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    let mx = uy * vz - uz * vy;
    let my = uz * vx - ux * vz;
    let mz = ux * vy - uy * vx;
    const long = Math.sqrt(mx * mx + my * my + mz * mz);
    if (long > 0) {
      mx /= long;
      my /= long;
      mz /= long;
    }

    for (let k = k0; k <= k1; k++)
      for (let j = j0; j <= j1; j++) {
        const plane = my * (j - p[a + 1]) + mz * (k - p[a + 2]) - mx * p[a];
        let from = i0;
        let to = i1;
        if (Math.abs(mx) > 1e-6) {
          const q = (-BAND - plane) / mx;
          const r = (BAND - plane) / mx;
          from = Math.max(i0, Math.ceil(Math.min(q, r)));
          to = Math.min(i1, Math.floor(Math.max(q, r)));
        } else if (long > 0 && Math.abs(plane) > BAND + 1e-3) continue;
        for (let i = from; i <= to; i++) {
          const d = toTriangle(p, a, b, c, i, j, k);
          const o = (k * ny + j) * nx + i;
          if (d < squared[o] && d <= BAND * BAND) {
            squared[o] = d;
            if (nearest) nearest[o] = n;
          }
        }
      }
  }
}

// Inside
// ----------------------------------------

/**
 * A winding number so far from a half that the next node's cannot be on the other side without a surface
 * between.
 */
const SURE = 0.35;
/** Nodes that it is passed on over at the most: beside holes it changes from node to node. */
const PASSED_ON = 2;

/**
 * Gives distances their sign. Blocks of nodes without a surface in them are settled by their corners; in
 * others a node takes the winding number of a neighbour where no surface can lie between the two, and is
 * asked for its own otherwise.
 */
function sign(distances: Float32Array, [nx, ny, nz]: Triple, winding: Winding): void {
  const along = (n: number): number => Math.ceil((n - 1) / BLOCK) + 1;
  const [bx, by, bz] = [along(nx), along(ny), along(nz)];
  const known = new Float32Array(distances.length).fill(NaN);
  const hops = new Uint8Array(distances.length);
  const nodeOf = (i: number, j: number, k: number): number =>
    (Math.min(nz - 1, k * BLOCK) * ny + Math.min(ny - 1, j * BLOCK)) * nx + Math.min(nx - 1, i * BLOCK);
  for (let k = 0; k < bz; k++)
    for (let j = 0; j < by; j++)
      for (let i = 0; i < bx; i++)
        known[nodeOf(i, j, k)] = winding.at(
          Math.min(nx - 1, i * BLOCK),
          Math.min(ny - 1, j * BLOCK),
          Math.min(nz - 1, k * BLOCK),
        );
  const steps = [1, nx, nx * ny];
  const ends = [nx, ny, nz];
  const passedOn = (o: number, place: readonly number[]): boolean => {
    for (let a = 0; a < 3; a++)
      for (let s = -1; s <= 1; s += 2) {
        if (place[a] + s < 0 || place[a] + s >= ends[a]) continue;
        const n = o + s * steps[a];
        // the free balls around both cover the way between them
        if (!(Math.abs(known[n] - 0.5) > SURE) || hops[n] >= PASSED_ON || distances[n] + distances[o] < 1.02)
          continue;
        known[o] = known[n];
        hops[o] = hops[n] + 1;
        return true;
      }

    return false;
  };

  for (let k = 0; k < bz - 1; k++)
    for (let j = 0; j < by - 1; j++)
      for (let i = 0; i < bx - 1; i++) {
        let least = Infinity;
        let most = -Infinity;
        let near = Infinity;
        for (let c = 0; c < 8; c++) {
          const w = known[nodeOf(i + (c & 1), j + ((c >> 1) & 1), k + (c >> 2))];
          least = Math.min(least, w);
          most = Math.max(most, w);
        }

        const i1 = Math.min(nx - 1, (i + 1) * BLOCK);
        const j1 = Math.min(ny - 1, (j + 1) * BLOCK);
        const k1 = Math.min(nz - 1, (k + 1) * BLOCK);
        for (let z = k * BLOCK; z <= k1; z++)
          for (let y = j * BLOCK; y <= j1; y++)
            for (let x = i * BLOCK; x <= i1; x++) near = Math.min(near, distances[(z * ny + y) * nx + x]);
        const settled = near > 1 && (least > 0.6 || most < 0.4);
        for (let z = k * BLOCK; z <= k1; z++)
          for (let y = j * BLOCK; y <= j1; y++)
            for (let x = i * BLOCK; x <= i1; x++) {
              const o = (z * ny + y) * nx + x;
              if (!Number.isNaN(known[o])) continue;
              if (settled) known[o] = least;
              else if (!passedOn(o, [x, y, z])) known[o] = winding.at(x, y, z);
            }
      }

  for (let o = 0; o < distances.length; o++) if (known[o] > 0.5) distances[o] = -distances[o];
}

/**
 * Where inside meets outside without a surface (a hole), a surface half-way between the two nodes closes it.
 */
function closeHoles(distances: Float32Array, [nx, ny, nz]: Triple): void {
  const steps = [1, nx, nx * ny];
  const ends = [nx, ny, nz];
  const old = distances.slice();
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        const o = (k * ny + j) * nx + i;
        for (let a = 0; a < 3; a++) {
          if ([i, j, k][a] + 1 >= ends[a]) continue;
          const q = o + steps[a];
          if (old[o] < 0 === old[q] < 0 || Math.abs(old[o]) + Math.abs(old[q]) < 1.8) continue;
          for (const n of [o, q]) if (Math.abs(distances[n]) > 0.5) distances[n] = old[n] < 0 ? -0.5 : 0.5;
        }
      }
}

/**
 * Sheets that hold no node at a distance inside are given one thickness, so that nothing passes through
 * between nodes.
 */
function thicken(distances: Float32Array, [nx, ny, nz]: Triple): void {
  const reach = 2;
  const old = distances.slice();
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        const o = (k * ny + j) * nx + i;
        const d = Math.abs(old[o]);
        if (d > 1.2) continue;
        let thick = false;
        for (let z = Math.max(0, k - reach); z <= Math.min(nz - 1, k + reach) && !thick; z++)
          for (let y = Math.max(0, j - reach); y <= Math.min(ny - 1, j + reach) && !thick; y++)
            for (let x = Math.max(0, i - reach); x <= Math.min(nx - 1, i + reach); x++)
              if (old[(z * ny + y) * nx + x] <= -THINNEST) {
                thick = true;
                break;
              }

        if (!thick) distances[o] = d - THINNEST;
      }
}

/**
 * Layers of nodes that are filled in around what is known, and how far (spacings) all within them are at
 * least.
 */
const LAYERS = 6;
const FARTHEST = 5;

/**
 * Fills in what is near what is known, layer by layer outward on both sides; all else is as far as the
 * farthest.
 */
function fillAround(distances: Float32Array, [nx, ny, nz]: Triple): void {
  const sheet = nx * ny;
  const u = new Float32Array(distances.length).fill(FARTHEST);
  const seen = new Uint8Array(distances.length);
  let layer: number[] = [];
  const visit = (o: number, act: (n: number) => void): void => {
    const i = o % nx;
    const j = Math.floor(o / nx) % ny;
    const k = Math.floor(o / sheet);
    if (i > 0) act(o - 1);
    if (i + 1 < nx) act(o + 1);
    if (j > 0) act(o - nx);
    if (j + 1 < ny) act(o + nx);
    if (k > 0) act(o - sheet);
    if (k + 1 < nz) act(o + sheet);
  };

  for (let o = 0; o < u.length; o++) {
    const d = Math.abs(distances[o]);
    if (d >= BAND) continue;
    u[o] = d;
    seen[o] = 1;
    if (d > BAND - 1.1) layer.push(o);
  }

  for (let n = 0; n < LAYERS; n++) {
    const next: number[] = [];
    for (const o of layer)
      visit(o, (q) => {
        if (seen[q]) return;
        seen[q] = 1;
        next.push(q);
      });
    for (let round = 0; round < 2; round++)
      for (const o of next) {
        const i = o % nx;
        const j = Math.floor(o / nx) % ny;
        const k = Math.floor(o / sheet);
        const a = Math.min(i > 0 ? u[o - 1] : FARTHEST, i + 1 < nx ? u[o + 1] : FARTHEST);
        const b = Math.min(j > 0 ? u[o - nx] : FARTHEST, j + 1 < ny ? u[o + nx] : FARTHEST);
        const c = Math.min(k > 0 ? u[o - sheet] : FARTHEST, k + 1 < nz ? u[o + sheet] : FARTHEST);
        u[o] = Math.min(u[o], eikonal(a, b, c));
      }

    layer = next;
  }

  for (let o = 0; o < u.length; o++) distances[o] = distances[o] < 0 ? -u[o] : u[o];
}

/** The distance whose slopes from three neighbours make a unit slope. */
function eikonal(p: number, q: number, r: number): number {
  const a = Math.min(p, q, r);
  const c = Math.max(p, q, r);
  const b = p + q + r - a - c;
  if (a + 1 <= b) return a + 1;
  const two = (a + b + Math.sqrt(2 - (a - b) * (a - b))) / 2;
  if (two <= c) return two;
  const s = a + b + c;
  return (s + Math.sqrt(Math.max(0, s * s - 3 * (a * a + b * b + c * c - 1)))) / 3;
}

/** Visits the nodes near the surface with their nearest triangle; `weights` then says where on it. */
function eachNear(
  p: Float64Array,
  t: Uint32Array,
  [nx, ny, nz]: Triple,
  nearest: Int32Array,
  visit: (o: number, n: number) => void,
): void {
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        const o = (k * ny + j) * nx + i;
        const n = nearest[o];
        if (n < 0) continue;
        toTriangle(p, 3 * t[n], 3 * t[n + 1], 3 * t[n + 2], i, j, k);
        visit(o, n);
      }
}

/** Where the surface is near, the mask at its nearest place; what is further has none. */
function maskAt(
  p: Float64Array,
  { triangles: t }: Mesh,
  maskOf: MaskOf,
  nodes: Triple,
  nearest: Int32Array,
): Float32Array {
  const out = new Float32Array(nearest.length);
  eachNear(p, t, nodes, nearest, (o, n) => {
    out[o] = maskOf(t[n], t[n + 1], t[n + 2], weights);
  });
  return out;
}

function flowAt(
  p: Float64Array,
  { positions, triangles: t }: Mesh,
  earlier: Earlier,
  nodes: Triple,
  nearest: Int32Array,
): Float32Array {
  const size = nearest.length;
  const out = new Float32Array(3 * size);
  eachNear(p, t, nodes, nearest, (o, n) => {
    for (let a = 0; a < 3; a++) {
      let way = 0;
      for (let c = 0; c < 3; c++)
        way += weights[c] * (positions[3 * t[n + c] + a] - earlier.positions[3 * t[n + c] + a]);
      out[a * size + o] = way / earlier.seconds;
    }
  });
  return out;
}

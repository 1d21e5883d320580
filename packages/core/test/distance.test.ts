import { colourMask, meshDistances, type GridPlace } from '@bramblemist/core/geometry/distance';
import { Winding } from '@bramblemist/core/geometry/winding';
import { boundsOfMesh, checkMesh, inMetres, type Mesh } from '@bramblemist/core/geometry/mesh';
import type { Triple } from '@bramblemist/core/math/vector';
import { ballMesh, boxMesh, sheetMesh, torusMesh } from './meshes';
import { random } from './run';

function around(mesh: Mesh, spacingM: number): GridPlace {
  const { least, most } = boundsOfMesh(mesh);
  const first = least.map((v) => Math.floor(v / spacingM) - 3) as Triple;
  return { first, nodes: most.map((v, a) => Math.ceil(v / spacingM) + 4 - first[a]) as Triple, spacingM };
}

/** Compares with a formula at every node; spacings. */
function errors(
  mesh: Mesh,
  spacingM: number,
  truth: (x: number, y: number, z: number) => number,
): { near: number; far: number; wrongSide: number } {
  const place = around(mesh, spacingM);
  const { distances } = meshDistances(mesh, place, null);
  const out = { near: 0, far: 0, wrongSide: 0 };
  let o = 0;
  for (let k = 0; k < place.nodes[2]; k++)
    for (let j = 0; j < place.nodes[1]; j++)
      for (let i = 0; i < place.nodes[0]; i++, o++) {
        const [x, y, z] = [i, j, k].map((v, a) => (v + place.first[a]) * spacingM);
        const exact = truth(x, y, z) / spacingM;
        const want = Math.min(5, Math.max(-5, exact));
        const e = Math.abs(distances[o] - want);
        if (Math.abs(want) < 2) out.near = Math.max(out.near, e);
        else out.far = Math.max(out.far, e / Math.abs(want));
        if (Math.abs(want) > 0.1 && Math.sign(want) !== Math.sign(distances[o])) out.wrongSide++;
      }

  return out;
}

const ball = (x: number, y: number, z: number): number => Math.hypot(x, y, z) - 1;
const box = (x: number, y: number, z: number): number => {
  const q = [Math.abs(x) - 0.8, Math.abs(y) - 0.5, Math.abs(z) - 1.1];
  return Math.hypot(...q.map((v) => Math.max(0, v))) + Math.min(0, Math.max(...q));
};

const torus = (x: number, y: number, z: number): number => Math.hypot(Math.hypot(x, z) - 1, y) - 0.35;

describe('distances of meshes', () => {
  test.each([
    ['a ball', ballMesh(1, 160), ball],
    ['a box', boxMesh(0.8, 0.5, 1.1), box],
    ['a torus', torusMesh(1, 0.35, 160), torus],
  ])('%s: as its formula says', (_name, mesh, truth) => {
    const e = errors(mesh, 0.07, truth);
    expect(e.near).toBeLessThan(0.02);
    expect(e.far).toBeLessThan(0.15);
    expect(e.wrongSide).toBe(0);
  });
  test('a ball that is cut open is closed across the hole, and its wall stays where it is', () => {
    const mesh = ballMesh(1, 120, 0.7); // a cap is missing below
    const place = around(mesh, 0.08);
    const { distances } = meshDistances(mesh, place, null);
    const at = (x: number, y: number, z: number): number => {
      const [i, j, k] = [x, y, z].map((v, a) => Math.round(v / 0.08) - place.first[a]);
      return distances[(k * place.nodes[1] + j) * place.nodes[0] + i];
    };

    expect(at(0, 0, 0)).toBeLessThan(-3);
    expect(at(0, 0.8, 0)).toBeCloseTo(-2.5, 0);
    expect(at(0, 1.12, 0)).toBeGreaterThan(1);
    expect(at(1.12, 0, 0)).toBeGreaterThan(1);
    // the rim lies at y = −0.59; the hole's cover bulges less than the ball did
    expect(at(0, -0.48, 0)).toBeLessThan(0);
    expect(at(0, -0.8, 0)).toBeGreaterThan(0);
  });
  test('triangles that face both ways and lie twice still leave the inside inside', () => {
    const whole = boxMesh(0.8, 0.5, 1.1);
    const twice = {
      ...whole,
      triangles: Uint32Array.from([...whole.triangles, ...whole.triangles.slice(0, 3)]),
    };
    expect(errors(twice, 0.1, box).wrongSide).toBe(0);
  });
  test('a sheet without thickness closes: every line of nodes through it has one inside', () => {
    const mesh = sheetMesh(1);
    for (const lift of [0, 0.02, 0.045]) {
      const moved = { ...mesh, positions: mesh.positions.map((v, n) => (n % 3 === 1 ? v + lift : v)) };
      const place = around(moved, 0.09);
      const { distances } = meshDistances(moved, place, null);
      for (let x = -0.8; x < 0.8; x += 0.09) {
        const [i, k] = [Math.round(x / 0.09) - place.first[0], Math.round(0.3 / 0.09) - place.first[2]];
        const line = Array.from(
          { length: place.nodes[1] },
          (_, j) => distances[(k * place.nodes[1] + j) * place.nodes[0] + i],
        );
        expect(Math.min(...line)).toBeLessThan(0);
        expect(line[0]).toBeGreaterThan(0);
        expect(line[line.length - 1]).toBeGreaterThan(0);
      }
    }
  });
  test('the winding number is 1 inside and 0 outside, also where far triangles are taken together', () => {
    const mesh = ballMesh(1, 60);
    const winding = new Winding(Float64Array.from(mesh.positions), mesh.triangles);
    const next = random(3);
    for (let n = 0; n < 300; n++) {
      const p = [0, 1, 2].map(() => 4 * next() - 2) as Triple;
      const r = Math.hypot(...p);
      if (Math.abs(r - 1) < 0.05) continue;
      expect(winding.at(...p)).toBeCloseTo(r < 1 ? 1 : 0, 1);
    }
  });
  test('masks come from the colours of the vertices', () => {
    const mesh = sheetMesh(1);
    const colours = Float32Array.from([0, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0]); // red grows with x
    const place = around(mesh, 0.1);
    const { mask } = meshDistances({ ...mesh, colours }, place, colourMask(colours, 'red'));
    const [j, k] = [-place.first[1], -place.first[2]];
    for (const x of [-0.5, 0, 0.7]) {
      const i = Math.round(x / 0.1) - place.first[0];
      expect(mask![(k * place.nodes[1] + j) * place.nodes[0] + i]).toBeCloseTo((x + 1) / 2, 4);
    }
  });
});

describe('looking a mesh over', () => {
  test('a whole box has nothing wrong, its size and its volume', () => {
    expect(checkMesh(boxMesh(1, 2, 3))).toMatchObject({
      triangles: 12,
      openEdges: 0,
      sharedEdges: 0,
      flippedEdges: 0,
      flat: 0,
      size: [2, 4, 6],
    });
    expect(checkMesh(boxMesh(1, 2, 3)).volume).toBeCloseTo(48);
  });
  test('holes, flipped faces and flat triangles are counted', () => {
    const whole = boxMesh(1, 1, 1);
    expect(checkMesh({ ...whole, triangles: whole.triangles.slice(6) }).openEdges).toBe(4);
    const flipped = whole.triangles.slice();
    [flipped[0], flipped[1]] = [flipped[1], flipped[0]];
    expect(checkMesh({ ...whole, triangles: flipped }).flippedEdges).toBe(3);
    expect(checkMesh({ ...whole, triangles: Uint32Array.from([...whole.triangles, 0, 0, 1]) }).flat).toBe(1);
    // its seam is two rows of vertices at the same places
    expect(checkMesh(ballMesh(1, 20)).openEdges).toBe(0);
  });
  test('scale and upright axis', () => {
    const { positions } = inMetres(boxMesh(1, 2, 3), { scale: 0.01, up: 'z' });
    expect([...positions.slice(0, 3)].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([-0.01, -0.03, 0.02]);
  });
});

// Paints the Heron Mill's pictures: the plate of the weir (lined up with the shot's default camera) and a
// reference still with mist in it; meshes, particles, and the moving plates (plates.ts). Everything is
// computed here from simple shapes and noise.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { encodePng } from '@bramblemist/core/io/node/png';
import { writeObj } from '@bramblemist/core/files/obj/obj';
import { writePlyCloud } from '@bramblemist/core/files/ply/writer';
import type { Mesh } from '@bramblemist/core/geometry/mesh';
import { cameraRays, LOOK } from '@bramblemist/core/look/look';
import { example } from '@bramblemist/core/presets/examples';
import { compile } from '@bramblemist/core/plan/compile';
import { obstacleHoldout } from '@bramblemist/core/look/holdout';
import type { Triple } from '@bramblemist/core/math/vector';
import { fbm, hash, mix } from './noise';
import { PLATE, writePlate, writePlates } from './plates';

const { width: WIDTH, height: HEIGHT } = PLATE;

function paint(misty: boolean): Float32Array {
  const recipe = example('weir-at-dawn');
  const look = LOOK.parse({ camera: { width: WIDTH, height: HEIGHT } });
  const rays = cameraRays(look);
  const solid = obstacleHoldout(compile(recipe).plan, 0)!;
  const sill = recipe.obstacles[0];
  const out = new Float32Array(WIDTH * HEIGHT * 4);
  const dawn: Triple = [0.42, 0.36, 0.33];
  const zenith: Triple = [0.1, 0.14, 0.2];
  const haze: Triple = [0.3, 0.31, 0.33];
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      const raw = rays.corner.map((c, a) => c + x * rays.across[a] + y * rays.down[a]);
      const n = Math.hypot(...raw);
      const d = raw.map((v) => v / n) as Triple;
      const sky = (up: number): Triple => mix(dawn, zenith, up * 2.2 + 0.05 * fbm(x / 90, y / 30));
      let colour: Triple;
      const hit = solid(rays.eye, d);
      const floor = d[1] < 0 ? -rays.eye[1] / d[1] : Infinity;
      if (hit < floor) {
        // wet stone: courses on the face, a lighter lip, moss near the water
        const p = rays.eye.map((e, a) => e + hit * d[a]);
        const top = p[1] > sill.centre[1] + sill.size[1] / 2 - 1e-3;
        const u = Math.abs(p[0] - (sill.centre[0] + sill.size[0] / 2)) < 1e-3 ? p[2] : p[0];
        const course = Math.floor(p[1] / 0.2);
        const joint =
          Math.min(Math.abs(p[1] / 0.2 - course), Math.abs(((u + 0.17 * (course % 3)) / 0.42) % 1)) < 0.06 &&
          !top
            ? 0.6
            : 1;
        const grain = 0.55 + 0.6 * fbm(u * 9 + course * 3.1, p[1] * 9);
        const stone: Triple = [0.085, 0.083, 0.085];
        const moss: Triple = [0.035, 0.05, 0.025];
        colour = mix(
          mix(stone, moss, 0.9 * fbm(u * 3, p[1] * 4 + 5) * (1.2 - p[1])),
          stone,
          top ? 0.7 : 0,
        ).map((v) => v * grain * joint * (top ? 1.9 : 1)) as Triple;
      } else if (floor < Infinity) {
        // water with the sky in it, broken by ripples, and the far bank's reflection
        const px = rays.eye[0] + floor * d[0];
        const pz = rays.eye[2] + floor * d[2];
        const far = Math.min(1, floor / 40);
        const ripple = fbm(px * 2.2 + 0.4 * fbm(px, pz * 5), pz * 7);
        const mirrored = sky(-d[1] * 1.6 + 0.12 * (ripple - 0.5));
        colour = mix(
          mix([0.02, 0.028, 0.03], mirrored, 0.25 + 0.5 * far + 0.25 * (ripple - 0.45)),
          haze,
          far * 0.7,
        );
      } else {
        colour = sky(d[1]);
      }

      // hills and the mill stand far behind; reeds in front
      const horizon = HEIGHT * 0.33;
      const hill = horizon - 26 - 46 * fbm(x / 160, 3) + 18;
      const near = horizon - 6 - 30 * fbm(x / 60 + 40, 8);
      if (hit === Infinity && d[1] > -0.035) {
        if (y > hill) colour = mix(haze, [0.12, 0.135, 0.15], 0.55);
        if (y > near) colour = mix(haze, [0.05, 0.06, 0.06], 0.75);
        const mx = x - WIDTH * 0.73;
        const my = horizon + 4 - y;
        const wall = mx > 0 && mx < 118 && my < 62;
        const roof = my >= 62 && my < 100 && mx > (my - 62) * 1.5 - 10 && mx < 128 - (my - 62) * 1.5;
        if ((wall || roof) && my > -14) colour = mix([0.035, 0.034, 0.04], haze, 0.2);
        if (wall && mx > 40 && mx < 54 && my > 28 && my < 44) colour = [0.62, 0.4, 0.16];
      }

      const reed = (x + 14 * fbm(x / 20, y / 200)) / 7;
      const blade = Math.floor(reed);
      const tall = HEIGHT * (0.7 + 0.28 * hash(blade, 5));
      const clump = fbm(x / 120 + 3, 1) > 0.47 ? 1 : 0;
      if (clump && y > tall && Math.abs(reed - blade - 0.5) < 0.18 + 0.2 * hash(blade, 9))
        colour = mix([0.02, 0.022, 0.012], [0.07, 0.06, 0.03], hash(blade, 2));
      if (misty) {
        const lipX = WIDTH * 0.36;
        const lipY = HEIGHT * 0.42;
        const fall = Math.max(0, (x - lipX) / (WIDTH * 0.55));
        const body = fbm(x / 70 - 2, y / 46 + fall * 3);
        const edge = lipY - 34 + 190 * Math.min(1, fall * 2.4);
        const veil =
          Math.min(1, Math.max(0, (y - edge) / 70 + body - 0.5)) *
          Math.max(0, 1 - Math.max(0, (y - edge - 120) / 120)) *
          Math.max(0, 1 - fall * 0.9);
        colour = mix(colour, [0.46, 0.47, 0.5], Math.min(0.92, veil * (0.6 + body)));
      }

      const p = 4 * (y * WIDTH + x);
      for (let c = 0; c < 3; c++) out[p + c] = colour[c];
      out[p + 3] = 1;
    }
  }

  return out;
}

const folder = process.argv[2] ?? 'demo/build/pictures';
mkdirSync(folder, { recursive: true });
const still = paint(true);
writeFileSync(join(folder, 'weir_still_02.png'), encodePng({ width: WIDTH, height: HEIGHT, rgba: still }));

/** The cellar's hatch and three steps as one closed mesh: a profile drawn out along z, with worn edges. */
function steps(): Mesh {
  const tread = 0.55;
  const rise = 0.34;
  const profile: [number, number][] = [[-1.9, -0.2]];
  // from the hatch's level down; each edge is worn by a small bevel
  let x = -1.2;
  let y = 1.2;
  profile.push([-1.9, y]);
  for (let n = 0; n < 3; n++) {
    profile.push([x - 0.04, y], [x, y - 0.03]);
    y -= rise + (n === 2 ? 0.18 : 0);
    profile.push([x, y]);
    x += tread;
  }

  profile.push([x - 0.04, y], [x, y - 0.03], [x, -0.2]);
  const half = 1.1;
  const positions = profile.flatMap(([px, py]) => [px, py, -half, px, py, half]);
  const triangles: number[] = [];
  const count = profile.length;
  for (let n = 0; n < count; n++) {
    const a = 2 * n;
    const b = 2 * ((n + 1) % count);
    triangles.push(a, a + 1, b, b, a + 1, b + 1);
  }

  // the profile goes down from left to right above x = −1.9, so a fan from its lower left corner covers both
  // ends
  for (let n = 1; n + 1 < count; n++) triangles.push(0, 2 * n, 2 * n + 2, 1, 2 * n + 3, 2 * n + 1);
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles), colours: null };
}

writeFileSync(join(folder, 'cellar_steps.obj'), writeObj(steps()));

/** Droplets that the fall throws off where it meets the leat: frames of a PLY sequence, 24 a second. */
function spray(frames: number): { name: string; data: Uint8Array }[] {
  const DROPS = 900;
  const LIFE = 1.1;
  const PULL = 9.81;
  const foot: Triple = [-0.72, 0.05, 0];
  const chance = (n: number, k: number): number => hash(n * 7 + k, 31 * k + 5);
  return Array.from({ length: frames }, (_, f) => {
    const rows: number[][] = [];
    for (let n = 0; n < DROPS; n++) {
      // each drop is thrown anew when it has fallen, at a moment and in a way of its own
      const turn = Math.floor((f / 24 + LIFE * chance(n, 1)) / LIFE);
      const age = f / 24 + LIFE * chance(n, 1) - turn * LIFE;
      const own = n + DROPS * turn;
      const up = 1.2 + 2.2 * chance(own, 2) ** 2;
      const out = 0.25 + 1.3 * chance(own, 3);
      const side = (chance(own, 4) - 0.5) * 1.1;
      const y = foot[1] + up * age - 0.5 * PULL * age * age;
      if (y < 0.01) continue;
      rows.push([
        foot[0] + out * age,
        y,
        (chance(own, 5) - 0.5) * 1.8 + side * age,
        out,
        up - PULL * age,
        side,
        0.002 + 0.006 * chance(own, 6),
        age,
        own,
      ]);
    }

    const column = (c: number): Float32Array => Float32Array.from(rows, (r) => r[c]);
    const names = ['x', 'y', 'z', 'vx', 'vy', 'vz', 'radius', 'age'];
    const columns = new Map<string, Float32Array | Uint32Array>(names.map((name, c) => [name, column(c)]));
    columns.set(
      'id',
      Uint32Array.from(rows, (r) => r[8]),
    );
    return { name: `weir_spray.${String(f + 1).padStart(4, '0')}.ply`, data: writePlyCloud(columns) };
  });
}

const files = Object.fromEntries(spray(96).map(({ name, data }) => [name, data]));
writeFileSync(join(folder, 'weir_spray.zip'), zipSync(files, { level: 6, mtime: '1990-01-01' }));

/** Plates need meshes that were written above. */
async function plates(): Promise<void> {
  await writePlate({ width: WIDTH, height: HEIGHT, rgba: paint(false) }, folder, 'weir_plate', 120, {
    push: 0.07,
    sway: 9,
  });
  await writePlates(folder);
}

if (process.argv[3] !== 'without-plates') void plates();

// Single forces and kernels against what mathematics says of them.
import { stateOf } from '@bramblemist/core/run/simulation';
import { addTurbulence } from '@bramblemist/core/step/forces/turbulence';
import { emission } from '@bramblemist/core/step/emission';
import { gather } from '@bramblemist/core/step/forces/forces';
import { windAt } from '@bramblemist/core/step/forces/wind';
import { readField, writeField } from '@bramblemist/core/grid/memory';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { fillHalo, named, extent } from '@bramblemist/core/grid/sweep';
import type { SimulationState } from '@bramblemist/core/step/state';
import { fillVelocity } from './physics/kit';
import { ALL_OPEN, greatest, recipeOf, simulate, sum } from './run';

/** A state of a run for calling one force by itself. */
const stateAt = (s: Simulation, timeS: number): SimulationState => ({ ...stateOf(s), timeS });

/** Air that turns about the y axis through the middle as a solid body. */
function turning(s: Simulation, omega: number): void {
  const { nx, ny, nz } = s.plan.window.lattice;
  const h = s.plan.window.voxelSizeM;
  const u = new Float32Array((nx + 1) * ny * nz);
  const w = new Float32Array(nx * ny * (nz + 1));
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i <= nx; i++) u[(k * ny + j) * (nx + 1) + i] = omega * (k + 0.5 - nz / 2) * h;
  for (let k = 0; k <= nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) w[(k * ny + j) * nx + i] = -omega * (i + 0.5 - nx / 2) * h;
  writeField(s.threadPool.memory, s.field('velocityX'), u, [1, 0, 0]);
  writeField(s.threadPool.memory, s.field('velocityZ'), w, [0, 0, 1]);
}

describe('curl', () => {
  /** Confinement of an air, with the curl that it kept of its four latest planes. */
  const confined = (s: Simulation): { force: Float32Array[]; curl: Float32Array } => {
    const l = s.plan.window.lattice;
    const { velocity, scratch, ahead, acceleration } = s.layout;
    velocity.forEach((f, axis) => fillHalo(s.threadPool, f, axis, 0));
    const fields = [...velocity, ...scratch, ahead[2], ...acceleration].map((f) => f.address);
    s.threadPool.solo('confineVorticity', {
      ...named(['u', 'v', 'w', 'ox', 'oy', 'oz', 'mag', 'fx', 'fy', 'fz'], fields),
      weight: 0,
      ...extent(l),
      quarter: 2.5,
      strength: 1,
      slab: 16,
      k0: 0,
      k1: l.nz,
    });
    return {
      force: acceleration.map((f) => readField(s.threadPool.memory, f)),
      curl: readField(s.threadPool.memory, ahead[2]),
    };
  };

  test('solid-body rotation has the vorticity 2 ω everywhere inside', () => {
    const s = simulate(recipeOf());
    turning(s, 1.7);
    const { curl } = confined(s);
    for (let k = 0; k < 3; k++)
      for (let j = 1; j < 15; j++)
        for (let i = 1; i < 15; i++) expect(curl[(k * 16 + j) * 16 + i]).toBeCloseTo(3.4, 3);
  });
  test('confinement drives an uneven whirl round', () => {
    const s = simulate(recipeOf());
    // a whirl about y that fades outward: the force goes round with it
    fillVelocity(s, (x, _y, z) => [
      z * Math.exp(-(x * x + z * z) / 0.1),
      0,
      -x * Math.exp(-(x * x + z * z) / 0.1),
    ]);
    const { force } = confined(s);
    const at = (axis: number, i: number, k: number): number => force[axis][(k * 16 + 8) * 16 + i];
    expect(at(0, 8, 10)).toBeGreaterThan(0.1);
    expect(at(0, 7, 5)).toBeLessThan(-0.1);
    expect(at(2, 10, 8)).toBeLessThan(-0.1);
  });
  test('slabs of confinement share no result', () => {
    const sums = [1, 2, 3].map((threads) => {
      const s = simulate(recipeOf({ space: { voxelSize: 0.05 }, vorticity: { strength: 1 } }), threads);
      fillVelocity(s, (x, y, z) => [Math.sin(9 * y), Math.cos(7 * z), Math.sin(8 * x)]);
      s.advanceFrame();
      s.threadPool.close();
      return s.checksum();
    });
    expect(new Set(sums).size).toBe(1);
  });
});

test('buoyancy adds lift · kelvin − weight · density', () => {
  const s = simulate(recipeOf());
  const l = s.plan.window.lattice;
  const fy = s.layout.acceleration[1];
  writeField(s.threadPool.memory, s.layout.channels[1], new Float32Array(16 ** 3).fill(30));
  writeField(s.threadPool.memory, s.layout.channels[0], new Float32Array(16 ** 3).fill(2));
  writeField(s.threadPool.memory, fy, new Float32Array(16 ** 3).fill(1));
  s.threadPool.solo('applyBuoyancy', {
    f: fy.address,
    density: s.layout.channels[0].address,
    temperature: s.layout.channels[1].address,
    weight: 0,
    ...extent(l),
    lift: 0.03,
    heaviness: 0.2,
    k0: 0,
    k1: l.nz,
  });
  for (const v of readField(s.threadPool.memory, fy)) expect(v).toBeCloseTo(1 + 0.9 - 0.4, 5);
});

describe('emission', () => {
  /** One second of a source given in cells of the window. */
  const emit = (kind: 0 | 1, centre: number[], half: number[]): { density: number; kelvin: number } => {
    const source = {
      id: 's',
      shape: kind ? 'box' : 'sphere',
      centre: centre.map((c, a) => c * 0.1 + [-0.8, 0, -0.8][a]),
      radius: half[0] * 0.1,
      size: half.map((v) => v * 0.2),
      density: { amount: 1 },
      temperature: { amount: 12 },
    };
    const s = simulate(recipeOf({ sources: [source] }));
    emission({ ...stateOf(s), frame: 1, dtS: 1 });
    return { density: sum(s.read('density')), kelvin: greatest(s.read('temperature')) };
  };

  test.each([
    [
      [8, 8, 8],
      [2, 3, 1.5],
    ],
    [
      [7.3, 6.61, 9.05],
      [2.25, 1.4, 3.37],
    ],
    [
      [8.5, 8.5, 8.5],
      [0.2, 0.2, 0.2],
    ],
  ])('a box at %j gives exactly its volume', (centre, half) => {
    expect(emit(1, centre, half).density).toBeCloseTo(8 * half[0] * half[1] * half[2], 3);
  });
  test('a sphere gives its volume wherever it lies, and holds its temperature inside', () => {
    for (const centre of [
      [8, 8, 8],
      [7.31, 8.77, 6.5],
    ]) {
      const { density, kelvin } = emit(0, centre, [3, 3, 3]);
      expect(density / ((4 / 3) * Math.PI * 27)).toBeCloseTo(1, 2);
      expect(kelvin).toBe(12);
    }
  });
});

describe('wind', () => {
  const wind = (parts: object): readonly number[] => windAt(recipeOf({ wind: parts }).wind, 0.7);
  test.each([
    [{ speed: 3, heading: 0 }, [3, 0, 0]],
    [{ speed: 3, heading: 90 }, [0, 0, 3]],
    [{ speed: 2, heading: 180 }, [-2, 0, 0]],
    [{ speed: 2, heading: 0, rise: 90 }, [0, 2, 0]],
    [{ speed: 2, heading: 0, rise: 30 }, [Math.sqrt(3), 1, 0]],
  ])('%j blows to %j', (parts, velocity) => {
    wind(parts).forEach((v, axis) => expect(v).toBeCloseTo(velocity[axis], 10));
  });
  test('without speed and gusts it does not touch the air', () => {
    const s = simulate(recipeOf());
    gather(stateOf(s), 0.04);
    for (const f of s.layout.acceleration) expect(greatest(readField(s.threadPool.memory, f))).toBe(0);
  });
  test('a gust changes the speed by at most its strength, along the wind', () => {
    const [x, y, z] = wind({ speed: 3, gust: 1, heading: 0, gustLength: 0.9, seed: 12 });
    expect(x).not.toBe(3);
    expect(Math.abs(x - 3)).toBeLessThanOrEqual(1);
    expect(y).toBeCloseTo(0, 10);
    expect(z).toBeCloseTo(0, 10);
  });
});

describe('turbulence is in the world, not in voxels', () => {
  /** The acceleration at points of the world, on one voxel size. */
  function accelerations(voxelSize: number, timeS: number): number[] {
    const s = simulate(
      recipeOf({
        space: { size: [1.6, 1.6, 1.6], corner: [0, 0, 0], voxelSize, sides: ALL_OPEN },
        turbulence: { strength: 1, size: 0.8, octaves: 1, period: 2 },
      }),
    );
    for (const f of s.layout.acceleration.slice(0, 3))
      writeField(s.threadPool.memory, f, new Float32Array(s.plan.window.lattice.nx ** 3));
    addTurbulence(stateAt(s, timeS), s.plan.recipe.turbulence, 0);
    const n = s.plan.window.lattice.nx;
    const fx = readField(s.threadPool.memory, s.layout.acceleration[0]);
    const out: number[] = [];
    for (let k = 2; k < 14; k += 3)
      for (let j = 2; j < 14; j += 3)
        for (let i = 2; i < 14; i += 3) {
          // the mean over a block of 0.1 m, whatever number of voxels that is
          const m = Math.round(0.1 / voxelSize);
          let sum = 0;
          for (let c = 0; c < m; c++)
            for (let b = 0; b < m; b++)
              for (let a = 0; a < m; a++) sum += fx[((k * m + c) * n + j * m + b) * n + i * m + a];
          out.push(sum / m ** 3);
        }

    return out;
  }

  test('half the voxel size gives the same push at the same place', () => {
    const coarse = accelerations(0.1, 0.3);
    const fine = accelerations(0.05, 0.3);
    const scale = Math.sqrt(fine.reduce((a, v) => a + v * v, 0) / fine.length);
    const off = Math.sqrt(coarse.reduce((a, v, n) => a + (v - fine[n]) ** 2, 0) / fine.length);
    expect(off / scale).toBeLessThan(0.15);
  });
  test('it churns: half a period later it is another field of the same strength', () => {
    const now = accelerations(0.1, 0);
    const later = accelerations(0.1, 1);
    const rms = (v: number[]) => Math.sqrt(v.reduce((a, x) => a + x * x, 0) / v.length);
    expect(rms(later) / rms(now)).toBeGreaterThan(0.5);
    expect(rms(later) / rms(now)).toBeLessThan(2);
    expect(rms(now.map((v, n) => v - later[n])) / rms(now)).toBeGreaterThan(0.5);
  });
});

test('turbulence is as strong as it says, however few voxels wide its whirls are', () => {
  const strengthAt = (voxelSize: number): number => {
    const s = simulate(recipeOf({ space: { size: [3.2, 3.2, 3.2], voxelSize } }));
    let sum = 0;
    for (const seed of [1, 2, 3]) {
      gather(stateAt(s, 0), 0);
      const before = s.layout.acceleration.map((f) => readField(s.threadPool.memory, f));
      const whirls = { strength: 2, size: 0.8, octaves: 1, roughness: 0.5, period: 1, seed };
      addTurbulence(stateAt(s, 0), whirls, 0);
      s.layout.acceleration.forEach((f, a) =>
        readField(s.threadPool.memory, f).forEach((v, n) => (sum += (v - before[a][n]) ** 2)),
      );
    }

    const { nx, ny, nz } = s.window.lattice;
    s.threadPool.close();
    return Math.sqrt(sum / (3 * nx * ny * nz));
  };

  // whirls 4, 5, 8 and 16 voxels wide
  const fine = strengthAt(0.05);
  for (const h of [0.2, 0.16, 0.1]) expect(strengthAt(h) / fine).toBeCloseTo(1, 1);
});

// Stage 2: particles are born, fly through the air as the last substep left it, meet obstacles, and end.
import { cosine, exponential } from '../math/exact';
import { named, addresses } from '../grid/sweep';
import { Meeting, ParticleFlightStruct, SolidStruct } from '@bramblemist/kernels/seam';
import { CURL_NOISE_RMS } from './forces/turbulence';
import type { Pose } from '../geometry/pose';
import { cellShape, type CellShape } from '../geometry/shape';
import { bornIn, bornOff, chanceOf, type Newborn } from './births';
import { filterParticles } from '../assets/filter-particles';
import { poolViews, type PoolState } from '../plan/particle-pool';
import type { ParticlesPart } from '../recipe/types';
import type { Triple } from '../math/vector';
import type { PlannedParticles } from '../plan/plan';
import { wallBits } from '../plan/levels';
import { poseAt } from '../plan/placement';
import { type SimulationState, raiseIncident } from './state';
import { domainAt } from './window';

/** Particles that a worker takes at a time. */
const HANDFUL = 2048;
const MEETS = {
  passes: Meeting.PASSES,
  ends: Meeting.ENDS,
  bounces: Meeting.BOUNCES,
} as const;

export function particles(state: SimulationState): void {
  const { plan } = state;
  plan.particles.forEach((planned, n) => {
    const part = plan.at(state.timeS + state.dtS / 2).particles[planned.index];
    const pool = state.pools[n];
    if (planned.flown) return bring(state, planned, part, n);
    if (planned.parent >= 0) spring(state, planned, part, n);
    else give(state, planned, part, n);
    fly(state, planned, part, n);
    const { address, room } = state.layout.pools[n];
    pool.count = state.threadPool.solo('compactParticles', {
      pool: address,
      stride: room * 4,
      count: pool.count,
    });
  });
}

/** What writes newborns into a pool; it returns false where there is no room. */
function writer(state: SimulationState, n: number): (born: Newborn, bornS: number) => boolean {
  const pool = state.pools[n];
  const at = state.layout.pools[n];
  const { part } = state.plan.particles[n];
  const v = poolViews(state.threadPool.memory, at);
  return ({ place, velocity, life, radius }, bornS) => {
    const id = pool.born++;
    if (pool.count === at.room) {
      raiseIncident(state, {
        kind: 'crowded',
        what:
          `${part.name}: there is no room for more than ${at.room.toLocaleString('en')} at once; some ` +
          'were not born.',
        cure: 'Raise “at most”, or lower the rate or the life.',
      });
      return false;
    }

    const m = pool.count++;
    [v.x[m], v.y[m], v.z[m]] = place;
    [v.wasX[m], v.wasY[m], v.wasZ[m]] = place;
    [v.vx[m], v.vy[m], v.vz[m]] = velocity;
    v.age[m] = Math.min(-1e-12, state.timeS - bornS);
    v.life[m] = life;
    v.radius[m] = radius;
    v.id[m] = id;
    return true;
  };
}

const cosineOf = (degrees: number): number => (degrees === 0 ? 1 : cosine((degrees * Math.PI) / 180));

/** Those of a burst or a stream. */
function give(state: SimulationState, planned: PlannedParticles, part: ParticlesPart, n: number): void {
  const { plan, timeS, dtS, frame, window } = state;
  const pool = state.pools[n];
  const h = window.voxelSizeM;
  if (frame < part.from || frame > part.until) return;
  const cosine = cosineOf(part.spread);
  const put = writer(state, n);
  const at = (bornS: number): readonly [CellShape, Pose] => {
    const pose = poseAt(plan, 'particles', planned, bornS, planned.moves ? dtS : 0);
    return [cellShape(part, pose, h, planned.mesh?.at(bornS).grid ?? null), pose];
  };

  const still = planned.moves ? null : at(timeS);
  for (const bornS of moments(state, part, pool))
    put(bornIn(part, ...(still ?? at(bornS)), h, pool.born, cosine), bornS);
}

/** When in the substep one is born. */
function moments(state: SimulationState, part: ParticlesPart, pool: PoolState): number[] {
  const { plan, timeS, dtS } = state;
  const { firstFrame, lastFrame } = plan.recipe.space;
  const out: number[] = [];
  if (part.born === 'burst') {
    const startS = (part.from - firstFrame) * plan.frameS;
    const lengthS = (Math.max(part.from, Math.min(part.until, lastFrame)) - part.from + 1) * plan.frameS;
    for (let m = pool.born; m < part.count; m++) {
      const at = startS + ((m + 0.5) / part.count) * lengthS;
      if (at >= timeS + dtS) break;
      out.push(Math.max(at, timeS));
    }

    return out;
  }

  const before = pool.owed;
  const after = before + part.rate * dtS;
  for (let m = 1; m <= after + 1e-9; m++)
    out.push(timeS + Math.min(1, (m - before) / (after - before)) * dtS);
  pool.owed = after - out.length;
  return out;
}

/** Those that are left behind by others, whose way through this substep is known by now. */
function spring(state: SimulationState, planned: PlannedParticles, part: ParticlesPart, n: number): void {
  const { timeS, dtS, threadPool, layout, frame } = state;
  const pool = state.pools[n];
  if (frame < part.from || frame > part.until) return;
  const cosine = cosineOf(part.spread);
  const put = writer(state, n);
  const v = poolViews(threadPool.memory, layout.pools[planned.parent]);
  for (let m = 0; m < state.pools[planned.parent].count; m++) {
    const age = v.age[m];
    const lived = Math.min(dtS, age);
    // each parent begins at a moment of its own, or all would give at once
    const phase = chanceOf(part.seed + 7, v.id[m])();
    const first = Math.floor(part.rate * (age - lived) + phase) + 1;
    const last = Math.floor(part.rate * age + phase);
    for (let k = first; k <= last; k++) {
      const behind = Math.min(lived, Math.max(0, age - (k - phase) / part.rate));
      const t = lived > 0 ? behind / lived : 0;
      const place: Triple = [
        v.x[m] + t * (v.wasX[m] - v.x[m]),
        v.y[m] + t * (v.wasY[m] - v.y[m]),
        v.z[m] + t * (v.wasZ[m] - v.z[m]),
      ];
      if (!put(bornOff(part, place, [v.vx[m], v.vy[m], v.vz[m]], pool.born, cosine), timeS + dtS - behind))
        return;
    }
  }
}

/** Those of a file, where it says that they are at the substep's end. */
function bring(state: SimulationState, planned: PlannedParticles, part: ParticlesPart, n: number): void {
  const { timeS, dtS, threadPool, layout, frame } = state;
  const pool = state.pools[n];
  pool.count = 0;
  if (frame < part.from || frame > part.until) return;
  const { count, positions, earlier, velocities, radii, ids } = filterParticles(
    planned.flown!(timeS + dtS, timeS),
    part,
    dtS,
  );
  const v = poolViews(threadPool.memory, layout.pools[n]);
  for (let m = 0; m < count; m++) {
    [v.x[m], v.y[m], v.z[m]] = positions.subarray(3 * m, 3 * m + 3);
    [v.wasX[m], v.wasY[m], v.wasZ[m]] = earlier.subarray(3 * m, 3 * m + 3);
    for (const [a, name] of (['vx', 'vy', 'vz'] as const).entries())
      v[name][m] = velocities ? velocities[3 * m + a] : (positions[3 * m + a] - earlier[3 * m + a]) / dtS;
    v.radius[m] = radii ? radii[m] : part.ball;
    v.age[m] = 0;
    v.life[m] = 0;
    v.id[m] = ids[m];
  }

  pool.count = count;
}

function fly(state: SimulationState, planned: PlannedParticles, part: ParticlesPart, n: number): void {
  const { threadPool, layout, window, dtS, timeS } = state;
  const h = window.voxelSizeM;
  const { nx, ny, nz, rowStride, planeStride } = window.lattice;
  const { count } = state.pools[n];
  const { address, room: holds } = layout.pools[n];
  if (count === 0) return;
  const domain = domainAt(state.plan, timeS + dtS);
  const cells = [domain.lattice.nx, domain.lattice.ny, domain.lattice.nz];
  const seed = part.seed * 16 + 11 + planned.index;
  if (part.churn !== 0)
    threadPool.solo('gradientTable', { table: layout.gradientTable, seed, turns: timeS / part.churnPeriod });
  ParticleFlightStruct.write(threadPool.memory, layout.emission, {
    pool: address,
    stride: holds * 4,
    ...named(['u', 'v', 'w'], addresses(layout.velocity)),
    rowStride,
    planeStride,
    nx,
    ny,
    nz,
    perM: 1 / h,
    ...named(['originX', 'originY', 'originZ'], window.origin),
    dt: dtS,
    drag: part.drag,
    left: part.drag > 0 ? exponential(-dtS / part.drag) : 1,
    lift: -part.gravity,
    churn: part.churn / CURL_NOISE_RMS,
    table: layout.gradientTable,
    seed,
    lumps: 1 / part.churnSize,
    solids: layout.solids,
    solidCount: state.plan.obstacles.length,
    solidBytes: SolidStruct.bytes,
    meets: MEETS[part.meets],
    bounce: part.bounce / 100,
    walls: wallBits(state.plan.sides),
    ...named(
      ['loX', 'loY', 'loZ'],
      domain.origin.map((o) => o * h),
    ),
    ...named(
      ['hiX', 'hiY', 'hiZ'],
      domain.origin.map((o, a) => (o + cells[a]) * h),
    ),
  });
  threadPool.run('advanceParticles', count, HANDFUL, { flight: layout.emission });
}

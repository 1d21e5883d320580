// The order of a substep. Read this file first.
//
// At its start the velocity is free of divergence (the last substep projected it), and the air carries itself
// along with it; at its end it is so again, carries the medium, and is what a frame shows and a cache keeps.
import { diffusion } from './diffusion';
import { emission } from './emission';
import { forces } from './forces/forces';
import { formulas } from './formulas';
import { obstacles } from './obstacles';
import { particles } from './particles';
import { projection } from './projection';
import { regions } from './regions';
import { carryMedium } from './carry';
import { advectVelocity, advectWays, trace } from './transport';
import type { SimulationState } from './state';

/** What time is told of: the stages, and the looking for trouble and fitting of the window after them. */
export type Phase =
  | 'obstacles'
  | 'particles'
  | 'regions'
  | 'emission'
  | 'formulas'
  | 'transport'
  | 'forces'
  | 'diffusion'
  | 'projection'
  | 'checks';
export interface Stage {
  readonly name: Phase;
  readonly run: (state: SimulationState) => void;
}

const PREPARE: readonly Stage[] = [
  { name: 'obstacles', run: obstacles }, // moving ones go to where they are at the substep's end
  { name: 'particles', run: particles }, // they are born, fly and end
  { name: 'regions', run: regions }, // where anything is limited or another one
  { name: 'emission', run: emission }, // sources write
  { name: 'formulas', run: (s) => void formulas(s, 'given') },
];
const END: Stage = { name: 'formulas', run: (s) => void formulas(s, 'end') };

const PLAIN: readonly Stage[] = [
  ...PREPARE,
  { name: 'transport', run: carryAir }, // the air carries itself along
  { name: 'forces', run: (s) => forces(s, s.dtS) }, // buoyancy, turbulence, confinement, wind
  { name: 'diffusion', run: (s) => diffusion(s, s.dtS, { velocity: true, channels: true }) },
  { name: 'projection', run: projection }, // pressure takes the divergence out
  { name: 'transport', run: (s) => carryMedium(s, s.dtS) }, // the air carries the medium along, which fades
  END,
];

/**
 * Advection–reflection (Zehnder, Narain, Thomaszewski 2018): the air is projected half-way; what the pressure
 * took away is taken away once more, and the second half starts from there. The medium is carried once, by
 * the air of the middle.
 */
const REFLECTED: readonly Stage[] = [
  ...PREPARE,
  { name: 'transport', run: carryHalf },
  { name: 'forces', run: (s) => forces(s, s.dtS / 2) },
  { name: 'diffusion', run: (s) => diffusion(s, s.dtS / 2, { velocity: true, channels: false }) },
  { name: 'projection', run: projectAndReflect },
  { name: 'transport', run: carryReflected },
  { name: 'forces', run: (s) => forces(s, s.dtS / 2) },
  { name: 'diffusion', run: (s) => diffusion(s, s.dtS / 2, { velocity: true, channels: true }) },
  { name: 'projection', run: projection },
  END,
];

export function stagesOf(state: SimulationState): readonly Stage[] {
  return state.plan.recipe.method.motion === 'reflected' ? REFLECTED : PLAIN;
}

function carryAir(state: SimulationState): void {
  const { layout } = state;
  trace(state, state.dtS);
  advectWays(state, state.dtS);
  advectVelocity(state, layout.velocity, layout.velocityNext, state.dtS);
  [layout.velocity, layout.velocityNext] = [layout.velocityNext, layout.velocity];
}

function carryHalf(state: SimulationState): void {
  const { layout } = state;
  trace(state, state.dtS / 2);
  advectVelocity(state, layout.velocity, layout.velocityNext, state.dtS / 2);
  [layout.velocity, layout.velocityNext] = [layout.velocityNext, layout.velocity];
}

/** Leaves the projected air in velocity and its reflection, 2 u − ũ, in velocityNext. */
function projectAndReflect(state: SimulationState): void {
  const { layout, threadPool } = state;
  const bytes = layout.velocity[0].lattice.size * 4;
  const { lead } = layout.velocity[0].lattice;
  layout.velocity.forEach((f, axis) =>
    threadPool.solo('copyBytes', {
      to: layout.velocityNext[axis].address - lead * 4,
      from: f.address - lead * 4,
      bytes,
    }),
  );
  projection(state);
  layout.velocity.forEach((f, axis) =>
    threadPool.solo('reflect', {
      x: layout.velocityNext[axis].address - lead * 4,
      y: f.address - lead * 4,
      bytes,
    }),
  );
}

function carryReflected(state: SimulationState): void {
  const { layout } = state;
  carryMedium(state, state.dtS);
  if (state.plan.channels.some((c) => c.fades === null)) {
    trace(state, state.dtS);
    advectWays(state, state.dtS);
  }

  trace(state, state.dtS / 2);
  advectVelocity(state, layout.velocityNext, layout.velocity, state.dtS / 2);
}

/**
 * The next substep's length: the rest of the frame in equal parts, so many that the fastest air crosses at
 * most `cfl` voxels in each, within the least and the most substeps of a frame.
 */
export function substepLength(state: SimulationState, restS: number): { dtS: number; capped: boolean } {
  const { space } = state.plan.recipe;
  const speed = Math.max(...state.topSpeeds) + state.plan.accelerationBound * restS * 0.5;
  const wanted = Math.ceil((restS * speed) / (space.cfl * state.plan.window.voxelSizeM));
  const least = Math.max(1, space.substepsLeast - state.substep);
  const most = Math.max(1, space.substepsMost - state.substep);
  return { dtS: restS / Math.min(most, Math.max(least, wanted)), capped: wanted > most };
}

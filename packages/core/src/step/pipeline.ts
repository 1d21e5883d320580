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
import { projection, pushAhead } from './projection';
import { settling } from './settling';
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
  | 'settling'
  | 'checks';
export interface Stage {
  readonly name: Phase;
  readonly run: (state: SimulationState) => void;
}

export const STAGES: readonly Stage[] = [
  { name: 'obstacles', run: obstacles }, // moving ones go to where they are at the substep's end
  { name: 'particles', run: particles }, // they are born, fly and end
  { name: 'regions', run: regions }, // where anything is limited or another one
  { name: 'emission', run: emission }, // sources write
  { name: 'formulas', run: (s) => void formulas(s, 'given') },
  { name: 'transport', run: carryAir }, // the last pressure pushes the air, which carries itself along
  { name: 'forces', run: (s) => forces(s, s.dtS) }, // buoyancy, turbulence, confinement, wind
  { name: 'diffusion', run: diffusion },
  { name: 'projection', run: projection }, // pressure takes the divergence out
  { name: 'transport', run: (s) => carryMedium(s, s.dtS) }, // the air carries the medium along, which fades
  { name: 'settling', run: settling }, // what is heavy falls through the air, and lies where it lands
  { name: 'formulas', run: (s) => void formulas(s, 'end') },
];

function carryAir(state: SimulationState): void {
  trace(state);
  advectWays(state);
  pushAhead(state);
  advectVelocity(state);
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

// The order of a substep. Read this file first.
//
// At its start the velocity is free of divergence (the last substep projected it), so transport keeps volumes; at its end
// it is so again, and that is what a frame shows and a cache keeps.
import { emission } from './emission';
import { forces } from './forces';
import { projection } from './projection';
import { transport } from './transport';
import type { StepState } from './state';

export interface Stage {
  readonly name: 'emission' | 'transport' | 'forces' | 'projection';
  readonly run: (state: StepState) => void;
}

export const STAGES: readonly Stage[] = [
  { name: 'emission', run: emission }, //      sources write at this substep's time
  { name: 'transport', run: transport }, //    everything is carried along, and fades
  { name: 'forces', run: forces }, //          buoyancy, turbulence, confinement, wind
  { name: 'projection', run: projection }, //  pressure takes the divergence out
];

/**
 * The next substep's length: the rest of the frame in equal parts, so many that the fastest air crosses at most `cfl`
 * voxels in each, within the least and the most substeps of a frame.
 */
export function substepLength(state: StepState, restS: number): { dtS: number; capped: boolean } {
  const { space } = state.plan.recipe;
  const speed = Math.max(...state.topSpeeds) + state.plan.accelerationBound * restS * 0.5;
  const wanted = Math.ceil((restS * speed) / (space.cfl * state.plan.window.voxelSizeM));
  const least = Math.max(1, space.substepsLeast - state.substep),
    most = Math.max(1, space.substepsMost - state.substep);
  return { dtS: restS / Math.min(most, Math.max(least, wanted)), capped: wanted > most };
}

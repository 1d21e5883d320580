// What each frame of a run is measured by, in SI units.

import type { Triple } from '../math/vector';

export type SixSides = readonly [number, number, number, number, number, number];

/**
 * Where the medium of a frame came from and went, in density times m³: what there is, is what there was
 * + given off − faded − deposited − left + made.
 */
export interface MassAccounts {
  /** Σ density · air of the voxel. */
  readonly mass: number;
  /** By sources, and by formulas. Missing, as all below, in frames of earlier programs. */
  readonly massGivenOff?: number;
  /** By dissipation, and by formulas. */
  readonly massFaded?: number;
  /** Landed on floors and obstacles, less what came loose again. */
  readonly massDeposited?: number;
  /** Through the sides, and where the window no longer reaches. */
  readonly massLeft?: number;
  /** Through each side alone: −x +x −y +y −z +z. */
  readonly massLeftSides?: SixSides;
  /** By the method itself: rounding. */
  readonly massMade?: number;
}

export interface Readings extends MassAccounts {
  readonly greatestDensity: number;
  /** m³ with density above the threshold of `keep`. */
  readonly volume: number;
  /** Height of the topmost such voxel over the domain's floor, m; 0 without any. */
  readonly riseHeight: number;
  /**
   * Middle of the medium's mass in the world, m, and its spread about it along x, y and z (standard
   * deviation), m. Missing without medium, and in frames of earlier programs.
   */
  readonly centre?: Triple;
  readonly spread?: Triple;
  /** m/s. */
  readonly topSpeed: number;
  /** ½ Σ |u|² · voxel volume, m⁵/s² (kinetic energy over density of air). */
  readonly kineticEnergy: number;
  /** Greatest net outflow of a voxel, part of its volume a second. */
  readonly divergence: number;
  /** Part of the mass that touches a side of the window. */
  readonly contact: number;
  /**
   * The same side by side: −x +x −y +y −z +z. Missing, as all below that may be, in frames of earlier
   * programs.
   */
  readonly contactSides?: SixSides;
  /**
   * Planes of the world between which density lies above that threshold, m, in the same order; null without
   * any.
   */
  readonly extent?: SixSides | null;
  /** Of the run, bytes. */
  readonly memory?: number;
  /** Particles that fly. */
  readonly particles: number;
  /** Of each force, in the frame's last substep. */
  readonly forces?: ForceShares;
  readonly substeps: number;
  readonly cfl: number;
  readonly iterations: number;
  /** Divergence before the pressure took it out, and what it left, m/s over a voxel; the worst substep. */
  readonly divergenceBefore: number;
  readonly residual: number;
  /** The most substeps were not enough for the CFL asked for. */
  readonly capped: boolean;
  /** Substeps in which the solver stopped before its tolerance. */
  readonly unmet: number;
  readonly ms: number;
}

/**
 * Root mean square of each force's acceleration, weighted by density, m/s²; by the force's name (`wind`,
 * `currents/ID`, …). Where there is no medium it is 0.
 */
export type ForceShares = Readonly<Record<string, number>>;

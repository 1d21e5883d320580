// What the step needs of a recipe at one voxel size.
import type { CarriedField } from '../base/channels';
import type {
  StandingPart,
  ParticlesPart,
  RegionPart,
  ChangePart,
  SideRule,
  Recipe,
  SourcePart,
  ObstaclePart,
  CurrentPart,
  FormulaPart,
} from '../recipe/types';
import type { MeshShape } from '../geometry/shape';
import type { MovedPoints } from '../assets/timed-point-clouds';
import type { ActiveWindow } from '../grid/lattice';
import type { Program } from '../formulas/program';
import type { Texture } from '../files/picture';

/** A source or an obstacle that is on: its place in the recipe's list, and whether it ever moves. */
export interface PlannedShape<P extends StandingPart> {
  readonly index: number;
  /** As it is without keys. */
  readonly part: P;
  readonly moves: boolean;
  /** Where its shape comes from, for a mesh. */
  readonly mesh: MeshShape | null;
}

/** Particles that are on, parents before their children. */
export interface PlannedParticles extends PlannedShape<ParticlesPart> {
  /** The most that can be there at once. */
  readonly room: number;
  /** Place of those that they spring from, in the plan's list; −1: none. */
  readonly parent: number;
  /**
   * What their file holds, at a simulated time and an earlier one, in metres; null where they are made here.
   */
  readonly flown: ((timeS: number, earlierS: number) => MovedPoints) | null;
}

/** A region that is on. */
export interface PlannedRegion extends Omit<PlannedShape<StandingPart>, 'part'> {
  readonly part: RegionPart;
  /** Place in the plan's list of the one that it is joined with; −1: none. */
  readonly other: number;
  /** Whether its weights are other ones from substep to substep. */
  readonly varies: boolean;
}

/** A change that is on. */
export interface PlannedChange {
  readonly index: number;
  readonly part: ChangePart;
  /** Place of its region in the plan's list. */
  readonly region: number;
  /**
   * The part of the recipe that it is in, with the id of one of a list, and the setting's place and bounds.
   */
  readonly key: string;
  readonly at: string;
  readonly least: number;
  readonly most: number;
}

/** Side rules in the order −x +x −y +y −z +z. */
export type SideRules = readonly [SideRule, SideRule, SideRule, SideRule, SideRule, SideRule];

/** A field that the medium carries besides the air's velocity. */
export interface PlannedChannel {
  readonly name: CarriedField;
  /** By which of the half-lives it fades, and by which of the diffusivities it spreads; null: by none. */
  readonly fades: 'density' | 'temperature' | null;
  /** Whether it is an amount, density times a value, that rides on the medium. */
  readonly rides: boolean;
}

/** What the step needs of a recipe at one voxel size. */
export interface Plan {
  readonly recipe: Recipe;
  /** The whole domain; a run's own window lies in it. */
  readonly window: ActiveWindow;
  readonly sides: SideRules;
  readonly channels: readonly PlannedChannel[];
  /**
   * The same on the medium's own cells where those are half as large as the air's: its window, the channels
   * that lie on them (density, and what rides on it) and the sources' shapes; null where they are the air's.
   */
  readonly medium: Plan | null;
  /** Cells of this plan in one of the air's. */
  readonly perCell: 1 | 8;
  readonly sources: readonly PlannedShape<SourcePart>[];
  readonly obstacles: readonly PlannedShape<ObstaclePart>[];
  readonly particles: readonly PlannedParticles[];
  readonly currents: readonly PlannedShape<CurrentPart>[];
  /** Those that something is limited to or changed in, each behind the one that it is joined with. */
  readonly regions: readonly PlannedRegion[];
  readonly changes: readonly PlannedChange[];
  readonly formulas: readonly {
    readonly index: number;
    readonly part: FormulaPart;
    readonly program: Program;
  }[];
  /** The largest of the formulas' programs and those of the regions; null without any. */
  readonly programs: {
    readonly bytes: number;
    readonly registerBytes: number;
    readonly curls: number;
  } | null;
  /** Pictures of the patterns, and which pattern (of the recipe's list) each belongs to. */
  readonly pictures: readonly (Texture & { readonly pattern: number })[];
  /** What the domain travels with: a list of the recipe and the place in it. */
  readonly guide: { readonly list: 'sources' | 'obstacles'; readonly index: number } | null;
  /** The recipe with its keys as they are at a simulated time since the start of the first frame, s. */
  readonly at: (timeS: number) => Recipe;
  /** Something makes air or drives it out of cells: expansion or moving obstacles. */
  readonly hasOutflow: boolean;
  /** Something may make more air than it takes up: expansion, or obstacles that change their shape. */
  readonly makesAir: boolean;
  /** Simulated seconds from frame to frame. */
  readonly frameS: number;
  readonly frames: { readonly first: number; readonly last: number };
  /** An upper guess of the acceleration, m/s², for the first choice of substeps. */
  readonly accelerationBound: number;
}

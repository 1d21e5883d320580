// Types of a recipe and its parts, from the descriptions of their settings.
import type { CURRENTS } from './parts/currents';
import type { FORMULAS } from './parts/formulas';
import type { OBSTACLES } from './parts/obstacles';
import type { PARTICLES } from './parts/particles';
import type { CHANGES, REGIONS } from './parts/regions';
import type { FILES, follows, meshFile, pose, ShapeName, sizes } from './parts/shapes';
import type { PATTERNS, SOURCES } from './parts/sources';
import type { SPACE } from './parts/space';
import type { where } from './parts/where';
import type { RECIPE_PARTS } from './parts';
import type { DocumentOf, PartValues, SettingValues } from './settings';

type Settings<F extends (...values: never[]) => unknown> =
  ReturnType<F> extends readonly (infer S)[] ? S : ReturnType<F>;

/** Carried along by an obstacle: its id. */
export type Follows = SettingValues<Settings<typeof follows>>;
/** Limited to a region: its id; '' everywhere. */
export type Placed = SettingValues<Settings<typeof where>>;
/** What sources and obstacles share: a shape that stands somewhere and may move. */
export type StandingPart = { id: string; name: string; on: boolean; shape: ShapeName } & SettingValues<
  Settings<typeof pose> | Settings<typeof sizes> | Settings<typeof meshFile>
>;

export type SourcePart = PartValues<typeof SOURCES>;
export type PatternPart = PartValues<typeof PATTERNS>;
export type ObstaclePart = PartValues<typeof OBSTACLES>;
export type ParticlesPart = PartValues<typeof PARTICLES>;
export type CurrentPart = PartValues<typeof CURRENTS>;
export type RegionPart = PartValues<typeof REGIONS>;
export type ChangePart = PartValues<typeof CHANGES>;
export type FormulaPart = PartValues<typeof FORMULAS>;
export type FilePart = PartValues<typeof FILES>;
export type SpacePart = PartValues<typeof SPACE>;

/** What the distance to any shape depends on, whatever part it is of. */
export type ShapedPart = StandingPart & Partial<Omit<SourcePart & ObstaclePart, keyof StandingPart>>;

/** How a value is written. */
export type CombineMode = SourcePart['density']['how'];
export type SideRule = SpacePart['sides']['floor'];

/** The whole description of one simulation; see recipe.ts. */
export type Recipe = { version: 4; name: string } & DocumentOf<typeof RECIPE_PARTS>;

/** How a channel is carried. */

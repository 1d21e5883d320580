// The parts of a recipe, in the order of the page.
import { BUOYANCY } from './parts/buoyancy';
import { CURRENTS } from './parts/currents';
import { DRAG } from './parts/drag';
import { EDGES } from './parts/edges';
import { DISSIPATION } from './parts/dissipation';
import { GRAVITY } from './parts/gravity';
import { CHANGES, REGIONS } from './parts/regions';
import { DIFFUSION } from './parts/diffusion';
import { TURBULENCE } from './parts/turbulence';
import { VORTICITY } from './parts/vorticity';
import { WIND } from './parts/wind';
import { FORMULAS } from './parts/formulas';
import { METHOD } from './parts/method';
import { CURVES } from './parts/curves';
import { OBSTACLES } from './parts/obstacles';
import { PARTICLES } from './parts/particles';
import { FILES } from './parts/shapes';
import { PATTERNS, SOURCES } from './parts/sources';
import { KEEP, SPACE, WINDOW } from './parts/space';
import { SETTLING } from './parts/settling';
import type { Part } from './settings';

export const RECIPE_PARTS = [
  SPACE,
  WINDOW,
  SOURCES,
  PATTERNS,
  OBSTACLES,
  PARTICLES,
  GRAVITY,
  BUOYANCY,
  SETTLING,
  WIND,
  DRAG,
  TURBULENCE,
  EDGES,
  VORTICITY,
  CURRENTS,
  DISSIPATION,
  DIFFUSION,
  METHOD,
  REGIONS,
  CHANGES,
  FORMULAS,
  KEEP,
  FILES,
  CURVES,
] as const;

export const PARTS: readonly Part[] = RECIPE_PARTS;

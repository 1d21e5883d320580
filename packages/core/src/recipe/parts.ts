// The parts of a recipe, in the order of the page.
import { BUOYANCY } from '../air/buoyancy';
import { CURRENTS } from '../air/currents';
import { DRAG } from '../air/drag';
import { EDGES } from '../air/edges';
import { FADING } from '../air/fading';
import { GRAVITY } from '../air/gravity';
import { CHANGES, REGIONS } from '../air/regions';
import { SPREADING } from '../air/spreading';
import { TURBULENCE } from '../air/turbulence';
import { VORTICITY } from '../air/vorticity';
import { WIND } from '../air/wind';
import { FORMULAS } from '../formulas/part';
import { METHOD } from './parts/method';
import { CURVES } from './parts/curves';
import { OBSTACLES } from './parts/obstacles';
import { PARTICLES } from './parts/particles';
import { FILES } from './parts/shapes';
import { PATTERNS, SOURCES } from './parts/sources';
import { KEEP, SPACE, WINDOW } from './parts/space';
import type { Part } from './settings';

export const PARTS: readonly Part[] = [
  SPACE,
  WINDOW,
  SOURCES,
  PATTERNS,
  OBSTACLES,
  PARTICLES,
  GRAVITY,
  BUOYANCY,
  WIND,
  DRAG,
  TURBULENCE,
  EDGES,
  VORTICITY,
  CURRENTS,
  FADING,
  SPREADING,
  METHOD,
  REGIONS,
  CHANGES,
  FORMULAS,
  KEEP,
  FILES,
  CURVES,
];

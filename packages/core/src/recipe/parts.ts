// The parts of a recipe, in the order of the page.
import { BUOYANCY, FADING, METHOD, SPREADING, TURBULENCE, VORTICITY, WIND } from './parts/air';
import { CURRENTS } from './parts/currents';
import { CURVES } from './parts/curves';
import { OBSTACLES } from './parts/obstacles';
import { PARTICLES } from './parts/particles';
import { FILES } from './parts/shapes';
import { PATTERNS, SOURCES } from './parts/sources';
import { KEEP, SPACE, WINDOW } from './parts/space';
import type { Part } from './settings';

export const PARTS: readonly Part[] = [
  ...[SPACE, WINDOW, SOURCES, PATTERNS, OBSTACLES, PARTICLES],
  ...[BUOYANCY, WIND, TURBULENCE, VORTICITY, CURRENTS, FADING, SPREADING, METHOD],
  ...[KEEP, FILES, CURVES],
];

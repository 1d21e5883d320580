// The parts of a look, in their order: how the medium is lit and seen.
import { CURVES } from '../recipe/parts/curves';
import { FILES } from '../recipe/parts/shapes';
import { MEDIUM, MEDIA } from './parts/medium';
import { LIGHTS } from './parts/lights';
import { SKY } from './parts/environment';
import { SOLIDS, SURFACES } from './parts/surfaces';
import { CAMERA, CAMERAS } from './parts/cameras';
import { QUALITY } from './parts/quality';
import { PASSES } from './parts/passes';

export const LOOK_PARTS = [
  MEDIUM,
  MEDIA,
  LIGHTS,
  SKY,
  SOLIDS,
  SURFACES,
  CAMERA,
  CAMERAS,
  QUALITY,
  PASSES,
  CURVES,
  FILES,
] as const;

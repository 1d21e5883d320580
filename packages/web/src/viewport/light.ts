// The light of the working view, from the default look, so that playing looks like lighting.
import { LOOK, sunDirection, type Look } from '@bramblemist/core/look/look';

export const PREVIEW_LOOK: Look = LOOK.parse({});
export const PREVIEW_SUN = sunDirection(PREVIEW_LOOK);
export const PREVIEW_EXTINCTION = PREVIEW_LOOK.medium.density;

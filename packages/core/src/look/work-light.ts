// What the working views are lit by: the window, trial sheets, small pictures of a bake. They are there for
// judging shapes, so that a look for the night is lifted until its medium can be seen.
import { luminanceOf } from '../math/luminance';
import type { Triple } from '../math/vector';
import { directionOf, powerOf, skyOf, type LightPart, type Look } from './look';

export interface WorkLight {
  /** Toward the light that is the brightest where the shot camera looks; upward without any. */
  readonly toSun: Triple;
  /** Radiance of an even scatterer in it, by channel. */
  readonly sun: Triple;
  /** Radiance of the environment, by channel. */
  readonly sky: Triple;
}

/** Luminance of a white scatterer in both, at the least. */
export const LEAST_LIGHT = 0.3;

/**
 * How a light comes to a place, cones and shadows left aside. A lamp's colour holds near it only: from where
 * it stands it lights all of the medium here, and so in white.
 */
function comesTo(place: Triple, light: LightPart): { readonly toSun: Triple; readonly sun: Triple } {
  const power = powerOf(light);
  if (light.kind === 'sun') return { toSun: directionOf(light), sun: power };
  const way = light.position.map((v, a) => v - place[a]);
  const far = Math.max(1e-3, Math.hypot(...way));
  const white = luminanceOf(...power) / far ** 2;
  return { toSun: way.map((v) => v / far) as Triple, sun: [white, white, white] };
}

export function workLight(look: Look): WorkLight {
  const dark = { toSun: [0, 1, 0] as Triple, sun: [0, 0, 0] as Triple };
  const brightest = look.lights
    .filter((light) => light.on)
    .map((light) => comesTo(look.camera.target, light))
    .reduce((a, b) => (luminanceOf(...b.sun) > luminanceOf(...a.sun) ? b : a), dark);
  const sky = skyOf(look);
  const there = luminanceOf(...brightest.sun) + luminanceOf(...sky);
  const lift = there > 0 ? Math.max(1, LEAST_LIGHT / there) : 1;
  const lifted = (v: Triple): Triple => v.map((c) => c * lift) as Triple;
  return { toSun: brightest.toSun, sun: lifted(brightest.sun), sky: lifted(sky) };
}

// What a rendered file says of itself, by the names that OpenEXR's papers give: rate, time code, where the
// camera stood and how it saw, and the look as text.
import type { ExrSaid } from '../files/exr/header-writer';
import { cameraRays, type Look } from './look';

export interface FrameTiming {
  readonly frame: number;
  readonly frameRate: number;
}

/**
 * @param look as it is at the frame; its frame is the display window
 * @param bake what the medium was made by, as text
 */
export function saidOf(look: Look, timing?: FrameTiming, bake?: string): ExrSaid {
  const { worldToCamera, worldToNDC } = cameraMatrices(look);
  return {
    text: { software: 'Bramblemist', look: JSON.stringify(look), ...(bake === undefined ? {} : { bake }) },
    float: { nominalFocalLength: look.camera.focal },
    matrix: { worldToCamera, worldToNDC },
    ...(timing ? timeSaid(timing) : {}),
  };
}

/** When a frame is, as files tell it. */
export const timeSaid = (timing: FrameTiming): Pick<ExrSaid, 'rational' | 'timeCode'> => ({
  rational: { framesPerSecond: rateOf(timing.frameRate) },
  timeCode: timeCodeOf(timing),
});

/**
 * For vectors that stand before them, row by row. A camera's axes go right, up and ahead; the frame's go from
 * 0 at the upper left to 1 at the lower right, to be divided by the last number.
 */
export function cameraMatrices(look: Look): Readonly<Record<'worldToCamera' | 'worldToNDC', number[]>> {
  const { eye, across, down, corner } = cameraRays(look);
  const { width, height, back, focal, squeeze } = look.camera;
  const unit = (v: readonly number[], sign = 1): number[] => v.map((x) => (sign * x) / Math.hypot(...v));
  const ahead = unit(corner.map((v, a) => v + ((width - 1) / 2) * across[a] + ((height - 1) / 2) * down[a]));
  const axes = [unit(across), unit(down, -1), ahead];
  const along = (axis: readonly number[]): number => axis.reduce((sum, v, a) => sum + v * eye[a], 0);
  const worldToCamera = [0, 1, 2].flatMap((row) => [...axes.map((axis) => axis[row]), 0]);
  worldToCamera.push(...axes.map((axis) => -along(axis)), 1);
  const wide = back / 2 / focal;
  const high = (wide * height) / width / squeeze;
  const project = [1 / (2 * wide), 0, 0, 0, 0, -1 / (2 * high), 0, 0, 0.5, 0.5, 1, 1, 0, 0, 0, 0];
  const worldToNDC = Array.from({ length: 16 }, (_, n) =>
    [0, 1, 2, 3].reduce((sum, k) => sum + worldToCamera[4 * (n >> 2) + k] * project[4 * k + (n & 3)], 0),
  );
  return { worldToCamera, worldToNDC };
}

/** A rate as a fraction: 23.976 and its like are whole rates times 1000 / 1001. */
function rateOf(rate: number): [number, number] {
  if (Number.isInteger(rate)) return [rate, 1];
  const whole = Math.round(rate * 1.001);
  if (Math.abs((whole * 1000) / 1001 - rate) < 0.005) return [whole * 1000, 1001];
  return [Math.round(rate * 1000), 1000];
}

/** Hours, minutes, seconds and frames as SMPTE packs them, two decimal digits a byte. */
function timeCodeOf({ frame, frameRate }: FrameTiming): number {
  const rate = Math.max(1, Math.round(frameRate));
  const at = Math.max(0, frame);
  const seconds = Math.floor(at / rate);
  const parts = [at % rate, seconds % 60, Math.floor(seconds / 60) % 60, Math.floor(seconds / 3600) % 24];
  return parts.reduce((sum, v, n) => sum + ((Math.floor(v / 10) << 4) | (v % 10)) * 2 ** (8 * n), 0);
}

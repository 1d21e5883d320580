// An element over a plate, in premultiplied linear light (Porter & Duff 1984).
import { DocumentKind } from '../recipe/document';
import type { DocumentOf } from '../recipe/settings';
import { COMBINE_PARTS } from './parts';

export type Combine = { version: 1; name: string } & DocumentOf<typeof COMBINE_PARTS>;

export const COMBINE = new DocumentKind<Combine>('combine', 1, COMBINE_PARTS);

export interface Layer {
  readonly width: number;
  readonly height: number;
  /** Premultiplied linear r g b a, top row first. */
  readonly rgba: Float32Array;
}

/** @returns a layer of the element's size; the plate is scaled to cover it */
export function combine(element: Layer, plate: Layer | null, settings: Combine): Layer {
  const { width, height } = element;
  const out = new Float32Array(width * height * 4);
  const ground = plate && settings.plate.on ? coverWith(plate, width, height) : null;
  const { opacity, tint, mode } = settings.element;
  const gain = 2 ** settings.element.stops;
  const plateGain = 2 ** settings.plate.stops;
  for (let p = 0; p < out.length; p += 4) {
    const a = element.rgba[p + 3] * opacity;
    const b = ground ? ground[p + 3] : 0;
    for (let c = 0; c < 3; c++) {
      const e = element.rgba[p + c] * opacity * tint[c] * gain;
      const g = ground ? ground[p + c] * plateGain : 0;
      // screen is 1 − (1−e)(1−g); above 1 it would darken, so each factor ends at 0
      out[p + c] = mode === 'over' ? e + g * (1 - a) : e + g * (1 - Math.min(1, Math.max(0, e)));
    }

    out[p + 3] = a + b * (1 - a);
  }

  return { width, height, rgba: out };
}

/** Scaled to fill width × height, cut at the longer side, bilinear. */
export function coverWith(layer: Layer, width: number, height: number): Float32Array {
  if (layer.width === width && layer.height === height) return layer.rgba;
  const scale = Math.min(layer.width / width, layer.height / height);
  const out = new Float32Array(width * height * 4);
  const x0 = (layer.width - width * scale) / 2;
  const y0 = (layer.height - height * scale) / 2;
  for (let y = 0; y < height; y++) {
    const sy = Math.min(layer.height - 1, Math.max(0, (y + 0.5) * scale + y0 - 0.5));
    const j = Math.floor(sy);
    const fy = sy - j;
    const j1 = Math.min(j + 1, layer.height - 1);
    for (let x = 0; x < width; x++) {
      const sx = Math.min(layer.width - 1, Math.max(0, (x + 0.5) * scale + x0 - 0.5));
      const i = Math.floor(sx);
      const fx = sx - i;
      const i1 = Math.min(i + 1, layer.width - 1);
      for (let c = 0; c < 4; c++) {
        const at = (u: number, v: number): number => layer.rgba[4 * (v * layer.width + u) + c];
        const top = at(i, j) * (1 - fx) + at(i1, j) * fx;
        const bottom = at(i, j1) * (1 - fx) + at(i1, j1) * fx;
        out[4 * (y * width + x) + c] = top * (1 - fy) + bottom * fy;
      }
    }
  }

  return out;
}

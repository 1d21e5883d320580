// What the page and the worker that composes say to each other.
import type { Combine } from '@bramblemist/core/combine/combine';
import type { MeasuredGrain } from '@bramblemist/core/combine/measure-grain';

export type Channel = 'colour' | 'red' | 'green' | 'blue' | 'alpha' | 'luminance';
export type Ground = 'squares' | 'black' | 'white' | 'red';

/** How the window shows a frame; nothing of it is written. */
export interface Shown {
  /** Stops. */
  readonly exposure: number;
  readonly channel: Channel;
  /** What lies behind what is clear. */
  readonly ground: Ground;
}

export interface CompWish {
  readonly id: number;
  readonly comp: Combine;
  readonly frame: number;
  /** Of the comp's frame. */
  readonly scale: number;
  readonly shown: Shown;
  /** What the frame is held against; null: nothing. */
  readonly against: Combine | null;
  /** Frames that are to be made afterwards, in this order. */
  readonly ahead: readonly number[];
  readonly threads: number;
}

/** A layer as it stands: its corners in the comp's pixels, and a small picture of it. */
export interface LayerSeen {
  readonly id: string;
  readonly corners: readonly (readonly [number, number])[];
  readonly thumb: {
    readonly width: number;
    readonly height: number;
    readonly bytes: Uint8ClampedArray;
  } | null;
}

/** A frame that is ready. */
export interface CompNews {
  readonly id: number;
  readonly frame: number;
  readonly width: number;
  readonly height: number;
  /** As the window shows it. */
  readonly bytes: Uint8ClampedArray;
  /** In linear light, of the frame that was wished; null for those that were made ahead. */
  readonly rgba: Float32Array | null;
  /** What it is held against, as the window shows it. */
  readonly against: Uint8ClampedArray | null;
  readonly layers: readonly LayerSeen[];
  readonly notes: readonly string[];
  readonly ms: number;
}

/** The grain of what feeds a layer is to be measured. */
export interface GrainWish {
  readonly measureGrain: { readonly comp: Combine; readonly frame: number; readonly layer: string };
}

export type ToComp = CompWish | GrainWish | 'end';
export type FromComp =
  CompNews | { readonly id: number; readonly trouble: string } | { readonly grain: MeasuredGrain | null };

// A shot as other programs open it: its volumes, cameras, lights and obstacles over its frames. Metres, y up,
// right-handed; frames count from the shot's own first one.
import type { Mesh } from '../geometry/mesh';
import type { Triple } from '../math/vector';

/** Axes and place of something in the world, unit vectors unless it is stretched. */
export interface Stand {
  readonly x: Triple;
  readonly y: Triple;
  readonly z: Triple;
  readonly at: Triple;
}

/** A value at each of the scene's frames, in their order; one where it stays. */
export type OverFrames<T> = readonly T[];

export interface SceneVolume {
  readonly frame: number;
  /** Path from the scene's own file. */
  readonly path: string;
}

export interface SceneChannel {
  /** Of the grid in the file. */
  readonly name: string;
  /** What it holds, which may be called otherwise here. */
  readonly holds: string;
  readonly isVector: boolean;
  readonly isHalf: boolean;
  readonly kind: 'fogVolume' | 'staggered' | 'unknown';
}

export interface SceneLens {
  /** Millimetres. */
  readonly focal: number;
  readonly wide: number;
  readonly high: number;
  /** Of the picture's height, radians. */
  readonly angle: number;
  /** 0: everything is in focus. */
  readonly fNumber: number;
  /** Metres. */
  readonly focus: number;
}

export interface SceneCamera {
  readonly name: string;
  /** It looks along −z, with y up in its picture. */
  readonly stands: OverFrames<Stand>;
  readonly lenses: OverFrames<SceneLens>;
  /** Frames before and after its moment that the shutter is open. */
  readonly shutter: readonly [number, number];
}

export interface SceneLight {
  readonly name: string;
  readonly kind: 'sun' | 'point' | 'spot' | 'rectangle' | 'disc';
  /** It shines along −z. */
  readonly stands: OverFrames<Stand>;
  /** What it gives by channel at a metre, of a sun anywhere: irradiance across its way. */
  readonly irradiance: OverFrames<Triple>;
  readonly shadows: boolean;
  /** Metres; of a sun its angle across in degrees. */
  readonly size: { readonly wide: number; readonly high: number };
  /** Half the angle of a spot in degrees, and the part of it over which it fades. */
  readonly cone: { readonly half: number; readonly soft: number };
}

export interface SceneSky {
  /** Radiance by channel. */
  readonly radiance: OverFrames<Triple>;
  /** A picture of all directions, by its path; null: the same from everywhere. */
  readonly picture: string | null;
  /** Degrees about the upright axis. */
  readonly turn: number;
}

export interface SceneObstacle {
  readonly name: string;
  readonly stands: OverFrames<Stand>;
  /** In its own axes. */
  readonly meshes: OverFrames<Mesh>;
  /** It is seen from inside too. */
  readonly isHollow: boolean;
}

/** Particles that are there in some of the frames. */
export interface SceneParticles {
  readonly name: string;
  /** By frame: places, three metres each, and numbers that stay with them; null where they have none. */
  readonly frames: readonly {
    readonly frame: number;
    readonly places: Float32Array;
    readonly ids: ArrayLike<number> | null;
  }[];
  /** How wide they are shown, m. */
  readonly wideM: number;
}

export interface Scene {
  readonly name: string;
  /** What made it, and by which program. */
  readonly comment: string;
  readonly frames: readonly number[];
  readonly frameRate: number;
  readonly volumes: readonly SceneVolume[];
  readonly channels: readonly SceneChannel[];
  /** Of the domain that the volumes lie in. */
  readonly domain: { readonly least: Triple; readonly most: Triple };
  readonly cameras: readonly SceneCamera[];
  readonly lights: readonly SceneLight[];
  readonly sky: SceneSky;
  readonly obstacles: readonly SceneObstacle[];
  readonly particles: readonly SceneParticles[];
  /** What could not be told. */
  readonly remarks: readonly string[];
}

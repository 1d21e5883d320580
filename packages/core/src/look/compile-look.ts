// A look and a volume to flat numbers that the kernels of light read; nothing else reaches them.
import { FileError } from '../files/bytes';
import type { Texture } from '../files/picture';
import type { Triple } from '../math/vector';
import { environmentOf, evenEnvironment, type Environment } from './environment';
import { GLOW_APART, glowLamps, lampsOf, SKY_APART, skyLamp, skySun, type CompiledLamp } from './lamps';
import { keySun, skyOf, type Look } from './look';
import type { Volume } from './colouring';
import { seenMedium, type SeenMedium } from './medium';
import { mixMedia } from './mix-media';
import { seenSolids, type SeenSolid } from './seen-solids';
import type { Solid } from './solids';

export interface CompiledLook {
  readonly look: Look;
  readonly medium: SeenMedium;
  /** Those of true pictures alone, those of both with the key sun last, those of quick pictures alone. */
  readonly lamps: readonly CompiledLamp[];
  readonly sun: ReturnType<typeof keySun>;
  /** Radiance of an environment that is even; of another the even part that quick pictures have. */
  readonly sky: Triple;
  readonly environment: Environment | null;
  /** What the environment's values are multiplied by. */
  readonly skyGain: number;
  readonly solids: readonly SeenSolid[];
  /** Lights that are kept apart, as they are called in files; none where they are not. */
  readonly apart: readonly LightApart[];
  readonly timing: MomentTiming | null;
}

export interface LightApart {
  /** As lamps say it. */
  readonly of: string;
  readonly name: string;
}

/** What of a look's world does not stand in it. */
export interface Surroundings {
  readonly solids?: readonly Solid[];
  /** Pictures of the look by the ids of its files. */
  readonly pictures?: ReadonlyMap<string, Texture>;
  /** Volumes of further media by their ids; one that has none holds nothing at this frame. */
  readonly volumes?: ReadonlyMap<string, Volume>;
  /** The frame's time, for what moves; without, nothing does. */
  readonly timing?: MomentTiming;
}

/** How a frame's world moves about its moment. */
export interface MomentTiming {
  /** Simulated seconds from frame to frame. */
  readonly frameS: number;
  /** The look and what is solid so many frames later, as far as they are keyed. */
  readonly later: (frames: number) => { readonly look: Look; readonly solids: readonly Solid[] };
}

/** @throws FileError where the look asks for a channel or a picture that is not there */
export function compileLook(
  look: Look,
  volume: Volume,
  { solids = [], pictures = new Map<string, Texture>(), volumes, timing }: Surroundings = {},
): CompiledLook {
  if (!timing && (look.passes.motion || look.camera.moving === 'blurred'))
    throw new FileError(
      'What moves is blurred, or its motion is wanted as a pass, but nothing says how fast frames ' +
        'follow: give ' +
        'the recipe too',
    );
  const medium = allMedia(look, volume, volumes, pictures, timing?.frameS ?? 0);
  const key = look.lights.find((l) => l.on && l.kind === 'sun');
  const seen = seenSolids(look, solids);
  const environment = environmentFor(look, pictures, seen);
  const gain = look.sky.kind === 'picture' ? 2 ** look.sky.stops : 1;
  const times = (v: Triple): Triple => v.map((x) => x * gain) as Triple;
  const sky = environment ? times(environment.even) : skyOf(look);
  const glows = seen.filter((s) => s.glow.some((g) => g > 0)).map((s) => glowLamps(s, medium));
  return {
    look,
    medium,
    lamps: [
      ...(environment ? [skyLamp(look)] : []),
      ...glows.flatMap(({ true: own }) => own),
      ...lampsOf(look.lights, key, medium),
      ...glows.map(({ quick }) => quick),
      ...(environment?.suns ?? []).map((sun) => skySun(look, sun.toward, times(sun.irradiance))),
    ],
    sun: keySun(look),
    sky,
    environment,
    skyGain: gain,
    solids: seen,
    apart: look.passes.lights
      ? lightsApart(
          look,
          seen.some(({ glow }) => glow.some((g) => g > 0)),
        )
      : [],
    timing: timing ?? null,
  };
}

/**
 * The lights of a look with names that a file can have, none twice.
 * @param glows whether something solid gives light too
 */
export function lightsApart({ lights }: Look, glows: boolean): LightApart[] {
  const taken = new Set<string>([SKY_APART, GLOW_APART]);
  const own = lights
    .filter(({ on }) => on)
    .map(({ id, name }) => {
      const plain = name.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^_+|_+$/g, '') || 'light';
      let free = plain;
      for (let n = 2; taken.has(free); n++) free = `${plain}_${n}`;
      taken.add(free);
      return { of: id, name: free };
    });
  return [
    ...own,
    { of: SKY_APART, name: SKY_APART },
    ...(glows ? [{ of: GLOW_APART, name: GLOW_APART }] : []),
  ];
}

/** The medium, with further ones that hold something mixed into it. */
function allMedia(
  look: Look,
  volume: Volume,
  volumes: Surroundings['volumes'],
  pictures: ReadonlyMap<string, Texture>,
  frameS: number,
): SeenMedium {
  const { medium, media } = look;
  const first = seenMedium(medium, volume, pictures, look, frameS);
  const further = media.flatMap((one) => {
    const own = one.on ? volumes?.get(one.id) : undefined;
    if (!own) return [];
    const corner = own.corner.map((v, a) => v + one.position[a]) as Triple;
    try {
      return [seenMedium(one, { ...own, corner }, pictures, look, frameS)];
    } catch (error) {
      if (error instanceof FileError) throw new FileError(`${one.name}: ${error.message}`);
      throw error;
    }
  });
  return further.length > 0 ? mixMedia([first, ...further]) : first;
}

function environmentFor(
  look: Look,
  pictures: ReadonlyMap<string, Texture>,
  solids: readonly SeenSolid[],
): Environment | null {
  const { kind, turn } = look.sky;
  if (kind === 'picture') {
    const picture = pictures.get(look.sky.picture);
    if (!picture)
      throw new FileError(
        look.sky.picture === ''
          ? 'Its environment has no picture yet. Choose one in Light, or an even environment'
          : 'The picture of its environment is not among the look’s files',
      );
    return environmentOf(picture, turn);
  }

  // what catches shadows has to draw directions to know what is held back
  const sky = skyOf(look);
  const catches = solids.some((s) => s.seen === 'catcher');
  return catches && sky.some((v) => v > 0) ? evenEnvironment(sky) : null;
}

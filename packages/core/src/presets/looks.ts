// Lights to begin with, and media as they scatter and absorb light.
//
// Drops of water absorb next to nothing of visible light and scatter strongly forward: single-scattering
// albedo above 0.9999, asymmetry 0.85 (Hansen & Travis, Space Science Reviews 16, 1974). Mineral dust: albedo
// 0.93 in blue to 0.98 in red, asymmetry 0.7; smoke of vegetation 0.87 to 0.94, 0.6 (Dubovik et al., J.
// Atmos. Sci. 59, 2002). Soot: 0.2 to 0.3, 0.4 (Bond & Bergstrom, Aerosol Sci. Tech. 40, 2006). Ink: dyes
// absorb and hardly scatter. Lobes are kept at 0.75 at most: beyond it, thick media need hundreds of
// scatterings to look right.
import type { KeyedCurve } from '../recipe/keys';
import { setAt } from '../recipe/paths';
import type { FilePart } from '../recipe/types';
import { LOOK, type FurtherMedium, type LightPart, type Look } from '../look/look';

interface Named {
  readonly name: string;
  /** When to take it. */
  readonly when: string;
}

export interface LightStarter extends Named {
  readonly settings: Partial<LightPart>;
}

export const LIGHT_STARTERS: readonly LightStarter[] = [
  { name: 'Sun', when: 'Parallel light from far off; also the moon.', settings: { kind: 'sun', angle: 0.5 } },
  {
    name: 'Window',
    when: 'A rectangle that shines one way: a window, a softbox, a door ajar.',
    settings: {
      kind: 'rectangle',
      position: [-2, 1.6, 0.5],
      aim: [0, 0.6, 0],
      tone: 'kelvin',
      kelvin: 6500,
      stops: 1,
    },
  },
  {
    name: 'Spot',
    when: 'A cone of light: a beam through dust, a torch, a lamp with a hood.',
    settings: {
      kind: 'spot',
      position: [1.4, 2.2, 1],
      aim: [0, 0.4, 0],
      tone: 'kelvin',
      kelvin: 3200,
      stops: 2,
      cone: 28,
    },
  },
  {
    name: 'Lamp',
    when: 'Shines all round: a bulb, a lantern in the mist.',
    settings: {
      kind: 'point',
      position: [0.6, 0.8, 0.6],
      tone: 'kelvin',
      kelvin: 2700,
      stops: -1,
      radius: 0.04,
    },
  },
  {
    name: 'Disc',
    when: 'A round face that shines one way: from below a tank, a hatch.',
    settings: {
      kind: 'disc',
      position: [0, -0.4, 0],
      aim: [0, 1, 0],
      radius: 0.4,
      tone: 'kelvin',
      kelvin: 4300,
      stops: 0,
    },
  },
];

export interface MediumLook extends Named {
  readonly settings: Partial<Look['medium']>;
}

export const MEDIUM_LOOKS: readonly MediumLook[] = [
  {
    name: 'Mist',
    when: 'Drops of water: white, absorbs nothing, glows against the light.',
    settings: { scatter: [1, 1, 1], absorb: [0, 0, 0], forward: 0.75, colour: 'even' },
  },
  {
    name: 'Dust',
    when: 'Flour and mineral grains: absorbs some blue, so that it is warm where it is thick.',
    settings: { scatter: [0.98, 0.96, 0.93], absorb: [0.02, 0.04, 0.07], forward: 0.7, colour: 'even' },
  },
  {
    name: 'Pale smoke',
    when: 'Of damp wood and leaves: light grey, a little brown where the light comes through.',
    settings: { scatter: [0.94, 0.91, 0.87], absorb: [0.06, 0.09, 0.13], forward: 0.6, colour: 'even' },
  },
  {
    name: 'Sooty smoke',
    when: 'Dark: absorbs three quarters of the light.',
    settings: { scatter: [0.28, 0.26, 0.24], absorb: [0.72, 0.74, 0.76], forward: 0.4, colour: 'even' },
  },
  {
    name: 'Ink',
    when: 'The colour that it carries shines through it, as that of a dye in water.',
    settings: {
      scatter: [0.04, 0.04, 0.04],
      absorb: [0.96, 0.96, 0.96],
      forward: 0.6,
      colour: 'carried',
      colours: 'absorb',
    },
  },
];

/** A look with one light more. */
export function withLight(look: Look, { name, settings }: LightStarter, id: string): Look {
  return {
    ...look,
    lights: [...look.lights, LOOK.defaultPart<LightPart>('lights', { id, name, ...settings })],
  };
}

/**
 * A look that has a picture among its files, at a place that names one, such as sky.picture; files that no
 * place names any more are gone.
 */
export function withPicture(
  look: Look,
  { name, sha256 }: Pick<FilePart, 'name' | 'sha256'>,
  at: string,
  id: string,
): Look {
  const known = look.files.find((f) => f.sha256 === sha256);
  const file = known ?? LOOK.defaultPart<FilePart>('files', { id, name, sha256, kind: 'picture' });
  const next = setAt({ ...look, files: known ? look.files : [...look.files, file] }, at, file.id);
  const named = new Set([next.sky.picture, next.medium.picture, ...next.media.map((m) => m.picture)]);
  return { ...next, files: next.files.filter((f) => named.has(f.id)) };
}

/** A look with one medium more, of a bake. */
export function withMedium(look: Look, name: string, bake: number, id: string): Look {
  const own: Partial<Look['medium']> = { ...look.medium };
  delete own.shadow;
  const part = LOOK.defaultPart<FurtherMedium>('media', { ...own, id, name, bake });
  return { ...look, media: [...look.media, part] };
}

/** What belongs to the shot: its cameras, and what is said of its obstacles. */
const OWN = ['camera', 'cameras', 'surfaces', 'media'] as const;
const isOwn = ({ path }: KeyedCurve): boolean => OWN.some((key) => path.startsWith(`${key}/`));

/** A look as text, for another shot; its cameras, further media and what is said of single obstacles stay. */
export const lookText = ({ medium, lights, sky, solids, quality, name, files, curves }: Look): string =>
  JSON.stringify(
    {
      bramblemist: 'look',
      version: LOOK.version,
      name,
      medium,
      lights,
      sky,
      solids,
      quality,
      files,
      curves: curves.filter((c) => !isOwn(c)),
    },
    null,
    2,
  );

/**
 * A look that was copied, with the cameras of the one that it replaces and what that says of single
 * obstacles.
 * @throws DocumentError, or Error where the text is none
 */
export function pastedLook(look: Look, text: string): Look {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    data = null;
  }

  if (data === null || typeof data !== 'object' || (data as { bramblemist?: unknown }).bramblemist !== 'look')
    throw new Error('The clipboard holds no look. Copy one in Light first.');
  const settings: Record<string, unknown> = { ...data };
  delete settings.bramblemist;
  const { camera, cameras, surfaces, media } = look;
  return LOOK.parse({
    ...settings,
    camera,
    cameras,
    surfaces,
    media,
    curves: [...(Array.isArray(settings.curves) ? settings.curves : []), ...look.curves.filter(isOwn)],
  });
}

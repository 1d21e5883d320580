// What is chosen on the page, as something with a place, and how its handle is used.
import { create } from 'zustand';
import { solid } from '@bramblemist/core/geometry/shape';
import type {
  CurrentPart,
  ObstaclePart,
  ParticlesPart,
  Recipe,
  SourcePart,
  StandingPart,
} from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';

export type HandleMode = 'move' | 'turn' | 'size' | 'aim' | 'paint';
export const useHandle = create<{
  readonly mode: HandleMode;
  readonly snap: boolean;
  readonly brushM: number;
}>(() => ({
  mode: 'move',
  snap: false,
  brushM: 0.1,
}));
/** The domain as something that can be chosen. */
export const DOMAIN = 'space';

/** What is chosen, as something with a place: where it is in the recipe, and what its handle can do. */
export interface Chosen {
  readonly name: string;
  readonly list: 'sources' | 'obstacles' | 'particles' | 'currents' | 'regions' | typeof DOMAIN;
  readonly index: number;
  readonly part: Pick<StandingPart, 'on' | 'shape' | 'centre' | 'turn' | 'size' | 'radius' | 'tube'>;
  readonly modes: readonly HandleMode[];
  /** Path of the direction or the point that it is aimed by, in its part. */
  readonly aim: { readonly path: string; readonly is: 'direction' | 'point'; readonly value: Triple } | null;
}

/** Null where nothing with a place is chosen. */
export function chosenPart(recipe: Recipe, id: string | null): Chosen | null {
  const { size, corner } = recipe.space;
  if (id === DOMAIN) {
    const centre = corner.map((c, a) => c + size[a] / 2) as Triple;
    return {
      name: 'the domain',
      list: DOMAIN,
      index: 0,
      modes: ['move', 'size'],
      aim: null,
      part: { on: true, shape: 'box', centre, turn: [0, 0, 0], size, radius: 0, tube: 0 },
    };
  }

  for (const list of ['sources', 'obstacles', 'particles', 'currents', 'regions'] as const) {
    const index = recipe[list].findIndex((p) => p.id === id);
    if (index < 0) continue;
    const part = list === 'regions' ? solid(recipe.regions[index]) : recipe[list][index];
    if (['noise', 'channel', 'formula'].includes(part.shape)) return null;
    // what is carried has its place in its carrier's axes, where the handle does not stand
    if ('follows' in part && part.follows !== '') return null;
    if (part.shape === 'particles' || ('born' in part && part.born !== 'burst' && part.born !== 'rate'))
      return null;
    const aim = aimOf(part);
    const sized = part.shape !== 'mesh' && part.shape !== 'ground';
    return {
      name: part.name,
      list,
      index,
      part,
      modes: [
        'move',
        'turn',
        ...(sized ? (['size'] as const) : []),
        ...(aim ? (['aim'] as const) : []),
        ...(paintable(part) ? (['paint'] as const) : []),
      ],
      aim,
    };
  }

  return null;
}

const paintable = (part: object): boolean =>
  'mask' in part && part.mask === 'painted' && 'shape' in part && part.shape === 'mesh';

function aimOf(part: SourcePart | ObstaclePart | ParticlesPart | CurrentPart | StandingPart): Chosen['aim'] {
  if ('does' in part)
    return ['jet', 'spin', 'shear'].includes(part.does)
      ? { path: 'direction', is: 'direction', value: part.direction }
      : null;
  if ('aim' in part)
    return part.aim === 'along' ? { path: 'direction', is: 'direction', value: part.direction } : null;
  if (!('push' in part) || part.push.how === 'none') return null;
  if (part.push.mode === 'along')
    return { path: 'push.direction', is: 'direction', value: part.push.direction };
  return part.push.mode === 'point' ? { path: 'push.point', is: 'point', value: part.push.point } : null;
}

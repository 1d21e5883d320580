// What is solid, as the look shows it.
import type { Triple } from '../math/vector';
import type { Look } from './look';
import { groundAt, type Solid } from './solids';

/** A solid as the look shows it. */
export interface SeenSolid {
  readonly solid: Solid;
  readonly seen: 'seen' | 'held-out' | 'catcher' | 'unseen';
  readonly shadows: boolean;
  readonly colour: Triple;
  /** Radiance of its own. */
  readonly glow: Triple;
  /** A lamp gives its glow to what is not the eye. */
  readonly isLamp: boolean;
}

/** Obstacles, vessels and the ground as they are seen, with what is said of one alone. */
export function seenSolids(look: Look, solids: readonly Solid[]): SeenSolid[] {
  const { solids: all, surfaces } = look;
  const ways = { obstacle: all.seen, vessel: all.vessels, ground: all.ground } as const;
  const wayOf = ({ kind }: Solid): SeenSolid['seen'] => {
    const way = ways[kind];
    return way === 'none' ? 'unseen' : way;
  };

  const plain = (solid: Solid): SeenSolid => ({
    solid,
    seen: wayOf(solid),
    shadows: solid.kind !== 'vessel' && all.shadows,
    colour: { obstacle: all.colour, vessel: all.walls, ground: all.floor }[solid.kind],
    glow: [0, 0, 0],
    isLamp: false,
  });
  return [...solids, ...(all.ground === 'none' ? [] : [groundAt(all.level)])].flatMap((solid) => {
    const own = surfaces.find((s) => s.on && s.of !== '' && s.of === solid.id);
    const usual = plain(solid);
    // what is not seen at all does not stand there, unless somebody says so of it alone
    if (!own) return usual.seen === 'unseen' ? [] : [usual];
    const glow = own.glows ? (own.glow.map((v) => v * 2 ** own.stops) as Triple) : usual.glow;
    return [
      {
        ...usual,
        seen: own.seen,
        shadows: solid.kind !== 'vessel' && own.shadows,
        colour: own.colour,
        glow,
        isLamp: solid.mesh !== null && glow.some((g) => g > 0),
      },
    ];
  });
}

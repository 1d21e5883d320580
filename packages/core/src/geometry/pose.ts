// Where a source or an obstacle is at a moment, how it is turned, and how fast it goes.
import { cosine, sine } from '../math/exact';
import type { Follows, Recipe, StandingPart } from '../recipe/types';
import type { Triple } from '../math/vector';

/** The rows of a rotation matrix. */
export type Rows = readonly [Triple, Triple, Triple];

export interface Pose {
  /** Middle, in metres. */
  readonly centre: Triple;
  /** From the world's axes to the part's own. */
  readonly toOwn: Rows;
  /** m/s of the middle, and rad/s about it. */
  readonly velocity: Triple;
  readonly turning: Triple;
}

const STILL: Triple = [0, 0, 0];

/**
 * @param timeS simulated time since the first frame
 */
export function poseOf(part: StandingPart, timeS: number): Pose {
  const moves = part.motion === 'moves';
  const spin = moves ? (part.spin * Math.PI) / 180 : 0;
  const radians = part.turn.map((d) => (d * Math.PI) / 180);
  const about = (axis: number, angle: number): Rows => {
    const s = angle === 0 ? 0 : sine(angle);
    const c = angle === 0 ? 1 : cosine(angle);
    if (axis === 0)
      return [
        [1, 0, 0],
        [0, c, -s],
        [0, s, c],
      ];
    if (axis === 1)
      return [
        [c, 0, s],
        [0, 1, 0],
        [-s, 0, c],
      ];
    return [
      [c, -s, 0],
      [s, c, 0],
      [0, 0, 1],
    ];
  };

  const own = [
    about(1, spin * timeS),
    about(2, radians[2]),
    about(1, radians[1]),
    about(0, radians[0]),
  ].reduce(product);
  const column = (n: number): Triple => [own[0][n], own[1][n], own[2][n]];
  return {
    centre: moves ? (part.centre.map((c, a) => c + part.velocity[a] * timeS) as Triple) : part.centre,
    toOwn: [column(0), column(1), column(2)],
    velocity: moves ? part.velocity : STILL,
    turning: [0, spin, 0],
  };
}

/**
 * The same of a part that may be carried along by an obstacle: its own place and turn are then in the
 * obstacle's axes.
 */
export function poseIn(
  recipe: Pick<Recipe, 'obstacles'>,
  part: StandingPart & Partial<Follows>,
  timeS: number,
): Pose {
  const own = poseOf(part, timeS);
  const carrier = part.follows ? recipe.obstacles.find((o) => o.id === part.follows) : undefined;
  if (!carrier) return own;
  const on = poseOf(carrier, timeS);
  const out = transposed(on.toOwn);
  const turned = (v: Triple): Triple => out.map((r) => r[0] * v[0] + r[1] * v[1] + r[2] * v[2]) as Triple;
  const arm = turned(own.centre);
  const { turning: w } = on;
  const swing: Triple = [
    w[1] * arm[2] - w[2] * arm[1],
    w[2] * arm[0] - w[0] * arm[2],
    w[0] * arm[1] - w[1] * arm[0],
  ];
  return {
    centre: on.centre.map((c, a) => c + arm[a]) as Triple,
    toOwn: product(own.toOwn, on.toOwn),
    velocity: turned(own.velocity).map((v, a) => v + on.velocity[a] + swing[a]) as Triple,
    turning: turned(own.turning).map((v, a) => v + w[a]) as Triple,
  };
}

function product(a: Rows, b: Rows): Rows {
  return a.map((r) =>
    [0, 1, 2].map((c) => r[0] * b[0][c] + r[1] * b[1][c] + r[2] * b[2][c]),
  ) as unknown as Rows;
}

/** A steady motion of its own; keys may move it too. */
export function isMoving(part: StandingPart): boolean {
  return part.motion === 'moves' && (part.spin !== 0 || part.velocity.some((v) => v !== 0));
}

/**
 * The pose at the end of a stretch of time with the velocity that it really has over it: where keys move a
 * part, that of the way from the first pose to the second.
 */
export function poseBetween(before: Pose, after: Pose, lengthS: number): Pose {
  const turned = product(transposed(after.toOwn), before.toOwn); // from the world before to the world after
  return {
    ...after,
    velocity: after.centre.map((c, a) => (c - before.centre[a]) / lengthS) as Triple,
    // for a small turn the skew part of the rotation is sin(angle) times the axis
    turning: [turned[2][1] - turned[1][2], turned[0][2] - turned[2][0], turned[1][0] - turned[0][1]].map(
      (v) => v / (2 * lengthS),
    ) as Triple,
  };
}

function transposed(m: Rows): Rows {
  return [0, 1, 2].map((r) => m.map((row) => row[r])) as unknown as Rows;
}

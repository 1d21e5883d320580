// Currents: pushes of the air that are limited to a shape with a soft edge, see currents.ts of the kernels.
// Those with a goal draw the air there as a linear drag does, exactly over any substep.
import { choice, flag, integer, number, reference, text, vector, type Part } from '../recipe/settings';
import { corners, FAR, follows, pose, shapeChoice, sizes } from '../recipe/parts/shapes';
import { where } from '../recipe/parts/where';
import { boundsOf, cellShape, putFloats, writeShape } from '../geometry/shape';
import { SLAB } from '../grid/sweep';
import { poseAt } from '../step/standing';
import type { CurrentPart, Triple } from '../recipe/recipe';
import type { Plan, Standing } from '../step/compile';
import type { Pose } from '../geometry/pose';
import { directionOf, type Force, type Now } from './force';

const DRAWN = ['jet', 'spin', 'still', 'shear', 'path', 'pipe', 'volume'];

export const CURRENTS: Part = {
  key: 'currents',
  title: 'Currents',
  many: true,
  keyable: true,
  placed: ['speed', 'direction', 'turning', 'pull', 'shear', 'toPath', 'within'],
  live: true,
  sentence:
    '{name}, in a {shape}[shape=sphere: of radius {radius}][shape=cylinder: of radius {radius}, ' +
    '{size.1} high][shape=box: {size.0} by {size.1} by {size.2}], {does}[does=jet|path|pipe: at ' +
    '{speed}][does=spin: by {turning}][does=point: by {pull}][does=shear: by {shear}][does=volume: , ' +
    'the air of {file} times {times}][does=jet|spin|still|shear|path|pipe|volume: within {within}]; ' +
    'its edge is {soft} soft; {where}.',
  settings: [
    text('name', 'name', 'Current', 'What it is called.'),
    flag('on', 'on', true, 'Off: kept in the recipe, without effect.'),
    choice(
      'does',
      'what it does',
      [
        ['jet', 'blows one way'],
        ['spin', 'spins about an axis'],
        ['point', 'pulls to its middle'],
        ['still', 'brings the air to rest'],
        ['shear', 'shears the air'],
        ['path', 'leads along a path'],
        ['pipe', 'takes in at one end and blows at the other'],
        ['volume', 'follows a volume'],
      ],
      'A jet, a fan; a whirl; a pull or a push; a drag; layers that slide over each other; a current ' +
        'along corners; a pipe; the velocity of a volume that was brought in, where it is known.',
    ),
    shapeChoice(
      ['sphere', 'box', 'cylinder', 'path'],
      'Where it acts: all inside, fading over the soft edge. A current along a path acts around it, a ' +
        'pipe in it and before its ends.',
    ),
    reference('file', 'file', ['files'], 'The volume whose air is followed.', { path: 'does', is: 'volume' }),
    number('times', 'times', '', [-100, 100], 1, 'Its speed times this.', {
      when: { path: 'does', is: 'volume' },
    }),
    ...pose([0, 0.5, 0]),
    follows(),
    ...sizes(0.4, 1),
    corners(),
    number('soft', 'soft edge', 'm', [0, FAR], 0.1, 'Width over which it fades outside of the shape.'),
    number('speed', 'speed', 'm/s', [-1000, 1000], 1, 'Speed that the air is drawn to.', {
      when: { path: 'does', is: ['jet', 'path', 'pipe'] },
    }),
    ...vector(
      'direction',
      ['direction x', 'direction y', 'direction z'],
      '',
      [-1000, 1000],
      [0, 1, 0],
      'Where it blows; of a spin its axis. Only its direction counts.',
      { path: 'does', is: ['jet', 'spin', 'shear'] },
    ),
    number(
      'turning',
      'turning',
      '°/s',
      [-36000, 36000],
      180,
      'How fast it turns, as a whole; along a path about it.',
      {
        when: { path: 'does', is: ['spin', 'path'] },
      },
    ),
    number(
      'pull',
      'pull',
      'm/s²',
      [-1000, 1000],
      2,
      'Acceleration toward the middle; below 0 away from it.',
      {
        when: { path: 'does', is: 'point' },
      },
    ),
    number(
      'shear',
      'shear',
      '1/s',
      [-1000, 1000],
      1,
      'Speed gained with each metre of height over the middle.',
      {
        when: { path: 'does', is: 'shear' },
      },
    ),
    number(
      'toPath',
      'pull to the path',
      '1/s',
      [0, 1000],
      1,
      'Speed toward the path for each metre from it.',
      {
        when: { path: 'does', is: 'path' },
      },
    ),
    number(
      'mouth',
      'reach of the ends',
      'm',
      [0, FAR],
      0.6,
      'How far from its first corner a pipe draws in, and from its last one blows.',
      {
        when: { path: 'does', is: 'pipe' },
      },
    ),
    number(
      'within',
      'takes hold within',
      's',
      [0.001, 1000],
      0.3,
      'Time in which the air goes 63 % of the way to its goal.',
      {
        when: { path: 'does', is: DRAWN },
      },
    ),
    integer('from', 'from frame', 'frames', [0, 100000], 1, 'First frame in which it acts.'),
    integer('until', 'until frame', 'frames', [0, 100000], 100000, 'Last frame in which it acts.', {
      word: { is: 100000, text: 'the end' },
    }),
    where(),
  ],
};

const KINDS = { jet: 0, spin: 1, point: 2, still: 3, shear: 4, path: 5, pipe: 6, volume: 7 } as const;

interface CurrentForce {
  readonly id: string;
  readonly index: number;
  readonly add: Force['add'];
}

/** Whether it goes along corners, whatever its shape is. */
export const isPath = ({ does }: Pick<CurrentPart, 'does'>): boolean => does === 'path' || does === 'pipe';

/** One force for each current that is on, in the order of the page. */
export function currentForces(plan: Plan): CurrentForce[] {
  return plan.currents.map((planned, n) => ({
    id: planned.part.id,
    index: planned.index,
    add: (now, recipe, weight) => addCurrent(now, planned, n, recipe.currents[planned.index], weight),
  }));
}

/** @param n its place in the plan's list */
function addCurrent(
  { state, dtS }: Now,
  planned: Standing<CurrentPart>,
  n: number,
  part: CurrentPart,
  weight: number,
): void {
  const { plan, team, layout, window } = state;
  const l = window.lattice;
  const h = window.voxelSizeM;
  if (state.frame < part.from || state.frame > part.until) return;
  const pose = poseAt(plan, 'currents', planned, state.timeS + state.dtS / 2, 0, (x) => team.solo('sine', x));
  const volume = planned.mesh?.at(state.timeS + state.dtS / 2) ?? null;
  const own = volume ? 'mesh' : isPath(part) ? 'path' : part.shape;
  const shape = cellShape({ ...part, shape: own }, pose, h, volume?.grid ?? null);
  const soft = part.soft / h;
  const mouth = part.does === 'pipe' ? part.mouth / h : 0;
  const [from, to] = boundsOf(shape, window.origin, [l.nx, l.ny, l.nz], 1 + Math.ceil(Math.max(soft, mouth)));
  if (from.some((v, a) => v >= to[a])) return;
  // what carries a current turns its direction too
  const direction = part.follows
    ? inWorld(pose.toOwn, directionOf(part.direction))
    : directionOf(part.direction);
  const turn = Math.PI / 180;
  const strength = {
    jet: part.speed,
    path: part.speed,
    pipe: part.speed,
    spin: part.turning * turn,
    point: part.pull,
    still: 0,
    shear: part.shear,
    volume: part.times,
  }[part.does];
  if (volume) {
    putFloats(team.memory, layout.currentGrids[n], volume.grid.distances);
    putFloats(team.memory, layout.currentWays[n], volume.ways);
  }

  writeShape(team.memory, layout.emission, shape, window.origin, layout.currentGrids[n], layout.corners)
    .ints(
      ...layout.acceleration.map((f) => f.address),
      ...layout.velocity.map((f) => f.address),
      KINDS[part.does],
    )
    .floats(
      strength,
      ...direction,
      ...(part.does === 'pipe' ? [0, 0] : [part.toPath, part.turning * turn]),
      mouth,
    )
    .floats((1 - team.solo('exponential', -dtS / part.within)) / dtS, soft, h)
    .ints(weight, from[0], to[0], from[1], to[1], from[2], to[2], layout.currentWays[n]);
  team.run('current', l.nz, SLAB, layout.emission, l.rowStride, l.planeStride);
}

const inWorld = (toOwn: Pose['toOwn'], v: Triple): Triple =>
  [0, 1, 2].map((a) => toOwn[0][a] * v[0] + toOwn[1][a] * v[1] + toOwn[2][a] * v[2]) as Triple;

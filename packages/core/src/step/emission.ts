// Stage 3: sources write into the channels, the air and what has to flow out; nothing is written inside an
// obstacle.
import { coverSource, type Cover } from './rasterize-source';
import { SLAB } from '../grid/sweep';
import { Words, writeShape } from '../geometry/shape';
import type { CombineMode, SourcePart } from '../recipe/types';
import type { Standing } from '../plan/compile';
import { eachPlace } from './places';
import { channelField, type StepState } from './state';

/** The kernels' numbers of the ways to write (emit.ts there). */
const HOW: Readonly<Record<CombineMode, number>> = { none: 0, add: 1, raise: 2, replace: 3, blend: 4 };
const MODE = { along: 0, normal: 1, motion: 2, point: 3 } as const;

export function emission(state: StepState): void {
  const { plan, team, layout } = state;
  let given = false;
  for (const source of plan.sources) {
    const cover = coverSource(state, source);
    if (!cover) continue;
    given = true;
    eachPlace(
      state,
      [`sources/${source.part.id}`],
      (recipe) => recipe.sources[source.index],
      (recipe, weight) => {
        const here = weighed(state, { ...cover, part: recipe.sources[source.index] }, weight);
        giveMedium(state, here);
        giveTemperature(state, here);
        givePush(state, source, here);
      },
    );
  }

  if (plan.obstacles.length === 0 || (!given && !layout.outflow)) return;
  for (const f of layout.channels)
    team.run('clearSolid', layout.levels[0].lattice.nz, SLAB, layout.levels[0].block, f.address);
}

/** A cover as far as its place goes, in fields that are free before transport. */
function weighed({ team, layout, window }: StepState, cover: Cover, weight: number): Cover {
  if (weight === 0) return cover;
  const { rowStride, planeStride, nz } = window.lattice;
  const [mean, most] = layout.velocityNext.map((f) => f.address);
  team.run(
    'weighCover',
    nz,
    SLAB,
    cover.mean,
    cover.most,
    weight,
    mean,
    most,
    ...sides(cover.box),
    rowStride,
    planeStride,
  );
  return { ...cover, mean, most };
}

/** Part of the way to its goal that blending goes in a substep. */
function draw(state: StepState, part: SourcePart): number {
  return 1 - state.team.solo('exponential', -state.dtS / part.within);
}

function giveMedium(state: StepState, { part, box, gain, mean, most, colours }: Cover): void {
  const { team, layout, window } = state;
  const l = window.lattice;
  const address = (name: Parameters<typeof channelField>[1]): number =>
    channelField(state, name)?.address ?? 0;
  const ageMatters = part.age.how !== 'none' || part.density.how !== 'none';
  new Words(new DataView(team.memory.buffer), layout.emission)
    .ints(mean, most, address('density'), address('red'), address('green'), address('blue'))
    .ints(ageMatters ? address('age') : 0, part.expansion === 0 ? 0 : (layout.outflow?.address ?? 0))
    .ints(...(colours ?? [0, 0, 0]), HOW[part.density.how], HOW[part.colour.how], HOW[part.age.how])
    .floats(
      part.density.amount * (part.density.how === 'add' ? gain : 1),
      ...part.colour.amount,
      part.age.amount,
    )
    .floats(part.expansion * window.voxelSizeM * gain, state.dtS, draw(state, part))
    .ints(...sides(box));
  team.run('giveMedium', l.nz, SLAB, layout.emission, l.rowStride, l.planeStride);
}

function giveTemperature(state: StepState, { part, box, gain, mean, most }: Cover): void {
  const { how, amount } = part.temperature;
  const field = channelField(state, 'temperature');
  const { lattice: l } = state.window;
  if (how === 'none' || !field) return;
  const values = [amount * (how === 'add' ? gain : 1), state.dtS, draw(state, part), ...sides(box)];
  state.team.run(
    'give',
    l.nz,
    SLAB,
    field.address,
    mean,
    most,
    HOW[how],
    ...values,
    l.rowStride,
    l.planeStride,
  );
}

function givePush(
  state: StepState,
  source: Standing<SourcePart>,
  { part, box, shape, pose, speeds, mean, most }: Cover,
): void {
  const { team, layout, window } = state;
  const { push } = part;
  const h = window.voxelSizeM;
  const l = window.lattice;
  if (push.how === 'none') return;
  const n = state.plan.sources.indexOf(source);
  const flow =
    source.mesh?.moves && source.mesh.at(state.timeS + state.dtS, state.dtS).flow ? layout.sourceFlows[n] : 0;
  writeShape(team.memory, layout.emission, shape, window.origin, layout.sourceGrids[n], layout.corners, flow)
    .ints(
      mean,
      most,
      ...layout.velocity.map((f) => f.address),
      ...(speeds ?? [0, 0, 0]),
      MODE[push.mode],
      part.shape === 'particles' ? 1 : 0,
      HOW[push.how],
    )
    .floats(push.speed, ...push.direction, ...push.point.map((p, a) => p / h - window.origin[a]))
    .floats(...pose.velocity, ...pose.turning.map((w) => w * h))
    .floats(tangent(state, push.spread), push.vary / 100, h / push.lump, state.timeS / (0.5 + push.lump))
    .ints(source.index * 101)
    .floats(...window.origin, state.dtS, draw(state, part))
    .ints(...sides(box));
  team.run('givePush', l.nz + 1, SLAB, layout.emission, l.rowStride, l.planeStride);
}

function tangent({ team }: StepState, degrees: number): number {
  const angle = (degrees * Math.PI) / 180;
  return degrees === 0 ? 0 : team.solo('sine', angle) / team.solo('sine', angle + Math.PI / 2);
}

const sides = ([from, to]: Cover['box']): number[] => [from[0], to[0], from[1], to[1], from[2], to[2]];

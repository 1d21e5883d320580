// Stage 3: sources write into the channels, the air and what has to flow out; nothing is written inside an
// obstacle.
import { cosine, exponential, sine } from '../math/exact';
import { placeShape } from './place-shape';
import {
  CombineMode,
  MediumEmissionStruct,
  VelocityEmissionStruct,
  VelocityMode,
} from '@bramblemist/kernels/seam';
import { rasterizeSource, type Coverage } from './rasterize-source';
import { SLAB, named, boxFields, addresses } from '../grid/sweep';
import type { CombineMode as Mode, SourcePart } from '../recipe/types';
import type { PlannedShape } from '../plan/plan';
import { bookGiven } from './ledger';
import { eachRegionVariant } from './region-variants';
import { followMedium, gatherMedium, mediumOf, weightOnMedium } from './finer';
import { channelField, type MediumState, type SimulationState } from './state';

/** The kernels' numbers of the ways to write. */
const MODES: Readonly<Record<Mode, number>> = {
  none: CombineMode.NONE,
  add: CombineMode.ADD,
  raise: CombineMode.RAISE,
  replace: CombineMode.REPLACE,
  blend: CombineMode.BLEND,
};
const MODE = {
  along: VelocityMode.ALONG,
  normal: VelocityMode.NORMAL,
  motion: VelocityMode.MOTION,
  point: VelocityMode.POINT,
} as const;

export function emission(state: SimulationState): void {
  const { plan, threadPool, layout } = state;
  const medium = mediumOf(state);
  let given = false;
  const give = (on: MediumState, n: number, visit: (here: Coverage) => void): void => {
    const source = on.plan.sources[n];
    const cover = rasterizeSource(on, source, on === state ? layout.velocityNext : null);
    if (!cover) return;
    given = true;
    eachRegionVariant(
      state,
      [`sources/${source.part.id}`],
      (recipe) => recipe.sources[source.index],
      (recipe, weight) => {
        const by = on === state ? weight : weightOnMedium(state, weight);
        visit(weighed(on, { ...cover, part: recipe.sources[source.index] }, by));
      },
    );
  };

  plan.sources.forEach((source, n) => {
    const { temperature, push } = source.part;
    const toAir = temperature.how !== 'none' || push.how !== 'none' || layout.outflow !== null;
    if (!layout.medium || toAir)
      give(state, n, (here) => {
        giveMedium(state, layout.medium ? { ...here, part: airOnly(here.part) } : here);
        giveTemperature(state, here);
        givePush(state, source, here);
      });
    if (layout.medium) give(medium, n, (here) => giveMedium(medium, here));
  });
  if (given) gatherMedium(state);
  if (plan.obstacles.length > 0 && (given || layout.outflow))
    for (const f of layout.channels)
      threadPool.run('clearSolids', layout.levels[0].lattice.nz, SLAB, {
        level: layout.levels[0].block,
        f: f.address,
      });
  followMedium(state);
  if (given) bookGiven(state);
}

/** A source that gives off nothing that the medium's own cells take. */
const airOnly = (part: SourcePart): SourcePart => ({
  ...part,
  density: { ...part.density, how: 'none' },
  colour: { ...part.colour, how: 'none' },
  age: { ...part.age, how: 'none' },
});

/** A cover as far as its place goes, in fields that are free before transport. */
function weighed({ threadPool, layout, window }: MediumState, cover: Coverage, weight: number): Coverage {
  if (weight === 0) return cover;
  const { rowStride, planeStride, nz } = window.lattice;
  const [mean, most] = addresses(layout.cover.weighed);
  threadPool.run('weightCoverage', nz, SLAB, {
    mean: cover.mean,
    most: cover.most,
    weight,
    toMean: mean,
    toMost: most,
    ...named(['i0', 'i1', 'j0', 'j1', 'from', 'to'], sides(cover.box)),
    rowStride,
    planeStride,
  });
  return { ...cover, mean, most };
}

/** Part of the way to its goal that blending goes in a substep. */
function draw(state: MediumState, part: SourcePart): number {
  return 1 - exponential(-state.dtS / part.within);
}

function giveMedium(state: MediumState, { part, box, gain, mean, most, colours }: Coverage): void {
  const { threadPool, layout, window } = state;
  const l = window.lattice;
  const address = (name: Parameters<typeof channelField>[1]): number =>
    channelField(state, name)?.address ?? 0;
  const ageMatters = part.age.how !== 'none' || part.density.how !== 'none';
  MediumEmissionStruct.write(threadPool.memory, layout.emission, {
    mean,
    most,
    density: address('density'),
    red: address('red'),
    green: address('green'),
    blue: address('blue'),
    age: ageMatters ? address('age') : 0,
    outflow: part.expansion === 0 ? 0 : (layout.outflow?.address ?? 0),
    ...named(['cr', 'cg', 'cb'], colours ?? [0, 0, 0]),
    densityHow: MODES[part.density.how],
    colourHow: MODES[part.colour.how],
    ageHow: MODES[part.age.how],
    densityAmount: part.density.amount * (part.density.how === 'add' ? gain : 1),
    ...named(['r', 'g', 'b'], part.colour.amount),
    ageAmount: part.age.amount,
    push: part.expansion * window.voxelSizeM * gain,
    dt: state.dtS,
    draw: draw(state, part),
    ...boxFields(box),
  });
  threadPool.run('emitMedium', l.nz, SLAB, {
    gift: layout.emission,
    rowStride: l.rowStride,
    planeStride: l.planeStride,
  });
}

function giveTemperature(state: SimulationState, { part, box, gain, mean, most }: Coverage): void {
  const { how, amount } = part.temperature;
  const field = channelField(state, 'temperature');
  const { lattice: l } = state.window;
  if (how === 'none' || !field) return;
  const values = [amount * (how === 'add' ? gain : 1), state.dtS, draw(state, part), ...sides(box)];
  state.threadPool.run('emitScalar', l.nz, SLAB, {
    field: field.address,
    mean,
    most,
    how: MODES[how],
    ...named(['amount', 'dt', 'draw', 'i0', 'i1', 'j0', 'j1', 'from', 'to'], values),
    rowStride: l.rowStride,
    planeStride: l.planeStride,
  });
}

function givePush(
  state: SimulationState,
  source: PlannedShape<SourcePart>,
  { part, box, shape, pose, speeds, mean, most }: Coverage,
): void {
  const { threadPool, layout, window } = state;
  const { push } = part;
  const h = window.voxelSizeM;
  const l = window.lattice;
  if (push.how === 'none') return;
  const n = state.plan.sources.indexOf(source);
  const flow =
    source.mesh?.moves && source.mesh.at(state.timeS + state.dtS, state.dtS).flow ? layout.sourceFlows[n] : 0;
  VelocityEmissionStruct.write(threadPool.memory, layout.emission, {
    ...placeShape(state, shape, layout.sourceGrids[n], flow),
    mean,
    most,
    ...named(['u', 'v', 'w'], addresses(layout.velocity)),
    ...named(['su', 'sv', 'sw'], speeds ?? [0, 0, 0]),
    mode: MODE[push.mode],
    cloud: part.shape === 'particles' ? 1 : 0,
    how: MODES[push.how],
    speed: push.speed,
    ...named(['dx', 'dy', 'dz'], push.direction),
    ...named(
      ['px', 'py', 'pz'],
      push.point.map((p, a) => p / h - window.origin[a]),
    ),
    ...named(['vx', 'vy', 'vz'], pose.velocity),
    ...named(
      ['wx', 'wy', 'wz'],
      pose.turning.map((w) => w * h),
    ),
    aside: tangent(push.spread),
    vary: push.vary / 100,
    lumps: h / push.lump,
    moment: state.timeS / (0.5 + push.lump),
    seed: source.index * 101,
    ...named(['originX', 'originY', 'originZ'], window.origin),
    dt: state.dtS,
    draw: draw(state, part),
    ...boxFields(box),
  });
  threadPool.run('emitVelocity', l.nz + 1, SLAB, {
    push: layout.emission,
    rowStride: l.rowStride,
    planeStride: l.planeStride,
  });
}

function tangent(degrees: number): number {
  const angle = (degrees * Math.PI) / 180;
  return degrees === 0 ? 0 : sine(angle) / cosine(angle);
}

const sides = ([from, to]: Coverage['box']): number[] => [from[0], to[0], from[1], to[1], from[2], to[2]];

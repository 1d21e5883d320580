// Preflight: what of a recipe will go wrong or be without effect, before it is run; and the walk from a
// source to the picture that names the first link which is missing.
import { obstacleHoldout } from '../look/holdout';
import { cameraRays, lookAt, powerOf, skyOf, type Look } from '../look/look';
import type { Triple } from '../math/vector';
import { RECIPE } from '../recipe/recipe';
import type { Recipe } from '../recipe/types';
import type { Plan } from '../plan/plan';
import type { Fix } from '../record/incident';
import { intoDomain, lies } from '../measure/check-frame';
import type { Readings, SixSides } from '../record/readings';

export interface Finding {
  /** stops: nothing of use will come out; warns: it will, but maybe not what is meant. */
  readonly level: 'stops' | 'warns';
  readonly what: string;
  readonly cure: string;
  /** The part of the recipe that it is about: the key of one that stands once, or an id. */
  readonly part: string;
  readonly fix?: Fix;
}

export function findings(plan: Plan): Finding[] {
  const { recipe } = plan;
  return [
    ...ofSources(plan),
    ...ofObstacles(plan),
    ...ofFiles(recipe),
    ...ofPlaces(recipe),
    ...ofDomain(recipe),
  ];
}

function ofSources(plan: Plan): Finding[] {
  const { recipe } = plan;
  const out: Finding[] = [];
  if (recipe.sources.length === 0 || recipe.sources.every((s) => !s.on))
    out.push({
      level: 'stops',
      what: recipe.sources.length === 0 ? 'There is no source.' : 'Every source is off.',
      cure: recipe.sources.length === 0 ? 'Add one under Sources.' : 'Turn one on.',
      part: recipe.sources[0]?.id ?? 'sources',
      ...(recipe.sources.length > 0
        ? { fix: { label: `${recipe.sources[0].name} on`, settings: [['sources.0.on', true]] } }
        : {}),
    });
  for (const source of plan.sources) {
    const { part, index } = source;
    const keyed = recipe.curves.some((c) => c.path === `sources/${part.id}/density.amount`);
    if (part.from > recipe.space.lastFrame)
      out.push({
        level: 'warns',
        what: `${part.name} begins in frame ${part.from}, behind the last one, ${recipe.space.lastFrame}.`,
        cure: 'Let it begin earlier.',
        part: part.id,
        fix: {
          label: `${part.name} from the start`,
          settings: [[`sources.${index}.from`, recipe.space.firstFrame]],
        },
      });
    if (part.density.how === 'add' && part.density.amount === 0 && !keyed)
      out.push({
        level: 'warns',
        what: `${part.name} gives off 0 density a second.`,
        cure: 'Give it an amount.',
        part: part.id,
      });
    const plain = RECIPE.defaultPart<{ colour: object }>('sources').colour;
    if (
      !recipe.keep.colour &&
      part.colour.how !== 'none' &&
      JSON.stringify(part.colour) !== JSON.stringify(plain)
    )
      out.push({
        level: 'warns',
        what: `${part.name} has a colour, and the run carries none.`,
        cure: 'Keep colour, or leave it.',
        part: 'keep',
        fix: { label: 'colour carried', settings: [['keep.colour', true]] },
      });
    if (part.shape === 'particles') continue;
    const found = lies(plan, source);
    if (found.where === 'outside')
      out.push({
        level: 'warns',
        what: `${part.name} lies outside of the domain.`,
        cure: 'Move it into the domain, or make the domain larger.',
        part: part.id,
        ...(source.moves
          ? {}
          : { fix: { label: `${part.name} into the domain`, settings: intoDomain(recipe, source) } }),
      });
    if (found.where === 'buried')
      out.push({
        level: 'warns',
        what: `${part.name} lies inside ${found.in}, where nothing is given off.`,
        cure: 'Move one of them.',
        part: part.id,
      });
  }

  return out;
}

function ofObstacles({ obstacles, window: { voxelSizeM: h } }: Plan): Finding[] {
  return obstacles.flatMap(({ part }): Finding[] => {
    const thin = {
      box: Math.min(...part.size),
      cylinder: Math.min(2 * part.radius, part.size[1]),
      ring: 2 * part.tube,
      sphere: 2 * part.radius,
    };
    const thickness = (thin[part.shape as 'box'] ?? Infinity) + 2 * part.grow;
    if (thickness >= h) return [];
    return [
      {
        level: 'warns',
        what:
          `${part.name} is ${Number(thickness.toPrecision(2))} m thick, thinner than a voxel of ` +
          `${Number(h.toPrecision(2))} m: it holds, but its shape is rough.`,
        cure: 'Make it thicker, or voxels smaller.',
        part: part.id,
      },
    ];
  });
}

function ofFiles({ files, space }: Recipe): Finding[] {
  return files.flatMap((f, n): Finding[] =>
    f.rate > 0 && f.rate !== space.frameRate
      ? [
          {
            level: 'warns',
            what: `${f.name} is read at ${f.rate} frames a second, the shot has ${space.frameRate}.`,
            cure: 'Take the shot’s rate, unless it is meant to go at its own.',
            part: f.id,
            fix: { label: `${f.name} at the shot’s rate`, settings: [[`files.${n}.rate`, 0]] },
          },
        ]
      : [],
  );
}

function ofPlaces(recipe: Recipe): Finding[] {
  const used = new Set<string>(recipe.changes.filter((c) => c.on).map((c) => c.region));
  for (const part of RECIPE.parts) {
    const own = recipe[part.key as 'currents'] as unknown as { where?: string } | { where?: string }[];
    for (const holder of [own].flat()) if (holder.where) used.add(holder.where);
  }

  for (const r of recipe.regions) if (used.has(r.id) && r.joins !== 'alone') used.add(r.other);
  return recipe.regions
    .filter((r) => r.on && !used.has(r.id))
    .map((r) => ({
      level: 'warns',
      what: `Nothing is limited to ${r.name} or changed in it.`,
      cure: 'Choose it where a force acts, or change a setting there.',
      part: r.id,
    }));
}

function ofDomain(recipe: Recipe): Finding[] {
  const { sides } = recipe.space;
  const swelling = recipe.sources.find((s) => s.on && s.expansion > 0);
  if (swelling === undefined || Object.values(sides).includes('open')) return [];
  return [
    {
      level: 'stops',
      what: `${swelling.name} makes air, and all sides of the domain are walls: it has nowhere to go.`,
      cure: 'Let a side go.',
      part: 'space',
      fix: { label: 'an open top', settings: [['space.sides.top', 'open']] },
    },
  ];
}

/** One link of the walk from a source to the picture. */
export interface Link {
  readonly name: string;
  /** null: cannot be told before the links in front of it hold. */
  readonly holds: boolean | null;
  /** What is wrong and what to do; empty where it holds. */
  readonly says: string;
  /** Where to go: a part of the recipe, or a stage. */
  readonly part: string;
}

/** Optical depth across the domain below which nothing can be seen. */
const FAINTEST = 0.02;

/**
 * Why there is nothing to see at a frame: links in their order; the first that does not hold is the reason.
 */
export function whyNothing(plan: Plan, own: Look, frame: number, readings: Readings | null): Link[] {
  const look = lookAt(own, frame);
  const { recipe } = plan;
  const { sources } = plan;
  const giving = sources.filter(
    ({ part: s }) => s.density.how !== 'none' && (s.density.amount > 0 || isKeyed(recipe, s.id)),
  );
  const begun = giving.filter(({ part: s }) => s.from <= frame);
  const free = begun.filter((s) => s.part.shape === 'particles' || lies(plan, s).where === 'free');
  const [first] = recipe.sources;
  const lasting = recipe.dissipation.density === 0 || recipe.dissipation.density > 2 * plan.frameS;
  const depth = readings
    ? readings.greatestDensity * look.medium.density * Math.min(...recipe.space.size) * 0.25
    : 0;
  const links: (Link | false)[] = [
    {
      name: 'A source is on',
      holds: sources.length > 0,
      says: 'Add a source, or turn one on.',
      part: first?.id ?? 'sources',
    },
    {
      name: 'It gives off density',
      holds: giving.length > 0,
      says: 'Every source leaves density as it is, or adds 0. Give one an amount.',
      part: sources[0]?.part.id ?? '',
    },
    {
      name: 'It has begun',
      holds: begun.length > 0,
      says:
        `The first one begins in frame ${Math.min(...giving.map((s) => s.part.from))}; this is frame ` +
        `${frame}. Go there, or let it begin earlier.`,
      part: giving[0]?.part.id ?? '',
    },
    {
      name: 'It lies free in the domain',
      holds: free.length > 0,
      says: 'It lies outside of the domain, or inside an obstacle. Move it.',
      part: begun[0]?.part.id ?? '',
    },
    {
      name: 'What it gives off lasts',
      holds: lasting,
      says:
        `Density halves every ${Number(recipe.dissipation.density.toPrecision(2))} s, which is less ` +
        'than two ' +
        'frames. Make its half-life longer.',
      part: 'dissipation',
    },
    readings !== null && {
      name: 'There is medium at this frame',
      holds: readings.mass > 0,
      says: 'All of it has left through an open side or has faded. Look at an earlier frame.',
      part: 'dissipation',
    },
    readings !== null && {
      name: 'It is thick enough to be seen',
      holds: depth > FAINTEST,
      says:
        'Full density stops too little light. Raise the density scale in Light, or the amount of the ' +
        'source.',
      part: 'light',
    },
    readings !== null && {
      name: 'The look leaves some of it',
      holds: readings.greatestDensity > look.medium.clip && takesLight(look),
      says:
        look.medium.clip > 0 && readings.greatestDensity <= look.medium.clip
          ? `The look clips density below ${look.medium.clip}, and there is none above. Clip less in Light.`
          : 'Its medium neither scatters nor absorbs light. Give it some of either in Light.',
      part: 'light',
    },
    {
      name: 'Some light shines',
      holds: isLit(look) || !scatters(look),
      says: 'All lights are off or black, and so is the environment. Turn one on in Light.',
      part: 'light',
    },
    {
      name: 'The camera looks at the domain',
      holds: seesDomain(recipe, look),
      says:
        'The domain lies behind the shot’s camera or beside its picture. Place the camera in Light, or ' +
        'press “frame all” here.',
      part: 'light',
    },
    readings?.extent !== undefined &&
      readings.extent !== null && {
        name: 'Nothing stands in front of it',
        holds: isInSight(plan, look, frame, readings.extent),
        says:
          'All of the medium lies behind obstacles, or beside the camera’s picture. Move the camera, ' +
          'or let ' +
          'the obstacles be “not there” in Light.',
        part: 'light',
      },
  ];
  let broken = false;
  return links
    .filter((l) => l !== false)
    .map((link) => {
      if (broken) return { ...link, holds: null, says: '' };
      broken = link.holds === false;
      return { ...link, says: broken ? link.says : '' };
    });
}

const takesLight = ({ medium }: Look): boolean =>
  medium.density > 0 && [...medium.scatter, ...medium.absorb].some((v) => v > 0);
const scatters = ({ medium }: Look): boolean => medium.scatter.some((v) => v > 0);
const isLit = (look: Look): boolean =>
  look.sky.kind === 'picture' ||
  look.surfaces.some(({ on, glows }) => on && glows) ||
  [skyOf(look), ...look.lights.filter((l) => l.on).map(powerOf)].some((power) => power.some((v) => v > 0));

const isKeyed = (recipe: Recipe, id: string): boolean =>
  recipe.curves.some((c) => c.path === `sources/${id}/density.amount`);

/** Places along each axis of what is seen that are looked at. */
const ALONG = 5;

/** Whether the camera sees any of the places between these planes of the world, before what is solid. */
function isInSight(plan: Plan, look: Look, frame: number, [x0, x1, y0, y1, z0, z1]: SixSides): boolean {
  const { eye, target } = look.camera;
  const { corner, across, down } = cameraRays(look);
  const { width, height } = look.camera;
  const solid = plan.obstacles.filter(({ part }) => part.facing !== 'vessel');
  const timeS = (frame - plan.recipe.space.firstFrame + 1) * plan.frameS;
  const holdout =
    look.solids.seen === 'unseen' ? null : obstacleHoldout({ ...plan, obstacles: solid }, timeS);
  const far = Math.hypot(...target.map((t, a) => t - eye[a]));
  const ahead = target.map((t, a) => (t - eye[a]) / far);
  const square = (v: readonly number[]): number => v.reduce((sum, c) => sum + c * c, 0);
  const at = (low: number, high: number, n: number): number => low + ((high - low) * (n + 0.5)) / ALONG;
  for (let n = 0; n < ALONG ** 3; n++) {
    const place = [
      at(x0, x1, n % ALONG),
      at(y0, y1, Math.floor(n / ALONG) % ALONG),
      at(z0, z1, Math.floor(n / ALONG ** 2)),
    ];
    const away = place.map((v, a) => v - eye[a]);
    const depth = away.reduce((sum, v, a) => sum + v * ahead[a], 0);
    if (depth <= 0) continue;
    const off = away.map((v, a) => v / depth - corner[a]);
    const x = off.reduce((sum, v, a) => sum + v * across[a], 0) / square(across);
    const y = off.reduce((sum, v, a) => sum + v * down[a], 0) / square(down);
    if (x < -0.5 || y < -0.5 || x > width - 0.5 || y > height - 0.5) continue;
    const long = Math.sqrt(square(away));
    if (!holdout || holdout(eye, away.map((v) => v / long) as Triple) > long) return true;
  }

  return false;
}

/** Whether any corner or the middle of the domain lies in the camera's frame. */
function seesDomain({ space }: Recipe, { camera }: Look): boolean {
  const ahead = camera.target.map((t, a) => t - camera.eye[a]);
  const long = Math.hypot(...ahead);
  const wide = camera.back / 2 / camera.focal;
  const corner = Math.hypot(wide, (wide * camera.height) / camera.width / camera.squeeze);
  return Array.from({ length: 9 }, (_, n) =>
    space.corner.map((c, a) => c + space.size[a] * (n === 8 ? 0.5 : (n >> a) & 1)),
  ).some((p) => {
    const d = p.map((v, a) => v - camera.eye[a]);
    const depth = d.reduce((s, v, a) => s + (v * ahead[a]) / long, 0);
    return depth > 0 && Math.hypot(...d.map((v, a) => v - (depth * ahead[a]) / long)) / depth < corner;
  });
}

// Incidents: for each a recipe that provokes it and one that must not; preflight and the walk to what is
// missing, likewise.
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { readingsCsv } from '@bramblemist/core/record/readings-csv';
import { findings, whyNothing } from '@bramblemist/core/analysis/preflight';
import { setAt } from '@bramblemist/core/recipe/paths';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { compile } from '@bramblemist/core/plan/compile';
import type { Incident, IncidentKind } from '@bramblemist/core/record/incident';
import { cameraFor, startFrom } from '@bramblemist/core/presets/starting-points';
import { example } from '@bramblemist/core/presets/examples';
import { ALL_OPEN, ALL_WALLS, recipeOf, simulate } from './run';
import { fill, fillVelocity } from './physics/kit';
import { checkFrame } from '@bramblemist/core/measure/check-frame';
import { stateOf, type Simulation } from '@bramblemist/core/run/simulation';

const ball = { id: 's', name: 'Ball', centre: [0, 0.8, 0], radius: 0.25, density: { amount: 3 } };
/** A plate that moves toward the right wall; one of 1.8 m fills the domain from wall to wall. */
const piston = (size: number): object => ({
  name: 'Piston',
  shape: 'box',
  centre: [0, 0.8, 0],
  size: [0.4, size, size],
  motion: 'moves',
  velocity: [0.5, 0, 0],
});

/** What so many frames of a recipe notice. */
function noticed(recipe: Recipe, frames: number, set?: (s: Simulation) => void): Incident[] {
  const s = simulate(recipe);
  set?.(s);
  return Array.from({ length: frames }, () => s.advanceFrame().incidents).flat();
}

const mended = (recipe: Recipe, { fix }: Incident): Recipe =>
  parseRecipe(fix!.settings.reduce((r, [path, value]) => setAt(r, path, value), recipe));

interface Case {
  kind: IncidentKind;
  provokes: Record<string, unknown>;
  not: Record<string, unknown>;
  frames: number;
  set?: (s: Simulation) => void;
  /** The cure that it offers cures it. */
  cures?: boolean;
}
const CASES: Case[] = [
  {
    kind: 'cut off',
    provokes: { space: { sides: ALL_OPEN }, sources: [ball], wind: { speed: 4, grip: 0.05 } },
    not: { space: { sides: ALL_WALLS }, sources: [ball] },
    frames: 10,
  },
  {
    kind: 'nothing',
    provokes: { sources: [{ ...ball, density: { amount: 0 } }] },
    not: { sources: [ball] },
    frames: 4,
  },
  {
    kind: 'outside',
    provokes: { sources: [{ ...ball, centre: [4, 0.8, 0] }] },
    not: { sources: [{ ...ball, centre: [0.8, 0.8, 0] }] },
    frames: 2,
    cures: true,
  },
  {
    kind: 'buried',
    provokes: { sources: [ball], obstacles: [{ shape: 'box', centre: [0, 0.8, 0], size: [1, 1, 1] }] },
    not: { sources: [ball], obstacles: [{ shape: 'box', centre: [0.2, 0.8, 0], size: [0.3, 1, 1] }] },
    frames: 2,
  },
  {
    kind: 'stirred',
    provokes: { sources: [ball], turbulence: { strength: 3 }, buoyancy: { lift: 0, weight: 0.2 } },
    not: {
      sources: [{ ...ball, temperature: { amount: 60 } }],
      turbulence: { strength: 0.5 },
      buoyancy: { lift: 0.033, weight: 0.2 },
    },
    frames: 10,
    cures: true,
  },
  {
    kind: 'puffs',
    provokes: { sources: [{ ...ball, radius: 0.02, motion: 'moves', velocity: [400, 0, 0] }] },
    not: { sources: [{ ...ball, motion: 'moves', velocity: [3, 0, 0] }] },
    frames: 1,
  },
  {
    kind: 'pocket',
    provokes: { space: { sides: { ...ALL_WALLS, left: 'open' } }, obstacles: [piston(1.8)] },
    not: { space: { sides: { ...ALL_WALLS, left: 'open' } }, obstacles: [piston(1.2)] },
    frames: 4,
  },
  {
    kind: 'capped',
    provokes: {
      space: { substepsMost: 1, cfl: 1, sides: ALL_OPEN },
      sources: [ball],
      wind: { speed: 40, grip: 0.01 },
    },
    not: { space: { sides: ALL_OPEN }, sources: [ball], wind: { speed: 1 } },
    frames: 4,
  },
];

describe.each(CASES)('$kind', ({ kind, provokes, not, frames, set, cures }) => {
  const kinds = (parts: Record<string, unknown>): IncidentKind[] =>
    noticed(recipeOf({ space: {}, ...parts }), frames, set).map((n) => n.kind);
  test('is noticed where it happens, with what to do', () => {
    const found = noticed(recipeOf({ ...provokes }), frames, set).find((n) => n.kind === kind);
    expect(found).toBeDefined();
    expect(found!.what.length).toBeGreaterThan(20);
    expect(found!.cure.length).toBeGreaterThan(10);
    if (found!.fix) expect(() => mended(recipeOf({ ...provokes }), found!)).not.toThrow();
  });
  test('and not where it does not', () => {
    expect(kinds(not)).not.toContain(kind);
  });
  if (cures)
    test('the change that it offers cures it', () => {
      const recipe = recipeOf({ ...provokes });
      const found = noticed(recipe, frames, set).find((n) => n.kind === kind)!;
      expect(noticed(mended(recipe, found), frames, set).map((n) => n.kind)).not.toContain(kind);
    });
});

test('medium that no account explains, made or lost, sources or not', () => {
  const s = simulate(recipeOf({ sources: [ball] }));
  const { readings } = s.advanceFrame();
  const state = stateOf(s);
  const kinds = (massMade: number): (string | undefined)[] => {
    state.incidents = [];
    checkFrame(state, { ...readings, massMade });
    return state.incidents.filter((n) => n.kind === 'mass').map((n) => /made|lost/.exec(n.what)?.[0]);
  };

  expect(kinds(readings.massMade!)).toEqual([]);
  expect(kinds(0.01 * readings.mass)).toEqual(['made']);
  expect(kinds(-0.01 * readings.mass)).toEqual(['lost']);
});

test('where the medium is cut off: the side, the place, a domain that is larger there', () => {
  const recipe = recipeOf({ space: { sides: ALL_OPEN } });
  for (const [speed, side, axis, low] of [
    [-1, 'left side', 0, true],
    [1, 'right side', 0, false],
  ] as const) {
    const [n] = noticed(recipe, 3, (s) => {
      fill(s, 'density', (x) => Number(x * speed > 0.6));
      fillVelocity(s, () => [speed, 0, 0]);
    }).filter((m) => m.kind === 'cut off');
    expect(n.what).toContain(side);
    expect(n.placeM![axis]).toBeCloseTo(low ? -0.8 : 0.8, 5);
    const { space } = mended(recipe, n);
    expect(space.size[0]).toBeCloseTo(2, 5);
    expect(space.corner[0]).toBeCloseTo(low ? -1.2 : -0.8, 5);
  }
});

describe('preflight', () => {
  const found = (parts: Record<string, unknown>): string[] =>
    findings(compile(recipeOf(parts)).plan).map((f) => f.what);
  test.each<[string, Record<string, unknown>, Record<string, unknown>, RegExp]>([
    ['no source', {}, { sources: [ball] }, /There is no source/],
    ['all off', { sources: [{ ...ball, on: false }] }, { sources: [ball] }, /Every source is off/],
    [
      'too late',
      { space: { lastFrame: 10 }, sources: [{ ...ball, from: 20 }] },
      { sources: [ball] },
      /begins in frame 20, behind the last one, 10/,
    ],
    [
      'nothing given',
      { sources: [{ ...ball, density: { amount: 0 } }] },
      { sources: [{ ...ball, density: { how: 'none' } }] },
      /gives off 0/,
    ],
    [
      'colour',
      { sources: [{ ...ball, colour: { amount: [1, 0, 0] } }] },
      { sources: [{ ...ball, colour: { amount: [1, 0, 0] } }], keep: { colour: true } },
      /has a colour, and the run carries none/,
    ],
    [
      'outside',
      { sources: [{ ...ball, centre: [0, 5, 0] }] },
      { sources: [ball] },
      /Ball lies outside of the domain/,
    ],
    [
      'thin',
      { obstacles: [{ name: 'Sheet', shape: 'box', size: [1, 0.02, 1] }] },
      { obstacles: [{ shape: 'box', size: [1, 0.02, 1], grow: 0.05 }] },
      /Sheet is 0.02 m thick, thinner than a voxel of 0.1 m/,
    ],
    [
      'rates',
      { files: [{ name: 'a.zip', rate: 30 }] },
      { files: [{ name: 'a.zip', rate: 25 }] },
      /read at 30 frames a second, the shot has 25/,
    ],
    [
      'idle region',
      { regions: [{ id: 'r', name: 'Here' }] },
      { regions: [{ id: 'r' }], wind: { where: 'r' } },
      /Nothing is limited to Here/,
    ],
    [
      'nowhere to go',
      { space: { sides: ALL_WALLS }, sources: [{ ...ball, expansion: 1 }] },
      { space: { sides: { ...ALL_WALLS, top: 'open' } }, sources: [{ ...ball, expansion: 1 }] },
      /it has nowhere to go/,
    ],
  ])('%s', (_, bad, good, wanted) => {
    expect(found(bad).join('\n')).toMatch(wanted);
    expect(found(good).join('\n')).not.toMatch(wanted);
    for (const f of findings(compile(recipeOf(bad)).plan).filter((x) => x.fix)) {
      const better = parseRecipe(f.fix!.settings.reduce((r, [p, v]) => setAt(r, p, v), recipeOf(bad)));
      expect(findings(compile(better).plan).map((x) => x.what)).not.toContain(f.what);
    }
  });
  test('the demo and the starting points pass', () => {
    for (const name of ['weir-at-dawn', 'sack-drop', 'quill', 'drying-kiln', 'lantern-jetty'])
      expect(findings(compile(example(name)).plan).filter((f) => f.level === 'stops')).toEqual([]);
    expect(findings(compile(startFrom('floor-vapour')!.recipe).plan)).toEqual([]);
  });
});

describe('why there is nothing to see', () => {
  const wall = { shape: 'box', centre: [0, 1, 5], size: [9, 9, 0.2] };
  const lookAt = (recipe: Recipe, more: object = {}): Look =>
    LOOK.parse({ camera: cameraFor(recipe), ...more });

  /** The first link that does not hold. */
  function missing(
    parts: Record<string, unknown>,
    { frames = 3, look = {} }: { frames?: number; look?: object } = {},
  ): string | undefined {
    const recipe = recipeOf(parts);
    const s = simulate(recipe);
    let readings = null;
    for (let f = 0; f < frames; f++) readings = s.advanceFrame().readings;
    const links = whyNothing(s.plan, lookAt(recipe, look), frames, readings);
    const first = links.findIndex((l) => l.holds === false);
    // behind it nothing is said, before it all holds
    if (first >= 0) {
      expect(links.slice(first + 1).every((l) => l.holds === null && l.says === '')).toBe(true);
      expect(links[first].says.length).toBeGreaterThan(20);
    }

    return links[first]?.name;
  }

  test.each<[string | undefined, Record<string, unknown>, object]>([
    ['A source is on', { sources: [{ ...ball, on: false }] }, {}],
    ['It gives off density', { sources: [{ ...ball, density: { how: 'none' } }] }, {}],
    ['It has begun', { sources: [{ ...ball, from: 40 }] }, {}],
    ['It lies free in the domain', { sources: [{ ...ball, centre: [9, 0, 0] }] }, {}],
    ['What it gives off lasts', { sources: [ball], dissipation: { density: 0.01 } }, {}],
    ['It is thick enough to be seen', { sources: [ball] }, { look: { medium: { density: 0 } } }],
    [
      'The camera looks at the domain',
      { sources: [ball] },
      { look: { camera: { eye: [0, 1, 5], target: [0, 1, 9] } } },
    ],
    [
      'Nothing stands in front of it',
      { sources: [ball], obstacles: [wall] },
      { look: { camera: { eye: [0, 1, 8], target: [0, 1, 0] } } },
    ],
    [
      undefined,
      { sources: [ball], obstacles: [wall] },
      { look: { camera: { eye: [0, 1, 8], target: [0, 1, 0] }, solids: { seen: 'unseen' } } },
    ],
    [
      'Some light shines',
      { sources: [ball] },
      { look: { sky: { colour: [0, 0, 0] }, lights: [{ id: 'o', on: false }] } },
    ],
    [undefined, { sources: [ball] }, {}],
  ])('%s', (name, parts, more) => {
    expect(missing(parts, more)).toBe(name);
  });
  test('what has left is told as well', () => {
    expect(
      missing(
        { space: { sides: ALL_OPEN }, sources: [{ ...ball, until: 1 }], wind: { speed: 30, grip: 0.02 } },
        { frames: 20 },
      ),
    ).toBe('There is medium at this frame');
  });
});

test('readings as a table: a row a frame, forces as columns, the same numbers', () => {
  const s = simulate(
    recipeOf({
      space: { sides: ALL_OPEN },
      sources: [ball],
      wind: { speed: 1 },
      currents: [{ id: 'j, k', does: 'jet', from: 2 }],
    }),
  );
  const frames = [1, 2, 3].map((frame) => ({ frame, readings: s.advanceFrame().readings }));
  const [head, ...rows] = readingsCsv(frames)
    .trim()
    .split('\n')
    .map((line) => line.split(/,(?=(?:[^"]*"[^"]*")*[^"]*$)/));
  expect(rows).toHaveLength(3);
  for (const row of rows) expect(row).toHaveLength(head.length);
  expect(head.slice(0, 2)).toEqual(['frame', 'mass']);
  expect(head.slice(-2)).toEqual(['force wind m/s²', '"force currents/j, k m/s²"']);
  expect(Number(rows[2][1])).toBe(frames[2].readings.mass);
  expect(rows.map((r) => r[0])).toEqual(['1', '2', '3']);
  expect(Number(rows[1][head.length - 2])).toBe(frames[1].readings.forces!.wind);
  expect(readingsCsv([])).toBe('frame\n');
});

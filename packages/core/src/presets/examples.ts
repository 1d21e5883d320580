// Whole recipes that ship: the starting points of the command line and of the demo production.
import { CoreError } from '../base/error';
import { parseRecipe } from '../recipe/recipe';
import type { Recipe } from '../recipe/types';
import { startFrom, STARTING_POINTS } from './starting-points';

const RAW: Record<string, object> = {
  'weir-at-dawn': {
    name: 'Weir at dawn',
    space: {
      size: [4.8, 2.0, 2.4],
      corner: [-2.4, 0, -1.2],
      voxelSize: 0.05,
      sides: { floor: 'wall', top: 'open', left: 'wall', right: 'open', back: 'wall', front: 'wall' },
      lastFrame: 120,
    },
    sources: [
      {
        id: 'lip',
        name: 'Weir lip',
        shape: 'box',
        centre: [-1.45, 1.12, 0],
        size: [1.1, 0.16, 1.9],
        density: { amount: 1.1 },
        temperature: { amount: -11 },
        until: 100000,
      },
    ],
    obstacles: [
      { id: 'sill', name: 'Sill and leat', shape: 'box', centre: [-1.6, 0.5, 0], size: [1.6, 1.0, 2.6] },
    ],
    buoyancy: { lift: 0.033, weight: 0.35 },
    wind: { speed: 0.3, heading: 0, grip: 2.5, gust: 0.4, gustLength: 1.4, seed: 7 },
    turbulence: { strength: 0.28, size: 0.55, octaves: 3, roughness: 0.6, period: 2.5, seed: 4 },
    vorticity: { strength: 0.08 },
    dissipation: { density: 6, temperature: 5 },
  },
  'sack-drop': {
    name: 'Sack drop',
    space: { size: [3.2, 1.6, 2.4], corner: [-1.6, 0, -1.2], voxelSize: 0.04, lastFrame: 96 },
    sources: [
      {
        id: 'burst',
        name: 'Burst from under the sack',
        shape: 'box',
        centre: [0, 0.05, 0],
        size: [0.62, 0.08, 0.42],
        density: { amount: 60 },
        temperature: { how: 'none' },
        from: 13,
        until: 15,
        push: {
          how: 'raise',
          mode: 'point',
          point: [0, -0.04, 0],
          speed: 4.2,
          spread: 30,
          vary: 60,
          lump: 0.09,
        },
      },
      {
        id: 'seam',
        name: 'Flour from the seam',
        shape: 'path',
        centre: [0, 0.42, 0],
        radius: 0.035,
        density: { amount: 9 },
        points: [
          [-0.28, 0, 0.1],
          [0, 0.03, 0.16],
          [0.28, 0, 0.1],
        ],
        temperature: { how: 'none' },
        from: 13,
        until: 40,
        push: { how: 'blend', mode: 'along', direction: [0, 0.6, 1], speed: 0.8, spread: 35, lump: 0.06 },
      },
      {
        id: 'tails',
        name: 'Tails behind the crumbs',
        shape: 'particles',
        particles: 'crumbs',
        swell: 4.5,
        endAmount: 0,
        density: { amount: 7 },
        temperature: { how: 'none' },
        push: { how: 'blend', mode: 'motion', speed: 0.4 },
        within: 0.1,
        from: 13,
        until: 44,
      },
    ],
    particles: [
      {
        id: 'crumbs',
        name: 'Crumbs of flour',
        born: 'burst',
        count: 420,
        from: 13,
        until: 15,
        shape: 'disc',
        centre: [0, 0.05, 0],
        radius: 0.34,
        size: [0.1, 0.06, 0.1],
        aim: 'outward',
        spread: 38,
        speed: 2.8,
        vary: 60,
        life: 1.8,
        lifeVary: 40,
        ball: 0.014,
        ballVary: 50,
        drag: 0.6,
        bounce: 25,
        seed: 4,
      },
    ],
    patterns: [
      {
        id: 'clumps',
        name: 'Clumps',
        source: 'burst',
        noise: 'billow',
        size: 0.12,
        period: 0.2,
        contrast: 3,
        seed: 5,
      },
    ],
    obstacles: [
      {
        id: 'sack',
        name: 'Sack',
        shape: 'box',
        centre: [0, 1.5, 0],
        size: [0.6, 0.34, 0.4],
        turn: [0, 0, 6],
        stick: 0.3,
      },
      {
        id: 'plank',
        name: 'Loose plank',
        shape: 'box',
        centre: [0.95, 0.03, 0.2],
        size: [0.9, 0.06, 0.22],
        turn: [0, 24, 0],
      },
    ],
    curves: [
      {
        id: 'fall',
        path: 'obstacles/sack/centre.1',
        keys: [
          { frame: 1, value: 1.5, ease: 'slow start' },
          { frame: 13, value: 0.26, ease: 'even' },
          { frame: 15, value: 0.2, ease: 'slow end' },
          { frame: 19, value: 0.23, ease: 'smooth' },
        ],
      },
      {
        id: 'tilt',
        path: 'obstacles/sack/turn.2',
        keys: [
          { frame: 1, value: 6, ease: 'even' },
          { frame: 13, value: 0, ease: 'even' },
        ],
      },
    ],
    buoyancy: { lift: 0, weight: 0.5 },
    turbulence: { strength: 0.5, size: 0.35, octaves: 3, roughness: 0.6, period: 1.5, seed: 3 },
    vorticity: { strength: 0.15 },
    dissipation: { density: 5, temperature: 0 },
  },
  'ice-cellar': {
    name: 'Ice cellar',
    space: {
      size: [3.6, 2, 2],
      corner: [-1.8, 0, -1],
      voxelSize: 0.04,
      lastFrame: 120,
      sides: { floor: 'wall', top: 'open', left: 'wall', right: 'open', back: 'wall', front: 'wall' },
    },
    files: [{ id: 'steps', name: 'cellar_steps.obj' }],
    sources: [
      {
        id: 'hatch',
        name: 'Vapour at the hatch',
        shape: 'box',
        centre: [-1.5, 1.38, 0],
        size: [0.5, 0.24, 1.3],
        density: { amount: 3 },
        temperature: { amount: -34 },
        push: { how: 'blend', mode: 'along', direction: [1, 0, 0], speed: 0.8 },
      },
    ],
    patterns: [
      {
        id: 'billows',
        name: 'Billows',
        source: 'hatch',
        noise: 'billow',
        size: 0.25,
        period: 1.2,
        contrast: 2,
        strength: 80,
      },
    ],
    obstacles: [
      {
        id: 'stair',
        name: 'Hatch and three steps',
        shape: 'mesh',
        file: 'steps',
        centre: [0, 0, 0],
        stick: 0.2,
      },
    ],
    buoyancy: { lift: 0.033, weight: 0.5 },
    turbulence: { strength: 0.2, size: 0.4, octaves: 3, roughness: 0.6, period: 2, seed: 9 },
    vorticity: { strength: 0.1 },
    dissipation: { density: 9, temperature: 14 },
    method: { density: 'kept' },
  },
  quill: {
    name: 'Quill',
    space: {
      size: [0.32, 0.4, 0.32],
      corner: [-0.16, 0, -0.16],
      voxelSize: 0.005,
      lastFrame: 120,
      sides: { floor: 'wall', top: 'open', left: 'wall', right: 'wall', back: 'wall', front: 'wall' },
    },
    sources: [
      {
        id: 'dark',
        name: 'Dark ink',
        shape: 'sphere',
        centre: [-0.035, 0.34, 0],
        radius: 0.018,
        density: { amount: 70 },
        until: 40,
        temperature: { how: 'none' },
        colour: { amount: [0.05, 0.06, 0.32] },
        push: { how: 'raise', mode: 'along', direction: [0.12, -1, 0.05], speed: 0.16 },
      },
      {
        id: 'red',
        name: 'Red ink',
        shape: 'sphere',
        centre: [0.04, 0.34, 0.01],
        radius: 0.015,
        density: { amount: 70 },
        from: 9,
        until: 55,
        temperature: { how: 'none' },
        colour: { amount: [0.55, 0.03, 0.04] },
        push: { how: 'raise', mode: 'along', direction: [-0.15, -1, 0], speed: 0.13 },
      },
    ],
    obstacles: [
      {
        id: 'tank',
        name: 'Glass tank',
        shape: 'cylinder',
        facing: 'vessel',
        centre: [0, 0.2, 0],
        radius: 0.14,
        size: [0.28, 0.44, 0.28],
        stick: 0.4,
      },
    ],
    buoyancy: { lift: 0, weight: 0.016 },
    turbulence: { strength: 0.03, size: 0.06, octaves: 2, roughness: 0.6, period: 2, seed: 2 },
    dissipation: { density: 0, temperature: 0 },
    keep: { colour: true, temperature: false },
  },
  'drying-kiln': {
    name: 'Drying kiln',
    space: {
      size: [6.4, 3.6, 2.8],
      corner: [-2.2, 0, -1.4],
      voxelSize: 0.06,
      lastFrame: 144,
      sides: { floor: 'wall', top: 'open', left: 'open', right: 'open', back: 'open', front: 'open' },
    },
    sources: [
      {
        id: 'flue',
        name: 'Smoke at the flue',
        shape: 'disc',
        centre: [-0.75, 2.2, 0.1],
        radius: 0.15,
        size: [0.3, 0.14, 0.3],
        density: { amount: 15 },
        temperature: { amount: 9 },
        push: { how: 'blend', mode: 'along', direction: [0, 1, 0], speed: 1, vary: 25 },
      },
    ],
    patterns: [
      {
        id: 'puffs',
        name: 'Puffs',
        source: 'flue',
        noise: 'value',
        size: 0.3,
        period: 0.4,
        contrast: 2.2,
        strength: 75,
      },
    ],
    obstacles: [
      { id: 'kiln', name: 'Kiln', shape: 'box', centre: [0, 0.55, 0], size: [2.2, 1.1, 2] },
      {
        id: 'slates-left',
        name: 'Slates, windward',
        shape: 'box',
        centre: [-0.62, 1.35, 0],
        size: [1.62, 0.14, 2.3],
        turn: [0, 0, 38],
      },
      {
        id: 'slates-right',
        name: 'Slates, leeward',
        shape: 'box',
        centre: [0.62, 1.35, 0],
        size: [1.62, 0.14, 2.3],
        turn: [0, 0, -38],
      },
      {
        id: 'stack',
        name: 'Flue',
        shape: 'cylinder',
        centre: [-0.75, 1.6, 0.1],
        radius: 0.17,
        size: [0.34, 1.08, 0.34],
      },
      {
        id: 'rod',
        name: 'Rod',
        shape: 'cylinder',
        centre: [0.35, 2, 0.1],
        radius: 0.04,
        size: [0.1, 0.9, 0.1],
      },
      {
        id: 'cock',
        name: 'Weathercock',
        shape: 'box',
        centre: [0.35, 2.55, 0.1],
        size: [0.78, 0.46, 0.07],
        turn: [0, 20, 0],
        stick: 0.2,
      },
    ],
    regions: [
      {
        id: 'shelter',
        name: 'Shelter',
        shape: 'box',
        centre: [2.1, 0.85, 0],
        size: [1.9, 1.3, 2.2],
        turn: [0, 0, -14],
        soft: 0.5,
      },
    ],
    changes: [
      { id: 'calm', name: 'Wind: speed', region: 'shelter', path: 'wind/speed', how: 'times', amount: 0.1 },
      {
        id: 'no-gusts',
        name: 'Wind: gust',
        region: 'shelter',
        path: 'wind/gust',
        how: 'times',
        amount: 0.15,
      },
    ],
    curves: [
      {
        id: 'swing',
        path: 'obstacles/cock/turn.1',
        keys: [
          { frame: 1, value: 20, ease: 'smooth' },
          { frame: 26, value: -24, ease: 'smooth' },
          { frame: 44, value: -6, ease: 'smooth' },
          { frame: 70, value: 34, ease: 'smooth' },
          { frame: 98, value: -30, ease: 'smooth' },
          { frame: 122, value: 8, ease: 'smooth' },
          { frame: 144, value: 20, ease: 'smooth' },
        ],
        after: 'loop',
      },
      {
        id: 'veer',
        path: 'wind/heading',
        keys: [
          { frame: 1, value: -6, ease: 'smooth' },
          { frame: 34, value: 10, ease: 'smooth' },
          { frame: 78, value: -12, ease: 'smooth' },
          { frame: 110, value: 12, ease: 'smooth' },
          { frame: 144, value: -6, ease: 'smooth' },
        ],
      },
    ],
    buoyancy: { lift: 0.0335, weight: 0.0082 },
    wind: { speed: 1, heading: 0, rise: 4, grip: 0.7, gust: 0.7, gustLength: 1.3, seed: 21 },
    turbulence: { strength: 0.9, size: 0.5, octaves: 3, roughness: 0.65, period: 1.3, seed: 11 },
    vorticity: { strength: 0.35 },
    dissipation: { density: 7, temperature: 2 },
  },
  'warm-plume': {
    name: 'Warm plume',
    space: { size: [2, 3.2, 2], corner: [-1, 0, -1], voxelSize: 0.05 },
    sources: [
      {
        id: 'vent',
        name: 'Vent',
        shape: 'sphere',
        centre: [0, 0.35, 0],
        radius: 0.22,
        density: { amount: 4 },
        temperature: { amount: 40 },
      },
    ],
    buoyancy: { lift: 0.033, weight: 0.1 },
    vorticity: { strength: 0.4 },
  },
};

/**
 * Other tries on the shots above, each from the one before, or from the first: what it tries, and the parts
 * of the recipe that differ.
 */
export const TRIES: Readonly<
  Record<string, readonly { readonly note: string; readonly ofFirst?: boolean; readonly parts: object }[]>
> = {
  'weir-at-dawn': [
    {
      note: 'spray off the fall turns to mist',
      parts: {
        files: [{ id: 'spray', name: 'weir_spray.zip' }],
        particles: [
          {
            id: 'drops',
            name: 'Spray off the fall',
            born: 'file',
            sequence: 'spray',
            ball: 0.05,
            pick: { slowest: 0.8, lowest: 0.06, most: 30, near: 0.08 },
          },
        ],
        sources: [
          ...(RAW['weir-at-dawn'] as { sources: object[] }).sources,
          {
            id: 'haze',
            name: 'Mist off the spray',
            shape: 'particles',
            particles: 'drops',
            swell: 16,
            density: { amount: 2.2 },
            temperature: { amount: -4 },
            push: { how: 'raise', mode: 'motion', speed: 0.4 },
          },
        ],
      },
    },
    {
      ofFirst: true,
      note: 'still air under the lip, so that it pools',
      parts: {
        regions: [
          {
            id: 'pool',
            name: 'Pool',
            shape: 'box',
            centre: [0.1, 0.35, 0],
            size: [1.6, 0.7, 2.4],
            soft: 0.4,
          },
        ],
        changes: [
          { id: 'calm', name: 'Wind: speed', region: 'pool', path: 'wind/speed', how: 'times', amount: 0.1 },
          {
            id: 'soft',
            name: 'Turbulence: strength',
            region: 'pool',
            path: 'turbulence/strength',
            how: 'times',
            amount: 0.4,
          },
        ],
        formulas: [{ id: 'bounds', name: 'Keep within bounds', text: 'density = clamp(density, 0, 1.2)' }],
      },
    },
  ],
  'ice-cellar': [
    {
      note: 'whirls only where it is thin, above the steps it goes',
      parts: {
        regions: [
          {
            id: 'thin',
            name: 'Thin parts',
            shape: 'channel',
            channel: 'density',
            low: 0.02,
            high: 1.2,
            edge: [
              [0, 0],
              [0.12, 1],
              [0.5, 0.35],
              [1, 0],
            ],
          },
        ],
        turbulence: {
          strength: 0.5,
          size: 0.3,
          octaves: 3,
          roughness: 0.6,
          period: 1.6,
          seed: 9,
          where: 'thin',
        },
        formulas: [
          {
            id: 'above',
            name: 'Evaporate above',
            text: 'density *= 1 - smoothstep(1.3 * m, 1.9 * m, y) * step / (1 * s)',
          },
        ],
      },
    },
  ],
  quill: [
    {
      note: 'stirred once by a spoon that is not seen',
      parts: {
        currents: [
          {
            id: 'stir',
            name: 'Stir',
            does: 'spin',
            shape: 'cylinder',
            centre: [0, 0.2, 0],
            radius: 0.07,
            size: [0.1, 0.3, 0.1],
            soft: 0.05,
            turning: 110,
            within: 0.4,
            until: 60,
          },
        ],
        formulas: [
          {
            id: 'threads',
            name: 'Threads at the edge',
            when: 'pushed',
            from: 30,
            text:
              'edge = smoothstep(0, 0.4, density) * (1 - smoothstep(0.4, 2, density))\npush += ' +
              'curlnoise(position / 0.03, 2) * edge * 0.04 * m / s ** 2',
          },
        ],
      },
    },
  ],
  'drying-kiln': [
    {
      note: 'a small whirl carried by the weathercock',
      parts: {
        currents: [
          {
            id: 'tail',
            name: 'Tail of the cock',
            does: 'spin',
            shape: 'sphere',
            follows: 'cock',
            centre: [0.55, 0, 0],
            radius: 0.22,
            soft: 0.25,
            turning: 300,
            within: 0.2,
          },
        ],
      },
    },
  ],
};

export const EXAMPLES: readonly string[] = [...Object.keys(RAW), ...STARTING_POINTS.map((p) => p.key)];

/** @throws Error naming the examples where there is none of that name */
export function example(name: string): Recipe {
  const start = startFrom(name);
  if (start) return start.recipe;
  if (!Object.hasOwn(RAW, name))
    throw new CoreError('settings', `There is no example called ${name}. There are: ${EXAMPLES.join(', ')}.`);
  return parseRecipe(structuredClone(RAW[name]));
}

/** The other tries on a shot, in their order, as whole recipes. */
export function triesOf(name: string): { note: string; ofFirst: boolean; recipe: Recipe }[] {
  const first = example(name);
  let recipe = first;
  return (TRIES[name] ?? []).map(({ note, ofFirst = false, parts }) => {
    recipe = parseRecipe({ ...(ofFirst ? first : recipe), ...structuredClone(parts) });
    return { note, ofFirst, recipe };
  });
}

// What can be added to a recipe by name: parts with settings that make sense in a domain of its size.
import type { Triple } from '../math/vector';

/** Something that can be added by name. */
export interface Starter {
  readonly name: string;
  /** When to use it. */
  readonly when: string;
  /** Its settings, for a domain of that size; e is a comfortable edge in it, m. */
  readonly make: (e: number, middle: Triple, floor: Triple) => object;
}

export const STARTERS: Readonly<Record<CopiedList | 'patterns', readonly Starter[]>> = {
  sources: [
    {
      name: 'Puff',
      when: 'A ball in the air. The quickest start.',
      make: (e, middle) => ({ shape: 'sphere', centre: middle, radius: e }),
    },
    {
      name: 'Cold spill',
      when: 'A box that gives off cold, heavy vapour: dry ice, fog over a sill.',
      make: (e, middle) => ({
        shape: 'box',
        centre: middle,
        size: [2 * e, e / 2, 2 * e],
        density: { amount: 1.5 },
        temperature: { amount: -12 },
      }),
    },
    {
      name: 'Vent',
      when: 'A flat disc that blows warm air and medium upward: a flue, a grating.',
      make: (e, _m, floor) => ({
        shape: 'disc',
        centre: floor,
        radius: e,
        size: [e, e / 3, e],
        density: { amount: 4 },
        temperature: { amount: 30 },
        push: { how: 'blend', mode: 'along', speed: 1 },
      }),
    },
    {
      name: 'Burst',
      when: 'A ball that is thrown outward within a few frames: a sack that lands, a tap on a dusty thing.',
      make: (e, _m, floor) => ({
        shape: 'sphere',
        centre: floor,
        radius: e,
        density: { amount: 20 },
        temperature: { how: 'none' },
        until: 3,
        push: { how: 'raise', mode: 'normal', speed: 2, spread: 25, lump: e / 2 },
      }),
    },
    {
      name: 'Ring',
      when: 'A tube in a circle: a rim, a coil, the edge of a lid.',
      make: (e, middle) => ({ shape: 'ring', centre: middle, radius: e, tube: e / 5 }),
    },
    {
      name: 'Patch',
      when: 'A thin layer, flat: mist over water, dust on a floor.',
      make: (e, _m, floor) => ({ shape: 'plane', centre: floor, size: [4 * e, e / 4, 4 * e] }),
    },
    {
      name: 'Path',
      when: 'A tube along corners: a crack, a pipe that leaks, a pen that is drawn through ink.',
      make: (e, middle) => ({
        shape: 'path',
        centre: middle,
        radius: e / 4,
        points: [
          [-2 * e, 0, 0],
          [0, e, 0],
          [2 * e, 0, 0],
        ],
      }),
    },
    {
      name: 'Mesh',
      when: 'A mesh from a file: its inside, or a layer along its surface.',
      make: (_e, _m, floor) => ({ shape: 'mesh', centre: floor }),
    },
    {
      name: 'Volume',
      when: 'A volume from a file: the denser it is the more.',
      make: () => ({ shape: 'mesh', centre: [0, 0, 0], threshold: 0, softness: 1 }),
    },
    {
      name: 'Off particles',
      when: 'Each particle is a ball of the medium along its way: trails of dust, spray that mists.',
      make: () => ({ shape: 'particles', swell: 2, density: { amount: 4 }, temperature: { how: 'none' } }),
    },
    {
      name: 'Draught',
      when: 'Air only: pushes what is there and gives nothing off.',
      make: (e, middle) => ({
        shape: 'sphere',
        centre: middle,
        radius: e,
        density: { how: 'none' },
        temperature: { how: 'none' },
        push: { how: 'blend', mode: 'along', direction: [1, 0, 0], speed: 1 },
      }),
    },
  ],
  obstacles: [
    {
      name: 'Ground',
      when: 'All under a level is solid. Turn it for a slope.',
      make: (_e, _m, floor) => ({ shape: 'ground', centre: floor }),
    },
    {
      name: 'Block',
      when: 'A box: walls, steps, sills.',
      make: (e, _m, floor) => ({
        shape: 'box',
        centre: [floor[0], floor[1] + e, floor[2]],
        size: [2 * e, 2 * e, 2 * e],
      }),
    },
    {
      name: 'Ball',
      when: 'A sphere.',
      make: (e, middle) => ({ shape: 'sphere', centre: middle, radius: e }),
    },
    {
      name: 'Post',
      when: 'A cylinder: posts, pipes, barrels.',
      make: (e, _m, floor) => ({
        shape: 'cylinder',
        centre: [floor[0], floor[1] + 2 * e, floor[2]],
        radius: e / 2,
        size: [e, 4 * e, e],
      }),
    },
    {
      name: 'Hoop',
      when: 'A ring.',
      make: (e, middle) => ({ shape: 'ring', centre: middle, radius: e, tube: e / 4 }),
    },
    {
      name: 'Mesh',
      when: 'A mesh from a file.',
      make: (_e, _m, floor) => ({ shape: 'mesh', centre: floor }),
    },
    {
      name: 'Vessel',
      when: 'A box turned inside-out: a tank, a closed box inside the domain.',
      make: (e, middle) => ({ shape: 'box', facing: 'vessel', centre: middle, size: [5 * e, 5 * e, 5 * e] }),
    },
  ],
  particles: [
    {
      name: 'Throw',
      when: 'Many at once that fly apart: grains off a blow, splinters, spray.',
      make: (e, _m, floor) => ({
        born: 'burst',
        count: 600,
        until: 2,
        centre: floor,
        radius: e / 2,
        spread: 70,
        speed: 3,
        vary: 40,
        ball: e / 10,
        drag: 0.4,
      }),
    },
    {
      name: 'Stream',
      when: 'So many a second: a spout, a sieve, a grindstone.',
      make: (e, middle) => ({
        born: 'rate',
        rate: 400,
        centre: middle,
        radius: e / 3,
        spread: 15,
        ball: e / 12,
        drag: 0.3,
      }),
    },
    {
      name: 'Floating motes',
      when: 'Light ones that drift with the air and show how it goes.',
      make: (e, middle) => ({
        born: 'burst',
        count: 2000,
        until: 1,
        shape: 'box',
        centre: middle,
        size: [6 * e, 6 * e, 6 * e],
        speed: 0,
        ball: e / 30,
        gravity: 0,
        drag: 0.05,
        life: 0,
      }),
    },
    {
      name: 'Trails',
      when: 'Children that others leave behind along their way. Choose their parents.',
      make: (e) => ({
        born: 'children',
        rate: 40,
        speed: 0.1,
        spread: 180,
        inherit: 10,
        gravity: 0.5,
        drag: 0.1,
        life: 1,
        ball: e / 12,
      }),
    },
    {
      name: 'From a file',
      when: 'A sequence of PLY or CSV files that was made elsewhere.',
      make: (e) => ({ born: 'file', ball: e / 10 }),
    },
  ],
  currents: [
    {
      name: 'Air of a volume',
      when: 'The air follows the velocity of a volume from a file, where that is known.',
      make: () => ({ does: 'volume', centre: [0, 0, 0] }),
    },
    {
      name: 'Jet',
      when: 'A fan, a draught, a wind that blows in one place only.',
      make: (e, middle) => ({
        does: 'jet',
        shape: 'cylinder',
        centre: middle,
        radius: e,
        size: [e, 3 * e, e],
        soft: e / 2,
      }),
    },
    {
      name: 'Whirl',
      when: 'Spins the air about an axis: a stirred tank, chaff in a yard.',
      make: (e, middle) => ({
        does: 'spin',
        shape: 'cylinder',
        centre: middle,
        radius: 2 * e,
        size: [e, 6 * e, e],
        soft: e,
      }),
    },
    {
      name: 'Pull',
      when: 'Draws everything to a point, or with a negative pull drives it away.',
      make: (e, middle) => ({ does: 'point', shape: 'sphere', centre: middle, radius: 3 * e, soft: e }),
    },
    {
      name: 'Lee',
      when: 'Brings the air to rest: shelter behind a roof, a corner where mist gathers.',
      make: (e, middle) => ({
        does: 'still',
        shape: 'box',
        centre: middle,
        size: [3 * e, 3 * e, 3 * e],
        soft: e,
      }),
    },
    {
      name: 'Shear',
      when: 'Layers that slide over each other, which tears a plume into billows.',
      make: (e, middle) => ({
        does: 'shear',
        shape: 'box',
        centre: middle,
        size: [8 * e, 4 * e, 8 * e],
        direction: [1, 0, 0],
        soft: e,
      }),
    },
    {
      name: 'Path',
      when: 'Leads the air along corners that you set, turning about them as it goes.',
      make: (e, middle) => ({
        does: 'path',
        shape: 'path',
        centre: middle,
        radius: 1.5 * e,
        soft: e,
        turning: 0,
        points: [
          [-3 * e, -e, 0],
          [0, e, 0],
          [3 * e, 0, 0],
        ],
      }),
    },
    {
      name: 'Pipe',
      when:
        'Takes the air in at its first corner and blows it out at its ' +
        'last: a flue, a hose, an extractor.',
      make: (e, middle) => ({
        does: 'pipe',
        shape: 'path',
        centre: middle,
        radius: e / 2,
        soft: 0,
        speed: 2,
        mouth: 2 * e,
        points: [
          [-2 * e, -e, 0],
          [0, -e, 0],
          [0, 2 * e, 0],
        ],
      }),
    },
  ],
  regions: [
    {
      name: 'Place',
      when: 'A ball with a soft edge. Limit a force to it, or have a setting be another one inside.',
      make: (e, middle) => ({ shape: 'sphere', centre: middle, radius: 2 * e, soft: e }),
    },
    {
      name: 'Block of air',
      when: 'A box: a part of the domain, a doorway, the lee of a wall.',
      make: (e, middle) => ({ shape: 'box', centre: middle, size: [4 * e, 3 * e, 4 * e], soft: e }),
    },
    {
      name: 'Column',
      when: 'A cylinder: over a vent, in a shaft.',
      make: (e, middle) => ({
        shape: 'cylinder',
        centre: middle,
        radius: 1.5 * e,
        size: [e, 6 * e, e],
        soft: e / 2,
      }),
    },
    {
      name: 'Layer',
      when: 'All under a height; turned, all on one side of a plane.',
      make: (e, middle) => ({ shape: 'ground', centre: middle, soft: e }),
    },
    {
      name: 'Mesh',
      when: 'Inside a mesh from a file.',
      make: (_e, _m, floor) => ({ shape: 'mesh', centre: floor }),
    },
    {
      name: 'Lumps',
      when: 'Here and there, by noise: uneven ground, patchy wind.',
      make: (e) => ({ shape: 'noise', lumps: 3 * e }),
    },
    {
      name: 'Where the medium is',
      when: 'Wherever there is much of it. The curve says how it goes from thin to thick.',
      make: () => ({ shape: 'channel', channel: 'density', low: 0.02, high: 0.4 }),
    },
    {
      name: 'Where it is fast',
      when: 'Wherever the air goes faster than a speed.',
      make: () => ({ shape: 'channel', channel: 'speed', low: 0.3, high: 1 }),
    },
    {
      name: 'By a formula',
      when: 'Anywhere that arithmetic can say.',
      make: () => ({ shape: 'formula', low: 0, high: 1 }),
    },
  ],
  formulas: [
    {
      name: 'Keep within bounds',
      when: 'Density never above 1 or below 0.',
      make: () => ({ text: 'density = clamp(density, 0, 1)' }),
    },
    {
      name: 'Still clear air',
      when: 'Air without medium in it comes to rest: nothing far off stirs the shot.',
      make: () => ({ when: 'pushed', text: 'velocity *= smoothstep(0, 0.02, density)' }),
    },
    {
      name: 'Mix in noise',
      when: 'Thins the medium here and there as it goes, so that it does not stay smooth.',
      make: (e) => ({
        text: `lumps = noise(position / ${e}, time)\ndensity *= mix(1, lumps * 2, 0.4 * step / s)`,
      }),
    },
    {
      name: 'Whirls at the edge',
      when: 'Curl noise, pushed only where the medium is thin.',
      make: (e) => ({
        when: 'pushed',
        text:
          'edge = smoothstep(0, 0.1, density) * (1 - smoothstep(0.1, 0.6, density))\npush += ' +
          `curlnoise(position / ${2 * e}, 2) * edge * 1.5 * m / s ** 2`,
      }),
    },
    {
      name: 'Evaporate above',
      when: 'The medium goes over a height, within about a second.',
      make: (_e, middle) => ({
        text: `density *= 1 - smoothstep(${middle[1]} * m, ${round(2 * middle[1])} * m, y) * step / (1 * s)`,
      }),
    },
  ],
  patterns: [
    {
      name: 'Billows',
      when: 'Lumps with creases between them: mist, boiling vapour.',
      make: (e) => ({ noise: 'billow', size: e }),
    },
    { name: 'Soft noise', when: 'Thicker here, thinner there.', make: (e) => ({ noise: 'value', size: e }) },
    {
      name: 'Cells',
      when: 'Round spots apart from each other: vents, drops, holes.',
      make: (e) => ({ noise: 'cellular', size: e, low: 0.3 }),
    },
    {
      name: 'Picture',
      when: 'A picture laid on from above, as the amount or the colour.',
      make: (e) => ({ noise: 'picture', across: 4 * e }),
    },
  ],
};

export const round = (v: number): number => Number(v.toPrecision(3));

/**
 * Those whose parts are taken along as text with all that they need; patterns and changes go with what they
 * belong to.
 */
export type CopiedList = 'sources' | 'obstacles' | 'particles' | 'currents' | 'regions' | 'formulas';

// Formulas: what they work out, what they refuse and where they point, and hostile texts.
import { stateOf } from '@bramblemist/core/run/simulation';
import { readField } from '@bramblemist/core/grid/memory';
import { check, MOST_CHARACTERS } from '@bramblemist/core/formulas/check';
import { CALLS, VARIABLES, CONSTANTS, GIVEN, type Moment } from '@bramblemist/core/formulas/language';
import { divisor, nameOf } from '@bramblemist/core/formulas/units';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { gather } from '@bramblemist/core/step/forces/forces';
import { formulas } from '@bramblemist/core/step/formulas';
import { regions } from '@bramblemist/core/step/regions';
import type { Simulation } from '@bramblemist/core/run/simulation';
import { fill, fillVelocity } from './physics/kit';
import { ALL_OPEN, random, recipeOf, simulate } from './run';

const KEEP = { colour: true, age: true, deposit: true };
const density = (x: number, y: number, z: number): number => x + 2 * y - 0.5 * z;
const warmth = (x: number, y: number): number => 10 * x * y;
const air = (x: number, y: number, z: number): number[] => [y, -2 * z, 3 * x];

/** A run with known fields, after one formula; and where its cells are. */
function after(text: string, { when = 'end' as Moment, threads = 1, more = {} as object } = {}): Simulation {
  const s = simulate(
    recipeOf({
      space: { sides: ALL_OPEN },
      keep: { colour: true, age: true },
      formulas: [{ id: 'f', when, text }],
      ...more,
    }),
    threads,
  );
  fill(s, 'density', density);
  fill(s, 'temperature', warmth);
  fillVelocity(s, air);
  Object.assign(stateOf(s), { frame: 3, timeS: 0.5, dtS: 0.04 });
  regions(stateOf(s));
  if (when === 'pushed') gather(stateOf(s), 0.04);
  else formulas(stateOf(s), when);
  return s;
}

/** Every cell of a channel against a function of its place. */
function holds(
  s: Simulation,
  values: Float32Array,
  wanted: (x: number, y: number, z: number) => number,
  digits = 4,
): void {
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  let worst = 0;
  for (let k = 0, n = 0; k < l.nz; k++)
    for (let j = 0; j < l.ny; j++)
      for (let i = 0; i < l.nx; i++, n++) {
        const [x, y, z] = [i, j, k].map((c, a) => (c + 0.5 + origin[a]) * h);
        const w = wanted(x, y, z);
        worst = Math.max(worst, Math.abs(values[n] - w) / Math.max(1, Math.abs(w)));
      }

  expect(worst).toBeLessThan(0.5 * 10 ** -digits);
}

const clamp = (v: number, a: number, b: number): number => Math.min(b, Math.max(a, v));
const smooth = (a: number, b: number, v: number): number =>
  ((t) => t * t * (3 - 2 * t))(clamp((v - a) / (b - a), 0, 1));

describe('what a formula works out', () => {
  test.each<[string, (x: number, y: number, z: number) => number]>([
    ['density = clamp(density, 0, 1)', (...p) => clamp(density(...p), 0, 1)],
    ['density *= 0.5', (...p) => density(...p) / 2],
    ['density = density + 1 - 2 * 3 / 4 ** 2', (...p) => density(...p) + 1 - 6 / 16],
    ['density = -density % 0.3', (...p) => ((v) => v - 0.3 * Math.floor(v / 0.3))(-density(...p))],
    ['density = mix(0, 2, smoothstep(0.2 * m, 1.2 * m, y))', (_x, y) => 2 * smooth(0.2, 1.2, y)],
    ['density = min(x, y) / m + max(z / m, 0.1)', (x, y, z) => Math.min(x, y) + Math.max(z, 0.1)],
    [
      'density = abs(x / m) + sign(z) + floor(y / m) + fract(x / m)',
      (x, y, z) => Math.abs(x) + Math.sign(z) + Math.floor(y) + x - Math.floor(x),
    ],
    [
      'density = sqrt(y / m) + pow(y / m, 1.5) + exp(x / m) + log(y / m)',
      (x, y) => Math.sqrt(y) + y ** 1.5 + Math.exp(x) + Math.log(y),
    ],
    ['density = sin(2 * pi * x / m) + cos(y / m)', (x, y) => Math.sin(2 * Math.PI * x) + Math.cos(y)],
    ['density = y > 0.8 ? 1 : 0', (_x, y) => Number(y > 0.8)],
    ['density = x > 0 && z <= 0 || !(y < 0.5)', (x, y, z) => Number((x > 0 && z <= 0) || !(y < 0.5))],
    [
      'density = length(position) / m + dot(vec(1, 2, 3), position) / m',
      (x, y, z) => Math.hypot(x, y, z) + x + 2 * y + 3 * z,
    ],
    [
      'density = cross(vec(1, 0, 0), position / m).z + normalize(position).x',
      (x, y, z) => y + x / Math.hypot(x, y, z),
    ],
    ['density = speed / (m / s) + velocity.y * s / m', (x, y, z) => Math.hypot(y, 2 * z, 3 * x) - 2 * z],
    ['edge = 2 * density\nedge = edge + 1\ndensity = edge; density += 1', (...p) => 2 * density(...p) + 2],
    ['density = time / s + frame + step / s + voxel / m', () => 0.5 + 0.02 + 3 + 0.04 + 0.1],
    ['density = temperature / (2 * K)', (x, y) => warmth(x, y) / 2],
    ['density = m / (x - x) + 5', () => 5],
    ['density = sqrt(-1) + 2', () => 2],
  ])('%s', (text, wanted) => {
    const s = after(text);
    holds(s, s.read('density'), wanted, 3);
  });
  test('several channels at once, each from what was before it', () => {
    const s = after('temperature = density * K\ndensity = temperature / K + 1');
    holds(s, s.read('temperature'), density);
    holds(s, s.read('density'), (...p) => density(...p) + 1);
  });
  test('what has settled is read in metres, whatever the voxels', () => {
    const s = simulate(
      recipeOf({
        settling: { falls: 'speed', speed: 0.4 },
        formulas: [{ text: 'density = 3 * deposit / m' }],
      }),
    );
    // so many voxels of a tenth of a metre
    fill(s, 'deposit', (x) => 2 + x);
    Object.assign(stateOf(s), { frame: 3, timeS: 0.5, dtS: 0.04 });
    formulas(stateOf(s), 'end');
    holds(s, s.read('density'), (x) => 3 * 0.1 * (2 + x));
  });
  test('colour and age stay what they are where the density is changed', () => {
    const s = simulate(
      recipeOf({ keep: KEEP, formulas: [{ text: 'density = density * 3\nage = age + 1 * s' }] }),
    );
    fill(s, 'density', () => 0.5);
    fill(s, 'red', () => 0.5 * 0.25);
    fill(s, 'age', () => 0.5 * 2);
    Object.assign(stateOf(s), { frame: 1, dtS: 0.04 });
    formulas(stateOf(s), 'end');
    holds(s, s.read('density'), () => 1.5);
    holds(s, s.read('red'), () => 1.5 * 0.25);
    holds(s, s.read('age'), () => 1.5 * 3);
    const t = simulate(recipeOf({ keep: KEEP, formulas: [{ text: 'colour = vec(1, density, 0)' }] }));
    fill(t, 'density', () => 0.5);
    Object.assign(stateOf(t), { frame: 1, dtS: 0.04 });
    formulas(stateOf(t), 'end');
    holds(t, t.read('red'), () => 0.5);
    holds(t, t.read('green'), () => 0.25);
  });
  test('with the forces: a push, and a speed that the air then has', () => {
    const s = after('push += vec(0, 2, 0) * m / s ** 2 * density', { when: 'pushed' });
    holds(s, readField(s.threadPool.memory, s.layout.acceleration[1]), (...p) => 2 * density(...p));
    const t = after('velocity = vec(0, 0, 0)', { when: 'pushed' });
    // by as much as takes the air's speed within the substep
    holds(t, readField(t.threadPool.memory, t.layout.acceleration[0]), (_x, y) => -y / 0.04, 3);
  });
  test('noise has a value of its own everywhere and its seed; curl noise has no sources', () => {
    const values = (text: string): Float32Array => after(text).read('density');
    const a = values('density = noise(position / 0.3)');
    const b = values('density = noise(position / 0.3, 0, 2)');
    const c = values('density = noise(position / 0.3, 7.5)');
    expect(Math.min(...a)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...a)).toBeLessThanOrEqual(1);
    expect(Math.max(...a) - Math.min(...a)).toBeGreaterThan(0.5);
    expect(a).not.toEqual(b);
    expect(a).not.toEqual(c);
    expect(values('density = noise(position / 0.3)')).toEqual(a);
    const curl = (axis: string): Float32Array => values(`density = curlnoise(position / 0.8, 2, 3).${axis}`);
    const [x, y, z] = ['x', 'y', 'z'].map(curl);
    const n = 16;
    const at = (f: Float32Array, i: number, j: number, k: number): number => f[(k * n + j) * n + i];
    let sources = 0;
    let turns = 0;
    for (let k = 1; k < 15; k++)
      for (let j = 1; j < 15; j++)
        for (let i = 1; i < 15; i++) {
          const dx = at(x, i + 1, j, k) - at(x, i - 1, j, k);
          const dy = at(y, i, j + 1, k) - at(y, i, j - 1, k);
          const dz = at(z, i, j, k + 1) - at(z, i, j, k - 1);
          sources += (dx + dy + dz) ** 2;
          turns += dx ** 2 + dy ** 2 + dz ** 2;
        }

    expect(Math.sqrt(sources / turns)).toBeLessThan(0.12);
  });
  test('noise four at a time is that of one at a time', () => {
    const unit = (x: number, y: number, z: number, t: number, seed: number): number => {
      let h =
        Math.imul(x, 0x8da6b343) ^
        Math.imul(y, 0xd8163841) ^
        Math.imul(z, 0xcb1ab31f) ^
        Math.imul(t, 0x6c8e9cf5) ^
        Math.imul(seed, 0x9e3779b9);
      h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
      h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
      return ((h ^ (h >>> 15)) >>> 8) / 16777216;
    };

    const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10);
    const at = (p: number[], t: number, seed: number): number => {
      const b = p.map(Math.floor);
      const f = p.map((v, a) => fade(v - b[a]));
      let sum = 0;
      for (let c = 0; c < 8; c++) {
        const o = [c & 1, (c >> 1) & 1, c >> 2];
        sum +=
          o.reduce((w, s, a) => w * (s ? f[a] : 1 - f[a]), 1) *
          unit(b[0] + o[0], b[1] + o[1], b[2] + o[2], t, seed);
      }

      return sum;
    };

    const s = after('density = noise(position / 0.3, x / (0.5 * m), 7)');
    holds(
      s,
      s.read('density'),
      (x, y, z) => {
        const p = [x, y, z].map((v) => v / 0.3);
        const t = x / 0.5;
        const T = Math.floor(t);
        const f = fade(t - T);
        return at(p, T, 7) * (1 - f) + at(p, T + 1, 7) * f;
      },
      3,
    );
  });
  test('only in its region and its frames, fading with the edge', () => {
    const region = { id: 'r', shape: 'ground', centre: [0, 0.8, 0], soft: 0.4 };
    const s = simulate(
      recipeOf({ regions: [region], formulas: [{ text: 'density = 1', where: 'r', from: 2 }] }),
    );
    Object.assign(stateOf(s), { frame: 1, dtS: 0.04 });
    regions(stateOf(s));
    formulas(stateOf(s), 'end');
    expect(Math.max(...s.read('density'))).toBe(0);
    stateOf(s).frame = 2;
    formulas(stateOf(s), 'end');
    const column = Array.from({ length: 16 }, (_, j) => s.read('density')[(8 * 16 + j) * 16 + 8]);
    expect(column.slice(0, 7)).toEqual(Array(7).fill(1));
    expect(column.slice(13)).toEqual([0, 0, 0]);
    for (let j = 8; j < 12; j++) expect(column[j]).toBeLessThan(column[j - 1]);
  });
  test('the same bits by one worker and by three', () => {
    const text = 'density = noise(position / 0.2, time) + curlnoise(position / 0.4, 2).y + sin(x / m) ** 2';
    const sums = [1, 3].map((threads) => {
      const s = after(text, { threads });
      const sum = s.checksum();
      s.threadPool.close();
      return sum;
    });
    expect(sums[0]).toBe(sums[1]);
  });
  test('nothing is written into obstacles', () => {
    const s = after('density = 1', {
      more: { obstacles: [{ id: 'o', shape: 'box', centre: [0, 0.8, 0], size: [0.6, 0.6, 0.6] }] },
    });
    expect(s.read('density')[(8 * 16 + 8) * 16 + 8]).toBe(0);
    expect(s.read('density')[0]).toBe(1);
  });
});

describe('what it refuses, and where it points', () => {
  const fault = (text: string, moment: Moment | null = 'pushed', keep = KEEP): string => {
    const r = check(text, { moment, keep });
    if (r.ok) return 'ok';
    expect(r.fault.from).toBeGreaterThanOrEqual(0);
    expect(r.fault.to).toBeGreaterThanOrEqual(r.fault.from);
    expect(r.fault.to).toBeLessThanOrEqual(text.length);
    return `${text.slice(r.fault.from, r.fault.to)} | ${r.fault.message}`;
  };

  test.each([
    ['density = densty * 2', /^densty \| .*Did you mean density\?/],
    [
      'density = smothstep(0, 1, density)',
      /^smothstep \| There is no function smothstep. Did you mean smoothstep\?/,
    ],
    ['dnsity = 2', /It writes no channel: begin a line with density, temperature/],
    ['density = clamp(density, 0)', /^clamp\(density, 0\) \| It is clamp\(a, low, high\); here are 2 values/],
    ['density = temperature', /^temperature \| density is a plain number, this is in K: divide by K/],
    ['density = y', /divide by m/],
    ['velocity = push', /multiply by s/],
    ['density = x + time', /in m and in s do not go together/],
    ['density = position', /density is one number, this is a vector/],
    ['push = 3', /^3 \| push is a vector: vec\(x, y, z\)/],
    ['density = 2 ^ 3', /For powers use \*\*/],
    ['density = density +', /ends too early/],
    ['density = (density', /ends too early/],
    ['density = density) + 1', /^\) \| “\)” is not expected here/],
    ['density = 3²', /use \*\* for powers/],
    ['density = "x"', /Only numbers and names/],
    ['density = x => x', /Only arithmetic/],
    ['density = this', /Only arithmetic/],
    ['density = density.x', /This is one number and has no \.x/],
    ['density = velocity.w', /Only \.x, \.y and \.z/],
    ['density = velocity["x"]', /Only \.x, \.y and \.z/],
    ['time = 3', /time is given and cannot be written/],
    ['velocity.x = 1', /Write all of a vector at once/],
    ['density <<= 1', /“<<=” cannot be used/],
    ['density = density & 1', /“&” cannot be used/],
    ['density', /This line changes nothing/],
    ['let a = 1', /Only lines like/],
    ['for (;;) density = 1', /Only lines like/],
    ['density = a = 2', /Only one = a line/],
    ['density = noise(time)', /A vector is wanted/],
    ['density = curlnoise(position, time).x', /the same everywhere and at all times/],
    ['density = exp(y)', /A plain number is wanted here, this is in m: divide by m/],
    ['density = clamp', /it is a function, clamp\(a, low, high\)/],
    ['', /is empty/],
  ])('%s', (text, wanted) => {
    expect(fault(text)).toMatch(wanted);
  });
  test('what can be written and read depends on the moment and on what is kept', () => {
    expect(fault('velocity = vec(0, 0, 0)', 'end')).toMatch(/velocity can be written with the forces only/);
    expect(fault('density = push.x / (m / s ** 2)', 'end')).toMatch(/push is there with the forces only/);
    expect(fault('age = 0', 'end', { ...KEEP, age: false })).toMatch(
      /does not carry age: turn it on under Keep/,
    );
    expect(fault('density = deposit / m', 'end', { ...KEEP, deposit: false })).toMatch(
      /Nothing settles and lies in this run/,
    );
    expect(fault('deposit = 0 * m', 'end')).toMatch(/deposit is given and cannot be written/);
    expect(fault('density = deposit', 'end')).toMatch(/m/);
    expect(fault('density = 1', null)).toMatch(/Nothing can be written here/);
    expect(fault('y', null)).toMatch(/A plain number is wanted here, this is in m: divide by m/);
    expect(fault('position / m', null)).toMatch(/One number is wanted/);
    expect(fault('smoothstep(0, 1, density)', null)).toBe('ok');
  });
  test('a recipe says which formula it is and at which character', () => {
    expect(() => parseRecipe({ formulas: [{ text: 'density = densty' }] })).toThrow(
      /formulas\[0\].text: character 11: .*Did you mean density/,
    );
    expect(() => parseRecipe({ formulas: [{ text: 'density = densty', on: false }] })).not.toThrow();
    expect(() => parseRecipe({ regions: [{ shape: 'formula', text: 'y' }] })).toThrow(
      /regions\[0\].text: character 1:/,
    );
  });
  test('units are named as people write them', () => {
    expect([
      nameOf([1, -2, 0]),
      nameOf([0, 0, 1]),
      nameOf([0, -1, 0]),
      nameOf([0, 0, 0]),
      nameOf([3, 0, -1]),
    ]).toEqual(['m/s²', 'K', '1/s', 'a plain number', 'm³/K']);
    expect(divisor([2, 0, 0], [0, 0, 0])).toBe('divide by m ** 2');
    expect(divisor([1, -1, 0], [0, 0, 0])).toBeNull();
  });
  test('every word of the language is known to the check', () => {
    for (const c of CALLS) {
      const given = c.usage
        .replace(/^\w+\(|\)$/g, '')
        .split(', ')
        .slice(0, c.least)
        .map((a) => (/^(v|w|place)$/.test(a) ? 'vec(1, 2, 3)' : '1'));
      const one = `${c.name}(${given.join(', ')})`;
      const value = /^(vec|normalize|cross|curlnoise)$/.test(c.name) ? `length(${one})` : one;
      expect([c.name, fault(`density = ${value}`)]).toEqual([c.name, 'ok']);
    }

    for (const w of [...VARIABLES, ...GIVEN, ...CONSTANTS])
      expect([w.name, fault(`a = ${w.name}\ndensity = 1`)]).toEqual([w.name, 'ok']);
  });
});

describe('hostile texts', () => {
  const hard = (text: string): string => {
    const r = check(text, { moment: 'end', keep: KEEP });
    return r.ok ? 'ok' : r.fault.message;
  };

  test.each([
    ['brackets', `density = ${'('.repeat(500)}1${')'.repeat(500)}`],
    ['signs', `density = ${'-'.repeat(900)}1`],
    ['nots', `density = ${'!'.repeat(900)}1`],
    ['powers', `density = ${'2 ** '.repeat(300)}2`],
    ['choices', `density = ${'1 ? '.repeat(300)}1${' : 1'.repeat(300)}`],
    ['calls', `density = ${'abs('.repeat(300)}1${')'.repeat(300)}`],
    ['lists', `density = ${'['.repeat(400)}`],
    ['equals', `${'density = '.repeat(150)}1`],
    ['length', `density = ${'1 + '.repeat(2000)}1`],
    ['an endless loop', 'while (true) {}'],
    ['a program', 'density = (() => { for (;;); })()'],
    ['a way out', 'density = constructor.constructor("return process")()'],
    ['a tag', 'density = `${1}`'],
    ['an import', 'import("fs")'],
    ['a template', 'density = x`a`'],
    ['zero bytes', 'density = \u0000'],
  ])('%s', (_, text) => {
    expect(hard(text)).not.toBe('ok');
  });
  test('very many steps are too many', () => {
    const text = Array.from({ length: 90 }, (_, n) => `density += sin(x * ${n + 2} / m)`)
      .join('\n')
      .slice(0, MOST_CHARACTERS);
    expect(hard(`${text.slice(0, text.lastIndexOf('\n'))}`)).toMatch(/ok|more than 500 steps/);
    const wide = Array.from({ length: 60 }, (_, n) => `a${n}=cross(vec(x,y,z)*${n + 2},velocity)`).join('\n');
    expect(hard(`${wide.slice(0, 1900).replace(/\n[^\n]*$/, '')}\ndensity=1`)).toMatch(/more than 500 steps/);
  });
  test('ten thousand random texts give a result or a clear fault', () => {
    const next = random(2026);
    const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)];
    const words = [...VARIABLES, ...GIVEN, ...CONSTANTS, ...CALLS].map((w) => w.name);
    const marks = [
      '+',
      '-',
      '*',
      '/',
      '**',
      '%',
      '(',
      ')',
      ',',
      '=',
      '==',
      '<',
      '>',
      '?',
      ':',
      '&&',
      '||',
      '!',
      '.x',
      '.y',
      ';',
      '\n',
      '1',
      '0.5',
      '1e9',
      '"',
      '`',
      '[',
      ']',
      '{',
      '}',
      '=>',
      '\\',
      '#',
      '…',
      '²',
      'if',
      'new',
      'this',
      '/*',
      '//',
    ];
    const list = (one: () => string): string =>
      Array.from({ length: 1 + Math.floor(next() * 3) }, one).join(', ');
    const arithmetic = (deep: number): string =>
      deep === 0 || next() < 0.3
        ? pick([...words.slice(0, 20), '1', '0.25', 'm', 's'])
        : pick([
            () =>
              `${arithmetic(deep - 1)} ${pick(['+', '-', '*', '/', '%', '<', '>'])} ${arithmetic(deep - 1)}`,
            () => `(${arithmetic(deep - 1)})`,
            () => `${pick(CALLS).name}(${list(() => arithmetic(deep - 1))})`,
            () => `${arithmetic(deep - 1)}.${pick(['x', 'y', 'z'])}`,
          ])();
    let good = 0;
    const kept: string[] = [];
    for (let n = 0; n < 10_000; n++) {
      const text =
        n % 2
          ? `density = ${arithmetic(4)}`
          : Array.from({ length: 1 + Math.floor(next() * 14) }, () =>
              next() < 0.5 ? pick(words) : pick(marks),
            ).join(pick(['', ' ']));
      const r = check(text, { moment: pick(['given', 'pushed', 'end', null] as const), keep: KEEP });
      if (r.ok) {
        good++;
        if (r.checked.writes.some((w) => w.field === 'density')) kept.push(text);
      } else expect(r.fault.message.length).toBeGreaterThan(8);
    }

    expect(good).toBeGreaterThan(200);
    // those that are well formed run too, and leave numbers behind
    for (const text of kept.filter((_, n) => n % 40 === 0)) {
      const r = check(text, { moment: 'end', keep: KEEP });
      if (!r.ok) continue;
      const values = after(text).read('density');
      expect([text, values.every((v) => !Number.isNaN(v))]).toEqual([text, true]);
    }
  });
});

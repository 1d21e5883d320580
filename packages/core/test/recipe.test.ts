import { COMBINE } from '@bramblemist/core/combine/combine';
import { LOOK } from '@bramblemist/core/look/look';
import { canonicalText, DocumentError } from '@bramblemist/core/recipe/document';
import { example, EXAMPLES } from '@bramblemist/core/presets/examples';
import { differences, getAt, setAt } from '@bramblemist/core/recipe/paths';
import { parseRecipe, RECIPE } from '@bramblemist/core/recipe/recipe';

function faults(data: unknown): Record<string, string> {
  try {
    parseRecipe(data);
  } catch (error) {
    if (error instanceof DocumentError)
      return Object.fromEntries(error.faults.map((f) => [f.path, f.message]));
    throw error;
  }

  return {};
}

describe('recipes', () => {
  test('left-out settings get their defaults, and a recipe read again is the same', () => {
    const recipe = parseRecipe({ name: 'A', sources: [{ radius: 0.5 }] });
    expect(recipe.space.voxelSize).toBe(0.05);
    expect(recipe.sources[0]).toMatchObject({ radius: 0.5, shape: 'sphere', on: true });
    expect(parseRecipe(JSON.parse(JSON.stringify(recipe)))).toEqual(recipe);
  });
  test('every wrong place is named with its path and what it should be', () => {
    const found = faults({
      name: 'A',
      space: { voxelSize: -1, size: [1, 2], sides: { top: 'glass' } },
      sources: [{ expansion: 'much' }, { from: 1.5 }],
      wind: { speed: NaN },
    });
    expect(found['space.voxelSize']).toMatch(/at least 0.001 m/);
    expect(found['space.size']).toMatch(/list of 3 numbers/);
    expect(found['space.sides.top']).toMatch(/open, wall/);
    expect(found['sources[0].expansion']).toMatch(/must be a number in 1\/s/);
    expect(found['sources[1].from']).toMatch(/whole number/);
    expect(found['wind.speed']).toBeDefined();
  });
  test('settings and parts that do not exist are refused', () => {
    expect(JSON.stringify(faults({ name: 'A', wind: { sped: 3 } }))).toMatch(/sped/);
    expect(JSON.stringify(faults({ name: 'A', fire: {} }))).toMatch(/fire/);
  });
  test('settings that contradict each other are refused', () => {
    expect(faults({ space: { firstFrame: 10, lastFrame: 5 } })['space.lastFrame']).toMatch(/10/);
    expect(faults({ space: { substepsLeast: 9, substepsMost: 3 } })['space.substepsMost']).toMatch(/9/);
    expect(JSON.stringify(faults({ sources: [{ id: 'a' }, { id: 'a' }] }))).toMatch(/share the id a/);
  });
  test.each([null, 3, 'x', [], undefined])('%p is not a recipe', (data) => {
    expect(() => parseRecipe(data)).toThrow(DocumentError);
  });
  test('a newer version is refused with what to do', () => {
    expect(faults({ version: 99 }).version).toMatch(/newer program/);
  });
  test('equal recipes have equal texts whatever the order of their keys', () => {
    expect(canonicalText({ b: [1, { d: 1, c: 2 }], a: 1 })).toBe(
      canonicalText({ a: 1, b: [1, { c: 2, d: 1 }] }),
    );
  });
  test.each(EXAMPLES.map((e) => [e]))('the example %s is whole', (name) => {
    expect(parseRecipe(example(name))).toEqual(example(name));
  });
  test('an unknown example is refused by name', () => {
    expect(() => example('toString')).toThrow(/There are: weir-at-dawn/);
  });
});

describe.each([
  ['recipe', RECIPE],
  ['look', LOOK],
  ['combine', COMBINE],
] as const)('descriptions of a %s', (_name, kind) => {
  test('defaults lie in their ranges and pass their own check', () => {
    expect(() => (kind.parse as (d: unknown) => unknown)({ name: 'A' })).not.toThrow();
    for (const s of kind.parts.flatMap((p) => p.settings)) {
      if (s.kind !== 'number' && s.kind !== 'integer') continue;
      expect(s.default).toBeGreaterThanOrEqual(s.least);
      expect(s.default).toBeLessThanOrEqual(s.most);
      expect(s.doc).toMatch(/[.:]/);
    }
  });
  test('sentences speak only of settings that exist', () => {
    for (const p of kind.parts) {
      // a whole colour stands under the head of its three parts
      const paths = p.settings.flatMap((s) => [s.path, s.path.replace(/\.0$/, '')]);
      for (const [, path] of p.sentence.matchAll(/\{([^}]+)\}/g)) expect(paths).toContain(path);
      for (const [, path] of p.sentence.matchAll(/\[([^=]+)=/g))
        expect(p.settings.map((s) => s.path)).toContain(path);
    }
  });
  test('the JSON Schema has each setting with its range', () => {
    const schema = kind.jsonSchema() as { properties: Record<string, unknown> };
    for (const p of kind.parts) expect(schema.properties[p.key]).toBeDefined();
  });
});

describe('paths', () => {
  test('a change leaves the original alone and shares the rest', () => {
    const before = { a: { b: [1, 2, 3] }, c: { d: 1 } };
    const after = setAt(before, 'a.b.1', 9);
    expect(after).toEqual({ a: { b: [1, 9, 3] }, c: { d: 1 } });
    expect(before.a.b[1]).toBe(2);
    expect(after.c).toBe(before.c);
    expect(getAt(after, 'a.b.1')).toBe(9);
    expect(getAt(after, 'x.y')).toBeUndefined();
  });
  test('differences are told setting by setting', () => {
    expect(differences({ a: 1, b: { c: [1, 2] } }, { a: 1, b: { c: [1, 3], d: 4 } })).toEqual([
      { path: 'b.c.1', from: 2, to: 3 },
      { path: 'b.d', from: undefined, to: 4 },
    ]);
  });
});

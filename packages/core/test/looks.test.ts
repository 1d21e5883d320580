// Looks as things: presets, lights to begin with, text, the demo's own, and what differs between two.
import { volumeOf } from '@bramblemist/core/look/volume-of';
import { LOOK } from '@bramblemist/core/look/look';
import { exampleLook } from '@bramblemist/core/presets/examples';
import {
  LIGHT_STARTERS,
  lookText,
  MEDIUM_LOOKS,
  pastedLook,
  withLight,
} from '@bramblemist/core/presets/looks';
import { differencesTold } from '@bramblemist/core/recipe/tell';

const plain = LOOK.parse({});

test.each(LIGHT_STARTERS.map((s) => [s.name, s] as const))(
  'a light to begin with is whole: %s',
  (_, starter) => {
    const look = LOOK.parse(withLight(plain, starter, 'new'));
    expect(look.lights.map((l) => l.id)).toEqual(['sun', 'new']);
    expect(look.lights[1]).toMatchObject({ name: starter.name, kind: starter.settings.kind });
  },
);

test.each(MEDIUM_LOOKS.map((m) => [m.name, m] as const))(
  'a medium’s look keeps light: %s',
  (_, { settings }) => {
    const { medium } = LOOK.parse({ medium: settings });
    medium.scatter.forEach((s, c) => expect(s + medium.absorb[c]).toBeCloseTo(1));
  },
);

test('a look goes to another shot as text and leaves its camera', () => {
  const from = LOOK.parse({ name: 'Dusk', sky: { stops: 2 }, camera: { focal: 85 } });
  const to = LOOK.parse({ camera: { focal: 24 } });
  const pasted = pastedLook(to, lookText(from));
  expect(pasted).toMatchObject({ name: 'Dusk', sky: { stops: 2 }, camera: { focal: 24 } });
  expect(() => pastedLook(to, 'words')).toThrow(/holds no look/);
  expect(() => pastedLook(to, '{"bramblemist":"look","sky":{"stops":99}}')).toThrow(/sky.stops/);
});

test.each(['weir-at-dawn', 'sack-drop', 'ice-cellar', 'quill', 'drying-kiln', 'warm-plume'])(
  'the demo’s %s has a look that holds',
  (name) => {
    const look = exampleLook(name);
    expect(look.lights.length).toBeGreaterThan(0);
    expect(look.quality.mode).toBe('quick');
  },
);

test('what differs between two looks is told light by light', () => {
  const next = withLight(plain, LIGHT_STARTERS[1], 'w');
  const dimmer = { ...next, lights: next.lights.map((l) => (l.id === 'sun' ? { ...l, stops: -3 } : l)) };
  expect(
    differencesTold(plain, dimmer, LOOK.parts).map((d) => `${d.part} ${d.setting} ${d.from} ${d.to}`),
  ).toEqual(['Sun intensity −1.3 −3', 'Window  null added']);
});

describe('a file as a look sees it', () => {
  test('without density it is refused by what it holds', () => {
    expect(() => volumeOf({ grids: [], others: [] }, plain.medium)).toThrow(
      /no float grid called density \(it holds: none/,
    );
  });
});

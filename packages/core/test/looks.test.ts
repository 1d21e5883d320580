// Looks as things: presets, lights to begin with, text, the demo's own, and what differs between two.
import { volumeOf } from '@bramblemist/core/look/volume-of';
import { LOOK } from '@bramblemist/core/look/look';
import { exampleLook } from '@bramblemist/core/presets/examples';
import {
  withMedium,
  withPicture,
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

test('keys go along with a look as text, but those of its cameras and media', () => {
  const key = (path: string): object => ({ id: path, path, keys: [{ frame: 1, value: 1, ease: 'even' }] });
  const from = LOOK.parse({ curves: [key('lights/sun/stops'), key('camera/roll')] });
  const to = LOOK.parse({ cameras: [{ id: 'b' }], curves: [key('cameras/b/roll'), key('sky/stops')] });
  const pasted = pastedLook(to, lookText(from));
  expect(pasted.curves.map((c) => c.path)).toEqual(['lights/sun/stops', 'cameras/b/roll']);
  expect(pasted.cameras).toEqual(to.cameras);
});

test('a further medium begins as the first one is', () => {
  const first = LOOK.parse({ medium: { density: 7, forward: 0.6 } });
  const look = LOOK.parse(withMedium(first, 'Spray', 4, 'm'));
  expect(look.media).toMatchObject([{ id: 'm', name: 'Spray', bake: 4, density: 7, forward: 0.6, shift: 0 }]);
});

test('a look keeps the pictures that it names, and lets others go', () => {
  const file = (name: string): { name: string; sha256: string } => ({
    name,
    sha256: name.repeat(32).slice(0, 64),
  });
  const sky = withPicture(plain, file('ab'), 'sky.picture', 'one');
  const both = withPicture(sky, file('cd'), 'medium.picture', 'two');
  expect(both.files.map((f) => f.name)).toEqual(['ab', 'cd']);
  const again = withPicture(both, file('ef'), 'sky.picture', 'three');
  expect(again.files.map((f) => f.name)).toEqual(['cd', 'ef']);
  expect(withPicture(again, file('cd'), 'sky.picture', 'four').sky.picture).toBe('two');
  expect(LOOK.parse(again)).toEqual(again);
});

test.each(['weir-at-dawn', 'sack-drop', 'ice-cellar', 'quill', 'drying-kiln', 'lantern-jetty', 'warm-plume'])(
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

test('keys and surfaces are told by what they are of', () => {
  const keys = [{ frame: 1, value: 1, ease: 'even' }];
  const next = LOOK.parse({
    surfaces: [{ id: 's', name: 'Sill', of: 'sill' }],
    curves: [{ id: 'c', path: 'lights/sun/stops', keys }],
  });
  const told = (a: typeof next, b: typeof next): string[] =>
    differencesTold(a, b, LOOK.parts).map((d) => `${d.part}: ${d.setting} ${d.to}`);
  expect(told(plain, next)).toEqual(['Sill:  added', 'keys of Sun: intensity:  added']);
  const other = { ...next, surfaces: [{ ...next.surfaces[0], of: 'steps' }] };
  expect(told(next, other)).toEqual(['Sill: obstacle steps']);
});

describe('a file as a look sees it', () => {
  test('without density it is refused by what it holds', () => {
    expect(() => volumeOf({ grids: [], others: [] })).toThrow(
      /no float grid called density \(it holds: none/,
    );
  });
});

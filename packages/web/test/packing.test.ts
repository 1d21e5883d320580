// A package while it is chosen: sizes that add up, names as they will be, what it begins with.
import type { PackedLine, PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import {
  bytesOf,
  bytesOfAll,
  chosenAtFirst,
  framesOf,
  namesOf,
} from '@bramblemist/web/stages/hand-over/packing';

const line = (key: string, of: Partial<PackedLine>): PackedLine => ({
  key,
  kind: 'volumes',
  of: 0,
  name: '',
  what: 'volumes',
  ending: 'vdb',
  frames: [],
  files: 1,
  bytes: 0,
  ...of,
});
const VOLUMES = line('volumes', { frames: [1, 2, 3, 4], files: 4, bytes: 4000 });
const PNG = line('render:3:png', {
  kind: 'render',
  of: 3,
  what: 'render_3',
  ending: 'png',
  frames: [2, 3],
  bytes: 600,
});
const MOVIES = line('render:3:movies', {
  kind: 'render',
  of: 3,
  what: 'movie',
  ending: 'mp4, mov',
  bytes: 50,
});
const SCENE = line('scene', { kind: 'scene', what: 'scene', ending: 'usda, glb', bytes: null });
const LINES = [VOLUMES, SCENE, PNG, MOVIES];
const PACKING: PackingInfo = {
  ...{ lines: LINES, packages: [], next: 5, production: 'mill', shot: 'weir' },
  ...{ channels: ['density'], presets: [], handOverFolder: '/out', isPictured: true },
};
const ALL = { frames: null };
const FEW = { frames: { first: 3, last: 9 } };

test('sizes are those of the frames that go along, and add up', () => {
  expect([VOLUMES, PNG, MOVIES, SCENE].map((l) => bytesOf(l, ALL))).toEqual([4000, 600, 50, 0]);
  expect([VOLUMES, PNG, MOVIES, SCENE].map((l) => bytesOf(l, FEW))).toEqual([2000, 300, 50, 0]);
  expect(framesOf(VOLUMES, FEW)).toEqual([3, 4]);
  expect(bytesOfAll(LINES, { lines: ['volumes', 'render:3:movies', 'scene'], ...FEW })).toBe(2050);
});

test('names are those of the first and the last frame that goes along', () => {
  const of = (l: PackedLine, wanted: { frames: { first: number; last: number } | null }): string =>
    namesOf(l, '{what}/{shot}_v{version:2}.{frame:4}', PACKING, 12, wanted);
  expect(of(VOLUMES, ALL)).toBe('volumes/weir_v05.0001.vdb … weir_v05.0004.vdb');
  expect(of(PNG, FEW)).toBe('render_3/weir_v05.0003.png');
  expect(of(PNG, { frames: { first: 7, last: 9 } })).toBe('none of its frames');
  expect(of(MOVIES, ALL)).toBe('movie/weir_v05.mp4 …');
  expect(of(SCENE, ALL)).toBe('scene.usda, scene.glb');
  expect(() => namesOf(VOLUMES, '{shot}', PACKING, 12, ALL)).toThrow('needs {what}');
});

test('the first package begins with all, a later one with the kinds of the one before', () => {
  expect(chosenAtFirst(PACKING)).toEqual(LINES.map((l) => l.key));
  const before = {
    id: 1,
    bakeId: 1,
    version: 4,
    names: '{what}.{frame}',
    note: '',
    wanted: { lines: ['render:1:png', 'scene'], frames: null },
    gone: null,
    folder: null,
    createdAt: '',
  };
  expect(chosenAtFirst({ ...PACKING, packages: [before] })).toEqual(['scene', 'render:3:png']);
});

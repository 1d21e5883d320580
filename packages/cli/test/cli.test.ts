// The built command line, as a user runs it.
import { strToU8, zipSync } from 'fflate';
import { spawn, spawnSync } from 'node:child_process';
import {
  cpSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { PNG } from 'pngjs';
import { readExr } from '@bramblemist/core/files/exr/reader';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { nodeZip, sha256 } from '@bramblemist/core/io/node/files';
import type { Manifest } from '@bramblemist/core/cache/manifest';

const CLI = resolve(__dirname, '../bin/bramblemist.cjs');
const folder = mkdtempSync(join(tmpdir(), 'cli-'));
afterAll(() => rmSync(folder, { recursive: true }));

function run(...args: string[]): { code: number | null; out: string; err: string } {
  const r = spawnSync(process.execPath, [CLI, ...args], { cwd: folder, encoding: 'utf8' });
  return { code: r.status, out: r.stdout, err: r.stderr };
}

const small = {
  name: 'Tiny puff',
  space: { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.05, lastFrame: 6 },
  sources: [{ centre: [0, 0.3, 0], radius: 0.2 }],
};
writeFileSync(join(folder, 'small.json'), JSON.stringify(small));

test('examples and schemas print', () => {
  expect(JSON.parse(run('recipe', '--example', 'weir-at-dawn').out)).toMatchObject({ name: 'Weir at dawn' });
  for (const kind of ['recipe', 'look', 'combine'])
    expect(JSON.parse(run('recipe', '--schema', kind).out)).toMatchObject({ title: `Bramblemist ${kind}` });
});

test('bake, info, render and combine make whole files that say what they are', () => {
  const baked = run('bake', 'small.json', '--out', 'cache', '--frames', '2-4', '--threads', '2');
  expect(baked.code).toBe(0);
  const lines = baked.out
    .trim()
    .split('\n')
    .map((l) => JSON.parse(l) as { event: string; frame?: number });
  expect(lines.map((l) => l.event)).toEqual(['start', 'frame', 'frame', 'frame', 'end']);
  expect(readdirSync(join(folder, 'cache')).sort()).toEqual([
    'manifest.json',
    'tiny_puff.0002.vdb',
    'tiny_puff.0003.vdb',
    'tiny_puff.0004.vdb',
  ]);
  const manifest = JSON.parse(readFileSync(join(folder, 'cache/manifest.json'), 'utf8')) as Manifest;
  expect(manifest).toMatchObject({
    complete: true,
    range: { first: 2, last: 4 },
    channels: ['density', 'temperature', 'velocity'],
  });
  for (const f of manifest.frames) expect(sha256(readFileSync(join(folder, 'cache', f.file)))).toBe(f.sha256);

  const info = JSON.parse(run('info', 'cache/tiny_puff.0004.vdb', '--json').out) as {
    grids: { name: string; activeVoxels: number }[];
  };
  expect(info.grids.map((g) => g.name)).toEqual(['density', 'temperature', 'velocity']);
  expect(info.grids[0].activeVoxels).toBeGreaterThan(100);

  writeFileSync(
    join(folder, 'look.json'),
    JSON.stringify({ camera: { eye: [0, 0.5, 4], target: [0, 0.4, 0], width: 80, height: 60 } }),
  );
  expect(run('render', 'cache', '--out', 'pictures', '--look', 'look.json', '--frames', '4').code).toBe(0);
  // a true picture of a region; what is there is not made again
  const more = run(
    'render',
    'cache',
    '--out',
    'true',
    '--look',
    'look.json',
    '--frames',
    '3-4',
    '--samples',
    '2',
  );
  expect(more.code).toBe(0);
  rmSync(join(folder, 'true/tiny_puff.0003.png'));
  const resumed = ['--mode', 'true', '--region', '10,10,40,30', '--resume', '--json'];
  const again = run('render', 'cache', '--out', 'true', '--look', 'look.json', '--frames', '3-4', ...resumed);
  expect(again.out).toMatch(/"frame":3/);
  expect(again.out).not.toMatch(/"frame":4/);
  copyFileSync(join(folder, 'pictures/tiny_puff.0004.png'), join(folder, 'plate.png'));
  const comp = {
    name: 'Tiny comp',
    frame: { width: 80, height: 60, first: 4, last: 5 },
    layers: [
      { id: 'puff', name: 'Puff', feed: { kind: 'render', render: 7 } },
      { id: 'plate', name: 'Plate', feed: { kind: 'file', file: 'plate' } },
    ],
    files: [{ id: 'plate', name: 'plate.png', kind: 'picture' }],
  };
  writeFileSync(join(folder, 'comp.json'), JSON.stringify(comp));
  const [puff, plateLayer] = comp.layers;
  const newest = [{ ...puff, name: 'Element', feed: { kind: 'render' } }, plateLayer];
  writeFileSync(join(folder, 'newest.json'), JSON.stringify({ ...comp, layers: newest }));
  const combined = run('combine', 'comp.json', '--out', 'combined', '--render', '7=pictures', '--json');
  expect(combined.code).toBe(0);
  // the render has but one frame, which is held
  expect(combined.out).toMatch(/"frames":2/);
  expect(readdirSync(join(folder, 'combined')).sort()).toEqual(
    ['exr', 'png'].flatMap((e) => [`tiny_comp.0004.${e}`, `tiny_comp.0005.${e}`]).sort(),
  );
  const byNewest = run('combine', 'newest.json', '--out', 'newest', '--render', 'newest=pictures', '--json');
  expect(byNewest.code).toBe(0);
  const pixels = (at: string): Buffer => readFileSync(join(folder, at, 'tiny_comp.0004.png'));
  expect(pixels('newest')).toEqual(pixels('combined'));
  rmSync(join(folder, 'combined/tiny_comp.0005.png'));
  const rest = run(
    'combine',
    'comp.json',
    '--out',
    'combined',
    '--render',
    '7=pictures',
    '--resume',
    '--json',
  );
  expect(rest.out).toMatch(/"frames":1/);
  expect(run('combine', 'comp.json', '--out', 'none', '--files', 'cache').err).toMatch(
    /plate\.png is not in the folder/,
  );
});

test('passes, deep pictures and movies are made; what a render costs and what would save is told', () => {
  run('bake', 'small.json', '--out', 'passes/1', '--frames', '1-3');
  const camera = { eye: [0, 0.5, 4], target: [0, 0.4, 0], width: 80, height: 60, moving: 'blurred' };
  writeFileSync(join(folder, 'blur.json'), JSON.stringify({ camera, quality: { moments: 3 } }));
  const look = ['--look', 'blur.json'];
  const asked = 'density,depth,motion,normal,orders,lights,noise,deep';
  const noisy = ['--passes', asked, '--noise', '0.05', '--json'];
  const made = run('render', 'passes/1', '--out', 'passes/pictures', ...look, '--frames', '2-3', ...noisy);
  expect([made.code, made.err]).toEqual([0, '']);
  expect(JSON.parse(made.out.split('\n')[1])).toMatchObject({ frame: 2, samples: expect.any(Number) });
  const { channels } = readExr(readFileSync(join(folder, 'passes/pictures/tiny_puff.0003.exr')), nodeZip);
  expect(channels.map(({ name }) => name)).toEqual(
    expect.arrayContaining([
      'depth.ZMiddle',
      'motion.X',
      'normal.Z',
      'single.R',
      'lights.Sun.B',
      'variance.Y',
    ]),
  );
  expect(readdirSync(join(folder, 'passes/pictures'))).toContain('tiny_puff.deep.0003.exr');
  const header = readFileSync(join(folder, 'passes/pictures/tiny_puff.0003.exr')).toString('latin1');
  expect(header).toMatch(/bake\0string\0.{4}\{"program":"[^}]*"recipe":"Tiny puff"/s);

  const movie = run('movie', 'passes/pictures', '--out', 'passes/puff.mp4', '--rate', '25', '--burn', 'puff');
  expect(movie.out).toMatch(/"event":"end","frames":2,"held":0/);
  expect(run('movie', 'passes/pictures', '--out', 'passes/puff.mov').code).toBe(0);
  const contact = run('contact', 'passes/pictures', '--out', 'passes/contact.png', '--json');
  expect(JSON.parse(contact.out)).toEqual({ out: 'passes/contact.png', pictures: 2 });
  expect(existsSync(join(folder, 'passes/contact.png'))).toBe(true);
  const told = JSON.parse(run('cost', 'passes/1', '--render', ...look, '--json').out) as Record<
    string,
    number
  >;
  expect(told.frames).toBe(3);
  for (const name of ['seconds', 'bytes', 'diskBytes']) expect(told[name]).toBeGreaterThan(0);
  expect(run('savings', 'passes/1', '--out', 'passes/savings', ...look).code).toBe(0);
  const sheet = JSON.parse(readFileSync(join(folder, 'passes/savings/savings.json'), 'utf8')) as {
    frame: number;
    savings: { name: string; seconds: number; difference: number; picture: string; map: string }[];
  };
  expect(sheet.frame).toBe(2);
  expect(sheet.savings.length).toBeGreaterThan(3);
  for (const { seconds, difference, picture, map } of sheet.savings) {
    expect(seconds).toBeGreaterThan(0);
    expect(difference).toBeGreaterThanOrEqual(0);
    for (const name of [picture, map])
      expect(PNG.sync.read(readFileSync(join(folder, 'passes/savings', name))).width).toBe(80);
  }
});

test('further cameras, crop and another bake are rendered, each picture by the keys at its frame', () => {
  mkdirSync(join(folder, 'bakes'), { recursive: true });
  run('bake', 'small.json', '--out', 'bakes/1', '--frames', '1-2');
  cpSync(join(folder, 'bakes/1'), join(folder, 'bakes/2'), { recursive: true });
  const camera = { eye: [0, 0.5, 4], target: [0, 0.4, 0], width: 80, height: 60 };
  const keys = [1, 2].map((frame) => ({ frame, value: frame === 1 ? -20 : 4, ease: 'even' }));
  const look = {
    camera: { ...camera, crop: { left: 50 } },
    cameras: [{ id: 's', name: 'From the side', ...camera, eye: [4, 0.5, 0] }],
    media: [{ id: 'm', name: 'Again', bake: 2, position: [0.2, 0, 0] }],
    sky: { stops: -20 },
    curves: [{ id: 'c', path: 'lights/sun/stops', keys }],
  };
  writeFileSync(join(folder, 'more.json'), JSON.stringify(look));
  expect(run('render', 'bakes/1', '--out', 'shots', '--look', 'more.json').code).toBe(0);
  const [first, second] = [1, 2].map((f) =>
    PNG.sync.read(readFileSync(join(folder, `shots/tiny_puff.000${f}.png`))),
  );
  expect([first.width, first.height]).toEqual([40, 60]);
  const brightest = ({ data }: PNG): number =>
    data.filter((_, n) => n % 4 === 0).reduce((a, b) => Math.max(a, b));
  expect(brightest(second)).toBeGreaterThan(brightest(first) + 20);
  expect(readdirSync(join(folder, 'shots/From-the-side')).length).toBe(4);
  const one = run(
    'render',
    'bakes/1',
    '--out',
    'one',
    '--look',
    'more.json',
    '--camera',
    'From the side',
    '--json',
  );
  expect(one.code).toBe(0);
  expect(readdirSync(join(folder, 'one')).length).toBe(4);
  const none = run('render', 'bakes/1', '--out', 'x', '--look', 'more.json', '--camera', 'gone');
  expect(none.err).toMatch(/no camera called “gone”. It has: shot, From the side/);
});

test('a cache becomes a scene that names its volumes from where it stands', () => {
  const made = run('scene', 'cache', '--out', 'scenes/puff.usda', '--look', 'look.json', '--json');
  expect(made.code).toBe(0);
  expect(JSON.parse(made.out)).toMatchObject({ frames: 3, cameras: 1, lights: 1, obstacles: 0 });
  const usda = readFileSync(join(folder, 'scenes/puff.usda'), 'utf8');
  const paths = [...usda.matchAll(/@([^@]+)@/g)].map(([, path]) => path);
  expect(paths).toHaveLength(9);
  for (const path of paths) expect(existsSync(join(folder, 'scenes', path))).toBe(true);
  expect(readFileSync(join(folder, 'scenes/puff.glb')).subarray(0, 4).toString()).toBe('glTF');
  const named = ['--volumes', 'vol/puff_v2.######.vdb', '--frames', '2-3'];
  expect(run('scene', 'cache', '--out', 'scenes/named.usda', ...named).code).toBe(0);
  const other = readFileSync(join(folder, 'scenes/named.usda'), 'utf8');
  const asked = new Set([...other.matchAll(/@([^@]+)@/g)].map(([, path]) => path));
  expect([...asked]).toEqual(['./vol/puff_v2.000002.vdb', './vol/puff_v2.000003.vdb']);
  expect(run('scene', 'cache', '--out', 'x.usda', '--frames', '90').err).toMatch(/none of its frames/);
  const missing = run('scene', 'nowhere', '--out', 'x.usda');
  expect(missing.code).not.toBe(0);
  expect(missing.err).toMatch(/manifest\.json/);
});

test('nothing is overwritten', () => {
  run('bake', 'small.json', '--out', 'once', '--frames', '1');
  const before = readFileSync(join(folder, 'once/manifest.json'));
  const again = run('bake', 'small.json', '--out', 'once');
  expect(again.code).not.toBe(0);
  expect(again.err).toMatch(/already holds a cache/);
  expect(readFileSync(join(folder, 'once/manifest.json'))).toEqual(before);
});

test('equal recipes give equal files', () => {
  run('bake', 'small.json', '--out', 'a', '--frames', '3', '--threads', '1');
  run('bake', 'small.json', '--out', 'b', '--frames', '3', '--threads', '2');
  expect(
    readFileSync(join(folder, 'a/tiny_puff.0003.vdb')).equals(
      readFileSync(join(folder, 'b/tiny_puff.0003.vdb')),
    ),
  ).toBe(true);
});

describe('bad input: not 0, one message with the file and the place, nothing left behind', () => {
  writeFileSync(
    join(folder, 'wrong.json'),
    JSON.stringify({ ...small, space: { ...small.space, voxelSize: 0 }, wind: { speed: 'fast' } }),
  );
  writeFileSync(join(folder, 'broken.json'), '{"name": ');
  writeFileSync(
    join(folder, 'huge.json'),
    JSON.stringify({ ...small, space: { ...small.space, size: [900, 900, 900], voxelSize: 0.001 } }),
  );
  writeFileSync(join(folder, 'text.vdb'), 'this is not a volume');
  test.each([
    [['bake', 'missing.json', '--out', 'x'], /missing\.json: cannot be read/],
    [['bake', 'broken.json', '--out', 'x'], /broken\.json: is not valid JSON/],
    [
      ['bake', 'wrong.json', '--out', 'x'],
      /wrong\.json: space\.voxelSize must be at least 0\.001 m\.\n.*wind\.speed must be a number in m\/s/,
    ],
    [['bake', 'huge.json', '--out', 'x'], /GiB.*larger voxels/],
    [['bake', 'small.json', '--out', 'x', '--frames', '4-2'], /--frames must be like/],
    [['bake', 'small.json', '--out', 'x', '--frames', '1-99'], /outside of the recipe's 1-6/],
    [['bake', 'small.json', '--out', 'x', '--voxel', 'tiny'], /--voxel must be a length/],
    [['bake', 'small.json', '--out', 'x', '--threads', '0'], /--threads must be/],
    [['info', 'text.vdb'], /text\.vdb: This is not an OpenVDB file/],
    [['info', 'none.vdb'], /none\.vdb: cannot be read \(ENOENT\)/],
    [['render', 'nowhere', '--out', 'x'], /nowhere: cannot be read/],
    [
      ['render', 'nowhere', '--out', 'x', '--region', '0,0,9000,5'],
      /--region must be left,top,right,bottom within/,
    ],
    [['render', 'nowhere', '--out', 'x', '--samples', 'many'], /quality.samples/],
    [['render', 'nowhere', '--out', 'x', '--noise', '-1'], /--noise must be above 0/],
    [['render', 'nowhere', '--out', 'x', '--passes', 'depth,glow'], /--passes knows density, depth.*“glow”/],
    [['contact', '.', '--out', 'x.jpg'], /--out must end in \.png/],
    [['contact', '.', '--out', 'x.png', '--columns', '0'], /--columns must be a whole number from 1 to 20/],
    [['movie', '.', '--out', 'x'], /--out must end in \.mp4/],
    [['movie', '.', '--out', 'x.mov', '--kind', 'gif'], /--kind must be review, prores, png/],
    [['movie', '.', '--out', 'x.mp4', '--rate', '0'], /--rate must be/],
    [['combine', 'small.json', '--out', 'x'], /unknown part|no setting/],
    [['combine', 'newest.json', '--out', 'x'], /Element takes the newest .* --render newest=FOLDER/],
    [['combine', 'newest.json', '--out', 'x', '--render', 'last=x'], /newest=pictures/],
    [['combine', 'none.json', '--out', 'x'], /none\.json/],
    [['recipe', '--example', 'fog'], /no example called fog/],
    [['bench', 'everything'], /bench knows/],
    [['bench', 'step', '--size', '7'], /--size must be/],
  ])('%j', (args, message) => {
    const r = run(...args);
    expect(r.code).not.toBe(0);
    expect(r.err).toMatch(message);
    expect(r.err).not.toMatch(/\n\s+at /);
    expect(existsSync(join(folder, 'x'))).toBe(false);
  });
});

test('a bake that is killed leaves only whole frames, and says so in its manifest', async () => {
  const out = join(folder, 'killed');
  writeFileSync(
    join(folder, 'long.json'),
    JSON.stringify({ ...small, space: { ...small.space, voxelSize: 0.03, lastFrame: 500 } }),
  );
  const child = spawn(process.execPath, [CLI, 'bake', 'long.json', '--out', out, '--json'], {
    cwd: folder,
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  await new Promise<void>((done) => {
    let frames = 0;
    child.stdout.on('data', (text: Buffer) => {
      frames += text.toString().split('"event":"frame"').length - 1;
      if (frames >= 3) child.kill('SIGKILL');
    });
    child.once('close', () => done());
  });
  const volumes = readdirSync(out).filter((f) => f.endsWith('.vdb'));
  const manifest = JSON.parse(readFileSync(join(out, 'manifest.json'), 'utf8')) as Manifest;
  expect(volumes.length).toBeGreaterThanOrEqual(3);
  for (const f of volumes)
    expect(readVdb(readFileSync(join(out, f)), { zip: nodeZip }).grids).toHaveLength(3);
  expect(manifest.complete).toBe(false);
  for (const f of manifest.frames) expect(sha256(readFileSync(join(out, f.file)))).toBe(f.sha256);
});

test('the bench tells its figures to machines', () => {
  const r = JSON.parse(
    run('bench', 'step', '--size', '32', '--threads', '1', '--steps', '2', '--json').out,
  ) as Record<string, unknown>;
  for (const key of ['msPerStep', 'mvoxelStepsPerSecond', 'phases', 'iterations', 'bytesPerVoxel'])
    expect(r[key]).toBeDefined();
});

test('cost tells memory, time and disk, and what cannot be', () => {
  const { code, out } = run('cost', 'small.json', '--threads', '1', '--json');
  expect(code).toBe(0);
  const cost = JSON.parse(out) as Record<string, number>;
  expect(cost).toMatchObject({ voxels: 8000, frames: 6 });
  for (const key of ['bytes', 'substeps', 'seconds', 'diskBytes']) expect(cost[key]).toBeGreaterThan(0);
  expect(run('cost', 'small.json').out).toMatch(/memory +\d+ MB\ntime +about .*\ndisk +about \d+ MB/);
  expect(run('cost', 'small.json', '--voxel', '0.001').err).toMatch(/GiB.*larger voxels/);
  expect(run('cost', 'missing.json')).toMatchObject({ code: 2 });
});

test('a bake that was killed goes on with --resume and ends with the same files', async () => {
  const long = { ...small, space: { ...small.space, voxelSize: 0.025, lastFrame: 30 } };
  writeFileSync(join(folder, 'long.json'), JSON.stringify(long));
  expect(run('bake', 'long.json', '--out', 'unbroken', '--checkpoint', '0').code).toBe(0);
  const child = spawn(
    process.execPath,
    [CLI, 'bake', 'long.json', '--out', 'broken', '--checkpoint', '2', '--json'],
    { cwd: folder },
  );
  await new Promise<void>((done) => {
    let said = '';
    child.stdout.on('data', (data: Buffer) => {
      said += data.toString();
      if (said.includes('"frame":9')) child.kill('SIGKILL');
    });
    child.once('exit', () => done());
  });
  expect(run('bake', 'long.json', '--out', 'broken').err).toMatch(/already holds a cache.*--resume/);
  cpSync(join(folder, 'broken'), join(folder, 'gentler'), { recursive: true });
  // an earlier edition knew fewer settings
  const path = join(folder, 'broken', 'manifest.json');
  const halfway = JSON.parse(readFileSync(path, 'utf8')) as Manifest;
  const keep = { ...halfway.recipe.keep, packing: undefined };
  const earlier = { ...halfway, recipe: { ...halfway.recipe, keep }, recipeSha256: 'of fewer settings' };
  writeFileSync(path, JSON.stringify(earlier));
  const lines = run('bake', 'long.json', '--out', 'broken', '--resume', '--json').out.trim().split('\n');
  const first = JSON.parse(lines[0]) as { event: string; done: number };
  expect(first.event).toBe('start');
  expect(first.done).toBeGreaterThanOrEqual(2);
  const frames = (at: string): string[] =>
    (JSON.parse(readFileSync(join(folder, at, 'manifest.json'), 'utf8')) as Manifest).frames.map(
      (f) => f.sha256,
    );
  expect(frames('broken')).toEqual(frames('unbroken'));
  expect(frames('broken')).toHaveLength(30);

  // the rest with other substeps, from a state some frames back
  const gentler = { ...long, space: { ...long.space, substepsLeast: 2 } };
  writeFileSync(join(folder, 'gentler.json'), JSON.stringify(gentler));
  writeFileSync(join(folder, 'calmer.json'), JSON.stringify({ ...gentler, drag: { halfLife: 1 } }));
  const on = ['--out', 'gentler', '--resume'];
  expect(run('bake', 'gentler.json', ...on).err).toMatch(/the recipe differs/);
  expect(run('bake', 'calmer.json', ...on, '--other-substeps').err).toMatch(/the recipe differs/);
  expect(run('bake', 'gentler.json', ...on, '--other-substeps').code).toBe(0);
  const manifest = JSON.parse(readFileSync(join(folder, 'gentler/manifest.json'), 'utf8')) as Manifest;
  expect(manifest.substeps).toEqual([{ until: expect.any(Number) as number, least: 1, most: 8 }]);
  const [{ until }] = manifest.substeps!;
  expect(until).toBeGreaterThanOrEqual(4);
  expect(manifest.recipe.space.substepsLeast).toBe(2);
  expect(frames('gentler').slice(0, until)).toEqual(frames('unbroken').slice(0, until));
  expect(manifest.frames.map((f) => f.readings.substeps)).toEqual(
    manifest.frames.map((f) => (f.frame <= until ? 1 : 2)),
  );
  expect(run('bake', 'long.json', '--out', 'elsewhere', '--checkpoint', 'often').err).toMatch(
    /--checkpoint must be a whole number/,
  );
});

test('sizes of the recipe, and the drift from one to another', () => {
  const info = (...args: string[]): number =>
    (JSON.parse(run('cost', 'small.json', '--json', ...args).out) as { voxels: number }).voxels;
  expect(info('--size', 'working')).toBe(8000);
  expect(info('--size', 'final')).toBe(64000);
  expect(run('cost', 'small.json', '--size', 'huge').err).toMatch(/live, rough, working, final/);
  expect(run('bake', 'small.json', '--out', 'x', '--size', 'rough', '--voxel', '0.1').err).toMatch(
    /one of them/,
  );
  const { code, out } = run('drift', 'small.json', '--sizes', 'final,working', '--last', '5', '--json');
  expect(code).toBe(0);
  const check = JSON.parse(out) as { coarse: string; frames: number[]; verdict: string; drifts: object[] };
  expect(check).toMatchObject({ coarse: 'working', fine: 'final', frames: [1, 2, 3, 4, 5] });
  expect(check.drifts.length).toBeGreaterThan(5);
  expect(run('drift', 'small.json', '--sizes', 'rough,working').out).toMatch(/At rough size, /);
  expect(run('drift', 'small.json', '--sizes', 'live,working').err).toMatch(/same voxels/);
  expect(run('drift', 'small.json', '--sizes', 'rough').err).toMatch(/two of/);
});

test('killed at six random moments, a bake still ends with the same files', async () => {
  const long = {
    ...small,
    space: { ...small.space, voxelSize: 0.04, lastFrame: 60 },
    turbulence: { strength: 0.5 },
  };
  writeFileSync(join(folder, 'often.json'), JSON.stringify(long));
  const args = ['bake', 'often.json', '--checkpoint', '3', '--threads', '2', '--bricks', '--json'];
  expect(run(...args, '--out', 'never').code).toBe(0);
  let seed = 7;
  let kills = 0;
  const random = (): number => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  while (kills < 6) {
    const child = spawn(process.execPath, [CLI, ...args, '--out', 'often', '--resume'], {
      cwd: folder,
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    const ended = new Promise<boolean>((done) => child.once('exit', (code) => done(code === 0)));
    // a moment after it has begun with its frames, anywhere in the midst of one
    await new Promise<void>((begun) => {
      child.stdout.on('data', (data: Buffer) => data.toString().includes('"frame"') && begun());
      child.once('exit', () => begun());
    });
    await new Promise((wait) => setTimeout(wait, 110 * random()));
    child.kill('SIGKILL');
    if (await ended) break;
    kills++;
  }

  expect(kills).toBe(6);
  expect(run(...args, '--out', 'often', '--resume').code).toBe(0);
  const frames = (at: string): string[] =>
    (JSON.parse(readFileSync(join(folder, at, 'manifest.json'), 'utf8')) as Manifest).frames.map(
      (f) => `${f.frame} ${f.sha256} ${f.state}`,
    );
  expect(frames('often')).toEqual(frames('never'));
  expect(frames('often')).toHaveLength(60);
  for (const { file, sha256: said } of (
    JSON.parse(readFileSync(join(folder, 'often', 'manifest.json'), 'utf8')) as Manifest
  ).frames)
    expect(sha256(readFileSync(join(folder, 'often', file)))).toBe(said);
  expect(readdirSync(join(folder, 'often', 'preview'))).toEqual(
    readdirSync(join(folder, 'never', 'preview')),
  );
}, 120_000);

test(
  'files: looked over by check, found beside the recipe or where --files says, named where they are ' +
    'missing',
  () => {
    const square = 'v 0 0 0\nv 0.4 0 0\nv 0.4 0 0.4\nv 0 0 0.4\nf 4 3 2 1\n';
    writeFileSync(join(folder, 'sheet.obj'), square);
    expect(JSON.parse(run('check', 'sheet.obj', '--json').out)).toMatchObject({
      kind: 'mesh',
      triangles: 2,
      openEdges: 4,
    });
    expect(run('check', 'nowhere.obj')).toMatchObject({
      code: 2,
      err: expect.stringMatching(/no such file/) as string,
    });
    const recipe = {
      ...small,
      files: [{ id: 'f', name: 'sheet.obj' }],
      obstacles: [{ id: 'o', shape: 'mesh', file: 'f', centre: [0, 0.6, 0] }],
    };
    writeFileSync(join(folder, 'sheet.json'), JSON.stringify(recipe));
    expect(run('bake', 'sheet.json', '--out', 'sheet', '--frames', '1-2').code).toBe(0);
    const missing = run('bake', 'sheet.json', '--out', 'other', '--files', 'cache');
    expect(missing).toMatchObject({
      code: 2,
      err: expect.stringMatching(/sheet\.obj is not in the folder .*cache\. Put it there/) as string,
    });
    expect(existsSync(join(folder, 'other'))).toBe(false);
  },
);

test('a sequence of particles: looked over, and flown in a bake', () => {
  const frame = (y: number): Uint8Array => strToU8(`id,x,y,z\n1,0,${y},0\n2,0.1,${y},0\n`);
  writeFileSync(join(folder, 'spray.zip'), zipSync({ 'spray_1.csv': frame(0.3), 'spray_2.csv': frame(0.5) }));
  expect(run('check', 'spray.zip').out).toMatch(/kind +particles\n[^]*time +frames 1–2/);
  const recipe = {
    ...small,
    sources: [{ id: 's', shape: 'particles', particles: 'p' }],
    files: [{ id: 'f', name: 'spray.zip', kind: 'particles' }],
    particles: [{ id: 'p', born: 'file', sequence: 'f', ball: 0.1 }],
  };
  writeFileSync(join(folder, 'spray.json'), JSON.stringify(recipe));
  expect(run('bake', 'spray.json', '--out', 'spray', '--frames', '1-2').code).toBe(0);
  const { frames } = JSON.parse(readFileSync(join(folder, 'spray', 'manifest.json'), 'utf8')) as Manifest;
  expect(frames[1].readings).toMatchObject({ particles: 2 });
  expect(frames[1].readings.mass).toBeGreaterThan(0);
});

describe('a trial sheet', () => {
  test('has pictures of each run, frame by frame, and says how it goes on', () => {
    const made = run(
      'sheet',
      'small.json',
      '--vary',
      'buoyancy/lift=0.01,0.05',
      '--vary',
      'wind/speed=0,1',
      '--out',
      'sheet',
      '--last',
      '3',
      '--width',
      '48',
    );
    expect(made.err).toBe('');
    const lines = made.out
      .trim()
      .split('\n')
      .map(
        (l) =>
          JSON.parse(l) as { event: string; cell?: number; frame?: number; done?: number; cells?: string[] },
      );
    expect(lines[0].cells).toHaveLength(4);
    expect(lines.filter((l) => l.event === 'frame').map((l) => l.cell)).toEqual([
      0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3,
    ]);
    for (const n of [0, 1, 2, 3])
      expect(readdirSync(join(folder, 'sheet', `cell-${n}`)).sort()).toEqual([
        'cell.0001.png',
        'cell.0002.png',
        'cell.0003.png',
      ]);
    expect(JSON.parse(readFileSync(join(folder, 'sheet', 'sheet.json'), 'utf8'))).toHaveLength(4);
    const again = run('sheet', 'small.json', '--vary', 'wind/speed=0,1', '--out', 'sheet');
    expect(again).toMatchObject({
      code: 2,
      err: expect.stringContaining('Nothing is overwritten') as string,
    });
  });
  test.each([
    [['--vary', 'wind/speed'], 'must be like'],
    [['--vary', 'wind/sped=1,2'], 'wind/sped'],
    [['--vary', 'wind/speed=-4'], 'must be from'],
    [['--vary', 'wind/speed=1', '--last', '99'], '--last'],
    [['--vary', 'wind/speed=1', '--width', '4'], '--width'],
  ])('%j is refused with what to do', (args, says) => {
    expect(run('sheet', 'small.json', '--out', 'refused', ...args)).toMatchObject({
      code: 2,
      err: expect.stringContaining(says) as string,
    });
    expect(existsSync(join(folder, 'refused'))).toBe(false);
  });
});

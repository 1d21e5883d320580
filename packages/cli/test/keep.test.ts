// Work on caches from the command line: tools, refining, particles, looking over; broken off and gone on
// with.
import { spawn, spawnSync } from 'node:child_process';
import { appendFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { VdbFile } from '@bramblemist/core/files/vdb/format';
import type { Manifest } from '@bramblemist/core/cache/manifest';
import { readPlyCloud } from '@bramblemist/core/files/ply/ply';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { nodeZip, sha256 } from '@bramblemist/core/io/node/files';

const CLI = resolve(__dirname, '../bin/bramblemist.cjs');
const folder = mkdtempSync(join(tmpdir(), 'keep-'));
afterAll(() => rmSync(folder, { recursive: true }));

function run(...args: string[]): { code: number | null; out: string; err: string } {
  const r = spawnSync(process.execPath, [CLI, ...args], { cwd: folder, encoding: 'utf8' });
  return { code: r.status, out: r.stdout, err: r.stderr };
}

const manifest = (name: string): Manifest =>
  JSON.parse(readFileSync(join(folder, name, 'manifest.json'), 'utf8')) as Manifest;
const sums = (name: string): string[] =>
  manifest(name).frames.map((f) => sha256(readFileSync(join(folder, name, f.file))));

beforeAll(() => {
  const recipe = {
    name: 'Tiny puff',
    space: { size: [1, 1, 1], corner: [-0.5, 0, -0.5], voxelSize: 0.05, lastFrame: 8 },
    sources: [{ centre: [0, 0.3, 0], radius: 0.2 }],
    obstacles: [
      {
        id: 'post',
        name: 'Post',
        shape: 'cylinder',
        centre: [0.2, 0.4, 0],
        radius: 0.1,
        size: [0.2, 0.8, 0.2],
      },
    ],
  };
  writeFileSync(join(folder, 'tiny.json'), JSON.stringify(recipe));
  expect(run('bake', 'tiny.json', '--out', 'cache', '--threads', '1').code).toBe(0);
});

test('tools in a row write a cache with its history, which can be worked on and looked over', () => {
  const steps = ['trim from=3 until=6', 'mask side=outside', 'crop most.1=0.5'];
  const make = (): number | null =>
    run('tool', 'cache', '--out', 'made', ...steps.flatMap((step) => ['--step', step])).code;
  expect(make()).toBe(0);
  const m = manifest('made');
  expect(m.made!.map((s) => s.by)).toEqual(['trim', 'mask', 'crop']);
  expect(m.made![0].of).toMatchObject({ name: 'cache', recipeSha256: manifest('cache').recipeSha256 });
  expect(m.frames.map((f) => f.frame)).toEqual([3, 4, 5, 6]);
  expect(m.frames[3].readings.extent![3]).toBeLessThanOrEqual(0.5 + 1e-6);
  expect(run('verify', 'made')).toMatchObject({ code: 0 });
  expect(run('render', 'made', '--out', 'pictures', '--frames', '4').code).toBe(0);
  // the same once more goes on from what is there, and changes nothing
  const before = sums('made');
  expect(make()).toBe(0);
  expect(sums('made')).toEqual(before);
  const other = run('tool', 'cache', '--out', 'made', '--step', 'trim from=4');
  expect([other.code, other.err]).toEqual([2, expect.stringMatching(/already holds another cache/)]);
}, 30_000);

test('a cache is packed anew, with the same voxels, and what is made of it is packed alike', () => {
  const first = (name: string): VdbFile =>
    readVdb(readFileSync(join(folder, name, manifest(name).frames[0].file)), { zip: nodeZip });
  const packedBy = (name: string): unknown => first(name).grids[0].metadata.file_compression;
  expect(packedBy('cache')).toBe('blosc + active values');
  expect(run('tool', 'cache', '--out', 'zipped', '--step', 'pack precision=float').code).toBe(0);
  expect(manifest('zipped').precision).toBe('float');
  expect(packedBy('zipped')).toBe('zip + active values');
  const [old, now] = [first('cache'), first('zipped')];
  expect(now.grids.map((g) => g.half)).toEqual(now.grids.map(() => false));
  expect(now.grids.map((g) => [g.name, g.leaves])).toEqual(old.grids.map((g) => [g.name, g.leaves]));
  expect(run('tool', 'zipped', '--out', 'zipped_trimmed', '--step', 'trim until=2').code).toBe(0);
  expect(packedBy('zipped_trimmed')).toBe('zip + active values');
  expect(manifest('zipped_trimmed').precision).toBe('float');
  // floats stay as they are where nothing else is said
  expect(run('tool', 'zipped', '--out', 'quick', '--step', 'pack packing=lz4').code).toBe(0);
  expect([manifest('quick').precision, packedBy('quick')]).toEqual(['float', 'blosc + active values']);
}, 30_000);

test('looking over names the file and what is wrong with it', () => {
  expect(run('tool', 'cache', '--out', 'hurt', '--step', 'trim until=3').code).toBe(0);
  appendFileSync(join(folder, 'hurt', manifest('hurt').frames[1].file), 'x');
  rmSync(join(folder, 'hurt', manifest('hurt').frames[2].file));
  const r = run('verify', 'hurt');
  expect(r.code).toBe(1);
  expect(r.err).toMatch(
    /0002\.vdb: the file has \d+ bytes where \d+ were written\.\n.*0003\.vdb: the file is not there/,
  );
});

test('a refine pass that was killed goes on and ends with the same files', async () => {
  const args = (out: string): string[] => [
    'refine',
    'cache',
    '--out',
    out,
    '--set',
    'times=2',
    '--set',
    'renew=4',
    '--set',
    'velocity=true',
  ];
  const whole = run(...args('fine'));
  expect(whole.code).toBe(0);
  expect((JSON.parse(whole.out.trim().split('\n').at(-1)!) as { apart: number }).apart).toBeLessThan(0.05);
  for (const frames of [1, 4]) {
    const child = spawn(process.execPath, [CLI, ...args('broken')], { cwd: folder });
    await new Promise<void>((done) => {
      let seen = 0;
      child.stdout.on('data', (d: Buffer) => {
        seen += (d.toString().match(/"frame"/g) ?? []).length;
        if (seen >= frames) child.kill('SIGKILL');
      });
      child.once('close', () => done());
    });
  }

  expect(run(...args('broken')).code).toBe(0);
  expect(sums('broken')).toEqual(sums('fine'));
  const { grids } = readVdb(readFileSync(join(folder, 'fine', manifest('fine').frames[7].file)), {
    zip: nodeZip,
  });
  expect(grids.map((g) => [g.name, Number(g.voxelSize[0].toFixed(6))])).toEqual([
    ['density', 0.025],
    ['temperature', 0.025],
    ['velocity', 0.025],
  ]);
}, 60_000);

test('particles drift forward and back, as PLY with trails and as CSV', () => {
  expect(
    run(
      'particles',
      'cache',
      '--out',
      'drops',
      '--set',
      'count=200',
      '--set',
      'seeds=source',
      '--set',
      'trail=true',
    ).code,
  ).toBe(0);
  expect(readdirSync(join(folder, 'drops')).filter((f) => f.endsWith('.ply'))).toHaveLength(8);
  expect(readdirSync(join(folder, 'drops/trails'))).toHaveLength(8);
  const cloud = readPlyCloud(readFileSync(join(folder, 'drops', 'tiny_puff.0008.ply')));
  expect([cloud.count, cloud.velocities !== null, cloud.ages![0] > 0.2]).toEqual([200, true, true]);
  expect(
    run(
      'particles',
      'cache',
      '--out',
      'back',
      '--set',
      'count=50',
      '--set',
      'way=backward',
      '--format',
      'csv',
    ).code,
  ).toBe(0);
  expect(readFileSync(join(folder, 'back/tiny_puff.0001.csv'), 'utf8')).toMatch(/^x,y,z,vx,vy,vz,age,id\n/);
}, 30_000);

describe('bad input is told in words, and writes nothing', () => {
  test.each([
    [['tool', 'nowhere', '--out', 'n', '--step', 'trim from=1'], /nowhere: holds no cache/],
    [['tool', 'cache', '--out', 'n'], /Say what to do with --step/],
    [['tool', 'cache', '--out', 'n', '--step', 'melt hot=1'], /no tool called melt/],
    [['tool', 'cache', '--out', 'n', '--step', 'smooth radius'], /is not like setting=value/],
    [['tool', 'cache', '--out', 'n', '--step', 'smooth radius=soft'], /smooth.radius must be a number/],
    [['tool', 'cache', '--out', 'n', '--step', 'mask obstacle=tower'], /no obstacle tower/],
    [
      ['tool', 'cache', '--out', 'n', '--step', 'merge with=../made', '--caches', '.'],
      /not the name of a cache/,
    ],
    [['refine', 'cache', '--out', 'n', '--set', 'times=7'], /refine.times must be at most 4/],
    [['refine', 'cache', '--out', 'n', '--frames', '90-99'], /no such frame/],
    [['particles', 'cache', '--out', 'n', '--format', 'txt'], /ply or csv/],
    [['particles', 'cache', '--out', 'n', '--set', 'colour=true'], /does not keep colour/],
    [['verify', 'nowhere'], /holds no cache/],
  ])('%j', (args, says) => {
    const r = run(...args);
    expect(r.code).toBe(2);
    expect(r.err).toMatch(says);
    expect(readdirSync(folder)).not.toContain('n.part');
  });
  test('what is no ZIP file is named', () => {
    writeFileSync(join(folder, 'no.zip'), 'none');
    for (const command of [['verify'], ['run'], ['unpack', '--out', 'x']])
      expect(run(...command, 'no.zip')).toMatchObject({
        code: 2,
        err: expect.stringMatching(/no\.zip: It is no ZIP file/) as string,
      });
  });
  test('the tools are listed with their settings', () => {
    expect(run('tool', '--list').out).toMatch(/smooth: Smooth\n {2}channel \(density\|[^]*resample: /);
  });
});

// Bad requests, odd names and broken-off uploads: each is answered in words, soon, and harms nothing.
import { existsSync, mkdirSync, readdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import type { StorageInfo } from '@bramblemist/contracts/payloads/storage';
import { routes } from '@bramblemist/contracts/routes';
import { encodePng } from '@bramblemist/core/io/node/png';
import { shortName, withoutPaths } from '@bramblemist/server/words';
import { testServer, until, type TestServer } from './harness';

let server: TestServer;
let shot: ShotInfo;
const OBJ = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n';

beforeAll(async () => {
  server = await testServer();
  const productionId = (await server.ask(routes.productions, { body: { name: 'Test' } })).data.id as number;
  const { id } = (await server.ask(routes.shots, { body: { productionId, name: 'Doors' } })).data as {
    id: number;
  };
  shot = (await server.ask(routes.shot(id))).data as ShotInfo;
});
afterAll(() => server.close());

const upload = async (path: string, name: string, data: BlobPart): ReturnType<TestServer['ask']> => {
  const form = new FormData();
  form.append('file', new Blob([data]), name);
  const response = await fetch(server.address + path, { method: 'POST', body: form });
  return { status: response.status, data: await response.json(), headers: response.headers };
};

describe('bad requests', () => {
  const deep = (n: number): string => `${'{"a":'.repeat(n)}1${'}'.repeat(n)}`;
  const json = { 'Content-Type': 'application/json' };
  const id = (): number => shot.variants[0].id;
  /** Method, path, body, headers: forty that no page sends. */
  const CASES: (() => [method: string, path: string, body?: string, headers?: Record<string, string>])[] = [
    ...['/api/productions', '/api/shots', '/api/cost', '/api/present', `/api/storage/bakes/1/clear`].flatMap(
      (path) => [
        (): [string, string] => ['POST', path],
        (): [string, string, string] => ['POST', path, 'hello'],
        (): [string, string, string, Record<string, string>] => ['POST', path, '[1]', json],
        (): [string, string, string, Record<string, string>] => ['POST', path, deep(5000), json],
        (): [string, string, string, Record<string, string>] => ['POST', path, '{"name": ', json],
      ],
    ),
    () => ['PATCH', routes.variant(id())],
    () => ['PATCH', routes.variant(id()), '{"recipe":{}}', json],
    () => ['PATCH', routes.variant(id()), '{"recipe":{}}', { ...json, 'If-Match': 'one' }],
    () => ['PATCH', routes.variant(id()), `{"recipe":${deep(3000)}}`, { ...json, 'If-Match': '"1"' }],
    () => ['PATCH', routes.variant(id()), '{"recipe":null}', { ...json, 'If-Match': '"1"' }],
    () => ['PATCH', routes.variant(999), '{"note":"x"}', json],
    () => ['PATCH', routes.variant(id()), '{"__proto__":{"x":1},"constructor":2}', json],
    () => ['POST', routes.variants(shot.id), '{"from":"x"}', json],
    () => ['POST', routes.bakes(id()), '{"voxelSizeM":0}', json],
    () => ['POST', routes.bakes(id()), '{"voxelSizeM":0.05,"frames":{"first":9,"last":1}}', json],
    () => ['POST', routes.renders(1), '{}', json],
    () => ['POST', routes.stopJob(12345), '{}', json],
    () => ['GET', '/api/shots/x'],
    () => ['GET', '/api/shots/99999999999'],
    () => ['GET', '/api/shots/..%2f..%2fetc'],
    () => ['GET', '/api/nothing'],
    () => ['POST', routes.files, 'x', { 'Content-Type': 'multipart/form-data' }],
    () => ['POST', routes.files, 'x', { 'Content-Type': 'multipart/form-data; boundary=y' }],
  ];

  test('forty of them are answered in words within 200 ms each', async () => {
    expect(CASES.length).toBeGreaterThanOrEqual(40);
    for (const make of CASES) {
      const [method, path, body, headers] = make();
      const at = performance.now();
      const response = await fetch(server.address + path, { method, body, headers });
      const { error } = (await response.json()) as { error?: string };
      const told = `${method} ${path} ${(body ?? '').slice(0, 40)}: ${response.status} ${error}`;
      // some of them ask for nothing wrong but what is missing is there: an empty body to clear with
      expect([told, response.status >= 400 && response.status < 500]).toEqual([told, true]);
      expect(error!.length).toBeGreaterThan(5);
      expect(performance.now() - at).toBeLessThan(200);
    }
  });
});

describe('names', () => {
  test('of any length and script are kept, cleared, brought back and emptied', async () => {
    const long = `${'m'.repeat(200)}.obj`;
    const names = [long, 'Ступени мельницы.obj', '水車.obj'];
    for (const [n, name] of names.entries())
      expect((await upload(routes.files, name, `${OBJ}# ${n}\n`)).status).toBe(201);
    const items = async (): Promise<StorageInfo> => (await server.ask(routes.storage)).data as StorageInfo;
    const there = (await items()).items.filter((i) => i.kind === 'files');
    expect(there.map((i) => i.name)).toEqual(
      expect.arrayContaining([shortName(long, 120), names[1], names[2]]),
    );
    const { id } = there.find((i) => i.name === shortName(long, 120))!;
    const act = async (path: string): Promise<number> =>
      (await server.ask(path, { method: 'POST', body: {} })).status;
    expect(await act(routes.clear('files', id))).toBe(200);
    expect((await items()).bin.map((i) => i.id)).toEqual([id]);
    expect(await act(routes.restore('files', id))).toBe(200);
    expect(await act(routes.clear('files', id))).toBe(200);
    expect(await act(routes.emptyBin)).toBe(200);
    expect((await items()).bin).toEqual([]);
  });

  test('are shortened before their ending, by letters', () => {
    expect(shortName('a'.repeat(9) + '.obj', 8)).toBe('aaaa.obj');
    expect(shortName('🌫'.repeat(9) + '.vdb', 8)).toBe('🌫🌫🌫🌫.vdb');
    expect(shortName('short.obj', 120)).toBe('short.obj');
  });

  test('of paths on this machine do not reach the page', () => {
    expect(withoutPaths('/var/data/jobs/7.recipe.json: wrong')).toBe('7.recipe.json: wrong');
    expect(withoutPaths('read “/a/b/c d.vdb” and 3/4 m/s')).toBe('read “c d.vdb” and 3/4 m/s');
    expect(withoutPaths('see http://127.0.0.1/x/y')).toBe('see http://127.0.0.1/x/y');
  });
});

test('a picture that unpacks to gigabytes is refused without harm to the server', async () => {
  const bomb = encodePng({ width: 4, height: 4, rgba: new Float32Array(64) });
  new DataView(bomb.buffer, bomb.byteOffset).setUint32(16, 60_000);
  new DataView(bomb.buffer, bomb.byteOffset).setUint32(20, 60_000);
  const answer = await upload(routes.assets(shot.id), 'plate.png', bomb as BlobPart);
  expect(answer.status).toBe(415);
  expect(answer.data.error).toMatch(/plate\.png is not a PNG picture that can be read/);
});

test('an upload that breaks off leaves nothing', async () => {
  const { port } = new URL(server.address);
  const socket = connect(Number(port), '127.0.0.1');
  socket.write(
    `POST ${routes.files} HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Length: 100000\r\n` +
      'Content-Type: multipart/form-data; boundary=b\r\n\r\n' +
      '--b\r\nContent-Disposition: form-data; name="file"; filename="a.obj"\r\n\r\nv 0 0 0\n',
  );
  const folder = join(server.folder, 'uploads');
  await until(() => Promise.resolve(existsSync(folder) && readdirSync(folder).length > 0));
  socket.destroy();
  await until(() => Promise.resolve(readdirSync(folder).length === 0));
});

test('links in the folder of volumes are not followed', async () => {
  const allowed = join(server.folder, 'allowed', 'mist');
  mkdirSync(allowed, { recursive: true });
  writeFileSync(join(server.folder, 'secret.0001.vdb'), 'secret');
  symlinkSync(join(server.folder, 'secret.0001.vdb'), join(allowed, 'secret.0001.vdb'));
  const answer = await server.ask(routes.bring(shot.id), { body: { name: 'mist' } });
  expect(answer.status).toBe(415);
  expect(answer.data.error).toMatch(/holds no numbered \.vdb files/);
  expect(answer.data.error).not.toContain(server.folder);
});

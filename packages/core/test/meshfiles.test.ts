// Files that are brought in: every format gives the same mesh, and what is wrong with a file is said in words
// that help.
import { Document, WebIO } from '@gltf-transform/core';
import { encode } from 'fast-png';
import { importAsset } from '@bramblemist/core/assets/import-asset';
import { writeExr } from '@bramblemist/core/files/exr/writer';
import { writeObj } from '@bramblemist/core/files/obj/obj';
import type { Texture } from '@bramblemist/core/files/picture';
import { checkMesh, type Mesh } from '@bramblemist/core/geometry/mesh';
import { accessors, boxMesh } from './meshes';

const box = boxMesh(1, 2, 3);
const red = Float32Array.from({ length: 24 }, (_, n) => (n % 3 === 0 ? 1 : 0.2));
const readMesh = async (name: string, bytes: Uint8Array): Promise<Mesh> => {
  const brought = await importAsset(name, bytes);
  if (brought.kind !== 'mesh') throw new Error(`${brought.kind}, no mesh`);
  return brought.mesh.at(brought.mesh.first);
};

const readPicture = async (name: string, bytes: Uint8Array): Promise<Texture> => {
  const brought = await importAsset(name, bytes);
  if (brought.kind !== 'picture') throw new Error(`${brought.kind}, no picture`);
  return brought.picture;
};

const text = (t: string): Uint8Array => new TextEncoder().encode(t);

function plyText({ positions: p, triangles: t }: Mesh): string {
  const rows = (a: ArrayLike<number>, lead: string): string[] =>
    Array.from({ length: a.length / 3 }, (_, n) => `${lead}${a[3 * n]} ${a[3 * n + 1]} ${a[3 * n + 2]}`);
  return [
    'ply\nformat ascii 1.0\ncomment made here',
    `element vertex ${p.length / 3}\nproperty float x\nproperty float y\nproperty float z`,
    `element face ${t.length / 3}\nproperty list uchar int vertex_indices\nend_header`,
    ...rows(p, ''),
    ...rows(t, '3 '),
  ].join('\n');
}

function plyBinary({ positions: p, triangles: t }: Mesh, little: boolean): Uint8Array {
  const head = text(
    `ply\nformat binary_${little ? 'little' : 'big'}_endian 1.0\nelement vertex 8\nproperty double ` +
      'x\nproperty double y\nproperty double z\nproperty uchar red\nproperty uchar green\nproperty uchar ' +
      `blue\nelement face ${t.length / 3}\nproperty uchar flags\nproperty list uchar int ` +
      'vertex_indices\nend_header\n',
  );
  const body = new DataView(new ArrayBuffer(8 * 27 + (t.length / 3) * 14));
  let at = 0;
  for (let v = 0; v < 8; v++) {
    for (let a = 0; a < 3; a++, at += 8) body.setFloat64(at, p[3 * v + a], little);
    for (const c of [255, 51, 51]) body.setUint8(at++, c);
  }

  for (let n = 0; n < t.length; n += 3) {
    body.setUint8(at++, 7);
    body.setUint8(at++, 3);
    for (let e = 0; e < 3; e++, at += 4) body.setInt32(at, t[n + e], little);
  }

  return Uint8Array.from([...head, ...new Uint8Array(body.buffer)]);
}

function stlBinary({ positions: p, triangles: t }: Mesh): Uint8Array {
  const out = new DataView(new ArrayBuffer(84 + (t.length / 3) * 50));
  out.setUint32(80, t.length / 3, true);
  for (let n = 0; n < t.length; n++)
    for (let a = 0; a < 3; a++)
      out.setFloat32(84 + Math.floor(n / 3) * 50 + 12 + (n % 3) * 12 + a * 4, p[3 * t[n] + a], true);
  return new Uint8Array(out.buffer);
}

function stlText({ positions: p, triangles: t }: Mesh): string {
  const facets = Array.from({ length: t.length / 3 }, (_, n) => {
    const corners = [0, 1, 2].map((e) => `vertex ${[0, 1, 2].map((a) => p[3 * t[3 * n + e] + a]).join(' ')}`);
    return `facet normal 0 0 0\nouter loop\n${corners.join('\n')}\nendloop\nendfacet`;
  });
  return `solid box\n${facets.join('\n')}\nendsolid box\n`;
}

async function glb(json = false): Promise<Uint8Array> {
  const d = new Document();
  const accessor = accessors(d);
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', box.positions))
    .setAttribute('COLOR_0', accessor('VEC3', red))
    .setIndices(accessor('SCALAR', box.triangles));
  const child = d.createNode().setMesh(d.createMesh().addPrimitive(primitive)).setScale([-1, 1, 1]);
  d.createScene().addChild(d.createNode().setTranslation([5, 0, 0]).addChild(child));
  if (!json) return new WebIO().writeBinary(d);
  const { json: out, resources } = await new WebIO().writeJSON(d);
  const inline = Buffer.from(Object.values(resources)[0]).toString('base64');
  out.buffers![0].uri = `data:application/octet-stream;base64,${inline}`;
  return text(JSON.stringify(out));
}

describe('meshes', () => {
  test.each<[string, () => Uint8Array | Promise<Uint8Array>, boolean]>([
    ['box.obj', () => text(writeObj({ ...box, colours: red })), true],
    [
      'quads.obj',
      () =>
        text(
          'o box\r\nv 0 0 0 # corner\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvn 0 0 1\nf -4//1 -3//1 -2//1 \\\n-1//1\n',
        ),
      false,
    ],
    ['box.ply', () => text(plyText(box)), false],
    ['little.ply', () => plyBinary(box, true), true],
    ['big.ply', () => plyBinary(box, false), true],
    ['box.stl', () => stlBinary(box), false],
    ['text.stl', () => text(stlText(box)), false],
    ['box.glb', () => glb(), true],
    ['box.gltf', () => glb(true), true],
  ])('%s', async (name, bytes, coloured) => {
    const mesh = await readMesh(name, await bytes());
    if (name === 'quads.obj') return expect([...mesh.triangles]).toEqual([0, 1, 2, 0, 2, 3]);
    const report = checkMesh(mesh);
    expect(report).toMatchObject({ triangles: 12, openEdges: 0, flippedEdges: 0, size: [2, 4, 6] });
    expect(report.volume).toBeCloseTo(48); // the mirrored node too faces outward
    if (coloured) for (const [n, v] of [1, 0.2, 0.2].entries()) expect(mesh.colours![n]).toBeCloseTo(v, 2);
    else expect(mesh.colours).toBeNull();
    if (name.startsWith('box.gl')) expect(Math.min(...mesh.positions.filter((_, n) => n % 3 === 0))).toBe(4);
  });
  test.each<[string, string, () => Uint8Array | Promise<Uint8Array>, RegExp]>([
    ['nothing in it', 'a.obj', () => text(''), /empty/],
    ['points only', 'a.obj', () => text('v 0 0 0\nv 1 0 0\n'), /no triangles/],
    [
      'a corner that is not there',
      'a.obj',
      () => text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 4\n'),
      /Line 4: .*“4” is no vertex; there are 3/,
    ],
    ['a word for a number', 'a.obj', () => text('v 0 0 here\n'), /Line 1/],
    ['NaN in it', 'a.obj', () => text('v 0 0 0\nv nan 0 0\nv 0 1 0\nf 1 2 3\n'), /Line 2/],
    [
      'NaN in a binary file',
      'a.stl',
      () => stlBinary({ ...box, positions: box.positions.map((v, n) => (n === 4 ? NaN : v)) }),
      /not a finite number/,
    ],
    [
      'a cut binary STL',
      'a.stl',
      () => stlBinary(box).slice(0, 300),
      /says 12 triangles and holds 300 bytes/,
    ],
    ['a cut text STL', 'a.stl', () => text(stlText(box).slice(0, 400)), /cut short/],
    ['a cut PLY', 'a.ply', () => plyBinary(box, true).slice(0, 400), /cut short/],
    [
      'a PLY that claims too much',
      'a.ply',
      () => text(plyText(box).replace('element vertex 8', 'element vertex 99999999')),
      /more than the file can hold/,
    ],
    [
      'a PLY with a wrong corner',
      'a.ply',
      () => text(plyText(box).replace(/3 0 4 6/, '3 0 4 8')),
      /names vertex 8; there are 8/,
    ],
    [
      'a picture called a mesh',
      'a.ply',
      () => encode({ width: 1, height: 1, data: new Uint8Array(4) }),
      /no PLY/,
    ],
    ['a cut GLB', 'a.glb', async () => (await glb()).slice(0, 200), /no glTF file/],
    [
      'a glTF with its data elsewhere',
      'a.gltf',
      () => text('{"asset":{"version":"2.0"},"buffers":[{"uri":"box.bin","byteLength":4}]}'),
      /box\.bin\. Save it as GLB/,
    ],
  ])('refused: %s', async (_name, file, bytes, words) => {
    await expect((async () => readMesh(file, await bytes()))()).rejects.toThrow(words);
  });
});

describe('pictures', () => {
  test('PNG is linear light, bottom row first; grey, colour and 16 bits', async () => {
    const two = await readPicture(
      'a.png',
      encode({ width: 1, height: 2, channels: 3, data: Uint8Array.from([255, 0, 0, 188, 188, 188]) }),
    );
    expect(two).toMatchObject({ width: 1, height: 2 });
    expect(two.planes[0]).toBeCloseTo(0.5, 2); // red of the lower row
    expect([...two.planes.slice(1, 2), ...two.planes.slice(3, 4)]).toEqual([1, 0]);
    expect(two.planes[7]).toBeCloseTo(0.2126, 4); // brightness of the upper row
    const grey = await readPicture(
      'a.png',
      encode({ width: 1, height: 1, channels: 1, depth: 16, data: Uint16Array.from([65535]) }),
    );
    expect([...grey.planes]).toEqual([1, 1, 1, expect.closeTo(1, 5)]);
  });
  test('OpenEXR keeps its values', async () => {
    const channels = ['R', 'G', 'B'].map((name, n) => ({
      name,
      type: 'float' as const,
      values: Float32Array.from([n, 4]),
    }));
    const p = await readPicture('a.exr', writeExr({ width: 1, height: 2, channels }));
    expect([...p.planes.slice(0, 6)]).toEqual([4, 0, 4, 1, 4, 2]);
  });
  test.each<[string, string, Uint8Array, RegExp]>([
    ['a text', 'a.png', text('not a picture'), /no PNG picture/],
    [
      'a depth without colours',
      'a.exr',
      writeExr({ width: 1, height: 1, channels: [{ name: 'Z', type: 'float', values: Float32Array.of(1) }] }),
      /R, G, B nor Y/,
    ],
    ['nothing', 'a.exr', new Uint8Array(0), /empty/],
  ])('refused: %s', async (_name, file, bytes, words) => {
    await expect(readPicture(file, bytes)).rejects.toThrow(words);
  });
  test('Radiance HDR keeps its values, brighter than white too', async () => {
    // 2 × 1 pixels, not packed: mantissas and a shared exponent
    const p = await readPicture(
      'a.hdr',
      Uint8Array.from([
        ...text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 2\n'),
        128,
        64,
        0,
        131,
        255,
        255,
        255,
        128,
      ]),
    );
    expect(p).toMatchObject({ width: 2, height: 1 });
    [4, 1, 2, 1, 0, 1].forEach((v, n) => expect(p.planes[n] / (v || 1)).toBeCloseTo(v ? 1 : 0, 1));
  });
  test('an HDR head that claims too much is refused at once', async () => {
    await expect(
      readPicture('a.hdr', text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 60000 +X 60000\n')),
    ).rejects.toThrow(/more than the file/);
  });
  test('other kinds are refused with what is taken', async () => {
    await expect(importAsset('notes.txt', text('x'))).rejects.toThrow(
      /Meshes come as obj, .* pictures as png/,
    );
  });
});

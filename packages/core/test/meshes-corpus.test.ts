// Meshes and particles as other programs write them: read as they are meant, or refused by name; what is left
// out is told.
import { Document, Primitive, WebIO, type Node } from '@gltf-transform/core';
import { EXTMeshGPUInstancing } from '@gltf-transform/extensions';
import { importAsset } from '@bramblemist/core/assets/import-asset';
import { type ImportedAsset } from '@bramblemist/core/assets/imported';
import { FileError } from '@bramblemist/core/files/bytes';
import type { Mesh } from '@bramblemist/core/geometry/mesh';
import type { MovedPoints } from '@bramblemist/core/assets/timed-point-clouds';

const text = (t: string): Uint8Array => new TextEncoder().encode(t);
const bring = (name: string, content: string | Uint8Array): Promise<ImportedAsset> =>
  importAsset(name, typeof content === 'string' ? text(content) : content);
const meshOf = async (name: string, content: string | Uint8Array, time?: number): Promise<Mesh> => {
  const found = await bring(name, content);
  if (found.kind !== 'mesh') throw new Error(found.kind);
  return found.mesh.at(time ?? found.mesh.first);
};

const cloudOf = async (content: string): Promise<MovedPoints> => {
  const found = await bring('a.csv', content);
  if (found.kind !== 'particles') throw new Error(found.kind);
  return found.clouds.at(found.clouds.first, found.clouds.first);
};

function area({ positions: p, triangles: t }: Mesh): number {
  let sum = 0;
  for (let n = 0; n < t.length; n += 3) {
    const [a, b, c] = [0, 1, 2].map((e) => [0, 1, 2].map((k) => p[3 * t[n + e] + k]));
    const [u, v] = [b, c].map((q) => q.map((x, k) => x - a[k]));
    sum += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
  }

  return sum;
}

/** An arrow's head with a notch: 9 large, 23 where its corners are fanned. */
const NOTCHED = [
  [0, 0],
  [8, 0],
  [8, 1],
  [1, 1],
  [1, 2],
  [0, 2],
] as const;
const places = (list: readonly (readonly [number, number])[], up = 0): string =>
  list.map(([x, z]) => `v ${x} ${up} ${z}`).join('\n');

describe('OBJ', () => {
  test('a concave face covers what it encloses', async () => {
    expect(area(await meshOf('a.obj', `${places(NOTCHED)}\nf 1 2 3 4 5 6\n`))).toBeCloseTo(9, 6);
    expect(area(await meshOf('a.obj', `${places(NOTCHED)}\nf 6 5 4 3 2 1\n`))).toBeCloseTo(9, 6);
  });
  test('a remark behind a face, continued lines, negative numbers, CR', async () => {
    const file = 'v 0 0 0\r\nv 1 0 0\r\nv 1 1 0 # corner\r\nf -3 -2 \\\r\n-1 # the only one\r\n';
    expect(area(await meshOf('a.obj', file))).toBeCloseTo(0.5, 6);
  });
  test('vertices that no face uses do not stretch it, and are told', async () => {
    const found = await bring('a.obj', 'v 900 0 0\nv 0 0 0\nv 1 0 0\nv 1 1 0\nf 2 3 4\n');
    expect(found).toMatchObject({
      remarks: ['vertices that no face uses are left out: 1'],
    });
    expect(Math.max(...(found.kind === 'mesh' ? found.mesh.at(0).positions : []))).toBe(1);
  });
  test.each([
    ['v 0 0\n', /Line 1: a vertex needs three numbers/],
    ['v 0 0 x\n', /Line 1/],
    ['v 0 0 0\nf 1 1\n', /three corners at least/],
    ['v 0 0 0\nf 1 2 3\n', /“2” is no vertex; there are 1 before it/],
    ['v 0 0 0\nf 0 1 1\n', /“0” is no vertex/],
    ['v 0 0 0\nf 1.5 1 1\n', /“1\.5” is no vertex/],
    ['v 0 0 0\np 1\n', /no triangles/],
    ['v inf 0 0\n', /Line 1/],
  ])('%j is refused', (file, why) => expect(meshOf('a.obj', file)).rejects.toThrow(why));
});

describe('PLY', () => {
  const head = (rest: string): string => `ply\nformat ascii 1.0\n${rest}\nend_header\n`;
  const vertices = (n: number, more = ''): string =>
    `element vertex ${n}\nproperty float x\nproperty float y\nproperty float z${more}`;
  const list = 'property list uchar int vertex_indices';
  const corners = '0 0 0\n1 0 0\n0 1 0\n1 1 0\n';

  test('a concave face, strips, long remarks in its head', async () => {
    const rows = NOTCHED.map(([x, z]) => `${x} 0 ${z}`).join('\n');
    const notched = `${head(`${vertices(6)}\nelement face 1\n${list}`)}${rows}\n6 0 1 2 3 4 5\n`;
    expect(area(await meshOf('a.ply', notched))).toBeCloseTo(9, 6);
    const strip = head(`${vertices(4)}\nelement tristrips 1\n${list}`) + `${corners}4 0 1 2 3\n`;
    const found = await meshOf('a.ply', strip);
    expect([area(found), found.triangles.length]).toEqual([1, 6]);
    const cut = head(`${vertices(4)}\nelement tristrips 1\n${list}`) + `${corners}7 0 1 2 -1 1 2 3\n`;
    expect(area(await meshOf('a.ply', cut))).toBeCloseTo(1, 6);
    const long = head(`${'comment dimma över ån\n'.repeat(5000)}${vertices(4)}\nelement face 1\n${list}`);
    expect(area(await meshOf('a.ply', `${long}${corners}3 0 1 2\n`))).toBeCloseTo(0.5, 6);
  });
  test('colours of 8 and of 16 bits, and as parts', async () => {
    for (const [type, full] of [
      ['uchar', 255],
      ['ushort', 65_535],
      ['float', 1],
    ] as const) {
      const colours = ['red', 'green', 'blue'].map((c) => `\nproperty ${type} ${c}`).join('');
      const rows = ['0 0 0', '1 0 0', '0 1 0'].map((p) => `${p} ${full} 0 ${full}`).join('\n');
      const mesh = await meshOf(
        'a.ply',
        `${head(`${vertices(3, colours)}\nelement face 1\n${list}`)}${rows}\n3 0 1 2\n`,
      );
      expect([...mesh.colours!.subarray(0, 3)]).toEqual([1, 0, 1]);
    }
  });
  test.each([
    ['3 0 1 9', /Face 0 names vertex 9; there are 4/],
    ['3 0 1 1.5', /names vertex 1\.5/],
    ['3 0 1 nan', /names vertex NaN/],
    ['3 0 1 -2', /names vertex -2/],
    ['3 0 1', /cut short/],
    ['900 0 1 2', /more than the file can/],
    ['3 0 1 x', /“x” is no number/],
  ])('a face of %j is refused', (face, why) =>
    expect(
      meshOf('a.ply', `${head(`${vertices(4)}\nelement face 1\n${list}`)}${corners}${face}\n`),
    ).rejects.toThrow(why),
  );
});

describe('STL', () => {
  const facet =
    'facet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\n';
  const binary = (more = 0, name = 'made here'): Uint8Array => {
    const out = new Uint8Array(84 + 50 + more);
    out.set(text(name));
    const view = new DataView(out.buffer);
    view.setUint32(80, 1, true);
    [0, 0, 0, 1, 0, 0, 0, 1, 0].forEach((v, n) => view.setFloat32(96 + 4 * n, v, true));
    return out;
  };

  test.each([
    ['text', text(`solid a\n${facet}endsolid a\n`)],
    ['text in capitals', text(`SOLID A\n${facet.toUpperCase()}ENDSOLID A\n`)],
    ['binary', binary()],
    ['binary that calls itself solid', binary(0, 'solid made here')],
    ['binary with bytes behind it', binary(7)],
  ])('%s', async (_, bytes) => expect(area(await meshOf('a.stl', bytes))).toBeCloseTo(0.5, 6));
  test.each([
    ['cut text', text(`solid a\n${facet}facet`), /ends inside a triangle/],
    ['cut binary', binary().slice(0, 120), /says 1 triangles and holds 120 bytes/],
    ['no place', text(`solid a\n${facet.replace('1 0 0', '1 x 0')}endsolid`), /is no place/],
    ['nothing of it', text('hello'), /no STL file/],
  ])('%s is refused', (_, bytes, why) => expect(meshOf('a.stl', bytes)).rejects.toThrow(why));
});

describe('CSV', () => {
  test.each([
    ['commas', 'x,y,z,radius\n1,2,3,0.5\n4,5,6,0.25\n'],
    ['a byte order mark, semicolons, CR LF', '\uFEFFx;y;z;radius\r\n1;2;3;0.5\r\n4;5;6;0.25\r\n'],
    ['CR alone', 'x,y,z,radius\r1,2,3,0.5\r4,5,6,0.25\r'],
    ['remarks and empty lines', '# made here\nx,y,z,radius\n# first\n1,2,3,0.5\n\n4,5,6,0.25'],
    ['quotes, and commas in them', '"x","y","z","radius","what"\n"1","2","3","0.5","a, b"\n4,5,6,0.25,c\n'],
    ['tabs', 'x\ty\tz\tradius\n1\t2\t3\t0.5\n4\t5\t6\t0.25\n'],
    ['blanks', 'x  y z radius\n1 2   3 0.5\n4 5 6 0.25\n'],
    ['other columns with words', 'name,x,y,z,radius\na,1,2,3,0.5\nb,4,5,6,0.25\n'],
    ['capitals', 'X,Y,Z,Radius\n1,2,3,0.5\n4,5,6,0.25\n'],
  ])('%s', async (_, file) => {
    const cloud = await cloudOf(file);
    expect([...cloud.positions, ...cloud.radii!]).toEqual([1, 2, 3, 4, 5, 6, 0.5, 0.25]);
  });
  test.each([
    ['x,y,z\n1,,3\n', /Row 2, y: nothing stands there/],
    ['x,y,z\n1,2,three\n', /Row 2, z: “three” is no number/],
    ['x,y,z,radius\n1,2,3,wide\n', /Row 2, radius: “wide” is no number/],
    ['x,y,z,radius\n1,2,3,inf\n', /“inf” is no number|radius of particle 1/],
    ['x;y;z\n1,5;2;3\n', /Row 2, x: “1,5” has a decimal comma/],
    ['x,y,z\n1,2\n', /Row 2 has 2 values; the head names 3/],
    ['1,2,3\n4,5,6\n', /first row must name the columns/],
    ['a,b\n1,2\n', /no columns x, y and z/],
    ['x,y,z\n"1,2,3\n', /Row 2/],
    ['# nothing\n', /no columns x, y and z|holds no rows/],
  ])('%j is refused', (file, why) => expect(cloudOf(file)).rejects.toThrow(why));
});

describe('glTF', () => {
  type Made = { document: Document; node: Node; primitive: Primitive };
  const made = (corners: number[], mode = 4, points = [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0]): Made => {
    const document = new Document();
    const buffer = document.createBuffer();
    const accessor = (type: 'VEC3' | 'SCALAR', array: Float32Array | Uint16Array) =>
      document
        .createAccessor()
        .setType(type)
        .setArray(array as never)
        .setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setMode(mode as 4)
      .setAttribute('POSITION', accessor('VEC3', Float32Array.from(points)))
      .setIndices(accessor('SCALAR', Uint16Array.from(corners)));
    const node = document.createNode().setMesh(document.createMesh().addPrimitive(primitive));
    document.getRoot().setDefaultScene(document.createScene().addChild(node));
    return { document, node, primitive };
  };

  const glb = ({ document }: Made): Promise<Uint8Array> =>
    new WebIO().registerExtensions([EXTMeshGPUInstancing]).writeBinary(document);
  const vectors = ({ document }: Made, type: 'VEC3' | 'VEC4' | 'MAT4' | 'SCALAR', array: number[]) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(Float32Array.from(array))
      .setBuffer(document.getRoot().listBuffers()[0]);

  test.each([
    ['triangles', [0, 1, 2, 1, 3, 2], Primitive.Mode.TRIANGLES],
    ['a strip', [0, 1, 2, 3], Primitive.Mode.TRIANGLE_STRIP],
    ['a fan', [0, 1, 3, 2], Primitive.Mode.TRIANGLE_FAN],
  ])('%s', async (_, corners, mode) => {
    const mesh = await meshOf('a.glb', await glb(made(corners, mode)));
    expect([area(mesh), mesh.triangles.length]).toEqual([expect.closeTo(1, 6), 6]);
  });
  test('points and lines beside are told', async () => {
    const all = made([0, 1, 2]);
    const lines = all.document.createPrimitive().setMode(Primitive.Mode.LINES);
    lines.setAttribute('POSITION', all.primitive.getAttribute('POSITION'));
    all.node.getMesh()!.addPrimitive(lines);
    expect((await bring('a.glb', await glb(all))).remarks).toEqual([
      '1 parts of points or lines are left out',
    ]);
  });
  test('a skinned mesh follows its bones, over time', async () => {
    const all = made([0, 1, 2]);
    const { document, node, primitive } = all;
    const bones = [document.createNode('a'), document.createNode('b').setTranslation([1, 0, 0])];
    document.getRoot().getDefaultScene()!.addChild(bones[0]);
    bones[0].addChild(bones[1]);
    const unit = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];
    const skin = document
      .createSkin()
      .setInverseBindMatrices(vectors(all, 'MAT4', [...unit, 0, 0, 0, 1, ...unit, -1, 0, 0, 1]));
    bones.forEach((b) => skin.addJoint(b));
    // what bones bend does not stand where its node is
    node.setSkin(skin).setTranslation([50, 0, 0]);
    const joints = document
      .createAccessor()
      .setType('VEC4')
      .setArray(Uint8Array.from([0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0]))
      .setBuffer(document.getRoot().listBuffers()[0]);
    primitive.setAttribute('JOINTS_0', joints);
    primitive.setAttribute(
      'WEIGHTS_0',
      vectors(all, 'VEC4', [1, 0, 0, 0, 1, 0, 0, 0, 0.5, 0.5, 0, 0, 1, 0, 0, 0]),
    );
    const sampler = document
      .createAnimationSampler()
      .setInput(vectors(all, 'SCALAR', [0, 1]))
      .setOutput(vectors(all, 'VEC3', [1, 0, 0, 1, 4, 0]));
    const channel = document
      .createAnimationChannel()
      .setTargetNode(bones[1])
      .setTargetPath('translation')
      .setSampler(sampler);
    document.createAnimation('rise').addSampler(sampler).addChannel(channel);
    document.createAnimation('fall');
    const bytes = await glb(all);
    const still = await meshOf('a.glb', bytes, 0);
    expect([...still.positions.subarray(0, 9)]).toEqual([0, 0, 0, 1, 0, 0, 0, 1, 0]);
    const later = await meshOf('a.glb', bytes, 1);
    expect([...later.positions.subarray(0, 9)]).toEqual([0, 0, 0, 1, 4, 0, 0, 3, 0]);
    expect((await bring('a.glb', bytes)).remarks).toEqual(['of its 2 animations the first, rise, is taken']);
  });
  test('a morphed mesh follows its weights, over time', async () => {
    const all = made([0, 1, 2]);
    const { document, node, primitive } = all;
    const target = document
      .createPrimitiveTarget()
      .setAttribute('POSITION', vectors(all, 'VEC3', [0, 0, 2, 0, 0, 2, 0, 0, 2, 0, 0, 2]));
    primitive.addTarget(target);
    node.setWeights([0.5]);
    expect((await meshOf('a.glb', await glb(all))).positions[2]).toBe(1);
    const sampler = document
      .createAnimationSampler()
      .setInput(vectors(all, 'SCALAR', [0, 2]))
      .setOutput(vectors(all, 'SCALAR', [0, 1]));
    const channel = document
      .createAnimationChannel()
      .setTargetNode(node)
      .setTargetPath('weights')
      .setSampler(sampler);
    document.createAnimation().addSampler(sampler).addChannel(channel);
    expect((await meshOf('a.glb', await glb(all), 1)).positions[2]).toBe(1);
    expect((await meshOf('a.glb', await glb(all), 2)).positions[2]).toBe(2);
  });
  test('instances stand where they are said to', async () => {
    const all = made([0, 1, 2]);
    const extension = all.document.createExtension(EXTMeshGPUInstancing);
    const copies = extension
      .createInstancedMesh()
      .setAttribute('TRANSLATION', vectors(all, 'VEC3', [0, 0, 0, 5, 0, 0, 0, 0, 7]));
    all.node.setExtension('EXT_mesh_gpu_instancing', copies).setTranslation([1, 0, 0]);
    const mesh = await meshOf('a.glb', await glb(all));
    expect(mesh.triangles).toHaveLength(9);
    expect([0, 4, 8].map((v) => mesh.positions[3 * v]).slice(0, 1)).toEqual([1]);
    expect(Math.max(...mesh.positions)).toBe(7);
    expect(area(mesh)).toBeCloseTo(1.5, 6);
  });
  // what a file says is changed field by field
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  type Json = any;
  const json = async (change: (json: Json) => void, all = made([0, 1, 2])): Promise<Uint8Array> => {
    const { json: own, resources } = await new WebIO().writeJSON(all.document, {});
    const [[name, bytes]] = Object.entries(resources);
    own.buffers![0].uri = `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}`;
    expect(name).toMatch(/bin$/);
    change(own);
    return text(JSON.stringify(own));
  };

  test('data with percent signs; pictures in other files do not hinder its shape', async () => {
    const percent = await json((j) => {
      const bytes = Buffer.from(j.buffers[0].uri.split(',')[1] as string, 'base64');
      j.buffers[0].uri = `data:,${[...bytes].map((b) => `%${b.toString(16).padStart(2, '0')}`).join('')}`;
      j.images = [{ uri: 'somewhere/else.png' }];
      j.textures = [{ source: 0 }];
      j.materials = [{ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }];
      j.meshes[0].primitives[0].material = 0;
    });
    expect(area(await meshOf('a.gltf', percent))).toBeCloseTo(0.5, 6);
  });
  test.each<[string, (json: Json) => void, RegExp]>([
    ['a view behind its buffer', (j) => void (j.bufferViews[0].byteLength = 1e6), /view 0 lies outside/],
    [
      'an accessor behind its view',
      (j) => void (j.accessors[0].count = 5000),
      /reads behind the end of its view/,
    ],
    ['a count below 0', (j) => void (j.accessors[0].count = -1), /no kind or count/],
    ['a kind that there is not', (j) => void (j.accessors[0].type = 'VEC9'), /no kind or count/],
    [
      'places out of nothing',
      (j) => (delete j.accessors[0].bufferView, (j.accessors[0].count = 5e7)),
      /nothing in them/,
    ],
    [
      'sparse changes outside',
      (j) =>
        void (j.accessors[0].sparse = {
          count: 4,
          indices: { bufferView: 0, byteOffset: 9e6, componentType: 5123 },
          values: { bufferView: 0 },
        }),
      /lie outside of their views/,
    ],
    ['a node below itself', (j) => void (j.nodes[0].children = [0]), /stands in two places/],
    ['a child that is not there', (j) => void (j.nodes[0].children = [7]), /child 7 that is not there/],
    [
      'nodes too deep',
      (j) =>
        void (j.nodes = Array.from({ length: 20_000 }, (_, n) =>
          n < 19_999 ? { children: [n + 1] } : { mesh: 0 },
        )),
      /more than 500 deep/,
    ],
    ['data elsewhere', (j) => void (j.buffers[0].uri = 'mill.bin'), /in another file, mill\.bin/],
    [
      'an extension that is not known',
      (j) => void (j.extensionsRequired = j.extensionsUsed = ['KHR_draco_mesh_compression']),
      /KHR_draco_mesh_compression/,
    ],
    ['no JSON', (j) => void (j.asset = undefined), /no glTF file that can be read/],
  ])('%s is refused', async (_, change, why) => {
    await expect(meshOf('a.gltf', await json(change))).rejects.toThrow(why);
  });
  test('a face that names a vertex which is not there', async () => {
    await expect(meshOf('a.glb', await glb(made([0, 1, 9])))).rejects.toThrow(/names vertex 9; there are 4/);
  });
  test('a file that is cut, anywhere', async () => {
    const bytes = await glb(made([0, 1, 2]));
    for (let n = 0; n < bytes.length; n += 17)
      await expect(meshOf('a.glb', bytes.slice(0, n))).rejects.toThrow(/glTF|empty/);
  });
  // of a triangle with corners at 0, 1 along x and 1 along y, in u16 behind three floats each
  const node = (j: Json): Json => j.nodes[0];
  const half = [0, 0, Math.SQRT1_2, Math.SQRT1_2];
  const unit = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];
  test.each<[string, (json: Json) => void, [number, number, number]]>([
    ['as it is', () => undefined, [1, 1, 0.5]],
    ['a moved node', (j) => void (node(j).translation = [5, 0, 0]), [1, 6, 0.5]],
    ['a larger one', (j) => void (node(j).scale = [3, 1, 1]), [1, 3, 1.5]],
    ['one of no size along z', (j) => void (node(j).scale = [1, 1, 0]), [1, 1, 0.5]],
    ['a mirrored one', (j) => void (node(j).scale = [-1, 1, 1]), [1, 1, 0.5]],
    ['a turned one', (j) => void (node(j).rotation = half), [1, 1, 0.5]],
    ['one by a matrix', (j) => void (node(j).matrix = [...unit, 0, 7, 0, 1]), [1, 8, 0.5]],
    ['a child of a moved node', (j) => inside(j, { translation: [2, 0, 0] }), [1, 3, 0.5]],
    ['a child of a larger node', (j) => inside(j, { scale: [2, 2, 2] }), [1, 2, 2]],
    ['two nodes of one mesh', (j) => also(j, { mesh: 0, translation: [9, 0, 0] }), [2, 10, 1]],
    ['a node without anything', (j) => also(j, { name: 'empty' }), [1, 1, 0.5]],
    ['a node that no scene has', (j) => void j.nodes.push({ mesh: 0 }), [1, 1, 0.5]],
    [
      'a camera beside',
      (j) => {
        j.cameras = [{ type: 'perspective', perspective: { yfov: 1, znear: 0.1 } }];
        also(j, { camera: 0 });
      },
      [1, 1, 0.5],
    ],
    [
      'words of its own',
      (j) => void (j.extras = j.nodes[0].extras = { mill: [1, { wheel: null }] }),
      [1, 1, 0.5],
    ],
    [
      'materials',
      (j) => {
        j.materials = [{ doubleSided: true }];
        j.meshes[0].primitives[0].material = 0;
      },
      [1, 1, 0.5],
    ],
    [
      'two parts of one mesh',
      (j) => void j.meshes[0].primitives.push({ ...j.meshes[0].primitives[0] }),
      [2, 1, 1],
    ],
    ['no corners: vertices in threes', (j) => void delete j.meshes[0].primitives[0].indices, [1, 1, 0.5]],
    ['names of other letters', (j) => void (node(j).name = 'kvarnhjul på ön'), [1, 1, 0.5]],
    ['no scene that it begins with', (j) => void delete j.scene, [1, 1, 0.5]],
    ['a weight without a morph', (j) => void (node(j).weights = [1]), [1, 1, 0.5]],
  ])('%s is read', async (_, change, [count, highest, size]) => {
    const mesh = await meshOf('a.gltf', await json(change));
    expect(mesh.triangles.length / 3).toBe(count);
    expect(Math.max(...mesh.positions)).toBeCloseTo(highest, 5);
    expect(area(mesh)).toBeCloseTo(size, 5);
  });

  /** The node as a child of another one. */
  function inside(j: Json, parent: object): void {
    j.nodes.push({ ...parent, children: [0] });
    j.scenes[0].nodes = [1];
  }

  function also(j: Json, more: object): void {
    j.nodes.push(more);
    j.scenes[0].nodes.push(1);
  }

  test.each<[string, (json: Json) => void]>([
    ['no version', (j) => void (j.asset = {})],
    ['a version to come', (j) => void (j.asset.version = '3.0')],
    ['no meshes', (j) => void (delete j.meshes, delete node(j).mesh)],
    ['a mesh that is not there', (j) => void (node(j).mesh = 4)],
    ['places that are not there', (j) => void (j.meshes[0].primitives[0].attributes.POSITION = 44)],
    ['corners that are not there', (j) => void (j.meshes[0].primitives[0].indices = 44)],
    ['a part without places', (j) => void (j.meshes[0].primitives[0].attributes = {})],
    ['a view of a buffer that is not there', (j) => void (j.bufferViews[0].buffer = 3)],
    ['a view before its buffer', (j) => void (j.bufferViews[0].byteOffset = -4)],
    ['an accessor before its view', (j) => void (j.accessors[0].byteOffset = -4)],
    ['an accessor of a view that is not there', (j) => void (j.accessors[0].bufferView = 9)],
    ['parts of a type that there is not', (j) => void (j.accessors[0].componentType = 7)],
    ['a stride that overlaps', (j) => void (j.bufferViews[0].byteStride = 1e6)],
    ['data that is no base64', (j) => void (j.buffers[0].uri = 'data:application/octet-stream;base64,%%%')],
    ['a morph that is not there', (j) => void (j.meshes[0].primitives[0].targets = [{ POSITION: 70 }])],
    ['data on another machine', (j) => void (j.buffers[0].uri = 'http://mill.invalid/a.bin')],
    ['data at a path', (j) => void (j.buffers[0].uri = '/etc/hostname')],
    ['a root that is not there', (j) => void (j.scenes[0].nodes = [5])],
    [
      'nodes in a circle',
      (j) => {
        j.nodes.push({ children: [0] });
        node(j).children = [1];
      },
    ],
  ])('%s is refused', async (_, change) => {
    await expect(meshOf('a.gltf', await json(change))).rejects.toThrow(FileError);
  });
});

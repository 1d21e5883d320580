// Meshes and particles that are broken, cut or odd: each is refused with the place and the reason, or read as
// it is meant.
import { importAsset } from '@bramblemist/core/assets/import-asset';
import { FileError } from '@bramblemist/core/files/bytes';

const bytesOf = (content: string | Uint8Array): Uint8Array =>
  typeof content === 'string' ? new TextEncoder().encode(content) : content;

/** What a look at a file gives: triangles and the highest place of a mesh, or particles. */
async function looked(name: string, content: string | Uint8Array): Promise<readonly number[]> {
  const found = await importAsset(name, bytesOf(content));
  if (found.kind === 'mesh') {
    const { triangles, positions } = found.mesh.at(found.mesh.first);
    return [triangles.length / 3, Math.max(...positions)];
  }

  if (found.kind !== 'particles') throw new Error(found.kind);
  const { count, positions } = found.clouds.at(0, 0);
  return [count, Math.max(...positions)];
}

type Good = readonly [string, string | Uint8Array, readonly number[]];
type Bad = readonly [string, string | Uint8Array, RegExp];

function corpus(name: string, good: readonly Good[], bad: readonly Bad[]): void {
  test('there are 25 of each', () => {
    expect(good.length).toBeGreaterThanOrEqual(25);
    expect(bad.length).toBeGreaterThanOrEqual(25);
  });
  test.each(good)('%s is read', async (_, content, wanted) => {
    const [count, highest] = await looked(name, content);
    expect(count).toBe(wanted[0]);
    expect(highest).toBeCloseTo(wanted[1], 5);
  });
  test.each(bad)('%s is refused', async (_, content, why) => {
    await expect(looked(name, content)).rejects.toThrow(FileError);
    await expect(looked(name, content)).rejects.toThrow(why);
  });
}

const V = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nv 1 1 2\n';

describe('OBJ', () => {
  corpus(
    'a.obj',
    [
      ['a triangle', `${V}f 1 2 3\n`, [1, 1]],
      ['no end of its last line', `${V}f 1 2 3`, [1, 1]],
      ['lines that end with CR LF', `${V}f 1 2 3\n`.replace(/\n/g, '\r\n'), [1, 1]],
      ['lines that end with CR', `${V}f 1 2 3\n`.replace(/\n/g, '\r'), [1, 1]],
      ['a face of four', `${V}f 1 2 4 3\n`, [2, 2]],
      ['places of texture', `${V}vt 0 0\nf 1/1 2/1 3/1\n`, [1, 1]],
      ['normals', `${V}vn 0 0 1\nf 1//1 2//1 3//1\n`, [1, 1]],
      ['texture and normals', `${V}f 1/1/1 2/1/1 3/1/1\n`, [1, 1]],
      ['corners counted from the end', `${V}f -4 -3 -2\n`, [1, 1]],
      ['tabs', `${V.replace(/ /g, '\t')}f\t1\t2\t3\n`, [1, 1]],
      ['several blanks', `${V.replace(/ /g, '   ')}f  1  2  3  \n`, [1, 1]],
      ['blanks before', `${V.replace(/v/g, '  v')}\n  f 1 2 3\n`, [1, 1]],
      ['remarks', `# mill\n${V}# wheel\nf 1 2 3 # one\n`, [1, 1]],
      ['a remark without a blank', `${V}f 1 2 3# one\n`, [1, 1]],
      ['a line that goes on', `${V}f 1 2 \\\n3\n`, [1, 1]],
      ['groups and materials', `mtllib a.mtl\no mill\ng wall\nusemtl oak\ns off\n${V}f 1 2 3\n`, [1, 1]],
      ['a fourth number', `${V.replace(/\n/g, ' 1\n')}f 1 2 3\n`, [1, 1]],
      ['colours', `${V.replace(/\n/g, ' 1 0 0\n')}f 1 2 3\n`, [1, 1]],
      ['numbers with exponents', 'v 0 0 0\nv 1e0 0 0\nv 0 2.5E-1 0\nf 1 2 3\n', [1, 1]],
      ['numbers of many digits', 'v 0 0 0\nv 0.12345678901234567890 0 0\nv 0 .5 0\nf 1 2 3\n', [1, 0.5]],
      ['numbers with a plus', 'v +0 -0 0\nv +1. 0 0\nv 0 1 0\nf 1 2 3\n', [1, 1]],
      ['lines and curves beside', `${V}l 1 2\ncurv 0 1\nf 1 2 3\n`, [1, 1]],
      ['faces before later vertices', `${V}f 1 2 3\nv 0 0 9\nf 1 2 5\n`, [2, 9]],
      ['empty lines', `\n\n${V}\n\nf 1 2 3\n\n`, [1, 1]],
      ['words of other letters', `# ån\no kvarnhjul på ön\n${V}f 1 2 3\n`, [1, 1]],
    ],
    [
      ['nothing', '', /empty/],
      ['words alone', 'mist over the weir\n', /no triangles/],
      ['vertices alone', V, /no triangles/],
      ['remarks alone', '# nothing\n', /no triangles/],
      ['points alone', `${V}p 1 2\n`, /no triangles/],
      ['lines alone', `${V}l 1 2 3\n`, /no triangles/],
      ['a vertex of one number', 'v 1\n', /Line 1: a vertex needs three/],
      ['a vertex of two', 'v 0 0 0\nv 1 2\n', /Line 2: a vertex needs three/],
      ['a vertex of words', 'v here and there\n', /Line 1: a vertex needs three/],
      ['a vertex with a comma', 'v 1,5 0 0\n', /Line 1: a vertex needs three/],
      ['a vertex without end', 'v 0 0 inf\n', /Line 1: a vertex needs three/],
      ['a vertex that is no number', 'v 0 nan 0\n', /Line 1: a vertex needs three/],
      ['a vertex cut by a remark', 'v 0 0 # 0\n', /Line 1: a vertex needs three/],
      ['a vertex too far off', 'v 0 0 0\nv 1 0 0\nv 0 1e39 0\nf 1 2 3\n', /Vertex 2 is at no place/],
      ['a face of one', `${V}f 1\n`, /Line 5: a face needs three/],
      ['a face of two', `${V}f 1 2\n`, /Line 5: a face needs three/],
      ['a face of none', `${V}f\n`, /Line 5: a face needs three/],
      ['a corner of nought', `${V}f 0 1 2\n`, /Line 5: the face’s corner “0”/],
      ['a corner past the end', `${V}f 1 2 5\n`, /“5” is no vertex; there are 4/],
      ['a corner before the beginning', `${V}f 1 2 -5\n`, /“-5” is no vertex/],
      ['half a corner', `${V}f 1 2 2.5\n`, /“2\.5” is no vertex/],
      ['a corner in words', `${V}f 1 2 three\n`, /“three” is no vertex/],
      ['a corner without a number', `${V}f 1 2 /3\n`, /“\/3” is no vertex/],
      [
        'a corner of a vertex to come',
        'v 0 0 0\nf 1 2 3\nv 1 0 0\nv 0 1 0\n',
        /“2” is no vertex; there are 1/,
      ],
      ['a corner of many digits', `${V}f 1 2 99999999999999999999\n`, /is no vertex/],
    ],
  );
});

const head = (rest: string, format = 'ascii'): string => `ply\nformat ${format} 1.0\n${rest}\nend_header\n`;
const XYZ = 'property float x\nproperty float y\nproperty float z';
const vertices = (n: number, more = ''): string => `element vertex ${n}\n${XYZ}${more}`;
const faces = (n: number, list = 'property list uchar int vertex_indices'): string =>
  `\nelement face ${n}\n${list}`;
const ROWS = '0 0 0\n1 0 0\n0 1 0\n1 1 2\n';
const FLAT = head(`${vertices(4)}${faces(1)}`);

/** A triangle as binary, in either byte order. */
function binary(little: boolean, cut = 0, corner = 2, count = 3): Uint8Array {
  const text = bytesOf(head(`${vertices(3)}${faces(1)}`, `binary_${little ? 'little' : 'big'}_endian`));
  const out = new Uint8Array(text.length + 36 + 13);
  out.set(text);
  const view = new DataView(out.buffer, text.length);
  [0, 0, 0, 1, 0, 0, 0, 1, 0].forEach((v, n) => view.setFloat32(4 * n, v, little));
  view.setUint8(36, count);
  [0, 1, corner].forEach((v, n) => view.setInt32(37 + 4 * n, v, little));
  return out.slice(0, out.length - cut);
}

describe('PLY', () => {
  corpus(
    'a.ply',
    [
      ['a triangle', `${FLAT}${ROWS}3 0 1 2\n`, [1, 1]],
      ['a head with CR LF', `${FLAT.replace(/\n/g, '\r\n')}${ROWS}3 0 1 2`, [1, 1]],
      ['a face of four', `${FLAT}${ROWS}4 0 1 3 2\n`, [2, 2]],
      ['rows on one line', `${FLAT}${ROWS.replace(/\n/g, ' ')}3 0 1 2`, [1, 1]],
      [
        'remarks in its head',
        FLAT.replace('element', 'comment by hand\nelement') + `${ROWS}3 0 1 2\n`,
        [1, 1],
      ],
      [
        'the older name of corners',
        head(`${vertices(4)}${faces(1, 'property list uchar int vertex_index')}`) + `${ROWS}3 0 1 2\n`,
        [1, 1],
      ],
      [
        'corners without a sign',
        head(`${vertices(4)}${faces(1, 'property list uint8 uint32 vertex_indices')}`) + `${ROWS}3 0 1 2\n`,
        [1, 1],
      ],
      [
        'long counts',
        head(`${vertices(4)}${faces(1, 'property list int int vertex_indices')}`) + `${ROWS}3 0 1 2\n`,
        [1, 1],
      ],
      ['double places', FLAT.replace(/float/g, 'double') + `${ROWS}3 0 1 2\n`, [1, 1]],
      ['short places', FLAT.replace(/float/g, 'short') + `${ROWS}3 0 1 2\n`, [1, 1]],
      ['types with their sizes', FLAT.replace(/float/g, 'float32') + `${ROWS}3 0 1 2\n`, [1, 1]],
      [
        'normals beside',
        head(`${vertices(4, '\nproperty float nx')}${faces(1)}`) +
          '0 0 0 7\n1 0 0 7\n0 1 0 7\n1 1 2 7\n3 0 1 2\n',
        [1, 1],
      ],
      [
        'properties in another order',
        head(`element vertex 3\nproperty float z\nproperty float y\nproperty float x${faces(1)}`) +
          '0 0 0\n0 0 1\n0 5 0\n3 0 1 2\n',
        [1, 5],
      ],
      [
        'quality of faces',
        head(`${vertices(4)}${faces(1)}\nproperty float quality`) + `${ROWS}3 0 1 2 0.5\n`,
        [1, 1],
      ],
      [
        'lists beside',
        head(`${vertices(4)}${faces(1)}\nproperty list uchar float texcoord`) + `${ROWS}3 0 1 2 2 9 9\n`,
        [1, 1],
      ],
      [
        'elements beside',
        head(`element camera 1\nproperty float view\n${vertices(4)}${faces(1)}`) + `7\n${ROWS}3 0 1 2\n`,
        [1, 1],
      ],
      [
        'elements behind',
        `${head(`${vertices(4)}${faces(1)}\nelement edge 1\nproperty int a`)}${ROWS}3 0 1 2\n7\n`,
        [1, 1],
      ],
      ['faces of two among others', head(`${vertices(4)}${faces(2)}`) + `${ROWS}2 0 1\n3 0 1 2\n`, [1, 1]],
      ['little end first', binary(true), [1, 1]],
      ['big end first', binary(false), [1, 1]],
      ['bytes behind its end', Uint8Array.from([...binary(true), 1, 2, 3]), [1, 1]],
      ['no faces: particles', head(vertices(4)) + ROWS, [4, 2]],
      ['no vertices used by none', head(`${vertices(4)}${faces(0)}`) + ROWS, [4, 2]],
      [
        'particles with speeds',
        head(vertices(1, '\nproperty float vx\nproperty float vy\nproperty float vz')) + '1 2 3 0 0 1\n',
        [1, 3],
      ],
      [
        'particles with radii and ids',
        head(vertices(2, '\nproperty float radius\nproperty int id')) + '1 2 3 0.5 7\n0 0 0 1 8\n',
        [2, 3],
      ],
      ['particles of words for numbers', head(vertices(1)) + '1e-3 -2.5E1 +3\n', [1, 3]],
    ],
    [
      ['nothing', '', /empty/],
      ['another file', 'solid mill\n', /no PLY file/],
      ['a first line alone', 'ply\n', /no PLY file/],
      ['a head without end', `ply\nformat ascii 1.0\n${vertices(3)}\n`, /no PLY file/],
      ['no format', `ply\n${vertices(1)}\nend_header\n0 0 0\n`, /format is unknown: none/],
      ['another format', head(vertices(1), 'xml') + '0 0 0\n', /format is unknown: xml/],
      ['no elements', head('comment none'), /no vertices/],
      [
        'vertices without places',
        head(`element vertex 1\nproperty float u${faces(1)}`) + '1\n3 0 0 0\n',
        /no x, y and z/,
      ],
      [
        'particles without places',
        head('element vertex 1\nproperty float u') + '1\n',
        /no columns x, y and z/,
      ],
      [
        'a type that there is not',
        head('element vertex 1\nproperty real x') + '0\n',
        /type that PLY does not know: real/,
      ],
      ['a count in words', head('element vertex many\nproperty float x') + '0\n', /says many of vertex/],
      ['a count below nothing', head(vertices(-3)) + ROWS, /says -3 of vertex/],
      ['half a count', head(vertices(1.5)) + ROWS, /says 1\.5 of vertex/],
      ['more vertices than it can hold', head(vertices(9_999_999)) + ROWS, /more than the file/],
      ['fewer rows than it says', head(vertices(5)) + ROWS, /cut short/],
      ['a row cut', FLAT + '0 0 0\n1 0', /cut short/],
      ['words for numbers', `${FLAT}${ROWS.replace('1 1 2', '1 one 2')}3 0 1 2\n`, /“one” is no number/],
      [
        'a place that is no number',
        `${FLAT}${ROWS.replace('1 1 2', '1 nan 2')}3 0 1 2\n`,
        /Vertex 3 is at no place/,
      ],
      [
        'a place without end',
        `${FLAT}${ROWS.replace('1 1 2', '1 Infinity 2')}3 0 1 2\n`,
        /Vertex 3 is at no place/,
      ],
      ['a particle at no place', head(vertices(1)) + '0 nan 0\n', /Particle 1 is at no place/],
      ['a corner past the end', `${FLAT}${ROWS}3 0 1 4\n`, /names vertex 4; there are 4/],
      ['a corner before the beginning', `${FLAT}${ROWS}3 0 1 -1\n`, /names vertex -1/],
      ['a face of more than it can hold', `${FLAT}${ROWS}999 0 1 2\n`, /more than the file/],
      ['faces that are too short', `${FLAT}${ROWS}2 0 1\n`, /no triangles/],
      ['binary that is cut', binary(true, 5), /cut short/],
      ['binary of a corner that is not there', binary(true, 0, 3), /names vertex 3/],
      ['binary of too long a face', binary(false, 0, 2, 255), /cut short|more than/],
    ],
  );
});

const facet = (x = '1'): string =>
  `facet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex ${x} 0 0\nvertex 0 1 0\nendloop\nendfacet\n`;
const solid = (body: string, name = 'mill'): string => `solid ${name}\n${body}endsolid ${name}\n`;

/** Binary: so many triangles, one larger than the other. */
function stl(count: number, says = count, name = 'by hand', more = 0): Uint8Array {
  const out = new Uint8Array(84 + 50 * count + more);
  out.set(bytesOf(name));
  const view = new DataView(out.buffer);
  view.setUint32(80, says, true);
  for (let n = 0; n < count; n++)
    [0, 0, 0, n + 1, 0, 0, 0, 1, 0].forEach((v, k) => view.setFloat32(96 + 50 * n + 4 * k, v, true));
  return out;
}

function changed(bytes: Uint8Array, at: number, value: number): Uint8Array {
  new DataView(bytes.buffer).setFloat32(at, value, true);
  return bytes;
}

describe('STL', () => {
  corpus(
    'a.stl',
    [
      ['text', solid(facet()), [1, 1]],
      ['text of several', solid(facet() + facet('3')), [2, 3]],
      ['text in capitals', solid(facet()).toUpperCase(), [1, 1]],
      ['text in mixed case', solid(facet()).replace('vertex', 'Vertex'), [1, 1]],
      ['text with CR LF', solid(facet()).replace(/\n/g, '\r\n'), [1, 1]],
      ['text with tabs', solid(facet()).replace(/ /g, '\t'), [1, 1]],
      ['text set in', solid(facet().replace(/\n/g, '\n    ')), [1, 1]],
      ['text on one line but its name', `solid mill\n${facet().replace(/\n/g, ' ')}endsolid`, [1, 1]],
      ['text without a name', `solid\n${facet()}endsolid\n`, [1, 1]],
      ['a name of several words', solid(facet(), 'mill wheel, vertex 3'), [1, 1]],
      ['a name of other letters', solid(facet(), 'kvarn på ön'), [1, 1]],
      ['a name that says endsolid', solid(facet(), 'the endsolid one'), [1, 1]],
      ['several solids', solid(facet()) + solid(facet('2')), [2, 2]],
      ['text with exponents', solid(facet('2.5e-1')), [1, 1]],
      ['text with large exponents', solid(facet('2E+1')), [1, 20]],
      ['text with a plus', solid(facet('+4')), [1, 4]],
      ['text with blanks before', `\n\n  ${solid(facet())}`, [1, 1]],
      ['text whose normals are no numbers', solid(facet().replace('0 0 1', 'nan nan nan')), [1, 1]],
      ['binary', stl(1), [1, 1]],
      ['binary of many', stl(50), [50, 50]],
      ['binary that calls itself solid', stl(3, 3, 'solid mill'), [3, 3]],
      ['binary that calls itself solid, with a facet', stl(3, 3, 'solid facet'), [3, 3]],
      ['binary with bytes behind it', stl(2, 2, 'by hand', 9), [2, 2]],
      ['binary with more triangles than it says', stl(4, 2), [2, 2]],
      ['binary with colours in its last bytes', changed(stl(2), 132, 0), [2, 2]],
    ],
    [
      ['nothing', '', /empty/],
      ['a word', 'mist', /no STL file/],
      ['another file', 'ply\nformat ascii 1.0\n', /no STL file/],
      ['a first line alone', 'solid mill\n', /cut short/],
      ['no triangles in text', 'solid mill\nendsolid mill\n', /no triangles/],
      ['no end', `solid mill\n${facet()}`, /cut short/],
      ['a triangle of two corners', solid(facet().replace('vertex 0 1 0\n', '')), /ends inside a triangle/],
      [
        'a triangle of four',
        solid(facet().replace('vertex 0 1 0\n', 'vertex 0 1 0\nvertex 0 2 0\n')),
        /inside a triangle/,
      ],
      ['a corner of two numbers', solid(facet().replace('vertex 0 1 0\n', 'vertex 0 1\n')), /is no place/],
      ['a corner in words', solid(facet('one')), /“vertex one” is no place/],
      ['a corner with a comma', solid(facet('1,5')), /is no place/],
      ['a corner without end', solid(facet('inf')), /is no place/],
      ['a corner that is no number', solid(facet('nan')), /is no place/],
      ['a corner too far off', solid(facet('1e39')), /at no place/],
      ['cut behind “vertex”', `solid mill\n${facet().slice(0, 41)}`, /no place|cut short/],
      ['cut in a number', `solid mill\n${facet().slice(0, 45)}`, /no place|cut short/],
      ['a head that is cut', stl(1).slice(0, 83), /no STL file/],
      ['a triangle that is cut', stl(1).slice(0, 130), /says 1 triangles and holds 130 bytes/],
      ['fewer triangles than it says', stl(1, 2), /says 2 triangles and holds 134 bytes/],
      ['four milliard triangles', stl(1, 2 ** 32 - 1), /says 4294967295 triangles/],
      ['no triangles in binary', stl(0), /no STL file|no triangles/],
      ['a place that is no number, binary', changed(stl(1), 96, NaN), /Vertex 0 is at no place/],
      ['a place without end, binary', changed(stl(2), 150, Infinity), /is at no place/],
      ['zeros', new Uint8Array(300), /no STL file|no triangles/],
      [
        'a picture',
        Uint8Array.from([0x89, 0x50, 0x4e, 0x47, ...new Array<number>(99).fill(7)]),
        /no STL file/,
      ],
    ],
  );
});

describe('CSV', () => {
  const two = '1,2,3\n4,5,6\n';
  corpus(
    'a.csv',
    [
      ['a head and rows', `x,y,z\n${two}`, [2, 6]],
      ['no end of its last line', `x,y,z\n${two}`.trimEnd(), [2, 6]],
      ['lines that end with CR LF', `x,y,z\n${two}`.replace(/\n/g, '\r\n'), [2, 6]],
      ['lines that end with CR', `x,y,z\n${two}`.replace(/\n/g, '\r'), [2, 6]],
      ['a byte order mark', `\uFEFFx,y,z\n${two}`, [2, 6]],
      ['semicolons', `x,y,z\n${two}`.replace(/,/g, ';'), [2, 6]],
      ['tabs', `x,y,z\n${two}`.replace(/,/g, '\t'), [2, 6]],
      ['blanks', `x,y,z\n${two}`.replace(/,/g, ' '), [2, 6]],
      ['several blanks, and before and behind', `  x   y  z \n 1   2  3 \n4 5   6\n`, [2, 6]],
      ['blanks beside commas', `x , y , z\n 1 , 2 , 3 \n4,  5,  6\n`, [2, 6]],
      ['capitals', `X,Y,Z\n${two}`, [2, 6]],
      ['another order', 'z,y,x\n3,2,1\n6,5,4\n', [2, 6]],
      ['columns beside', 'name,x,y,z\na b,1,2,3\nc,4,5,6\n', [2, 6]],
      ['columns behind', 'x,y,z,heat\n1,2,3,warm\n4,5,6,\n', [2, 6]],
      ['empty columns beside', 'x,,y,z\n1,,2,3\n4,,5,6\n', [2, 6]],
      ['quotes', `"x","y","z"\n"1","2","3"\n4,5,6\n`, [2, 6]],
      ['separators in quotes', 'x,y,z,what\n1,2,3,"a, b"\n4,5,6,"c\nd"\n', [2, 6]],
      ['quotes in quotes', 'x,y,z,what\n1,2,3,"a ""b"""\n4,5,6,c\n', [2, 6]],
      ['remarks', `# made by hand\nx,y,z\n# first\n${two}# last\n`, [2, 6]],
      ['empty lines', `\nx,y,z\n\n1,2,3\n\n\n4,5,6\n\n`, [2, 6]],
      ['numbers with exponents', 'x,y,z\n1e0,2.0E0,.3e+1\n4.,+5,600e-2\n', [2, 6]],
      ['numbers of many digits', 'x,y,z\n1.00000000000000000001,2,3\n4,5,6.000000000000000000\n', [2, 6]],
      [
        'speeds, radii, ages, ids',
        'x,y,z,vx,vy,vz,radius,age,id\n1,2,3,0,0,0,1,0,7\n4,5,6,0,0,0,1,0,8\n',
        [2, 6],
      ],
      ['a head alone', 'x,y,z\n', [0, -Infinity]],
      ['numbers below nothing', 'x,y,z\n-1,-2,-3\n-4,-5,6\n', [2, 6]],
    ],
    [
      ['nothing', '', /empty/],
      ['empty lines alone', '\n\n\n', /holds no rows|no columns/],
      ['remarks alone', '# nothing\n', /holds no rows|no columns/],
      ['numbers without a head', two, /first row must name the columns/],
      ['other columns', `a,b,c\n${two}`, /no columns x, y and z; it has none/],
      ['two of three', 'x,y\n1,2\n', /no columns x, y and z/],
      ['an empty value', 'x,y,z\n1,,3\n', /Row 2, y: nothing stands there/],
      ['an empty value at the end', 'x,y,z\n1,2,\n', /Row 2, z: nothing stands there/],
      ['a word', 'x,y,z\n1,2,three\n', /Row 2, z: “three” is no number/],
      ['a number with a unit', 'x,y,z\n1,2,3m\n', /Row 2, z: “3m” is no number/],
      ['two numbers in one', 'x,y,z\n1,2,3 4\n', /Row 2, z: “3 4” is no number/],
      ['a decimal comma', 'x;y;z\n1,5;2;3\n', /“1,5” has a decimal comma/],
      ['a decimal comma in quotes', 'x,y,z\n"1,5",2,3\n', /“1,5” has a decimal comma/],
      ['no number by name', 'x,y,z\n1,2,nan\n', /Particle 1 is at no place/],
      ['without end', 'x,y,z\n1,2,3\n1,2,inf\n', /Particle 2 is at no place/],
      ['too far off', 'x,y,z\n1,2,1e39\n', /at no place/],
      ['a value too few', `x,y,z\n${two}7,8\n`, /Row 4 has 2 values; the head names 3/],
      ['a value too many', 'x,y,z\n1,2,3,4\n', /Row 2 has 4 values; the head names 3/],
      ['another separator in its rows', 'x,y,z\n1;2;3\n', /Row 2/],
      ['blanks where commas are due', 'x,y,z\n1 2 3\n', /Row 2/],
      ['too few among blanks', 'x y z\n1 2\n', /Row 2 has 2 values/],
      ['an empty value in quotes', 'x,y,z\n1,"",3\n', /Row 2, y: nothing stands there/],
      ['quotes that do not end', 'x,y,z\n"1,2,3\n4,5,6\n', /Row 2/],
      ['a radius in words', 'x,y,z,radius\n1,2,3,wide\n', /radius: “wide” is no number/],
      ['a speed without end', 'x,y,z,vx,vy,vz\n1,2,3,0,0,inf\n', /vz of particle 1 is no finite number/],
      ['bytes', Uint8Array.from({ length: 900 }, (_, n) => 1 + ((n * 97) % 255)), /./],
    ],
  );
});

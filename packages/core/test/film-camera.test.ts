// Cameras from elsewhere: read from tables and glTF, and keyed into a look.
import { Document, WebIO } from '@gltf-transform/core';
import { readCsvCamera } from '@bramblemist/core/files/csv/camera';
import { readGltfCameras } from '@bramblemist/core/files/gltf/camera';
import { withFilmCamera } from '@bramblemist/core/look/film-camera';
import { cameraRays, LOOK, lookAt } from '@bramblemist/core/look/look';

const SHOT = { firstFrame: 1, lastFrame: 25, frameRate: 24 };
const table = (text: string): ReturnType<typeof readCsvCamera> =>
  readCsvCamera(new TextEncoder().encode(text), 'track');
const MATRIX = [0, 1, 2, 3].flatMap((r) => [0, 1, 2, 3].map((c) => `m${r}${c}`)).join(',');

describe('a table', () => {
  test('of places is keyed frame by frame', () => {
    const film = table(
      'frame,x,y,z,aimx,aimy,aimz,focal\n1,0,1,5,0,1,0,50\n2,0.5,1,5,0.5,1,0,50\n# said\n3,1,1,5,1,1,0,60',
    );
    const look = withFilmCamera(LOOK.parse({}), film, SHOT, 1);
    expect(LOOK.parse(look)).toEqual(look);
    expect(look.curves.map((c) => c.path)).toEqual(['camera/eye.0', 'camera/target.0', 'camera/focal']);
    const { camera } = lookAt(look, 2);
    expect(camera.eye).toEqual([0.5, 1, 5]);
    expect(camera.focal).toBeCloseTo(50);
    expect(lookAt(look, 3).camera.focal).toBeCloseTo(60);
  });
  test.each([
    ['1,0,0,2,0,1,0,3,0,0,1,7,0,0,0,1', 'for vectors behind it'],
    ['1,0,0,0,0,1,0,0,0,0,1,0,2,3,7,1', 'for vectors before it'],
  ])('of matrices %# is understood %s', (matrix) => {
    const film = table(`frame,${MATRIX}\n1,${matrix}\n`);
    const { camera, curves } = withFilmCamera(LOOK.parse({}), film, SHOT, 0.01);
    expect(curves).toEqual([]);
    camera.eye.forEach((v, a) => expect(v).toBeCloseTo([0.02, 0.03, 0.07][a]));
    expect(camera.target[2]).toBeLessThan(camera.eye[2]);
    expect(camera.target[0]).toBeCloseTo(0.02);
    expect(camera.roll).toBeCloseTo(0);
  });
  test('rolls as it was rolled, over half a turn too', () => {
    const rows = Array.from({ length: 25 }, (_, n) => `${n + 1},0,1,5,0,1,0,${n * 20}`);
    const film = table(['frame,x,y,z,aimx,aimy,aimz,roll', ...rows].join('\n'));
    const look = withFilmCamera(LOOK.parse({}), film, SHOT, 1);
    expect(lookAt(look, 25).camera.roll).toBeCloseTo(480);
    // above 0 the picture's top goes right
    const { down } = cameraRays(lookAt(look, 3));
    expect(-down[0]).toBeGreaterThan(0);
  });
  test.each([
    ['a,b\n1,2', /name the columns/],
    ['frame,x,y,z,aimx,aimy,aimz\n1,0,0,0,0,0', /Row 2 has 6 values/],
    ['frame,x,y,z,aimx,aimy,aimz\n1,0,0,,0,0,1', /Row 2: z is no number/],
    ['frame,x,y,z,aimx,aimy,aimz\n2,0,0,0,0,0,1\n2,0,0,0,0,0,1', /Row 3: its frame must be later/],
    ['frame,x,y,z,aimx,aimy,aimz\n2,0,0,0,0,0,0', /looks in no direction/],
    [`frame,${MATRIX}\n1,1,0,0,0,0,1,0,0,0,1,1,0,0,0,0,1`, /looks in no direction/],
    ['frame,x,y,z,aimx,aimy,aimz', /holds no row/],
  ])('that cannot be is refused in words (%#)', (text, why) => {
    expect(() => table(text)).toThrow(why);
  });
  test('of other frames or units is refused in words', () => {
    const far = table('frame,x,y,z,aimx,aimy,aimz\n1,5000,0,0,0,0,1');
    expect(() => withFilmCamera(LOOK.parse({}), far, SHOT, 1)).toThrow(/Is its unit right/);
    const late = table('frame,x,y,z,aimx,aimy,aimz\n900,0,0,0,0,0,1\n901,1,0,0,0,0,1');
    expect(() => withFilmCamera(LOOK.parse({}), late, SHOT, 1)).toThrow(/moves over frames 900 to 901/);
  });
});

describe('glTF', () => {
  async function scene(withCamera: 'perspective' | 'orthographic' | null): Promise<Uint8Array> {
    const document = new Document();
    const buffer = document.createBuffer();
    const node = document.createNode('Film').setTranslation([0, 2, 8]);
    if (withCamera)
      node.setCamera(
        document
          .createCamera('Lens')
          .setType(withCamera)
          .setYFov(0.5)
          .setAspectRatio(16 / 9),
      );
    const times = document
      .createAccessor()
      .setBuffer(buffer)
      .setType('SCALAR')
      .setArray(Float32Array.of(0, 1));
    const places = document
      .createAccessor()
      .setBuffer(buffer)
      .setType('VEC3')
      .setArray(Float32Array.of(0, 2, 8, 2.4, 2, 8));
    const sampler = document.createAnimationSampler().setInput(times).setOutput(places);
    document
      .createAnimation()
      .addSampler(sampler)
      .addChannel(
        document
          .createAnimationChannel()
          .setTargetNode(node)
          .setTargetPath('translation')
          .setSampler(sampler),
      );
    document.createScene().addChild(node);
    return new WebIO().writeBinary(document);
  }

  test('gives its camera as it moves, with its lens', async () => {
    const [film] = await readGltfCameras(await scene('perspective'));
    expect(film).toMatchObject({ name: 'Film', unit: 'seconds', first: 0, last: 1 });
    const look = withFilmCamera(LOOK.parse({}), film, SHOT, 1);
    expect(look.curves.map((c) => c.path)).toEqual(['camera/eye.0', 'camera/target.0']);
    expect(lookAt(look, 13).camera.eye[0]).toBeCloseTo(1.2);
    const { focal, back, width, height } = look.camera;
    expect(((back / 2 / focal) * height) / width).toBeCloseTo(Math.tan(0.25));
  });
  test('gives a further camera its keys, and leaves the shot’s', async () => {
    const [film] = await readGltfCameras(await scene('perspective'));
    const before = LOOK.parse({ cameras: [{ id: 'b', name: 'B' }] });
    const look = withFilmCamera(before, film, SHOT, 1, 'b');
    expect(look.camera).toEqual(before.camera);
    expect(lookAt(look, 25, 'b').camera.eye[0]).toBeCloseTo(2.4);
  });
  test('without a camera, or with parallel rays, is refused in words', async () => {
    await expect(readGltfCameras(await scene(null))).rejects.toThrow(/holds no camera/);
    await expect(readGltfCameras(await scene('orthographic'))).rejects.toThrow(/parallel rays/);
  });
});

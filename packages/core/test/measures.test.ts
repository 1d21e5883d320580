// Pictures of a medium and what they are measured by, against shapes whose measures are known.
import type { PreviewVolume } from '@bramblemist/core/volume/preview-volume';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { beforeSolids, limitsOf, seeBrick } from '@bramblemist/core/look/see';
import {
  boundsOf,
  frontOf,
  likeness,
  match,
  matteOf,
  measure,
  within,
  type Opacity,
} from '@bramblemist/core/analysis/measures';

const W = 160;
const H = 90;
const picture = (at: (x: number, y: number) => number): Opacity => ({
  width: W,
  height: H,
  values: Float32Array.from({ length: W * H }, (_, n) => at((n % W) + 0.5, Math.floor(n / W) + 0.5)),
});
/** A disc with an edge that falls from 1 to 0 over a width. */
const disc = (radius: number, edge: number, full = 1, cx = 80): Opacity =>
  picture((x, y) => full * Math.min(1, Math.max(0, (radius + edge / 2 - Math.hypot(x - cx, y - 45)) / edge)));

describe('measures', () => {
  test('coverage is the part of the frame, opacity that of what is seen', () => {
    const m = measure(picture((x) => (x < 40 ? 0.5 : 0)));
    expect(m.coverage).toBeCloseTo(0.25, 6);
    expect(m.opacity).toBeCloseTo(0.5, 6);
  });
  test.each([6, 12, 24])('an edge of %i pixels is two fifths of that from a tenth to a half', (edge) => {
    expect(measure(disc(28, edge)).softness * W).toBeCloseTo(0.4 * edge, 0);
  });
  test('an edge is as soft when all of it is thinner', () => {
    const full = measure(disc(28, 16)).softness;
    const half = measure(disc(28, 16, 0.5)).softness;
    expect(Math.abs(half / full - 1)).toBeLessThan(0.1);
  });
  test.each([8, 12, 20])('waves of %i pixels are lumps of half of that', (wave) => {
    const { lump } = measure(
      picture((x, y) =>
        x > 35 && x < 125
          ? 0.6 + 0.3 * Math.cos((2 * Math.PI * (x + 0.4 * y)) / wave / Math.hypot(1, 0.4))
          : 0,
      ),
    );
    expect(Math.abs((lump * W) / (wave / 2) - 1)).toBeLessThan(0.25);
  });
  test('larger lumps measure larger', () => {
    const lumps = [6, 9, 14, 20].map(
      (wave) =>
        measure(picture((x, y) => 0.5 + 0.2 * (Math.cos((6.283 * x) / wave) + Math.cos((6.283 * y) / wave))))
          .lump,
    );
    expect([...lumps].sort((a, b) => a - b)).toEqual(lumps);
  });
  test('nothing measures nothing, without a fault', () => {
    expect(measure(picture(() => 0))).toEqual({ coverage: 0, opacity: 0, softness: 0, lump: 0, front: null });
  });
  test(
    'a front moves as fast as the side that moves fastest; where it ' + 'leaves the frame nothing is said',
    () => {
      const moving = Array.from({ length: 8 }, (_, n) => disc(10, 2, 1, 60 + 4 * n));
      expect(frontOf(moving, 0.1)! * W).toBeCloseTo(40, 0);
      expect(frontOf(moving.slice(0, 2), 0.1)).toBeNull();
      const leaving = Array.from({ length: 8 }, (_, n) => picture((x) => (x > 150 - 10 * n ? 1 : 0)));
      expect(frontOf(leaving, 0.1)! * W).toBeCloseTo(100, 0);
    },
  );
});

describe('a matte', () => {
  const bytes = Uint8Array.from({ length: 4 * 4 * 2 }, (_, n) =>
    n % 4 === 3 ? 255 : Math.floor((n >> 2) % 4) * 85,
  );
  test('by luminance, bright on dark and dark on bright', () => {
    const values = (from: number, to: number): number[] =>
      [...matteOf(bytes, 4, 2, { by: 'luminance', from, to }).values]
        .slice(0, 4)
        .map((v) => Number(v.toFixed(3)));
    expect(values(0, 1)).toEqual([0, 0.333, 0.667, 1]);
    expect(values(1, 0)).toEqual([1, 0.667, 0.333, 0]);
    expect(values(0.5, 0.5)).toEqual([0, 0, 1, 1]);
  });
  test('by a drawn outline: nothing outside of it', () => {
    const points: [number, number][] = [
      [0.5, 0],
      [1, 0],
      [1, 1],
      [0.5, 1],
    ];
    expect(
      [...matteOf(bytes, 4, 2, { by: 'outline', points, from: 0, to: 0.01 }).values].slice(0, 4),
    ).toEqual([0, 0, 1, 1]);
    expect(within(points, 0.75, 0.5)).toBe(true);
    expect(within(points, 0.25, 0.5)).toBe(false);
    expect(within([], 0.5, 0.5)).toBe(false);
  });
});

describe('a match', () => {
  const own = measure(disc(28, 12), 0.2);
  test('with itself is whole', () => {
    expect(match(own, own).score).toBeCloseTo(1, 9);
  });
  test('says by part how far off it is, and leaves out what one of them lacks', () => {
    const { parts, score } = match(own, { ...own, coverage: own.coverage / 2, front: null });
    expect(parts.map((p) => p.name)).not.toContain('front');
    expect(parts.find((p) => p.name === 'coverage')!.score).toBeCloseTo(0.5, 6);
    expect(score).toBeCloseTo(0.5 ** 0.25, 6);
  });
  test('likeness is the smaller over the larger', () => {
    expect(likeness(2, 1)).toBe(0.5);
    expect(likeness(0, 0)).toBe(1);
    expect(likeness(-1, 1)).toBe(0);
  });
});

describe('a brick seen', () => {
  const look: Look = LOOK.parse({
    camera: { eye: [0, 0, 10], target: [0, 0, 0], focal: 36, width: 64, height: 64 },
    medium: { density: 1.5 },
  });
  const brick = (over: Partial<PreviewVolume> = {}): PreviewVolume => ({
    frame: 1,
    dims: [16, 16, 16],
    corner: [-2, -2, -0.5],
    voxelSizeM: 0.25,
    greatest: 2,
    colour: null,
    bytes: new Uint8Array(4096).fill(51),
    ...over,
  });
  test('stops light as Beer and Lambert say', () => {
    const { rgba, width } = seeBrick(brick(), look, 64);
    const middle = rgba[4 * (32 * width + 32) + 3];
    expect(middle).toBeCloseTo(1 - Math.exp(-1.5 * 0.4 * 4), 2);
    expect(rgba[3]).toBe(0);
  });
  test('is hidden by what stands before it', () => {
    expect(
      seeBrick(
        brick(),
        look,
        64,
        limitsOf(look, 64, () => 5),
      ).rgba.every((v) => v === 0),
    ).toBe(true);
  });
  test('stands before what is solid, which is brighter where it faces the sun', () => {
    // a wedge of two planes that meet in front of the camera, of which the left one faces left, and the sun
    // on the left
    const lit = LOOK.parse({ ...look, lights: [{ id: 's', heading: 180, height: 10 }] });
    const limits = limitsOf(lit, 64, (_eye, d) =>
      Math.abs(d[0]) < 0.3 ? 8 / (-d[2] - Math.abs(d[0])) : Infinity,
    );
    const nothing = seeBrick(brick({ bytes: new Uint8Array(4096) }), lit, 64, limits);
    const { rgba } = beforeSolids(nothing, lit, limits);
    const at = (x: number): number[] => [...rgba.subarray(4 * (32 * 64 + x), 4 * (32 * 64 + x) + 4)];
    expect(at(0)).toEqual([0, 0, 0, 0]);
    expect(at(26)[3]).toBe(1);
    expect(at(26)[0]).toBeGreaterThan(1.3 * at(38)[0]);
    const behind = beforeSolids(seeBrick(brick(), lit, 64, limits), lit, limits).rgba;
    expect(behind[4 * (32 * 64 + 26)]).not.toBe(at(26)[0]);
  });
  test('shows the colour that it carries', () => {
    const colour = {
      dims: [8, 8, 8] as [number, number, number],
      bytes: Uint8Array.from({ length: 2048 }, (_, n) => [255, 0, 0, 255][n % 4]),
    };
    const at = 4 * (32 * 64 + 32);
    const { rgba } = seeBrick(brick({ colour }), look, 64);
    expect(rgba[at]).toBeGreaterThan(0.05);
    expect(rgba[at + 1] + rgba[at + 2]).toBe(0);
  });
  test('fills the frame as wide as the camera says', () => {
    const { rgba, width, height } = seeBrick(brick({ bytes: new Uint8Array(4096).fill(255) }), look, 64);
    const box = boundsOf({
      width,
      height,
      values: Float32Array.from({ length: width * height }, (_, n) => rgba[4 * n + 3]),
    })!;
    // 4 m in front face at 10 − 3.5 m away, on a frame as wide as it is far
    expect((box[2] - box[0]) / width).toBeCloseTo(4 / 6.5, 1);
  });
});

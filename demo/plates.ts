// The moving plates of the Heron Mill: a still of each set, lit as its shot is, seen by a camera that pushes
// in and sways, with the track of it. The way is known exactly, since it is made here.
import { spawn } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { LinearPicture } from '@bramblemist/core/files/picture';
import { Pixels } from '@bramblemist/core/combine/pixels';
import { inverted, moved, scaled, times, turned, type Matrix } from '@bramblemist/core/combine/placing';
import { encodeSrgb } from '@bramblemist/core/look/picture';
import { solidsAt } from '@bramblemist/core/look/solids';
import { renderWith } from '@bramblemist/core/look/render';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { loadAssets } from '@bramblemist/core/io/node/assets';
import { compile } from '@bramblemist/core/plan/compile';
import { example, exampleLook } from '@bramblemist/core/presets/examples';
import { encodePng } from '@bramblemist/core/io/node/png';
import { fbm, mix } from './noise';

export const PLATE = { width: 960, height: 540 } as const;

/** Pictures of grain that a plate goes through. */
const GRAINS = 7;

/** Frame by which what falls has come to rest. */
const SETTLED = 60;

/** What is nothing but air: a plate has no medium in it. */
const AIR = {
  dims: [4, 4, 4],
  density: new Float32Array(64),
  corner: [-50, -50, -50],
  voxelSizeM: 0.01,
} as const;

interface Set {
  readonly shot: string;
  readonly file: string;
  /** How far it is pushed in at the end, and how far it sways then, pixels. */
  readonly push: number;
  readonly sway: number;
  /** Colours of what is far behind, from below upward. */
  readonly behind: readonly [readonly number[], readonly number[]];
  readonly solids: Partial<Look['solids']>;
  /** Darker or lighter by place: joints, grain, dirt. */
  readonly texture: (x: number, y: number, z: number) => number;
  /** What its reference has of the medium, by parts of the picture from the upper left. */
  readonly painted: (u: number, v: number) => readonly Painted[];
}

/** Something that is painted over a still: how much of it, and its light. */
interface Painted {
  readonly cover: number;
  readonly colour: readonly [number, number, number];
}

const bell = (v: number, wide: number): number => Math.exp(-((v / wide) ** 2));
const rise = (from: number, to: number, v: number): number => {
  const t = Math.min(1, Math.max(0, (v - from) / (to - from)));
  return t * t * (3 - 2 * t);
};

/** Lumps within a form. @param form 0 outside, 1 in its middle */
const lumpy = (form: number, u: number, v: number, size: number): number =>
  rise(0.42, 0.95, 0.75 * form + 0.55 * fbm(u / size, (0.6 * v) / size));

const wrap = (v: number, n: number): number => v - n * Math.floor(v / n);
/** Boards that lie side by side along x, each of its own tone. */
const boards = (x: number, z: number, wide: number): number => {
  const board = Math.floor(z / wide);
  const joint = Math.abs(wrap(z, wide) / wide - 0.5) > 0.48 ? 0.45 : 1;
  return joint * (0.75 + 0.4 * fbm(x * 3 + board * 7, z * 40)) * (0.85 + 0.3 * fbm(board * 3.7, 1));
};

/** Courses of stones. */
const stones = (x: number, y: number, z: number): number => {
  const course = Math.floor(y / 0.17);
  const along = (Math.abs(x) + Math.abs(z) + 0.19 * (course % 3)) / 0.36;
  const joint = Math.min(wrap(y, 0.17) / 0.17, wrap(along, 1)) < 0.07 ? 0.6 : 1;
  return joint * (0.7 + 0.55 * fbm(along * 2.3 + course * 5, y * 11));
};

const SETS: readonly Set[] = [
  {
    shot: 'sack-drop',
    file: 'sack_plate',
    push: 0.06,
    sway: 7,
    behind: [
      [0.012, 0.011, 0.012],
      [0.03, 0.034, 0.045],
    ],
    solids: { colour: [0.42, 0.34, 0.24], floor: [0.2, 0.135, 0.085] },
    texture: (x, y, z) => (y < 0.02 ? boards(x, z, 0.24) : 0.75 + 0.4 * fbm(x * 30, y * 30 + z * 9)),
    painted: (u, v) => [
      {
        cover: 0.9 * lumpy(bell(u - 0.5, 0.34) * bell(v - 0.62, 0.16), u, v, 0.1),
        colour: [0.36, 0.33, 0.28],
      },
    ],
  },
  {
    shot: 'ice-cellar',
    file: 'cellar_plate',
    push: 0.08,
    sway: 4,
    behind: [
      [0.008, 0.009, 0.011],
      [0.02, 0.026, 0.04],
    ],
    solids: { colour: [0.26, 0.26, 0.27], floor: [0.14, 0.14, 0.15] },
    texture: stones,
    painted: (u, v) => [
      {
        cover:
          0.85 *
          lumpy(bell(v - 0.36 - 0.42 * u, 0.13) * rise(0.02, 0.12, u) * rise(0.95, 0.6, u), u, v, 0.14),
        colour: [0.2, 0.24, 0.32],
      },
    ],
  },
  {
    shot: 'quill',
    file: 'quill_plate',
    push: 0.04,
    sway: 3,
    behind: [
      [0.5, 0.48, 0.45],
      [0.62, 0.61, 0.59],
    ],
    solids: { vessels: 'seen', walls: [0.86, 0.85, 0.82] },
    texture: (x, y, z) => 0.97 + 0.05 * fbm(x * 60, y * 60 + z * 20),
    painted: (u, v) =>
      [
        { at: 0.45, reach: 0.72, colour: [0.02, 0.02, 0.06] as const },
        { at: 0.56, reach: 0.6, colour: [0.3, 0.02, 0.02] as const },
      ].map(({ at, reach, colour }) => {
        const sway = 0.035 * Math.sin(11 * v + 9 * at) * rise(0.1, 0.6, v);
        const stem =
          bell(u - at - sway, 0.012 + 0.05 * v) * rise(reach, reach - 0.12, v) * rise(0.08, 0.12, v);
        const head = bell(Math.hypot((u - at - sway) * 1.7, v - reach + 0.06), 0.1);
        return { cover: 0.95 * lumpy(Math.max(stem, head), u, v, 0.06), colour };
      }),
  },
  {
    shot: 'drying-kiln',
    file: 'kiln_plate',
    push: 0.05,
    sway: 8,
    behind: [
      [0.5, 0.3, 0.17],
      [0.11, 0.17, 0.3],
    ],
    solids: { colour: [0.3, 0.25, 0.21], floor: [0.13, 0.14, 0.07] },
    painted: (u, v) => {
      const on = Math.max(0, u - 0.3);
      const form = bell(v - 0.39 + 0.26 * Math.sqrt(on), 0.025 + 0.16 * on) * rise(0.28, 0.32, u);
      return [{ cover: 0.85 * rise(1.1, 0.5, u) * lumpy(form, u, v, 0.09), colour: [0.4, 0.35, 0.33] }];
    },
    texture: (x, y, z) => {
      if (y < 0.02) return 0.6 + 0.8 * fbm(x * 6, z * 6);
      return y > 1.12
        ? 0.65 + 0.5 * fbm(Math.floor(x / 0.12) * 3.1, Math.floor(z / 0.16) * 5.3 + Math.floor(y / 0.1))
        : stones(x, y, z);
    },
  },
  {
    shot: 'lantern-jetty',
    file: 'jetty_plate',
    push: 0.06,
    sway: 5,
    behind: [
      [0.012, 0.017, 0.03],
      [0.02, 0.035, 0.075],
    ],
    solids: { colour: [0.34, 0.27, 0.19], floor: [0.05, 0.06, 0.075] },
    texture: (x, y, z) => (y < 0.02 ? 0.45 + 1.1 * fbm(x * 5, z * 26) : boards(z, x, 0.16)),
    painted: (u, v) => [
      {
        cover: 0.8 * lumpy(bell(v - 0.74, 0.13), u, v, 0.16),
        colour: mix([0.14, 0.15, 0.2], [0.3, 0.22, 0.16], rise(0.4, 0.8, u)),
      },
    ],
  },
];

/** A set as its shot's camera sees it, without its medium. */
async function still({ shot, behind, solids, texture }: Set, folder: string): Promise<LinearPicture> {
  const recipe = example(shot);
  const own = exampleLook(shot);
  const look = LOOK.parse({
    ...own,
    medium: { ...own.medium, colour: 'even' },
    solids: {
      ...own.solids,
      seen: 'seen',
      ground: own.solids.ground === 'none' ? 'none' : 'seen',
      ...solids,
    },
    camera: { ...own.camera, ...PLATE },
    passes: { position: true },
  });
  const { eye } = look.camera;
  const plan = compile(recipe, { assets: await loadAssets(recipe, folder) }).plan;
  const made = renderWith(startThreadPool, AIR as never, look, {
    threads: 2,
    solids: solidsAt(plan, plan.frameS * SETTLED),
  });
  const where = made.layers.find(({ name }) => name === 'position')!.values;
  const { width, height } = PLATE;
  const size = Math.hypot(...look.camera.target.map((v, a) => v - eye[a]));
  for (let p = 0; p < width * height; p++) {
    const [x, y, z] = where.subarray(3 * p, 3 * p + 3);
    const alpha = made.rgba[4 * p + 3];
    const shade = alpha > 0.01 ? texture(x, y, z) : 1;
    const up =
      1 - Math.floor(p / width) / height + 0.06 * (fbm((p % width) / 130, Math.floor(p / width) / 45) - 0.5);
    const far = mix(behind[0] as never, behind[1] as never, up);
    // the farther, the more it is lost in what lies behind
    const away = alpha > 0.01 ? Math.hypot(x - eye[0], y - eye[1], z - eye[2]) / size : 0;
    const lost = 1 - Math.exp(-Math.max(0, away - 1.1) * 0.8);
    for (let c = 0; c < 3; c++)
      made.rgba[4 * p + c] = made.rgba[4 * p + c] * shade * (1 - lost) + far[c] * (1 - alpha + alpha * lost);
    made.rgba[4 * p + 3] = 1;
  }

  return { width, height, rgba: made.rgba };
}

/** Where the plate stands at a frame, from how it stood at the first. */
function wayAt(
  t: number,
  push: number,
  sway: number,
  seed: number,
): { matrix: Matrix; turn: number; scale: number } {
  // it begins at rest, and never shows more than the still has
  const grown = t * t * (3 - 2 * t);
  const scale = 1 + push * grown;
  const wander = (n: number): number => 2 * fbm(9 * t + seed + 13 * n, 3 * n + seed, 3) - 0.9;
  const turn = 0.25 * grown * wander(2);
  const { width, height } = PLATE;
  const shift = moved(sway * grown * wander(0), 0.6 * sway * grown * wander(1));
  const about = times(
    times(moved(width / 2, height / 2), times(turned(turn), scaled(scale, scale))),
    moved(-width / 2, -height / 2),
  );
  return { matrix: times(shift, about), turn, scale };
}

/** Writes a still as a movie that pushes in and sways, and the track of its middle. */
export async function writePlate(
  picture: LinearPicture,
  folder: string,
  file: string,
  frames: number,
  { push, sway }: { push: number; sway: number },
): Promise<void> {
  const { width, height } = PLATE;
  const pool = startThreadPool(64, 2);
  const pixels = new Pixels(pool, width, height, 2 + GRAINS, 1);
  const [frame, room, ...grains] = Array.from({ length: 2 + GRAINS }, (_, n) => pixels.picture(n));
  // film is never clean
  grains.forEach((grain, n) => {
    pixels.grain(grain, n + 1);
    pixels.blur(grain, grain, room, 0.6);
  });
  const encoder = spawn(
    'ffmpeg',
    [
      ...['-nostdin', '-hide_banner', '-loglevel', 'error', '-y', '-f', 'rawvideo', '-pixel_format', 'rgba'],
      ...['-video_size', `${width}x${height}`, '-framerate', '24', '-i', 'pipe:0'],
      ...[
        '-vf',
        'scale=in_range=full:out_range=tv:out_color_matrix=bt709',
        '-pix_fmt',
        'yuv420p',
        '-c:v',
        'libx264',
        '-preset',
        'veryfast',
        '-crf',
        '17',
      ],
      ...[
        '-color_primaries',
        'bt709',
        '-color_trc',
        'iec61966-2-1',
        '-colorspace',
        'bt709',
        '-bitexact',
        join(folder, `${file}.mp4`),
      ],
    ],
    { stdio: ['pipe', 'ignore', 'inherit'] },
  );
  const ended = new Promise<void>((done, fail) => {
    encoder.on('error', fail);
    encoder.on('close', (code) => (code === 0 ? done() : fail(new Error(`ffmpeg ended with code ${code}`))));
  });
  const table = Uint8Array.from({ length: 4097 }, (_, n) => Math.round(255 * encodeSrgb((n / 4096) ** 2)));
  const rows = ['frame,x,y,scale,rotation,width,height'];
  const seed = file.length;
  try {
    for (let n = 0; n < frames; n++) {
      const { matrix, turn, scale } = wayAt(n / (frames - 1), push, sway, seed);
      pixels.place(picture, frame, inverted(matrix)!, true);
      pixels.addGrain(frame, grains[n % GRAINS], 0, [0.02, 0.018, 0.026], 0.2);
      const bytes = new Uint8Array(4 * width * height);
      const view = pixels.view(frame);
      for (let at = 0; at < bytes.length; at++) {
        const v = view[at] < 0 ? 0 : view[at];
        bytes[at] = (at & 3) === 3 ? 255 : table[(4096 * Math.sqrt(v > 1 ? 1 : v) + 0.5) | 0];
      }

      if (!encoder.stdin.write(bytes)) await new Promise((done) => encoder.stdin.once('drain', done));
      const [x, y] = [width / 2, height / 2];
      const w = matrix[6] * x + matrix[7] * y + matrix[8];
      const at = [
        (matrix[0] * x + matrix[1] * y + matrix[2]) / w,
        (matrix[3] * x + matrix[4] * y + matrix[5]) / w,
      ];
      rows.push(
        [n + 1, ...at.map((v) => v.toFixed(3)), scale.toFixed(6), turn.toFixed(4), width, height].join(),
      );
    }
  } finally {
    encoder.stdin.end();
    pool.close();
  }

  await ended;
  writeFileSync(join(folder, `${file.replace(/_plate$/, '')}_track.csv`), `${rows.join('\n')}\n`);
}

/** A still with the medium painted over it, as somebody would send it to say what is wanted. */
function reference({ width, height, rgba }: LinearPicture, { painted }: Set): LinearPicture {
  const out = rgba.slice();
  for (let p = 0; p < width * height; p++)
    for (const { cover, colour } of painted((p % width) / width, Math.floor(p / width) / height))
      for (let c = 0; c < 3; c++) out[4 * p + c] += cover * (colour[c] - out[4 * p + c]);
  return { width, height, rgba: out };
}

/** The plates of all sets but the weir, whose still is painted, and their references. */
export async function writePlates(folder: string): Promise<void> {
  for (const set of SETS) {
    const { space } = example(set.shot);
    const own = await still(set, folder);
    const name = set.file.replace(/_plate$/, '_still.png');
    writeFileSync(join(folder, name), encodePng(reference(own, set)));
    await writePlate(own, folder, set.file, space.lastFrame - space.firstFrame + 1, set);
  }
}

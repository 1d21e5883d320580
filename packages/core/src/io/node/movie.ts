// Numbered pictures to a movie, through ffmpeg as a child process that reads pixels from a pipe and nothing
// else.
import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname } from 'node:path';
import { CoreError } from '../../base/error';
import { readExrColours } from '../../files/exr/colours';
import { encodeSrgb } from '../../look/picture';
import { nodeZip } from './files';
import { readPng } from './png';

export const MOVIE_KINDS = ['review', 'prores', 'png'] as const;
/**
 * MP4 (H.264) over a background for review; MOV with alpha for further work, packed by ProRes 4444 or,
 * without loss, by PNG.
 */
export type MovieKind = (typeof MOVIE_KINDS)[number];
export const movieEnding = (kind: MovieKind): string => (kind === 'review' ? 'mp4' : 'mov');

export interface MovieFrame {
  readonly frame: number;
  /** OpenEXR or PNG. */
  readonly path: string;
}

export interface MovieSettings {
  readonly kind: MovieKind;
  /** Frames a second. */
  readonly rate: number;
  /** What review movies stand over, linear light. */
  readonly background: readonly [number, number, number];
  /** Burnt in below: the frame’s number after what is said here; null: nothing is. */
  readonly burn: string | null;
}

/** What a frame may take to be packed before ffmpeg counts as stuck, ms. */
const STUCK_MS = 60_000;
const MOST_FRAMES = 100_000;
/** What is written into pictures is written in it. */
export const fontFile = (): string => createRequire(__filename).resolve(FONT);
const FONT = '@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2';
const SRGB_STEPS = 65535;

/**
 * Writes a movie, whole or not at all. Frames that are missing within the range are held from the one before.
 * @param onFrame called after each frame that was given to the movie
 * @param ffmpeg the program
 * @returns frames of the movie, and how many of them are held
 * @throws CoreError where a picture cannot be read or differs in size, or ffmpeg fails
 */
export async function writeMovie(
  frames: readonly MovieFrame[],
  out: string,
  settings: MovieSettings,
  onFrame: (done: number, total: number, frame: number) => void = () => undefined,
  ffmpeg = 'ffmpeg',
): Promise<{ readonly frames: number; readonly held: number }> {
  if (frames.length === 0) throw new CoreError('file', 'There are no pictures to make a movie of.');
  const [first, last] = [frames[0].frame, frames[frames.length - 1].frame];
  const total = last - first + 1;
  if (total > MOST_FRAMES)
    throw new CoreError('file', `A movie of ${total} frames is longer than ${MOST_FRAMES} allow.`);
  const byFrame = new Map(frames.map((f) => [f.frame, f.path]));
  let picture = await pictureOf(frames[0].path, settings);
  const { width, height } = picture;
  mkdirSync(dirname(out), { recursive: true });
  const part = `${out}.part-${process.pid}.${movieEnding(settings.kind)}`;
  const note = `${out}.part-${process.pid}.txt`;
  if (settings.burn !== null) writeFileSync(note, settings.burn);
  const encoder = startEncoder(ffmpeg, [
    ...inputOf(width, height, settings),
    ...outputOf(settings, height, first, note),
    part,
  ]);
  let held = 0;
  try {
    for (let frame = first; frame <= last; frame++) {
      const path = byFrame.get(frame);
      if (path === undefined) held++;
      else if (frame > first) picture = await pictureOf(path, settings);
      if (picture.width !== width || picture.height !== height)
        throw new CoreError(
          'file',
          `${path} is ${picture.width} × ${picture.height}; the movie began with ${width} × ${height}.`,
        );
      await encoder.write(picture.pixels);
      onFrame(frame - first + 1, total, frame);
    }

    await encoder.end();
    if (statSync(part).size === 0) throw new CoreError('file', 'ffmpeg wrote an empty movie.');
    renameSync(part, out);
  } finally {
    encoder.stop();
    rmSync(part, { force: true });
    rmSync(note, { force: true });
  }

  return { frames: total, held };
}

export interface Encoder {
  write(pixels: Uint8Array): Promise<void>;
  end(): Promise<void>;
  stop(): void;
}

export function startEncoder(program: string, args: readonly string[]): Encoder {
  const child = spawn(program, ['-nostdin', '-hide_banner', '-loglevel', 'error', '-y', ...args], {
    stdio: ['pipe', 'ignore', 'pipe'],
  });
  let said = '';
  child.stderr.setEncoding('utf8').on('data', (text: string) => (said = (said + text).slice(-2000)));
  const ended = new Promise<void>((done, fail) => {
    child.on('error', (error: NodeJS.ErrnoException) =>
      fail(
        new CoreError(
          'file',
          error.code === 'ENOENT'
            ? 'ffmpeg is not installed on this machine: install its Debian package.'
            : `ffmpeg could not be started: ${error.message}`,
        ),
      ),
    );
    child.on('close', (code) =>
      code === 0 ? done() : fail(new CoreError('file', `ffmpeg failed: ${said.trim() || `code ${code}`}`)),
    );
  });
  // told where it is waited for
  ended.catch(() => undefined);
  child.stdin.on('error', () => undefined);
  const within = async (wait: Promise<void>): Promise<void> => {
    let timer: NodeJS.Timeout | undefined;
    const stuck = new Promise<never>((_, fail) => {
      timer = setTimeout(() => fail(new CoreError('file', 'ffmpeg stands still.')), STUCK_MS);
    });
    try {
      await Promise.race([wait, stuck]);
    } finally {
      clearTimeout(timer);
    }
  };

  return {
    write: (pixels) =>
      within(
        Promise.race([
          new Promise<void>((done) => {
            if (child.stdin.write(pixels)) done();
            else child.stdin.once('drain', done);
          }),
          ended,
        ]),
      ),
    end: () => {
      child.stdin.end();
      return within(ended);
    },
    stop: () => void child.kill('SIGKILL'),
  };
}

export const inputOf = (width: number, height: number, { rate }: Pick<MovieSettings, 'rate'>): string[] => [
  ...['-protocol_whitelist', 'pipe,file', '-f', 'rawvideo', '-pixel_format', 'rgba64le'],
  ...['-video_size', `${width}x${height}`, '-framerate', rateOf(rate), '-i', 'pipe:0'],
];

/** 23.976 and its like are whole rates times 1000 / 1001. */
export function rateOf(rate: number): string {
  const whole = Math.round(rate * 1.001);
  if (!Number.isInteger(rate) && Math.abs((whole * 1000) / 1001 - rate) < 0.005)
    return `${whole * 1000}/1001`;
  return String(rate);
}

/** Pixels are what a screen shows by sRGB; what a decoder makes of them is told in the file. */
const TAGS = ['-color_primaries', 'bt709', '-color_trc', 'iec61966-2-1', '-colorspace', 'bt709'];
const TO_VIDEO = 'scale=in_range=full:out_range=tv:out_color_matrix=bt709';

function outputOf({ kind, burn }: MovieSettings, height: number, first: number, note: string): string[] {
  const words = burn === null ? [] : [burnt(height, first, note)];
  if (kind === 'review') {
    // players want even sizes
    const even = 'pad=ceil(iw/2)*2:ceil(ih/2)*2';
    const filters = [
      ...words,
      even,
      `${TO_VIDEO}:sws_flags=lanczos+accurate_rnd+full_chroma_int`,
      'format=yuv420p',
    ];
    return [
      ...['-vf', filters.join(','), '-c:v', 'libx264', '-preset', 'medium', '-crf', '15', '-threads', '2'],
      ...[...TAGS, '-color_range', 'tv', '-movflags', '+faststart'],
    ];
  }

  if (kind === 'png') return [...filterOf(words), '-c:v', 'png', '-pix_fmt', 'rgba64be', '-threads', '2'];
  return [
    ...filterOf([...words, TO_VIDEO, 'format=yuva444p10le']),
    ...['-c:v', 'prores_ks', '-profile:v', '4444', '-alpha_bits', '16', '-vendor', 'apl0', '-threads', '2'],
    ...[...TAGS, '-color_range', 'tv'],
  ];
}

const filterOf = (filters: readonly string[]): string[] =>
  filters.length > 0 ? ['-vf', filters.join(',')] : [];

/** What is written below: the note from its file, as it stands, and the number of the frame at the right. */
function burnt(height: number, first: number, note: string): string {
  const size = Math.max(10, Math.round(height / 28));
  const shared =
    `fontfile=${escaped(fontFile())}:fontsize=${size}:fontcolor=white:box=1:boxcolor=black@0.55:` +
    `boxborderw=${Math.ceil(size / 4)}:y=h-th-${size}`;
  return [
    `drawtext=${shared}:x=${size}:expansion=none:textfile=${escaped(note)}`,
    `drawtext=${shared}:x=w-tw-${size}:text='%{eif\\:n+${first}\\:d\\:4}'`,
  ].join(',');
}

export const escaped = (path: string): string => path.replace(/[\\':,;[\]]/g, (c) => `\\${c}`);

export interface Shown {
  readonly width: number;
  readonly height: number;
  /** Four little-endian words a pixel, straight alpha. */
  readonly pixels: Uint8Array;
}

export async function pictureOf(
  path: string,
  { kind, background }: Pick<MovieSettings, 'kind' | 'background'>,
): Promise<Shown> {
  let layer;
  try {
    layer = path.toLowerCase().endsWith('.exr')
      ? await readExrColours(readFileSync(path), nodeZip)
      : readPng(path);
  } catch (error) {
    throw new CoreError('file', `${path}: ${(error as Error).message}`);
  }

  const { width, height, rgba } = layer;
  const words = new Uint16Array(rgba.length);
  const isFlat = kind === 'review';
  for (let n = 0; n < rgba.length; n += 4) {
    const alpha = Math.min(1, Math.max(0, rgba[n + 3]));
    for (let c = 0; c < 3; c++) {
      // laid over what is behind in linear light, or freed from its alpha
      const linear = isFlat ? rgba[n + c] + (1 - alpha) * background[c] : rgba[n + c] / Math.max(alpha, 1e-6);
      words[n + c] = Math.round(SRGB_STEPS * encodeSrgb(isFlat || alpha > 0 ? linear : 0));
    }

    words[n + 3] = isFlat ? SRGB_STEPS : Math.round(SRGB_STEPS * alpha);
  }

  return { width, height, pixels: new Uint8Array(words.buffer) };
}

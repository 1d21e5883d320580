// Pictures and movies of others' making through ffmpeg: a child process that may open the one file that it is
// given, or nothing but a pipe, with bounds on its time, its memory and the size of what it decodes.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CoreError } from '../../base/error';

/** Containers of movies, by the names that ffmpeg has for them: none that names other files. */
const CONTAINERS = 'mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mpeg,mpegvideo,ogg,mxf,gif';
export const MOVIE_ENDINGS: readonly string[] = [
  'mp4',
  'mov',
  'm4v',
  'mkv',
  'webm',
  'avi',
  'mxf',
  'mpg',
  'gif',
];

/** How pictures of an ending are read from a pipe. */
const PIPES: Readonly<Record<string, string>> = {
  png: 'png_pipe',
  jpg: 'jpeg_pipe',
  jpeg: 'jpeg_pipe',
  webp: 'webp_pipe',
  dpx: 'dpx_pipe',
};
/** Kinds that ffmpeg reads from a file alone. */
const FILED: readonly string[] = ['tif', 'tiff'];
export const DECODED_ENDINGS: readonly string[] = [...Object.keys(PIPES), ...FILED];

export const MOST_EDGE = 8192;
const MOST_FRAMES = 200_000;
/** Bytes of one frame as it is decoded. */
const MOST_FRAME_BYTES = MOST_EDGE * MOST_EDGE * 8;
const PROBE_MS = 8_000;
const FRAME_MS = 30_000;
/** What ffmpeg may take at once for a buffer. */
const MOST_ALLOC = String(400 * 2 ** 20);
const MOST_SAID = 2 ** 20;

export interface MovieInfo {
  readonly width: number;
  readonly height: number;
  readonly pixelAspect: number;
  /** Frames a second. */
  readonly rate: number;
  readonly frames: number;
  readonly hasAlpha: boolean;
  /** How its pixels are kept, as ffmpeg calls it; and what it is packed in, by its ending. */
  readonly format: string;
  readonly container: string;
  readonly codec: string;
  readonly encoding: 'srgb' | 'rec709';
  readonly notes: readonly string[];
}

const CONTAINER = /\.([^.]+)$/;

interface Ran {
  readonly out: Buffer;
}

/** Runs a program to its end. @throws CoreError in its words, or because it took too long or gave too much */
function run(
  program: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  { ms, most, input }: { ms: number; most: number; input?: Uint8Array },
): Promise<Ran> {
  return new Promise((done, fail) => {
    const child = spawn(program, args, { stdio: [input ? 'pipe' : 'ignore', 'pipe', 'pipe'] });
    const chunks: Buffer[] = [];
    let bytes = 0;
    let said = '';
    let why: string | null = null;
    const end = (reason: string): void => {
      why ??= reason;
      child.kill('SIGKILL');
    };

    const timer = setTimeout(() => end(`reading it took longer than ${ms / 1000} s`), ms);
    child.stdout!.on('data', (chunk: Buffer) => {
      bytes += chunk.length;
      if (bytes > most) return end('it holds more than it says');
      chunks.push(chunk);
    });
    child.stderr!.setEncoding('utf8').on('data', (text: string) => (said = (said + text).slice(-2000)));
    child.on('error', (error: NodeJS.ErrnoException) => {
      clearTimeout(timer);
      fail(notStarted(error));
    });
    child.on('close', (code) => {
      clearTimeout(timer);
      if (why !== null) return fail(new CoreError('file', why));
      if (code !== 0) return fail(new CoreError('file', reasonIn(said) || `ffmpeg ended with code ${code}`));
      done({ out: Buffer.concat(chunks) });
    });
    if (input) {
      child.stdin!.on('error', () => undefined);
      child.stdin!.end(input);
    }
  });
}

const notStarted = (error: NodeJS.ErrnoException): CoreError =>
  new CoreError(
    'file',
    error.code === 'ENOENT'
      ? 'ffmpeg is not installed on this machine: install its Debian package.'
      : `ffmpeg could not be started: ${error.message}`,
  );

/** The last line of what ffmpeg says, without addresses and paths. */
const reasonIn = (said: string): string =>
  (said.trim().split('\n').pop() ?? '')
    .replace(/\[[^\]]*@ 0x[0-9a-f]+\]\s*/g, '')
    .replace(/(file:)?\/[^\s:]+/g, 'the file')
    .slice(0, 200);

const GUARDED = ['-hide_banner', '-loglevel', 'error'];
const openMovie = (path: string, decoder: string[] = []): string[] => [
  ...decoder,
  ...['-max_alloc', MOST_ALLOC, '-protocol_whitelist', 'file', '-format_whitelist', CONTAINERS],
  ...['-i', `file:${path}`],
];

interface Stream {
  readonly codec_name?: string;
  readonly width?: number;
  readonly height?: number;
  readonly pix_fmt?: string;
  readonly r_frame_rate?: string;
  readonly avg_frame_rate?: string;
  readonly nb_read_packets?: string;
  readonly sample_aspect_ratio?: string;
  readonly color_transfer?: string;
  readonly tags?: Readonly<Record<string, string>>;
  readonly side_data_list?: readonly { readonly rotation?: number }[];
}

const ratio = (text: string | undefined): number => {
  const [a, b] = (text ?? '').split(/[/:]/).map(Number);
  return b > 0 && Number.isFinite(a / b) ? a / b : 0;
};

/**
 * What a movie is, with its frames counted.
 * @throws CoreError in words
 */
export async function probeMovie(path: string): Promise<MovieInfo> {
  const entries =
    'stream=codec_name,width,height,pix_fmt,r_frame_rate,avg_frame_rate,nb_read_packets,' +
    'sample_aspect_ratio,color_transfer:stream_tags=alpha_mode:stream_side_data=rotation';
  const args = [...GUARDED.slice(1), ...openMovie(path), '-select_streams', 'v:0', '-count_packets'];
  const { out } = await run('ffprobe', [...args, '-show_entries', entries, '-of', 'json'], {
    ms: PROBE_MS,
    most: MOST_SAID,
  });
  const [stream] = (JSON.parse(out.toString()) as { streams?: Stream[] }).streams ?? [];
  if (!stream) throw new CoreError('file', 'it has no pictures in it');
  const turned = (stream.side_data_list ?? []).some(({ rotation }) => Math.abs((rotation ?? 0) % 180) === 90);
  const [w, h] = [stream.width ?? 0, stream.height ?? 0];
  const [width, height] = turned ? [h, w] : [w, h];
  checkSize(width, height);
  const frames = Number(stream.nb_read_packets ?? 0);
  if (!(frames >= 1)) throw new CoreError('file', 'it has no frame');
  if (frames > MOST_FRAMES)
    throw new CoreError('file', `it has ${frames} frames; ${MOST_FRAMES} are the most`);
  const [steady, mean] = [ratio(stream.r_frame_rate), ratio(stream.avg_frame_rate)];
  const rate = steady > 0 && Math.abs(steady / (mean || steady) - 1) < 0.01 ? steady : mean || steady;
  if (!(rate > 0 && rate <= 1000))
    throw new CoreError('file', 'it does not tell how many frames a second it has');
  const notes: string[] = [];
  if (mean > 0 && Math.abs(steady / mean - 1) >= 0.01)
    notes.push(`its frames do not come evenly; it is read at their mean, ${Number(mean.toFixed(3))} fps`);
  const codec = stream.codec_name ?? 'unknown';
  const hasSecond = codec in TWO_STREAMS && stream.tags?.alpha_mode === '1';
  const aspect = ratio(stream.sample_aspect_ratio?.replace(':', '/')) || 1;
  return {
    width,
    height,
    pixelAspect: turned ? 1 / aspect : aspect,
    rate,
    frames,
    hasAlpha: hasSecond || HAS_ALPHA.test(stream.pix_fmt ?? ''),
    format: stream.pix_fmt ?? '',
    container: CONTAINER.exec(path)?.[1].toLowerCase() ?? '',
    codec,
    encoding: stream.color_transfer === 'iec61966-2-1' ? 'srgb' : 'rec709',
    notes,
  };
}

function checkSize(width: number, height: number): void {
  if (!(width >= 1 && height >= 1)) throw new CoreError('file', 'it does not say how large its pictures are');
  if (width > MOST_EDGE || height > MOST_EDGE)
    throw new CoreError('file', `it is ${width} × ${height}; ${MOST_EDGE} pixels are the most along an edge`);
}

/** Kinds of pixels that hold eight bits of red, green, blue and alpha: those come out as they are. */
const BYTES = /^(rgb24|bgr24|rgba|bgra|argb|abgr|rgb0|bgr0|0rgb|0bgr|gbrp|gbrap|pal8|gray|ya8|mono.)$/;
const HAS_ALPHA = /^(yuva|rgba|argb|bgra|abgr|gbrap|ya\d|pal8)/;

/** What reads the alpha that these keep as a second stream; ffmpeg’s own decoders leave it out. */
const TWO_STREAMS: Readonly<Record<string, string>> = { vp8: 'libvpx', vp9: 'libvpx-vp9' };

/** How frames come out: red, green, blue and straight alpha of each pixel. */
const outAs = (format: string): string[] => [
  '-f',
  'rawvideo',
  '-pix_fmt',
  BYTES.test(format) ? 'rgba' : 'rgba64le',
];
const bytesOfPixel = (format: string): number => (BYTES.test(format) ? 4 : 8);

/** Containers whose frames are found again by their times; others are decoded from their beginning. */
const SOUGHT = /\.(mp4|mov|m4v|mkv|webm)$/i;

/**
 * Frames of a movie, one after another.
 * @param first of them, from 1
 * @returns fewer than asked for where the movie ends
 * @throws CoreError in words
 */
export async function movieFrames(
  path: string,
  {
    width,
    height,
    rate,
    hasAlpha,
    format,
    container,
    codec,
  }: Pick<MovieInfo, 'width' | 'height' | 'rate' | 'hasAlpha' | 'format' | 'container' | 'codec'>,
  first: number,
  count: number,
): Promise<Uint16Array[]> {
  const bytes = bytesOfPixel(format) * width * height;
  const isSought = first > 1 && SOUGHT.test(`.${container}`);
  // a frame begins half a frame after the moment that is sought
  const seek = isSought ? ['-ss', ((first - 1.5) / rate).toFixed(6)] : [];
  const trim = isSought || first === 1 ? [] : ['-vf', `trim=start_frame=${first - 1}`];
  const args = [
    ...GUARDED,
    '-nostdin',
    ...seek,
    ...openMovie(path, hasAlpha && codec in TWO_STREAMS ? ['-c:v', TWO_STREAMS[codec]] : []),
    '-map',
    '0:v:0',
    '-an',
    '-sn',
    '-dn',
    ...trim,
  ];
  const some = ['-fps_mode', 'passthrough', '-frames:v', String(count)];
  const { out } = await run('ffmpeg', [...args, ...some, ...outAs(format), 'pipe:1'], {
    ms: FRAME_MS,
    most: bytes * count,
  });
  return Array.from({ length: Math.floor(out.length / bytes) }, (_, n) =>
    wordsIn(out, n * bytes, bytes, format),
  );
}

/** Words of 16 bits, whatever the decoder gave. */
function wordsIn(out: Buffer, from: number, bytes: number, format: string): Uint16Array {
  const own = out.subarray(from, from + bytes);
  if (BYTES.test(format)) return Uint16Array.from(own, (v) => 257 * v);
  return new Uint16Array(own.buffer.slice(own.byteOffset, own.byteOffset + bytes));
}

export interface DecodedPicture {
  readonly width: number;
  readonly height: number;
  readonly words: Uint16Array;
  readonly hasAlpha: boolean;
}

/**
 * A picture file that is no OpenEXR.
 * @param ending without its dot
 * @throws CoreError in words
 */
export async function decodePicture(bytes: Uint8Array, ending: string): Promise<DecodedPicture> {
  if (!DECODED_ENDINGS.includes(ending))
    throw new CoreError('file', `pictures of the kind .${ending} are not read`);
  if (!FILED.includes(ending)) {
    const from = ['-protocol_whitelist', 'pipe', '-f', PIPES[ending], '-i', 'pipe:0'];
    return decodedPicture(from, bytes);
  }

  const folder = mkdtempSync(join(tmpdir(), 'bramblemist-picture-'));
  try {
    const path = join(folder, `picture.${ending}`);
    writeFileSync(path, bytes);
    const plain = ['-f', 'image2', '-pattern_type', 'none'];
    return await decodedPicture(['-protocol_whitelist', 'file', ...plain, '-i', `file:${path}`]);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** @param opened how ffmpeg opens it; @param input what it reads from a pipe */
async function decodedPicture(opened: readonly string[], input?: Uint8Array): Promise<DecodedPicture> {
  const from = ['-max_alloc', MOST_ALLOC, ...opened];
  const asked = ['-read_intervals', '%+#1', '-show_entries', 'frame=width,height,pix_fmt', '-of', 'json'];
  const probe = await run('ffprobe', [...GUARDED.slice(1), ...from, ...asked], {
    ms: PROBE_MS,
    most: MOST_SAID,
    input,
  });
  // some kinds tell their size with their first frame only
  const [stream] = (JSON.parse(probe.out.toString()) as { frames?: Stream[] }).frames ?? [];
  const format = stream?.pix_fmt ?? '';
  const [width, height] = [stream?.width ?? 0, stream?.height ?? 0];
  checkSize(width, height);
  const { out } = await run('ffmpeg', [...GUARDED, ...from, '-frames:v', '1', ...outAs(format), 'pipe:1'], {
    ms: FRAME_MS,
    most: MOST_FRAME_BYTES,
    input,
  });
  if (out.length !== bytesOfPixel(format) * width * height)
    throw new CoreError('file', 'it ends before its pixels do');
  return {
    width,
    height,
    words: wordsIn(out, 0, out.length, format),
    hasAlpha: HAS_ALPHA.test(format),
  };
}

/** Words of 8 bits as a JPEG. @param words red, green, blue and alpha, which is left out */
export async function encodeJpeg(words: Uint8Array, width: number, height: number): Promise<Buffer> {
  const args = [
    '-f',
    'rawvideo',
    '-pixel_format',
    'rgba',
    '-video_size',
    `${width}x${height}`,
    '-i',
    'pipe:0',
  ];
  const to = [
    '-frames:v',
    '1',
    '-c:v',
    'mjpeg',
    '-pix_fmt',
    'yuvj444p',
    '-q:v',
    '2',
    '-f',
    'image2pipe',
    'pipe:1',
  ];
  const { out } = await run('ffmpeg', [...GUARDED, ...args, ...to], {
    ms: FRAME_MS,
    most: MOST_FRAME_BYTES,
    input: words,
  });
  return out;
}

// `movie`: numbered pictures of a folder to an MP4 for review or a MOV with alpha.
import { readdirSync } from 'node:fs';
import { MOVIE_KINDS, movieEnding, writeMovie, type MovieKind } from '@bramblemist/core/io/node/movie';
import { decodeSrgb } from '@bramblemist/core/look/picture';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { pick } from '../render-world';

export interface MovieArguments {
  out: string;
  kind?: string;
  rate: string;
  frames?: string;
  background?: string;
  burn?: string | true;
  json?: boolean;
}

export async function movieCommand(folder: string, args: MovieArguments): Promise<void> {
  const kind = kindOf(args);
  const rate = Number(args.rate);
  if (!(rate >= 1 && rate <= 240))
    throw new UsageError(`--rate must be from 1 to 240 frames a second, not “${args.rate}”.`);
  const extension = readable(folder).some((name) => /\.\d+\.exr$/.test(name)) ? 'exr' : 'png';
  const files = pick(folder, extension, args.frames);
  const burn = args.burn === true ? '' : (args.burn ?? null);
  const show = progress(args.json ?? false);
  const start = performance.now();
  show.start(files[files.length - 1].frame - files[0].frame + 1, {});
  const made = await writeMovie(
    files,
    args.out,
    { kind, rate, background: parseBackground(args.background), burn },
    (done, total, frame) => show.frame(done, total, { frame }),
  );
  const held = made.held > 0 ? `; ${made.held} missing frames are held from those before them` : '';
  show.end(
    { ...made, seconds: (performance.now() - start) / 1000 },
    `${made.frames} frames in ${args.out}${held}.`,
  );
}

function readable(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    // told by what looks for the frames
    return [];
  }
}

/** What is asked for, or what the file’s ending says. */
function kindOf({ kind, out }: MovieArguments): MovieKind {
  const ending = out.split('.').pop()!.toLowerCase();
  const asked = kind ?? (ending === 'mov' ? 'prores' : 'review');
  const known = MOVIE_KINDS.find((k) => k === asked);
  if (!known) throw new UsageError(`--kind must be ${MOVIE_KINDS.join(', ')}, not “${asked}”.`);
  if (ending !== movieEnding(known))
    throw new UsageError(`--out must end in .${movieEnding(known)} for a movie of the kind ${known}.`);
  return known;
}

/** Three parts of one as a screen shows them, in linear light. */
function parseBackground(text = '0,0,0'): [number, number, number] {
  const parts = text.split(',').map(Number);
  if (parts.length !== 3 || !parts.every((v) => v >= 0 && v <= 1))
    throw new UsageError(`--background must be red,green,blue from 0 to 1, not “${text}”.`);
  return parts.map(decodeSrgb) as [number, number, number];
}

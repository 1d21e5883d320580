// A contact sheet: some frames of a sequence in one picture, each with its number.
import { mkdirSync, renameSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { CoreError } from '../../base/error';
import { escaped, fontFile, inputOf, pictureOf, startEncoder, type MovieFrame } from './movie';

export interface ContactSheetSettings {
  /** Pictures beside each other. */
  readonly columns: number;
  /** Pictures at most, evenly taken. */
  readonly most: number;
  /** Of each, in pixels; even. */
  readonly width: number;
  /** What they stand over, linear light. */
  readonly background: readonly [number, number, number];
}
export const CONTACT_SHEET: ContactSheetSettings = {
  columns: 4,
  most: 24,
  width: 320,
  background: [0.05, 0.05, 0.05],
};
const GAP = 8;

/** Frames at equal steps, the first among them; at most so many. */
export function chosenFrames(frames: readonly MovieFrame[], most: number): MovieFrame[] {
  const step = Math.ceil(frames.length / most);
  return frames.filter((_, n) => n % step === 0);
}

/**
 * Writes a PNG, whole or not at all.
 * @returns how many pictures are on it
 * @throws CoreError where a picture cannot be read or differs in size, or ffmpeg fails
 */
export async function writeContactSheet(
  frames: readonly MovieFrame[],
  out: string,
  { columns, most, width: wide, background }: ContactSheetSettings = CONTACT_SHEET,
  ffmpeg = 'ffmpeg',
): Promise<number> {
  const chosen = chosenFrames(frames, most);
  if (chosen.length === 0) throw new CoreError('file', 'There are no pictures to make a contact sheet of.');
  const shown = { kind: 'review', background } as const;
  const first = await pictureOf(chosen[0].path, shown);
  const { width, height } = first;
  const rows = Math.ceil(chosen.length / columns);
  const high = 2 * Math.max(1, Math.round((wide * height) / width / 2));
  const size = Math.max(10, Math.round(high / 12));
  const words =
    `fontfile=${escaped(fontFile())}:fontsize=${size}:fontcolor=white:box=1:boxcolor=black@0.55:` +
    `boxborderw=${Math.ceil(size / 4)}:x=w-tw-${size}:y=h-th-${size}`;
  // one for each picture, which alone is shown with it: their numbers need not be evenly apart
  const numbers = chosen.map(
    ({ frame }, n) => `drawtext=${words}:text='${String(frame).padStart(4, '0')}':enable='eq(n,${n})'`,
  );
  const beside = Math.min(columns, chosen.length);
  const tile = `tile=${beside}x${rows}:padding=${GAP}:margin=${GAP}:color=0x181017`;
  const part = `${out}.part-${process.pid}.png`;
  mkdirSync(dirname(out), { recursive: true });
  const encoder = startEncoder(ffmpeg, [
    ...inputOf(width, height, { rate: 24 }),
    ...['-vf', [`scale=${wide}:${high}:flags=lanczos`, ...numbers, tile].join(',')],
    ...['-frames:v', '1', '-pix_fmt', 'rgb24', '-c:v', 'png', part],
  ]);
  try {
    for (const [n, { path }] of chosen.entries()) {
      const picture = n === 0 ? first : await pictureOf(path, shown);
      if (picture.width !== width || picture.height !== height)
        throw new CoreError(
          'file',
          `${path} is ${picture.width} × ${picture.height}; the sheet began with ${width} × ${height}.`,
        );
      await encoder.write(picture.pixels);
    }

    await encoder.end();
    renameSync(part, out);
  } finally {
    encoder.stop();
    rmSync(part, { force: true });
  }

  return chosen.length;
}

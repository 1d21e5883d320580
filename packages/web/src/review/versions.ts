// Versions of a shot that are looked at: which is shown, which frame of it, what was said of it.
import type {
  ReviewInfo,
  ReviewNoteInfo,
  ReviewVersion,
  Stroke,
} from '@bramblemist/contracts/payloads/review';

export const keyOf = ({ kind, id }: Pick<ReviewVersion, 'kind' | 'id'>): string => `${kind}:${id}`;

export const pictureOf = ({ picture }: Pick<ReviewVersion, 'picture'>, frame: number): string =>
  picture.replace('{frame}', String(frame));

/** The last frame that is there up to this one, else the first of all. */
export function shownFrame({ frames }: Pick<ReviewVersion, 'frames'>, frame: number): number {
  const at = frames.findLast((f) => f <= frame);
  return at ?? frames[0];
}

/** Frames from the first to the last of what is shown. */
export function rangeOf(versions: readonly Pick<ReviewVersion, 'frames'>[]): [number, number] {
  const all = versions.flatMap((v) => [v.frames[0], v.frames[v.frames.length - 1]]);
  return [Math.min(...all), Math.max(...all)];
}

export const notesOf = (
  review: ReviewInfo,
  { kind, id }: Pick<ReviewVersion, 'kind' | 'id'>,
): ReviewNoteInfo[] => review.notes.filter((n) => n.kind === kind && n.of === id);

/** Parts of a picture's width that a line may leave out. */
const FINE = 0.003;

/** A line as it was drawn, without points that lie closer to the last than the eye tells; four digits. */
export function strokeOf(points: readonly (readonly [number, number])[]): Stroke {
  const kept: [number, number][] = [];
  for (const [n, [x, y]] of points.entries()) {
    const at: [number, number] = [x, y].map((v) => Math.round(Math.min(1, Math.max(0, v)) * 1e4) / 1e4) as [
      number,
      number,
    ];
    const last = kept[kept.length - 1];
    const isFar = !last || Math.hypot(at[0] - last[0], at[1] - last[1]) > FINE;
    if (isFar || (n === points.length - 1 && kept.length < 2)) kept.push(at);
  }

  return kept.flat();
}

/** As the path of a drawing that is 1 wide and 1 high. */
export function pathOf(stroke: Stroke): string {
  let path = '';
  for (let n = 0; n + 1 < stroke.length; n += 2)
    path += `${n === 0 ? 'M' : 'L'}${stroke[n]} ${stroke[n + 1]}`;
  return path;
}

// A package while it is chosen: what it takes, what its files will be called.
import type { PackageWanted, PackedLine, PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import { FileNames } from '@bramblemist/core/cache/file-names';

const within = (frame: number, { frames }: Pick<PackageWanted, 'frames'>): boolean =>
  frames === null || (frame >= frames.first && frame <= frames.last);

/** Its frames that go along. */
export const framesOf = (line: PackedLine, wanted: Pick<PackageWanted, 'frames'>): number[] =>
  line.frames.filter((f) => within(f, wanted));

/** What a line takes, bytes, as its frames are alike; 0 of what is made later. */
export function bytesOf(line: PackedLine, wanted: Pick<PackageWanted, 'frames'>): number {
  if (line.bytes === null || line.frames.length === 0) return line.bytes ?? 0;
  return (line.bytes * framesOf(line, wanted).length) / line.frames.length;
}

/** What all that is chosen takes, bytes. */
export const bytesOfAll = (lines: readonly PackedLine[], wanted: PackageWanted): number =>
  lines.filter((l) => wanted.lines.includes(l.key)).reduce((sum, l) => sum + bytesOf(l, wanted), 0);

/** Names of what the pattern does not name. */
const FIXED: Readonly<Partial<Record<PackedLine['kind'], string>>> = {
  scene: 'scene.usda, scene.glb',
  contact: 'contact.png, contact.pdf',
  review: 'review.mp4',
  documents: 'documents/recipe.json, look.json, notes.txt …',
  reference: 'reference/NAME.png',
};

/** What a line's files will be called, the first and the last. @throws CoreError of a wrong pattern */
export function namesOf(
  line: PackedLine,
  pattern: string,
  { production, shot, next }: Pick<PackingInfo, 'production' | 'shot' | 'next'>,
  bake: number,
  wanted: Pick<PackageWanted, 'frames'>,
): string {
  const fixed = FIXED[line.kind];
  if (fixed) return fixed;
  const names = new FileNames(pattern);
  const name = (frame: number | null, ending: string): string =>
    `${names.of({ production, shot, bake, version: next, what: line.what, frame })}.${ending}`;
  if (line.what === 'movie') return `${name(null, line.ending.split(', ')[0])} …`;
  const frames = framesOf(line, wanted);
  if (frames.length === 0) return 'none of its frames';
  const first = name(frames[0], line.ending);
  return frames.length === 1 ? first : `${first} … ${nameIn(name(frames[frames.length - 1], line.ending))}`;
}

const nameIn = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** What a new package begins with: all but pictures of the lesser kind, or what the shot's last one had. */
export function chosenAtFirst({ lines, packages }: PackingInfo): string[] {
  const last = packages[0];
  // kinds, since a newer bake has renders of its own
  const kindOf = (key: string): string => key.replace(/:\d+/, '');
  if (!last) return lines.map((l) => l.key);
  const kinds = new Set(last.wanted.lines.map(kindOf));
  return lines.map((l) => l.key).filter((key) => kinds.has(kindOf(key)));
}

// The guide as chapters: docs/guide.md, parted at its headings.

export interface Chapter {
  readonly slug: string;
  readonly title: string;
  /** How it begins, in plain words. */
  readonly opening: string;
  readonly text: string;
}

/** As addresses of headings are made: lower case, signs left out, blanks as strokes. */
export const slugOf = (title: string): string =>
  title
    .toLowerCase()
    .replace(/[^\p{L}\p{N}\s-]/gu, '')
    .trim()
    .replace(/\s+/g, '-');

/** Longest opening, in characters. */
const OPENING = 160;

/** The first words that are neither a list of links nor a picture. */
function openingOf(text: string): string {
  const first = text
    .split(/\n\s*\n/)
    .map((p) => p.trim())
    .find((p) => p !== '' && !/^(!|\||#)/.test(p));
  const plain = (first ?? '')
    .replace(/^[-*] /, '')
    .replace(/\[([^\]]*)\]\([^)]*\)/g, '$1')
    .replace(/[*_`]/g, '')
    .replace(/\s+/g, ' ');
  if (plain.length <= OPENING) return plain;
  return `${plain.slice(0, plain.lastIndexOf(' ', OPENING))} …`;
}

/** What stands before the first heading of its kind is no chapter. */
export function chaptersOf(guide: string): Chapter[] {
  return guide
    .split(/^## /m)
    .slice(1)
    .map((part) => {
      const end = part.indexOf('\n');
      const title = part.slice(0, end).trim();
      const text = part.slice(end + 1).trim();
      return { slug: slugOf(title), title, opening: openingOf(text), text };
    });
}

export const guidePath = (slug: string): string => `/guide/${slug}`;

/** Chapters by where one is. */
const CHAPTERS: readonly (readonly [RegExp, string])[] = [
  [/^\/board/, 'the-board'],
  [/^\/queue/, 'the-queue'],
  [/^\/storage/, 'storage'],
  [/\/sheets$/, 'trial-sheets'],
  [/\/savings$/, 'light'],
  [/\/review$/, 'review'],
  [/\/run$/, 'work-on-a-bake'],
  [/\/light$/, 'light'],
  [/\/combine$/, 'combine'],
  [/\/hand-over$/, 'hand-over'],
  [/\/set-up$/, 'the-bench'],
];

/** The chapter that fits a page. */
export const chapterFor = (pathname: string): string =>
  CHAPTERS.find(([pattern]) => pattern.test(pathname))?.[1] ?? 'tasks';

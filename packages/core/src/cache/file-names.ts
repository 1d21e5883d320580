// Names of files that are handed over, by a pattern that a team agrees on: folders, shot, version, frame.
import { CoreError } from '../base/error';

export const NAME_FIELDS = {
  production: 'name of the production',
  shot: 'name of the shot',
  what: 'volumes, render_3, comp_1, movie_2 …',
  bake: 'number of the bake',
  version: 'number of the package, which counts up',
  frame: 'number of the frame; left out with the sign before it where a file has none',
} as const;
export type NameField = keyof typeof NAME_FIELDS;

export interface NameValues {
  readonly production: string;
  readonly shot: string;
  readonly what: string;
  readonly bake: number;
  readonly version: number;
  /** null: a file of no frame. */
  readonly frame: number | null;
}

export const DEFAULT_NAMES = '{what}/{shot}_v{version:3}.{frame:4}';

interface Field {
  readonly field: NameField;
  /** Digits at least, of a number. */
  readonly width: number;
}
type Piece = string | Field;

const NUMBERS: readonly NameField[] = ['bake', 'version', 'frame'];
const MOST_DIGITS = 9;
const LONGEST = 200;
/** What some system does not let stand in a name. */
const UNFIT = /[<>:"\\|?*\p{Cc}]/u;

function wrong(message: string): never {
  throw new CoreError('settings', message);
}

/** One field, as {frame:4}. @param at where it stands, from 1 */
function fieldOf(text: string, at: number): Field {
  const [name, digits, ...more] = text.split(':');
  const field = (Object.keys(NAME_FIELDS) as NameField[]).find((f) => f === name);
  if (!field)
    return wrong(
      `Character ${at}: there is no field {${name}}. There are {${Object.keys(NAME_FIELDS).join('}, {')}}.`,
    );
  if (digits === undefined) return { field, width: 1 };
  const width = Number(digits);
  if (more.length > 0 || !/^\d+$/.test(digits) || width < 1 || width > MOST_DIGITS)
    return wrong(`Character ${at}: a number of digits goes from 1 to ${MOST_DIGITS}, as in {frame:4}.`);
  if (!NUMBERS.includes(field)) return wrong(`Character ${at}: {${field}} is no number and has no digits.`);
  return { field, width };
}

/**
 * A pattern as it is typed, without an ending: `{what}/{shot}_v{version:3}.{frame:4}`. What stands outside of
 * braces is taken as it is; / makes a folder.
 * @throws CoreError saying at which character it is wrong and what to do
 */
export class FileNames {
  private readonly pieces: readonly Piece[];

  constructor(readonly pattern: string) {
    const pieces: Piece[] = [];
    if (pattern.length > LONGEST) wrong(`A pattern has at most ${LONGEST} characters.`);
    for (const match of pattern.matchAll(/\{([^{}]*)\}|([^{}]+)|([{}])/g)) {
      const at = match.index + 1;
      if (match[3] !== undefined) wrong(`Character ${at}: a ${match[3]} stands alone; a field is {frame:4}.`);
      const text = match[2];
      const unfit = text === undefined ? null : UNFIT.exec(text);
      if (unfit)
        wrong(`Character ${at + unfit.index}: ${unfit[0]} does not fit into a name on every system.`);
      pieces.push(text ?? fieldOf(match[1], at));
    }

    const times = (field: NameField): number =>
      pieces.filter((p) => typeof p !== 'string' && p.field === field).length;
    if (times('what') === 0)
      wrong('The pattern needs {what}, so that volumes and pictures do not take each other’s names.');
    if (times('frame') !== 1)
      wrong('The pattern needs {frame} once, so that every frame has a name of its own.');
    this.pieces = pieces;
    const tried = this.of({ production: 'p', shot: 's', what: 'w', bake: 1, version: 1, frame: 1 });
    for (const part of tried.split('/'))
      if (part.trim() !== part || part === '' || /^\.+$/.test(part) || part.endsWith('.'))
        wrong('Every folder and file needs a name that is more than dots and has no space at its ends.');
    if (pattern.endsWith('/'))
      wrong('The pattern must not end with a folder: a file needs a name of its own.');
  }

  /** @returns a path without its ending; texts in it are fit for files already */
  of(values: NameValues): string {
    let name = '';
    for (const piece of this.pieces) {
      if (typeof piece === 'string') {
        name += piece;
        continue;
      }

      const value = values[piece.field];
      // with its frame goes the sign that leads to it
      if (value === null) name = name.replace(/[._ -]+$/, '');
      else name += typeof value === 'number' ? String(value).padStart(piece.width, '0') : value;
    }

    // nothing may be left of a part that was the frame alone
    return name.endsWith('/') || name === '' ? `${name}${values.what}` : name;
  }

  /** The same with its frame's digits as #, which is what other programs show of a sequence. */
  sequence(values: Omit<NameValues, 'frame'>): string {
    const { width } = this.pieces.find((p): p is Field => typeof p !== 'string' && p.field === 'frame')!;
    return this.pieces
      .map((p) => {
        if (typeof p === 'string') return p;
        if (p.field === 'frame') return '#'.repeat(width);
        const value = values[p.field];
        return typeof value === 'number' ? String(value).padStart(p.width, '0') : value;
      })
      .join('');
  }
}

/** A path of a sequence with the digits of a frame in place of its #s. */
export const framePath = (sequence: string, frame: number): string =>
  sequence.replace(/#+/, (signs) => String(frame).padStart(signs.length, '0'));

// Lettering of a comp: lines of text as a picture, drawn by the same arithmetic in the page and on the
// server.
import { parse, type Font, type PathCommand } from 'opentype.js';
import { LRUCache } from 'lru-cache';
import { canonicalText } from '../recipe/document';
import type { Combine, CompLayer } from './combine';
import type { FeedPicture } from './feed-picture';

/** Between lines, of the letters' size. */
const LEADING = 1.3;
/** Around the lines, where a ground lies behind them. */
const MARGIN = 0.5;
/** Straight pieces that a bend is drawn in. */
const PIECES = 8;

/** Fonts that stand in for one another: a letter is taken from the first that has it. */
export const fontsFrom = (files: readonly ArrayBuffer[]): Font[] => files.map((file) => parse(file));

/** What is written: the fields {frame} and {comp} become their values. */
export const writtenText = (text: string, { name }: Combine, frame: number): string =>
  text.replace(/\{(frame|comp)\}/g, (_, field: string) =>
    field === 'frame' ? String(frame).padStart(4, '0') : name,
  );

interface Line {
  readonly commands: readonly PathCommand[];
  readonly width: number;
}

function lineOf(fonts: readonly Font[], text: string, size: number): Line {
  const commands: PathCommand[] = [];
  let x = 0;
  for (const letter of text) {
    const font = fonts.find((f) => f.charToGlyphIndex(letter) > 0) ?? fonts[0];
    const glyph = font.charToGlyph(letter);
    commands.push(...glyph.getPath(x, 0, size).commands);
    x += ((glyph.advanceWidth ?? 0) * size) / font.unitsPerEm;
  }

  return { commands, width: x };
}

/** Text that is kept as it was drawn last. */
const kept = new LRUCache<string, FeedPicture>({ max: 4 });
const parsed = new WeakMap<readonly ArrayBuffer[], Font[]>();

/**
 * Text in the middle of a comp's frame: premultiplied linear light; null where nothing is written.
 * @param files of fonts, at least one
 */
export function lettered(
  files: readonly ArrayBuffer[],
  comp: Combine,
  layer: CompLayer,
  frame: number,
): FeedPicture | null {
  const { width, height, squeeze } = comp.frame;
  const text = writtenText(layer.feed.text, comp, frame);
  if (text.trim() === '') return null;
  const key = canonicalText([{ ...layer.feed, text }, width, height, squeeze]);
  const known = kept.get(key);
  if (known) return known;
  const fonts = parsed.get(files) ?? fontsFrom(files);
  parsed.set(files, fonts);
  const picture = { ...drawn(fonts, comp, layer, text), key };
  kept.set(key, picture);
  return picture;
}

function drawn(
  fonts: readonly Font[],
  comp: Combine,
  { feed }: CompLayer,
  text: string,
): Omit<FeedPicture, 'key'> {
  const { width, height, squeeze } = comp.frame;
  const { size } = feed;
  const lines = text.split('\n').map((line) => lineOf(fonts, line, size));
  const cover = new Cover(width, height);
  const wide = lines.reduce((most, line) => Math.max(most, line.width), 0);
  const high = size * (1 + LEADING * (lines.length - 1));
  // pixels may be wider than they are high
  const left = (width * squeeze - wide) / 2;
  // capitals are about seven tenths of a size high
  const top = (height - high) / 2 + 0.85 * size;
  const part = { left: 0, centre: 0.5, right: 1 }[feed.align];
  lines.forEach((line, n) =>
    cover.add(line.commands, left + part * (wide - line.width), top + n * LEADING * size, 1 / squeeze),
  );
  const covered = cover.done();
  const rgba = new Float32Array(4 * width * height);
  const [ground, ink] = [feed.second, feed.colour];
  const margin = MARGIN * size;
  const behind = feed.ground / 100;
  const inside = (x: number, from: number, to: number): number =>
    Math.max(0, Math.min(1, x + 1 - from, to - x, 1));
  for (let y = 0; y < height; y++) {
    const down = inside(y, (height - high) / 2 - margin, (height + high) / 2 + margin);
    for (let x = 0; x < width; x++) {
      const p = y * width + x;
      const across = inside(x, (left - margin) / squeeze, (left + wide + margin) / squeeze);
      const box = behind * down * across;
      const letter = covered[p];
      if (box === 0 && letter === 0) continue;
      for (let c = 0; c < 3; c++) rgba[4 * p + c] = ink[c] * letter + ground[c] * box * (1 - letter);
      rgba[4 * p + 3] = letter + box * (1 - letter);
    }
  }

  return { width, height, rgba, pixelAspect: squeeze, passes: new Map() };
}

/**
 * How much of each pixel an outline covers: each side adds the area between it and the right edge, signed by
 * the way it runs; summed along a row that is the area inside (Levien 2016, “font-rs”).
 */
class Cover {
  private readonly sums: Float64Array;

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    this.sums = new Float64Array(width * height + 1);
  }

  /** @param across pixels of a row for each unit of an outline */
  add(commands: readonly PathCommand[], x: number, y: number, across: number): void {
    let [ax, ay, firstX, firstY] = [0, 0, 0, 0];
    const to = (bx: number, by: number): void => {
      this.side((x + ax) * across, y + ay, (x + bx) * across, y + by);
      [ax, ay] = [bx, by];
    };

    for (const command of commands)
      switch (command.type) {
        case 'M':
          [ax, ay, firstX, firstY] = [command.x, command.y, command.x, command.y];
          break;
        case 'L':
          to(command.x, command.y);
          break;
        case 'Q':
        case 'C': {
          const [sx, sy] = [ax, ay];
          const { x: ex, y: ey } = command;
          // a bend of two corners is one of three
          const third = (s: number, m: number): number => s + (2 / 3) * (m - s);
          const [px, py, qx, qy] =
            command.type === 'C'
              ? [command.x1, command.y1, command.x2, command.y2]
              : [third(sx, command.x1), third(sy, command.y1), third(ex, command.x1), third(ey, command.y1)];
          for (let n = 1; n <= PIECES; n++) {
            const t = n / PIECES;
            const s = 1 - t;
            const weights = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t];
            to(
              weights[0] * sx + weights[1] * px + weights[2] * qx + weights[3] * ex,
              weights[0] * sy + weights[1] * py + weights[2] * qy + weights[3] * ey,
            );
          }

          break;
        }

        default:
          to(firstX, firstY);
      }
  }

  private side(ax: number, ay: number, bx: number, by: number): void {
    if (ay === by) return;
    const way = ay < by ? 1 : -1;
    const [x0, y0, x1, y1] = ay < by ? [ax, ay, bx, by] : [bx, by, ax, ay];
    const slope = (x1 - x0) / (y1 - y0);
    const last = Math.min(this.height, y1);
    for (let row = Math.max(0, Math.floor(y0)); row < last; row++) {
      const [from, to] = [Math.max(y0, row), Math.min(y1, row + 1)];
      if (to > from) this.piece(row, x0 + slope * (from - y0), x0 + slope * (to - y0), way * (to - from));
    }
  }

  /** A piece of a side within a row. @param high how much of the row it spans, signed */
  private piece(row: number, xa: number, xb: number, high: number): void {
    const { width } = this;
    const within = (x: number): number => Math.max(0, Math.min(width, x));
    const [left, right] = [within(Math.min(xa, xb)), within(Math.max(xa, xb))];
    const base = row * width;
    const first = Math.floor(left);
    if (first >= width) return;
    const long = right - left;
    if (right <= first + 1) {
      const beyond = first + 1 - (left + right) / 2;
      this.sums[base + first] += high * beyond;
      if (first + 1 < width) this.sums[base + first + 1] += high * (1 - beyond);
      return;
    }

    // area to the right of the piece, pixel by pixel
    let before = 0;
    for (let x = first; x < width; x++) {
      const [from, to] = [Math.max(left, x), Math.min(right, x + 1)];
      let area = 1;
      if (x < right) {
        const start = (from - left) / long;
        const end = (to - left) / long;
        // what lies before this pixel counts whole
        area = start + (end - start) * (x + 1 - (from + to) / 2);
      }

      this.sums[base + x] += high * (area - before);
      before = area;
      if (x >= right) return;
    }
  }

  /** Coverage of each pixel, from 0 to 1. */
  done(): Float32Array {
    const { width, height, sums } = this;
    const out = new Float32Array(width * height);
    for (let y = 0; y < height; y++) {
      let sum = 0;
      for (let x = 0; x < width; x++) {
        sum += sums[y * width + x];
        out[y * width + x] = Math.min(1, Math.abs(sum));
      }
    }

    return out;
  }
}

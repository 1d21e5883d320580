// Words and numbers of a text file, read from its bytes without making strings of them. A number is the
// double that its digits name, as the language itself reads them.

const SPACE = 32;
const LINE_FEED = 10;
const RETURN = 13;
const ZERO = 48;
const NINE = 57;
const PLUS = 43;
const MINUS = 45;
const POINT = 46;
const LOWER_E = 101;
const LOWER = 32;
/**
 * Powers of ten that doubles hold exactly: a whole number below 2^53 times or by one of them is rounded once
 * (after Clinger, How to read floating point numbers accurately, 1990).
 */
const TENS = Array.from({ length: 23 }, (_, n) => Number(`1e${n}`));
const MOST_WHOLE = (2 ** 53 - 1 - 9) / 10;

export class TextScanner {
  /** Where it stands, and where the word that was taken last began. */
  at: number;
  from: number;
  readonly end: number;

  /** @param remark a byte that nothing of its line is read behind; −1: there is none */
  constructor(
    private readonly bytes: Uint8Array,
    at = 0,
    private readonly remark = -1,
  ) {
    this.at = at;
    this.from = at;
    this.end = bytes.length;
  }

  /** Passes over blanks and tabs, and over ends of lines where they are blanks too. */
  skip(overLines: boolean): void {
    const { bytes, end } = this;
    let at = this.at;
    while (at < end && bytes[at] <= SPACE && (overLines || (bytes[at] !== LINE_FEED && bytes[at] !== RETURN)))
      at++;
    this.at = at;
  }

  get isAtLineEnd(): boolean {
    const { byte } = this;
    return byte < 0 || byte === LINE_FEED || byte === RETURN || byte === this.remark;
  }

  /** To the first byte of the next line; a return and a line feed are one end. */
  nextLine(): void {
    const { bytes, end } = this;
    let at = this.at;
    while (at < end && bytes[at] !== LINE_FEED && bytes[at] !== RETURN) at++;
    if (at + 1 < end && bytes[at] === RETURN && bytes[at + 1] === LINE_FEED) at++;
    this.at = Math.min(end, at + 1);
  }

  /** The byte that it stands at; −1 at the end. */
  get byte(): number {
    return this.at < this.end ? this.bytes[this.at] : -1;
  }

  /** Takes the word that begins here, up to a blank or one of these bytes; its length. */
  word(stop = -1): number {
    const { bytes, end, remark } = this;
    let at = this.at;
    this.from = at;
    while (at < end && bytes[at] > SPACE && bytes[at] !== stop && bytes[at] !== remark) at++;
    this.at = at;
    return at - this.from;
  }

  /** The word that was taken last. */
  get text(): string {
    return new TextDecoder().decode(this.bytes.subarray(this.from, this.at));
  }

  /** Whether the word that was taken last is this one; of letters in either case where `anyCase`. */
  is(word: string, anyCase = false): boolean {
    if (this.at - this.from !== word.length) return false;
    for (let n = 0; n < word.length; n++) {
      const c = this.bytes[this.from + n];
      if (c !== word.charCodeAt(n) && !(anyCase && (c | LOWER) === word.charCodeAt(n))) return false;
    }

    return true;
  }

  /** Takes the word that begins here, as a number; NaN where it is none. */
  number(stop = -1): number {
    const { bytes, end } = this;
    let at = this.at;
    this.from = at;
    let c = bytes[at];
    const isBelow = c === MINUS;
    if (isBelow || c === PLUS) c = bytes[++at];
    let value = 0;
    let digits = 0;
    let scale = 0;
    let isPlain = true;
    let afterPoint = false;
    for (; at < end; c = bytes[++at]) {
      if (c >= ZERO && c <= NINE) {
        if (value > MOST_WHOLE) isPlain = false;
        value = 10 * value + (c - ZERO);
        digits++;
        if (afterPoint) scale--;
      } else if (c === POINT && !afterPoint) afterPoint = true;
      else break;
    }

    if (at < end && (c | LOWER) === LOWER_E && digits > 0) {
      c = bytes[++at];
      const isSmall = c === MINUS;
      if (isSmall || c === PLUS) c = bytes[++at];
      let power = 0;
      let own = 0;
      for (; at < end && c >= ZERO && c <= NINE; c = bytes[++at]) {
        power = Math.min(9999, 10 * power + (c - ZERO));
        own++;
      }

      if (own === 0) isPlain = false;
      scale += isSmall ? -power : power;
    }

    const isWord = at < end && bytes[at] > SPACE && bytes[at] !== stop && bytes[at] !== this.remark;
    if (!isPlain || isWord || digits === 0 || scale > 22 || scale < -22) {
      this.at = this.from;
      return this.word(stop) === 0 ? NaN : Number(this.text);
    }

    this.at = at;
    const size = scale < 0 ? value / TENS[-scale] : value * TENS[scale];
    return isBelow ? -size : size;
  }
}

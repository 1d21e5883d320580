// Sentences of the recipe page as pieces.

export type Token =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'setting'; readonly path: string }
  | {
      readonly kind: 'when';
      readonly path: string;
      readonly is: readonly string[];
      readonly inner: readonly Token[];
    };

/**
 * `{path}` is a control, `[path=a|b: …]` is shown only where one of these holds (* stands for anything at
 * all, !a for anything but a); such a piece may begin with a comma.
 */
export function tokens(sentence: string): Token[] {
  return sentence
    .split(/(\{[^}]+\}|\[[^=\]]+=[^:\]]+:(?:[^\]{]|\{[^}]+\})*\])/)
    .filter(Boolean)
    .map((piece): Token => {
      if (piece.startsWith('{')) return { kind: 'setting', path: piece.slice(1, -1) };
      const when = /^\[([^=]+)=([^:]+):([\s\S]*)\]$/.exec(piece);
      return when
        ? { kind: 'when', path: when[1], is: when[2].split('|'), inner: tokens(when[3]) }
        : { kind: 'text', text: piece.replace(/ +(?=[,;:.])/g, '') };
    });
}

export type Condition = Extract<Token, { kind: 'when' }>;

/** Whether a piece of a sentence is shown. @param value what stands at its path */
export function isTold({ is }: Pick<Condition, 'is'>, value: unknown): boolean {
  const text = String(value);
  return is.some((one) => {
    if (one === '*') return text !== '';
    return one.startsWith('!') ? text !== one.slice(1) : text === one;
  });
}

/** Settings that a sentence shows. @param holds whether a piece of it is shown; by default all are */
export function pathsIn(list: readonly Token[], holds: (piece: Condition) => boolean = () => true): string[] {
  return list.flatMap((t) => {
    if (t.kind === 'setting') return [t.path];
    return t.kind === 'when' && holds(t) ? pathsIn(t.inner, holds) : [];
  });
}

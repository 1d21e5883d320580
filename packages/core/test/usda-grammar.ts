// The part of OpenUSD's text grammar that our scenes use, read strictly: prims, metadata, attributes, time
// samples, relationships.

export interface ReadPrim {
  readonly type: string;
  readonly name: string;
  readonly metadata: Readonly<Record<string, unknown>>;
  /** By name: what stands before it, and its value or its samples. */
  readonly attributes: Readonly<
    Record<string, { type: string; value?: unknown; samples?: [number, unknown][] }>
  >;
  readonly children: readonly ReadPrim[];
}

/** Texts, paths of files, paths in the scene, numbers, words, signs. */
const TOKEN = new RegExp(
  [
    /"(?:[^"\\\n]|\\.)*"/,
    /@@@[^\n]*?@@@|@[^@\n]*@/,
    /<[^>\n]*>/,
    /-?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?/,
    /[A-Za-z_][A-Za-z0-9_:.]*(?:\[\])?/,
    /[(){}[\]=,:]/,
  ]
    .map(({ source }, n) => `${n === 0 ? '\\s*(?:' : ''}${source}`)
    .join('|') + ')',
  'y',
);

/** @throws Error naming the place */
export function readUsda(text: string): { metadata: Record<string, unknown>; prims: ReadPrim[] } {
  if (!text.startsWith('#usda 1.0\n')) throw new Error('it does not begin as a layer does');
  const tokens: string[] = [];
  TOKEN.lastIndex = '#usda 1.0'.length;
  for (;;) {
    const from = TOKEN.lastIndex;
    const match = TOKEN.exec(text);
    if (!match) {
      if (text.slice(from).trim() !== '') throw new Error(`at “${text.slice(from, from + 60)}”`);
      break;
    }

    tokens.push(match[0].trim());
  }

  let at = 0;
  const peek = (): string => tokens[at] ?? '';
  const take = (wanted?: string): string => {
    const found = tokens[at++] ?? '';
    if (wanted !== undefined && found !== wanted) throw new Error(`“${wanted}” is due, not “${found}”`);
    return found;
  };

  const listTo = (close: string): unknown[] => {
    const out: unknown[] = [];
    while (peek() !== close) {
      out.push(value());
      if (peek() === ',') take();
      else break;
    }

    take(close);
    return out;
  };

  const value = (): unknown => {
    const found = take();
    if (found === '(') return listTo(')');
    if (found === '[') return listTo(']');
    if (/^["@<]/.test(found)) return found;
    if (Number.isFinite(Number(found))) return Number(found);
    throw new Error(`“${found}” is no value`);
  };

  const metadata = (): Record<string, unknown> => {
    const out: Record<string, unknown> = {};
    take('(');
    while (peek() !== ')') {
      const words = [take()];
      while (peek() !== '=') words.push(take());
      take('=');
      out[words.join(' ')] = value();
    }

    take(')');
    return out;
  };

  const prim = (): ReadPrim => {
    take('def');
    const type = take();
    const name = JSON.parse(take()) as string;
    if (!/^[A-Za-z_][A-Za-z0-9_]*$/.test(name)) throw new Error(`“${name}” is no name`);
    const said = peek() === '(' ? metadata() : {};
    const attributes: Record<string, { type: string; value?: unknown; samples?: [number, unknown][] }> = {};
    const children: ReadPrim[] = [];
    take('{');
    while (peek() !== '}') {
      if (peek() === 'def') {
        children.push(prim());
        continue;
      }

      const words = [take()];
      while (peek() !== '=') words.push(take());
      take('=');
      const own = words.pop()!;
      const kind = words.join(' ');
      if (own.endsWith('.timeSamples')) {
        const samples: [number, unknown][] = [];
        take('{');
        while (peek() !== '}') {
          const code = value() as number;
          take(':');
          samples.push([code, value()]);
          take(',');
        }

        take('}');
        attributes[own.replace('.timeSamples', '')] = { type: kind, samples };
      } else attributes[own] = { type: kind, value: value() };
      if (peek() === '(') metadata();
    }

    take('}');
    if (new Set(children.map((c) => c.name)).size < children.length) throw new Error('two of one name');
    return { type, name, metadata: said, attributes, children };
  };

  const head = metadata();
  const prims: ReadPrim[] = [];
  while (at < tokens.length) prims.push(prim());
  return { metadata: head, prims };
}

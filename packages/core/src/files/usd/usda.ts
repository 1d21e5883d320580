// The text form of OpenUSD: prims with attributes, some of them over time. Only what our scenes need is
// written. Facts: the open standard's own schemas (UsdGeom, UsdVol, UsdLux).

export const assetPath = (path: string): string => (path.includes('@') ? `@@@${path}@@@` : `@${path}@`);
export const scenePath = (path: string): string => `<${path}>`;
export const quoted = (text: string): string =>
  `"${text.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\r?\n/g, '\\n')}"`;
export const tuple = (values: readonly number[]): string => `(${values.map(numberIn).join(', ')})`;
/** Four rows of four, for places that stand before the matrix. */
export const matrix = (rows: readonly (readonly number[])[]): string => `( ${rows.map(tuple).join(', ')} )`;
export const list = (values: readonly string[]): string => `[${values.join(', ')}]`;

/** As many digits as a single needs; never a word that is no number. */
export function numberIn(v: number): string {
  if (!Number.isFinite(v)) return '0';
  const short = Number(v.toPrecision(9));
  return Object.is(short, -0) ? '0' : String(short);
}

/** A name that the format allows, unlike those that are taken. */
export function primName(name: string, taken: Set<string>): string {
  const plain = name
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .replace(/^(?=\d)|^$/, '_');
  let own = plain;
  for (let n = 2; taken.has(own); n++) own = `${plain}_${n}`;
  taken.add(own);
  return own;
}

export class Prim {
  private readonly lines: string[] = [];
  private readonly children: Prim[] = [];
  private readonly taken = new Set<string>();

  /** @param schemas applied to it besides its type */
  constructor(
    readonly path: string,
    private readonly type: string,
    private readonly shown: string,
    private readonly schemas: readonly string[] = [],
  ) {}

  add(type: string, name: string, schemas: readonly string[] = []): Prim {
    const child = new Prim(`${this.path}/${primName(name, this.taken)}`, type, name, schemas);
    this.children.push(child);
    return child;
  }

  /** @param value as the format has it */
  set(type: string, name: string, value: string, more = ''): this {
    this.lines.push(`${type} ${name} = ${value}${more}`);
    return this;
  }

  /** @param values one for each time code, or one that stays */
  over(type: string, name: string, codes: readonly number[], values: readonly string[]): this {
    if (values.length === 1) return this.set(type, name, values[0]);
    this.lines.push(`${type} ${name}.timeSamples = {`);
    values.forEach((v, n) => this.lines.push(`    ${numberIn(codes[n])}: ${v},`));
    this.lines.push('}');
    return this;
  }

  text(indent = ''): string {
    const inner = `${indent}    `;
    const name = this.path.slice(this.path.lastIndexOf('/') + 1);
    const about = [
      ...(this.schemas.length ? [`prepend apiSchemas = ${list(this.schemas.map(quoted))}`] : []),
      ...(this.shown === name ? [] : [`displayName = ${quoted(this.shown)}`]),
    ];
    const said = about.length ? ` (\n${about.map((a) => `${inner}${a}\n`).join('')}${indent})` : '';
    const own = this.lines.map((l) => `${inner}${l}\n`).join('');
    const below = this.children.map((c) => `\n${c.text(inner)}`).join('');
    return `${indent}def ${this.type} ${quoted(name)}${said}\n${indent}{\n${own}${below}${indent}}\n`;
  }
}

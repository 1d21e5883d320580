// The typed seam to the kernels, made from their own declarations: what each exported kernel takes, by name,
// how the blocks of memory that they read are laid out, and the numbers behind their enums. A field or an
// argument that moves, is renamed or is missing is then a type error in core.
import ts from 'typescript';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { withoutDecorators } from './kernel-parser.mjs';

/** Bytes of a value, and how a DataView writes it. */
const TYPES = {
  i32: [4, 'setInt32'],
  u32: [4, 'setUint32'],
  usize: [4, 'setInt32'],
  isize: [4, 'setInt32'],
  f32: [4, 'setFloat32'],
  f64: [8, 'setFloat64'],
};

const isExported = (node) => node.modifiers?.some((m) => m.kind === ts.SyntaxKind.ExportKeyword) ?? false;

/** The comment before a declaration, as one line. */
function docOf(node) {
  const [doc] = node.jsDoc?.slice(-1) ?? [];
  const text = typeof doc?.comment === 'string' ? doc.comment : '';
  return text.replace(/\s+/g, ' ').trim();
}

function declarations(folder) {
  const sources = readdirSync(folder, { recursive: true })
    .filter((name) => name.endsWith('.ts'))
    .sort()
    .map((name) => {
      const text = withoutDecorators(readFileSync(join(folder, name), 'utf8'));
      return ts.createSourceFile(name, text, ts.ScriptTarget.ES2022, true);
    });
  const found = { kernels: new Map(), structs: new Map(), enums: new Map(), exported: new Set() };
  for (const source of sources) {
    for (const node of source.statements) {
      if (ts.isExportDeclaration(node) && source.fileName === 'index.ts') {
        const from = node.moduleSpecifier.text.replace('./', '') + '.ts';
        if (node.exportClause) node.exportClause.elements.forEach((e) => found.exported.add(e.name.text));
        else
          sources
            .find((s) => s.fileName === from)
            .statements.filter((s) => ts.isFunctionDeclaration(s) && isExported(s))
            .forEach((s) => found.exported.add(s.name.text));
      } else if (ts.isFunctionDeclaration(node) && isExported(node)) {
        const parameters = node.parameters.map((p) => [p.name.getText(source), p.type.getText(source)]);
        found.kernels.set(node.name.text, {
          doc: docOf(node),
          parameters,
          result: node.type.getText(source) !== 'void',
        });
      } else if (ts.isClassDeclaration(node)) {
        const base = node.heritageClauses?.[0].types[0].expression.getText(source) ?? null;
        const fields = node.members.map((m) => ({
          name: m.name.getText(source),
          type: m.type.getText(source),
          doc: docOf(m),
        }));
        found.structs.set(node.name.text, { doc: docOf(node), base, fields });
      } else if (ts.isEnumDeclaration(node)) {
        let value = -1;
        const members = node.members.map((m) => {
          value = m.initializer ? Number(m.initializer.getText(source)) : value + 1;
          return [m.name.getText(source), value];
        });
        found.enums.set(node.name.text, { doc: docOf(node), members });
      }
    }
  }

  return found;
}

const comment = (doc, indent) => (doc ? `${indent}/** ${doc.replace(/\*\//g, '')} */\n` : '');

/** The last two parameters of a kernel that works on a range of planes, rows or particles. */
const isRange = (parameters) => {
  const [a, b] = parameters.slice(-2).map(([name]) => name);
  return b !== undefined && /^[a-z]0$/.test(a) && b === `${a[0]}1`;
};

function kernelText({ kernels, exported }) {
  const names = [...exported].filter((n) => kernels.has(n)).sort();
  const one = (name) => {
    const { doc, parameters } = kernels.get(name);
    const own = parameters.map(([p]) => `    readonly ${p}: number;`).join('\n');
    return `${comment(doc, '  ')}  readonly ${name}: {\n${own}\n  };`;
  };

  const ranged = names.filter((n) => isRange(kernels.get(n).parameters));
  const without = (name) => {
    const range = kernels
      .get(name)
      .parameters.slice(-2)
      .map(([p]) => `'${p}'`);
    return `  readonly ${name}: Omit<KernelArguments['${name}'], ${range.join(' | ')}>;`;
  };

  const list = (name) =>
    `  ${name}: [${kernels
      .get(name)
      .parameters.map(([p]) => `'${p}'`)
      .join(', ')}],`;
  return [
    '/** What each kernel takes; addresses are bytes in the one linear memory. */',
    `export interface KernelArguments {\n${names.map(one).join('\n')}\n}`,
    '',
    'export type KernelName = keyof KernelArguments;',
    '',
    '/** What kernels take besides the range, their last two arguments, that the thread pool hands out ' +
      'in slabs. */',
    `export interface SlabArguments {\n${ranged.map(without).join('\n')}\n}`,
    '',
    'export type SlabKernelName = keyof SlabArguments;',
    '',
    '/** Arguments in the order in which the kernels take them. */',
    'export const PARAMETERS: { readonly [K in KernelName]: readonly (keyof KernelArguments[K])[] } = {',
    ...names.map(list),
    '};',
  ].join('\n');
}

function structText(structs) {
  const laidOut = new Map();
  const layOut = (name) => {
    if (laidOut.has(name)) return laidOut.get(name);
    const { base, fields } = structs.get(name);
    let at = base ? layOut(base).bytes : 0;
    const own = fields.map((f) => {
      const [bytes, setter] = TYPES[f.type];
      at = Math.ceil(at / bytes) * bytes;
      const field = { ...f, at, setter };
      at += bytes;
      return field;
    });
    const all = [...(base ? layOut(base).all : []), ...own];
    const made = { all, own, bytes: at };
    laidOut.set(name, made);
    return made;
  };

  return [...structs.keys()]
    .map((name) => {
      const { doc, base } = structs.get(name);
      const { all, own, bytes } = layOut(name);
      const members = own.map((f) => `${comment(f.doc, '  ')}  readonly ${f.name}: number;`).join('\n');
      const fields = all.map((f) => `  ${f.name}: [${f.at}, '${f.setter}'],`).join('\n');
      return (
        `${comment(doc, '')}export interface ${name}Fields${base ? ` extends ${base}Fields` : ''} ` +
        `{\n${members}\n}\n\n` +
        `export const ${name}Struct = new Struct<${name}Fields>(${bytes}, {\n${fields}\n});`
      );
    })
    .join('\n\n');
}

const enumText = (enums) =>
  [...enums]
    .map(([name, { doc, members }]) => {
      const values = members.map(([m, v]) => `  ${m}: ${v},`).join('\n');
      return `${comment(doc, '')}export const ${name} = {\n${values}\n} as const;`;
    })
    .join('\n\n');

/** @param folder of the AssemblyScript sources; @param out the TypeScript file that is written */
export function writeSeam(folder, out) {
  const found = declarations(folder);
  const text = [
    '// Made by scripts/kernel-seam.mjs from the declarations of the kernels. Not edited by hand.',
    "import { Struct } from '../src/struct';",
    '',
    kernelText(found),
    '',
    structText(found.structs),
    '',
    enumText(found.enums),
    '',
  ].join('\n');
  mkdirSync(join(out, '..'), { recursive: true });
  writeFileSync(out, text);
}

/** The module of exact functions as text, so that whoever wants it has it without a file. */
export function writeExact(wasm, out) {
  const text = readFileSync(wasm).toString('base64');
  writeFileSync(
    out,
    '// Made by scripts/kernel-seam.mjs from assembly/exact.ts. Not edited by hand.\nexport const ' +
      `EXACT_WASM =\n  '${text}';\n`,
  );
}

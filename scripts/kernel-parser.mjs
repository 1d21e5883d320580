// Lets tools that read TypeScript read AssemblyScript: what TypeScript does not know, decorators before
// functions, becomes spaces.
import { parser } from 'typescript-eslint';

export const withoutDecorators = (code) =>
  code.replace(/@(inline|unmanaged|unsafe)\b/g, (word) => ' '.repeat(word.length));

export const meta = { name: 'kernel-parser' };

export const parseForESLint = (code, options) => parser.parseForESLint(withoutDecorators(code), options);

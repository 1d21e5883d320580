// Lets the linter read AssemblyScript: what TypeScript does not know, decorators before functions, becomes spaces.
import parser from 'typescript-eslint';

const DECORATORS = /@(inline|unmanaged|unsafe)\b/g;

export const meta = { name: 'kernel-parser' };

export function parseForESLint(code, options) {
  return parser.parser.parseForESLint(
    code.replace(DECORATORS, (word) => ' '.repeat(word.length)),
    options,
  );
}

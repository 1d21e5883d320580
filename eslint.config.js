// Lint, with the rules that keep the architecture standing: between packages arrows point one way, web ·
// server · cli → contracts → core → kernels, and inside core they point up the floors of scripts/floors.mjs.
import js from '@eslint/js';
import stylistic from '@stylistic/eslint-plugin';
import importX from 'eslint-plugin-import-x';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import reactHooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';
import { FLOORS } from './scripts/floors.mjs';
import * as kernelParser from './scripts/kernel-parser.mjs';

const forbid = (files, patterns, ignores = []) => ({
  files,
  ignores,
  rules: { 'no-restricted-imports': ['error', { patterns }] },
});
const packages = (...names) => ({
  group: names.map((n) => `@bramblemist/${n}/**`),
  message: 'Imports point one way: web, server, cli → contracts → core → kernels.',
});
const frameworks = {
  group: ['react', 'react-*', 'three', '@react-three/*', 'express', 'sequelize', 'styled-components'],
  message: 'The core knows no framework.',
};
const node = { group: ['node:*', 'pngjs'], message: 'Node comes in through core/io/node only.' };
const nodeDoor = {
  group: ['**/io/node/*', '@bramblemist/core/io/node/*'],
  message: 'The node door is not for this side.',
};

/** How code looks, beyond what the formatter decides. */
const style = {
  'one-var': ['error', 'never'],
  'no-nested-ternary': 'error',
  '@stylistic/max-len': ['error', { code: 110, ignoreRegExpLiterals: true }],
  '@stylistic/padding-line-between-statements': [
    'error',
    { blankLine: 'always', prev: ['multiline-block-like', 'function', 'class'], next: '*' },
    { blankLine: 'always', prev: '*', next: ['function', 'class'] },
    { blankLine: 'any', prev: 'case', next: 'case' },
  ],
  '@stylistic/lines-between-class-members': ['error', 'always', { exceptAfterSingleLine: true }],
};

const INEXACT = [
  ...['hypot', 'sin', 'cos', 'tan', 'asin', 'acos', 'atan', 'atan2', 'sinh', 'cosh', 'tanh'],
  ...['exp', 'expm1', 'log', 'log2', 'log10', 'log1p', 'pow', 'cbrt'],
];

/** What reaches a voxel has the same bits in every engine. */
const exact = {
  'no-restricted-properties': [
    'error',
    ...INEXACT.map((property) => ({
      object: 'Math',
      property,
      message: 'Its last bit differs between engines. Use math/exact.',
    })),
  ],
  'no-restricted-syntax': [
    'error',
    {
      selector: "BinaryExpression[operator='**'][left.value!=2]",
      message: 'Its last bit differs between engines. Use square, cube or power of math/exact.',
    },
  ],
};

/** What each floor of core may not import: every floor below it in the list. */
const floorZones = FLOORS.slice(0, -1).map((floor, n) => ({
  target: `./packages/core/src/${floor}`,
  from: FLOORS.slice(n + 1).map((below) => `./packages/core/src/${below}`),
  message: 'A floor of core imports only from those above it in scripts/floors.mjs.',
}));

export default ts.config(
  {
    ignores: [
      '**/build/**',
      '**/node_modules/**',
      '**/generated/**',
      'data/**',
      '.stamps/**',
      'test-results/**',
    ],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    plugins: { 'import-x': importX, 'react-hooks': reactHooks, '@stylistic': stylistic },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      'import-x/no-duplicates': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      '@typescript-eslint/no-non-null-assertion': 'off',
      eqeqeq: 'error',
      'no-eval': 'error',
      'no-implied-eval': 'error',
      ...style,
    },
  },
  {
    files: ['**/*.mjs', '**/*.cjs', '*.js'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        performance: 'readonly',
        setTimeout: 'readonly',
        localStorage: 'readonly',
        document: 'readonly',
        window: 'readonly',
        WebGL2RenderingContext: 'readonly',
        queueMicrotask: 'readonly',
        fetch: 'readonly',
        require: 'readonly',
        __dirname: 'readonly',
      },
    },
    rules: { '@typescript-eslint/no-require-imports': 'off' },
  },
  {
    // AssemblyScript: its decorators stand before functions, == is exact, and comments name the decorators to
    // TypeScript
    files: ['packages/kernels/assembly/**'],
    languageOptions: { parser: kernelParser },
    rules: {
      eqeqeq: 'off',
      '@typescript-eslint/ban-ts-comment': 'off',
      'no-undef': 'off',
      'no-loss-of-precision': 'off',
    },
  },
  {
    files: ['packages/**/*.ts', 'packages/**/*.tsx'],
    ignores: ['packages/kernels/**'],
    settings: {
      'import-x/resolver-next': [createTypeScriptImportResolver({ project: 'tsconfig.json' })],
    },
    rules: { 'import-x/no-cycle': 'error' },
  },
  {
    files: ['packages/core/src/**'],
    rules: { 'import-x/no-restricted-paths': ['error', { zones: floorZones }] },
  },
  {
    files: ['packages/core/src/**'],
    ignores: ['look', 'analysis', 'combine', 'io'].map((floor) => `packages/core/src/${floor}/**`),
    rules: exact,
  },
  forbid(
    ['packages/core/src/**'],
    [packages('contracts', 'server', 'web', 'cli'), frameworks, node, nodeDoor],
    ['packages/core/src/io/node/**'],
  ),
  forbid(['packages/core/src/io/node/**'], [packages('contracts', 'server', 'web', 'cli'), frameworks]),
  forbid(['packages/contracts/src/**'], [packages('server', 'web', 'cli'), frameworks, node, nodeDoor]),
  forbid(['packages/web/src/**'], [packages('server', 'cli'), node, nodeDoor]),
  forbid(['packages/server/src/**'], [packages('web', 'cli')]),
  forbid(['packages/cli/src/**'], [packages('web', 'server', 'contracts')]),
);

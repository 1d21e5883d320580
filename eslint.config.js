// Lint, with the rule that keeps the architecture standing: arrows point one way, web · server · cli → contracts → core → kernels.
import js from '@eslint/js';
import importX from 'eslint-plugin-import-x';
import reactHooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

const forbid = (files, patterns, ignores = []) => ({ files, ignores, rules: { 'no-restricted-imports': ['error', { patterns }] } });
const packages = (...names) => ({
  group: names.map((n) => `@bramblemist/${n}/**`),
  message: 'Imports point one way: web, server, cli → contracts → core → kernels.',
});
const frameworks = {
  group: ['react', 'react-*', 'three', '@react-three/*', 'express', 'sequelize', 'styled-components'],
  message: 'The core knows no framework.',
};
const node = { group: ['node:*', 'pngjs'], message: 'Node comes in through core/io/node only.' };
const nodeDoor = { group: ['**/io/node/*', '@bramblemist/core/io/node/*'], message: 'The node door is not for this side.' };

export default ts.config(
  { ignores: ['**/build/**', '**/node_modules/**', 'data/**', 'packages/kernels/assembly/**', '.stamps/**', 'test-results/**'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    plugins: { 'import-x': importX, 'react-hooks': reactHooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      'import-x/no-duplicates': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      '@typescript-eslint/no-non-null-assertion': 'off',
      eqeqeq: 'error',
      'no-eval': 'error',
      'no-implied-eval': 'error',
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
        fetch: 'readonly',
        require: 'readonly',
        __dirname: 'readonly',
      },
    },
    rules: { '@typescript-eslint/no-require-imports': 'off' },
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

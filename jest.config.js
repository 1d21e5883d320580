/** Unit tests of the core, the command line and the page's parts; server tests against the real database. */
export default {
  testEnvironment: 'node',
  testMatch: ['<rootDir>/packages/*/test/**/*.test.ts?(x)'],
  transform: {
    '^.+\\.(tsx?|mjs|js)$': [
      '@swc/jest',
      {
        jsc: {
          parser: { syntax: 'typescript', tsx: true },
          target: 'es2022',
          transform: { react: { runtime: 'automatic' } },
        },
        module: { type: 'commonjs' },
      },
    ],
  },
  extensionsToTreatAsEsm: [],
  // packages that come as ES modules only
  transformIgnorePatterns: [
    '/node_modules/(?!(@gltf-transform|property-graph|fast-png|iobuffer|fflate|earcut|ktx-parse|three)/)',
  ],
  moduleNameMapper: {
    // as the page has it, and without a word about how it is loaded
    '^three$': '<rootDir>/node_modules/three/build/three.module.js',
    '^@bramblemist/kernels/(.*)$': '<rootDir>/packages/kernels/generated/$1.ts',
    '^@bramblemist/(core|contracts|server|web)/(.*)$': '<rootDir>/packages/$1/src/$2',
  },
  testTimeout: 180000,
  maxWorkers: 2,
};

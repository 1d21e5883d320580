#!/usr/bin/env node
// Starts the built command line; says how to build it where that has not been done.
const { existsSync } = require('node:fs');
const { join } = require('node:path');
const built = join(__dirname, '..', 'build', 'bramblemist.cjs');
if (!existsSync(built)) {
  console.error('The command line is not built yet. Run: npm install && npm run build');
  process.exit(1);
}

require(built);

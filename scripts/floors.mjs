// The floors of packages/core/src, from the ground up: a folder imports only from those named before it. Held
// by lint.
export const FLOORS = [
  'base', // the one kind of error, and results that are remembered
  'math', // exact arithmetic, vectors, seeded chance, half floats
  'formulas', // the language of formulas
  'recipe', // the recipe's parts, schema, types, units, keys, versions
  'geometry', // shapes, poses, meshes, distance fields
  'files', // one folder a format: reader and writer
  'record', // what a run says of itself: readings, incidents, errors
  'volume', // a frame of a cache as fields, and the tools that make frames of frames
  'assets', // what a recipe brings in: meshes, particles, pictures, volumes, over time
  'grid', // lattice, window, memory, thread pool
  'plan', // compile(recipe, voxel size, assets) → plan, and where it all lies in memory
  'step', // the stages of a step, in their order in pipeline.ts
  'measure', // readings and incidents taken from a running state
  'run', // frames, checkpoints, trouble
  'cache', // volume files of a run, manifest, currency, refine
  'look', // media, lights, cameras, renders
  'combine', // layers over a plate
  'analysis', // preflight, cost, measures against a reference, sensitivities, particles through a cache
  'presets', // media, starting points, demo recipes, edits of recipes
  'io', // the doors: node and browser
];

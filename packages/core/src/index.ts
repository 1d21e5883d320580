// What core is to whoever uses it: recipes in, frames, volumes and pictures out. The door for Node.js, which
// brings threads, is io/node; the browser's is io/browser.
export { CoreError, type ErrorCode } from './base/error';

export { parseRecipe, RECIPE } from './recipe/recipe';
export type { Recipe } from './recipe/types';
export { example, EXAMPLES } from './presets/examples';

export { compile, type Compiled } from './plan/compile';
export type { Dropped } from './plan/dropped';
export { simulateWith, type SimulatedFrame, type SimulateOptions } from './run/simulate';
export { Simulation, type Checkpoint } from './run/simulation';
export type { Readings } from './record/readings';
export type { Incident, Fix } from './record/incident';

export { frameVolume } from './cache/frame';
export { packFrame } from './cache/pack-frame';
export type { CacheVolume } from './volume/volume';

export { LOOK, type Look } from './look/look';
export { renderWith, type RenderedFrame, type RenderOptions } from './look/render';
export { COMBINE, type Combine } from './combine/combine';
export { Composer } from './combine/composer';
export { gather, type Feeds } from './combine/gather';
export type { LinearPicture } from './files/picture';

export { importAsset } from './assets/import-asset';
export { type ImportedAsset } from './assets/imported';
export type { Assets } from './assets/assets';
export { readVdb } from './files/vdb/reader';
export { writePacked, writeVdb } from './files/vdb/writer';
export { readExr } from './files/exr/reader';
export { writeExr } from './files/exr/writer';

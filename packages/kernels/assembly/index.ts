// The one module: every kernel, by operation.
export { copyBytes, haloXY, haloZ, reflect } from './halo';
export * from './advect';
export { trace } from './trace';
export { rasterizeShape, emitScalar, emitMedium, emitVelocity } from './emit';
export * from './fields';
export { applyPattern } from './patterns';
export {
  boundRooms,
  coverFaces,
  coverRooms,
  cutFaces,
  handOver,
  resetFaces,
  settleRooms,
  shareSlivers,
  solidFlow,
} from './solids';
export { rasterizeParticles, advanceParticles, compactParticles } from './particles';
export { cellVolumes, divideCells, markRows, multiplyCells, sweepCells, volumeFlows } from './carry';
export { diffuse } from './diffuse';
export { applyCurrent } from './currents';
export { runFormula } from './formula';
export * from './regions';
export * from './forces';
export * from './vorticity';
export { curlNoise, gradientTable, addUpsampled } from './noise';
export { classifyRows, coarsenFaces, fillCoefficients } from './level';
export { multigridDown, relaxCoarsest, multigridUp } from './multigrid';
export * from './projection';
export * from './measure';
export * from './refine';
export { carryAlong, carryTint, toExtinction, topsOfBlocks, markAhead, markNeeded } from './medium';
export { sweepLight, sweepNothing, turnOver, packLight } from './light-volume';
export { marchTiles, senseTiles } from './march';
export { senseSurfaces, solidCover } from './sense-surfaces';
export { marchLamp } from './lamps';
export { ambientBounces, ambientRays } from './ambient';
export { holdBackSun, surfaceLimits, shadeBackground, shadeSurfaces } from './quick-surfaces';
export { tracePaths } from './path';
export * from './regress';
export * from './combine/grade';
export * from './combine/blur';
export * from './combine/place';
export * from './combine/meet';
export * from './combine/merge';
export * from './combine/mask';
export * from './combine/grain';

// The one module: every kernel, by operation.
export { copyBytes, haloXY, haloZ, reflect } from './halo';
export * from './advect';
export { trace } from './trace';
export {
  addScaled,
  capAmount,
  clearSolids,
  rasterizeShape,
  fillBox,
  emitScalar,
  emitMedium,
  emitVelocity,
} from './emit';
export { applyPattern } from './patterns';
export { coverFaces, cutFaces, resetFaces, solidFlow } from './solids';
export { rasterizeParticles, advanceParticles, compactParticles } from './particles';
export { concentration, fluxSweep, scaleField } from './flux';
export { diffuse } from './diffuse';
export { applyCurrent } from './currents';
export { runFormula } from './formula';
export * from './regions';
export * from './forces';
export { curlNoise, gradientTable, addUpsampled } from './noise';
export { classifyRows, coarsenFaces, fillCoefficients } from './level';
export { multigridDown, relaxCoarsest, multigridUp } from './multigrid';
export * from './projection';
export * from './measure';
export * from './refine';
export * from './look';

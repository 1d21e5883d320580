// The one module: every kernel, by operation.
export { copyBytes, haloXY, haloZ, reflect } from './halo';
export * from './advect';
export { addScaled, clearSolid, cover, fillBox, give, giveMedium, givePush } from './emit';
export { pattern } from './patterns';
export { coverFaces, cutFaces, resetFaces, solidFlow } from './solids';
export { coverByCloud, fly, keepAlive } from './particles';
export { concentration, fluxSweep, scaleField } from './flux';
export { diffuse } from './diffuse';
export { current } from './currents';
export { formula } from './formula';
export * from './regions';
export * from './forces';
export { curlNoise, exponential, gradientTable, sine, spread } from './noise';
export { classifyRows, coarsenFaces, fillCoefficients } from './level';
export { down, relaxCoarsest, up } from './multigrid';
export * from './projection';
export * from './measure';
export * from './look';

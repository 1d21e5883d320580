// The one module: every kernel, by operation.
export * from './halo';
export * from './advect';
export * from './emit';
export * from './forces';
export * from './noise';
export * from './multigrid';
export * from './projection';
export * from './measure';
export * from './look';

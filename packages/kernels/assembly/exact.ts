// Functions whose last bit differs between engines, for what TypeScript computes and voxels depend on: a
// module of its own without memory, so that it can be had at once anywhere. The kernels inline the same
// functions.

export function sine(x: f64): f64 {
  return NativeMath.sin(x);
}

export function exponential(x: f64): f64 {
  return NativeMath.exp(x);
}

export function logarithm(x: f64): f64 {
  return NativeMath.log(x);
}

export function power(x: f64, y: f64): f64 {
  return NativeMath.pow(x, y);
}

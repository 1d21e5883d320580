// Vorticity confinement (Fedkiw, Stam, Jensen 2001), scaled by the voxel size: it vanishes as the grid resolves the curl.
import { fillHalo, SLAB, type StepState } from '../step/state';

/** 1/s: acceleration = strength · rate · h · |ω| across the curl gradient. */
const CONFINEMENT_RATE = 10;

/** Writes the acceleration fields; 0 where the force is off. */
export function setConfinement(state: StepState): void {
  const { plan, team, layout } = state;
  const l = layout.density.lattice;
  const [fx, fy, fz] = layout.acceleration,
    [magnitude] = layout.scratch;
  const { strength } = plan.recipe.vorticity;
  if (strength === 0) {
    for (const f of [fx, fy, fz]) team.run('fill', l.nz, SLAB, f.address, l.ny, l.rowStride, l.planeStride, l.nx, 0);
    return;
  }
  const h = plan.window.voxelSizeM,
    quarter = 0.25 / h;
  const [u, v, w] = layout.velocity.map((f) => f.address);
  layout.velocity.forEach((f, axis) => fillHalo(team, f, axis, 0));
  team.run('vorticity', l.nz, SLAB, u, v, w, magnitude.address, l.nx, l.ny, l.rowStride, l.planeStride, quarter);
  fillHalo(team, magnitude, 3, 0);
  team.run(
    'confine',
    l.nz,
    SLAB,
    u,
    v,
    w,
    magnitude.address,
    fx.address,
    fy.address,
    fz.address,
    l.nx,
    l.ny,
    l.rowStride,
    l.planeStride,
    quarter,
    strength * h * CONFINEMENT_RATE,
  );
}

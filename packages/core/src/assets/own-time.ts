// From a time of the run to the own time of a mesh, particles or volumes that go over time.
import type { FilePart, SpacePart } from '../recipe/types';
import type { TimedMesh } from '../geometry/mesh';

/** The own time of a mesh or of particles at a simulated time since the start of the shot's first frame. */
export function ownTime(
  file: FilePart,
  of: { readonly unit?: TimedMesh['unit']; readonly first: number; readonly last: number },
  space: SpacePart,
  timeS: number,
): number {
  const frame = space.firstFrame - 1 + (timeS * space.frameRate) / space.timeScale;
  const seconds = ((frame - file.start) / space.frameRate) * (file.pace / 100);
  const own = of.unit === 'seconds' ? seconds : seconds * (file.rate || space.frameRate);
  const length = of.last - of.first;
  if (own <= 0 || length <= 0) return of.first;
  return of.first + (file.after === 'loop' ? own - Math.floor(own / length) * length : Math.min(own, length));
}

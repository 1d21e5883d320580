// Cameras of a glTF file, as they move over the time of its first animation.
import type { Camera, Node } from '@gltf-transform/core';
import { FileError } from '../bytes';
import { viewOf, type FilmCamera } from '../film-camera';
import { coursesOf } from './animation';
import { openGltf, scenesOf } from './open';

/**
 * The cameras that stand in the scene, in its order.
 * @throws FileError where there is none
 */
export async function readGltfCameras(bytes: Uint8Array): Promise<FilmCamera[]> {
  const document = await openGltf(bytes);
  const found: { readonly node: Node; readonly camera: Camera }[] = [];
  for (const scene of scenesOf(document))
    scene.traverse((node) => {
      const camera = node.getCamera();
      if (camera) found.push({ node, camera });
    });
  if (found.length === 0) throw new FileError('It holds no camera. Save the camera with the scene.');
  const parallel = found.find(({ camera }) => camera.getType() !== 'perspective');
  if (parallel)
    throw new FileError(
      `Its camera ${parallel.node.getName() || parallel.camera.getName()} has parallel rays; only those ` +
        'with a lens can be taken.',
    );
  const courses = coursesOf(document);
  const ends = courses.flatMap((c) => [c.times[0], c.times[c.times.length - 1]]);
  return found.map(({ node, camera }, n) => ({
    name: node.getName() || camera.getName() || `Camera ${n + 1}`,
    unit: 'seconds',
    first: courses.length > 0 ? Math.min(...ends) : 0,
    last: courses.length > 0 ? Math.max(...ends) : 0,
    at: (time) => {
      for (const course of courses) course.set(time);
      // its matrix stands column by column
      const m = node.getWorldMatrix();
      return {
        ...viewOf([m[12], m[13], m[14]], [-m[8], -m[9], -m[10]], [m[4], m[5], m[6]]),
        lens: { angle: camera.getYFov() },
      };
    },
  }));
}

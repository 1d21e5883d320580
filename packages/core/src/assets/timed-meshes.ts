// A sequence of meshes over its frames: where they have the same faces, vertices go straight from frame to
// frame.
import { timed, type Mesh, type TimedMesh } from '../geometry/mesh';
import { aroundNumber, remembered, type Sequence } from '../files/sequence/sequence';

export function meshSequence(sequence: Sequence, decode: (bytes: Uint8Array) => Mesh): TimedMesh {
  const { numbers } = sequence;
  const frame = remembered(sequence, decode);
  const first = frame(0);
  let keepsShape = true;
  for (let n = 1; n < numbers.length && keepsShape; n++) keepsShape = sameFaces(first, frame(n));
  return timed(
    { unit: 'frames', first: numbers[0], last: numbers[numbers.length - 1], keepsShape },
    (number) => {
      const { before, after, t } = aroundNumber(numbers, number);
      const a = frame(before);
      if (t === 0 || !keepsShape) return a;
      const b = frame(after);
      return { ...a, positions: a.positions.map((v, n) => v + t * (b.positions[n] - v)) };
    },
  );
}

function sameFaces(a: Mesh, b: Mesh): boolean {
  return (
    a.positions.length === b.positions.length &&
    a.triangles.length === b.triangles.length &&
    a.triangles.every((v, n) => v === b.triangles[n])
  );
}

// The first animation of a glTF file: what its channels do to their nodes at a time.
import type { Document, Node } from '@gltf-transform/core';

/** What one channel of the animation does to its node. */
export interface Course {
  readonly times: ArrayLike<number>;
  readonly set: (time: number) => void;
}

/** Of the file's first animation, the channels that move, turn and size nodes and morph their meshes. */
export function coursesOf(document: Document): Course[] {
  const [animation] = document.getRoot().listAnimations();
  return (animation?.listChannels() ?? []).flatMap((channel): Course[] => {
    const node = channel.getTargetNode();
    const sampler = channel.getSampler();
    const path = channel.getTargetPath();
    const times = sampler?.getInput()?.getArray();
    const output = sampler?.getOutput();
    if (
      !node ||
      !sampler ||
      !times?.length ||
      !output ||
      !['translation', 'rotation', 'scale', 'weights'].includes(path ?? '')
    )
      return [];
    // the weights of all morphs of a key stand one after the other
    const morphs = path === 'weights' ? morphCount(node) : 0;
    if (path === 'weights' && morphs === 0) return [];
    const how = sampler.getInterpolation();
    const cubic = how === 'CUBICSPLINE';
    // of a cubic one, each key has its slope in, its value, its slope out
    const element = (n: number, part: number): number[] => {
      const at = cubic ? 3 * n + part : n;
      return morphs > 0
        ? Array.from({ length: morphs }, (_, m) => output.getScalar(at * morphs + m))
        : output.getElement(at, []);
    };

    const valueAt = (time: number): number[] => {
      let n = times.length - 2;
      while (n > 0 && times[n] > time) n--;
      if (time <= times[0] || times.length === 1) return element(0, 1);
      if (time >= times[times.length - 1]) return element(times.length - 1, 1);
      const length = times[n + 1] - times[n];
      const t = (time - times[n]) / length;
      const a = element(n, 1);
      const b = element(n + 1, 1);
      if (how === 'STEP') return a;
      if (!cubic) return path === 'rotation' ? between(a, b, t) : a.map((v, c) => v + t * (b[c] - v));
      const out = element(n, 2);
      const into = element(n + 1, 0);
      const t2 = t * t;
      const t3 = t2 * t;
      const curve = a.map(
        (v, c) =>
          (2 * t3 - 3 * t2 + 1) * v +
          length * (t3 - 2 * t2 + t) * out[c] +
          (3 * t2 - 2 * t3) * b[c] +
          length * (t3 - t2) * into[c],
      );
      return path === 'rotation' ? unit(curve) : curve;
    };

    const set = (time: number): void => {
      const v = valueAt(time);
      if (path === 'translation') node.setTranslation(v as [number, number, number]);
      else if (path === 'scale') node.setScale(v as [number, number, number]);
      else if (path === 'weights') node.setWeights(v);
      else node.setRotation(v as [number, number, number, number]);
    };

    return [{ times, set }];
  });
}

const morphCount = (node: Node): number => node.getMesh()?.listPrimitives()[0]?.listTargets().length ?? 0;

function unit(q: readonly number[]): number[] {
  const long = Math.sqrt(q.reduce((sum, v) => sum + v * v, 0));
  return q.map((v) => v / long);
}

/** Halvings of the way between two turns: finer than single precision. */
const HALVINGS = 26;

/**
 * The turn at a part of the way from one to the other at even speed, by halving: the middle of two turns is
 * their sum made one long, so no sine is needed and every engine gets the same bits.
 */
function between(p: readonly number[], q: readonly number[], t: number): number[] {
  const dot = p.reduce((sum, v, c) => sum + v * q[c], 0);
  let a = unit(p);
  let b = unit(dot < 0 ? q.map((v) => -v) : q);
  let low = 0;
  let high = 1;
  for (let n = 0; n < HALVINGS; n++) {
    const middle = unit(a.map((v, c) => v + b[c]));
    const at = (low + high) / 2;
    if (t < at) {
      b = middle;
      high = at;
    } else {
      a = middle;
      low = at;
    }
  }

  return a;
}

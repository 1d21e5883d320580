// How the air is moved, drawn into the scene: arrows of a force, the veil of a region, a plane through a
// force.
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, type ReactNode } from 'react';
import * as THREE from 'three';
import { useTheme } from 'styled-components';
import type { Streamlines } from '@bramblemist/core/analysis/flow';
import type { Arrows, Slice, Veil } from '@bramblemist/core/analysis/seeing';
import { pictured, spanOf } from '../seeing/ramp';
import { strongest, useProbe } from './probe';

/** Pushes below this part of the strongest are not drawn. */
const FAINTEST = 0.04;
const HEAD = 0.28;

/** Lines of arrows: the strongest is as long as they lie apart. */
function linesOf(
  { places, spacingM }: Arrows,
  vectors: Float32Array,
): { lines: Float32Array; shades: Float32Array } {
  const most = strongest(vectors);
  const lines: number[] = [];
  const shades: number[] = [];
  if (most === 0) return { lines: new Float32Array(0), shades: new Float32Array(0) };
  const d = new THREE.Vector3();
  const from = new THREE.Vector3();
  const tip = new THREE.Vector3();
  const side = new THREE.Vector3();
  const wing = new THREE.Vector3();
  for (let n = 0; n < places.length; n += 3) {
    d.fromArray(vectors, n);
    const share = d.length() / most;
    if (share < FAINTEST) continue;
    // lengths by the root, so that weak ones can be seen beside strong ones
    d.normalize();
    const long = Math.sqrt(share) * spacingM * 0.95;
    from.fromArray(places, n).addScaledVector(d, -long / 2);
    tip.copy(from).addScaledVector(d, long);
    side
      .crossVectors(d, Math.abs(d.y) > 0.9 ? new THREE.Vector3(1, 0, 0) : new THREE.Vector3(0, 1, 0))
      .normalize()
      .multiplyScalar(long * HEAD * 0.5);
    lines.push(...from.toArray(), ...tip.toArray());
    for (const s of [1, -1]) {
      wing
        .copy(tip)
        .addScaledVector(d, -long * HEAD)
        .addScaledVector(side, s);
      lines.push(...tip.toArray(), ...wing.toArray());
    }

    for (let v = 0; v < 6; v++) shades.push(share);
  }

  return { lines: Float32Array.from(lines), shades: Float32Array.from(shades) };
}

export function ForceArrows({ arrows, name }: { arrows: Arrows; name: string }): ReactNode {
  const theme = useTheme();
  const vectors = arrows.pushes[name];
  const geometry = useMemo(() => {
    const g = new THREE.BufferGeometry();
    const { lines, shades } = vectors
      ? linesOf(arrows, vectors)
      : { lines: new Float32Array(0), shades: new Float32Array(0) };
    const weak = new THREE.Color('#b9b3bf');
    const strong = new THREE.Color(theme.straw);
    const colours = new Float32Array(lines.length);
    shades.forEach((s, n) =>
      weak
        .clone()
        .lerp(strong, Math.sqrt(s))
        .toArray(colours, n * 3),
    );
    g.setAttribute('position', new THREE.BufferAttribute(lines, 3));
    g.setAttribute('color', new THREE.BufferAttribute(colours, 3));
    return g;
  }, [arrows, vectors, theme.straw]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <lineSegments geometry={geometry} raycast={() => null} renderOrder={2}>
      <lineBasicMaterial vertexColors transparent opacity={0.9} />
    </lineSegments>
  );
}

/** Streamlines: paler where the air is slow. */
export function AirLines({ lines }: { lines: Streamlines }): ReactNode {
  const theme = useTheme();
  const geometry = useMemo(() => {
    const g = new THREE.BufferGeometry();
    const most = lines.speeds.reduce((m, v) => Math.max(m, v), 0) || 1;
    const weak = new THREE.Color('#8f8896');
    const strong = new THREE.Color(theme.straw);
    const colours = new Float32Array(lines.pieces.length);
    lines.speeds.forEach((v, n) =>
      weak
        .clone()
        .lerp(strong, Math.sqrt(v / most))
        .toArray(colours, n * 3),
    );
    g.setAttribute('position', new THREE.BufferAttribute(lines.pieces, 3));
    g.setAttribute('color', new THREE.BufferAttribute(colours, 3));
    return g;
  }, [lines, theme.straw]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <lineSegments geometry={geometry} raycast={() => null} renderOrder={2}>
      <lineBasicMaterial vertexColors transparent opacity={0.75} />
    </lineSegments>
  );
}

const VEIL_FRAGMENT = /* glsl */ `
  precision highp float;
  precision highp sampler3D;
  uniform sampler3D weight;
  uniform vec3 corner, size, tint;
  varying vec3 vWorld;
  void main() {
    vec3 direction = normalize(vWorld - cameraPosition);
    vec3 a = (corner - cameraPosition) / direction, b = (corner + size - cameraPosition) / direction;
    vec3 lo = min(a, b), hi = max(a, b);
    float t0 = max(max(lo.x, max(lo.y, lo.z)), 0.0), t1 = min(hi.x, min(hi.y, hi.z));
    if (t1 <= t0) discard;
    float longest = max(size.x, max(size.y, size.z)), reach = (t1 - t0) / 40.0, sum = 0.0;
    for (int s = 0; s < 40; s++)
      vec3 place = cameraPosition + (t0 + (float(s) + 0.5) * reach) * direction;
      sum += texture(weight, (place - corner) / size).r;
    float alpha = 0.62 * (1.0 - exp(-2.6 * sum * reach / longest));
    if (alpha < 0.004) discard;
    gl_FragColor = vec4(tint, alpha);
  }`;
const VEIL_VERTEX = /* glsl */ `
  varying vec3 vWorld;
  void main() {
    vec4 w = modelMatrix * vec4(position, 1.0);
    vWorld = w.xyz;
    gl_Position = projectionMatrix * viewMatrix * w;
  }`;

/** How far everything lies in a region, as a haze of the colour of what is chosen. */
export function RegionVeil({ veil }: { veil: Veil }): ReactNode {
  const theme = useTheme();
  const invalidate = useThree((s) => s.invalidate);
  const size = veil.dims.map((n) => n * veil.cellM) as [number, number, number];
  const middle = veil.corner.map((c, a) => c + size[a] / 2) as [number, number, number];
  const material = useMemo(() => {
    const texture = new THREE.Data3DTexture(new Uint8Array(veil.bytes), ...veil.dims);
    texture.format = THREE.RedFormat;
    texture.minFilter = texture.magFilter = THREE.LinearFilter;
    texture.unpackAlignment = 1;
    texture.needsUpdate = true;
    return new THREE.ShaderMaterial({
      vertexShader: VEIL_VERTEX,
      fragmentShader: VEIL_FRAGMENT,
      side: THREE.BackSide,
      transparent: true,
      depthWrite: false,
      depthTest: false,
      uniforms: {
        weight: { value: texture },
        corner: { value: new THREE.Vector3(...veil.corner) },
        size: { value: new THREE.Vector3(...veil.dims).multiplyScalar(veil.cellM) },
        tint: { value: new THREE.Color(theme.thorn) },
      },
    });
  }, [veil, theme.thorn]);
  useEffect(() => {
    invalidate();
    return () => {
      (material.uniforms.weight.value as THREE.Texture).dispose();
      material.dispose();
    };
  }, [material, invalidate]);
  return (
    <mesh position={middle} scale={size} material={material} raycast={() => null} renderOrder={1}>
      <boxGeometry />
    </mesh>
  );
}

/** A plane in the scene with values as colours. */
export function SlicePlane({ slice }: { slice: Slice }): ReactNode {
  const [nx, ny] = slice.dims;
  const size = [nx * slice.cellM, ny * slice.cellM] as const;
  const [a, b] = ([0, 1, 2] as const).filter((x) => x !== slice.axis);
  const texture = useMemo(() => {
    const t = new THREE.DataTexture(
      pictured(slice.values, ...spanOf(slice.values)),
      nx,
      ny,
      THREE.RGBAFormat,
    );
    t.minFilter = t.magFilter = THREE.LinearFilter;
    t.needsUpdate = true;
    return t;
  }, [slice, nx, ny]);
  useEffect(() => () => texture.dispose(), [texture]);
  const matrix = useMemo(() => {
    const along = (axis: number): THREE.Vector3 =>
      new THREE.Vector3(...[0, 1, 2].map((x) => Number(x === axis)));
    const at = along(slice.axis)
      .multiplyScalar(slice.atM)
      .addScaledVector(along(a), slice.corner[0] + size[0] / 2)
      .addScaledVector(along(b), slice.corner[1] + size[1] / 2);
    return new THREE.Matrix4().makeBasis(along(a), along(b), along(slice.axis)).setPosition(at);
  }, [slice, a, b, size[0], size[1]]); // eslint-disable-line react-hooks/exhaustive-deps
  return (
    <mesh
      matrixAutoUpdate={false}
      matrix={matrix}
      onPointerMove={(e) => useProbe.setState({ place: e.point.toArray() })}
      onPointerLeave={() => useProbe.setState({ place: null })}
    >
      <planeGeometry args={[size[0], size[1]]} />
      <meshBasicMaterial
        map={texture}
        side={THREE.DoubleSide}
        transparent
        opacity={0.82}
        depthWrite={false}
        toneMapped={false}
      />
    </mesh>
  );
}

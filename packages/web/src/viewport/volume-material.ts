// The medium as a texture and the shader that marches through it: light from one sweep, even light all round.
import * as THREE from 'three';
import { sunDirection, type Look } from '@bramblemist/core/look/look';
import type { ShownBrick } from '../live/use-live';

const VERTEX = /* glsl */ `
  varying vec3 vWorld;
  void main() {
    vec4 w = modelMatrix * vec4(position, 1.0);
    vWorld = w.xyz;
    gl_Position = projectionMatrix * viewMatrix * w;
  }`;

const FRAGMENT = /* glsl */ `
  precision highp float;
  precision highp sampler3D;
  uniform sampler3D volume;
  uniform sampler2D solid;
  uniform vec2 resolution;
  uniform vec3 corner, size, sunColour, skyColour, albedo, toSun;
  uniform float extinction, forward, stepLength;
  uniform mat4 inverseProjection, inverseView;
  varying vec3 vWorld;

  float worldDepth(vec2 uv, vec3 direction) {
    float z = texture2D(solid, uv).r;
    if (z >= 1.0) return 1e9;
    vec4 p = inverseProjection * vec4(uv * 2.0 - 1.0, z * 2.0 - 1.0, 1.0);
    return length((inverseView * vec4(p.xyz / p.w, 1.0)).xyz - cameraPosition);
  }
  void main() {
    vec3 direction = normalize(vWorld - cameraPosition);
    vec3 a = (corner - cameraPosition) / direction, b = (corner + size - cameraPosition) / direction;
    vec3 lo = min(a, b), hi = max(a, b);
    float t0 = max(max(lo.x, max(lo.y, lo.z)), 0.0), t1 = min(hi.x, min(hi.y, hi.z));
    vec2 uv = gl_FragCoord.xy / resolution;
    t1 = min(t1, worldDepth(uv, direction));
    if (t1 <= t0) discard;
    float jitter = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
    float cosine = dot(direction, toSun), g = forward;
    float base = 1.0 + g * g - 2.0 * g * cosine;
    float phase = (1.0 - g * g) / (base * sqrt(base));
    vec3 light = vec3(0.0);
    float through = 1.0;
    float t = t0 + stepLength * jitter;
    for (int s = 0; s < 512; s++) {
      if (t >= t1 || through < 0.01) break;
      vec2 v = texture(volume, (cameraPosition + t * direction - corner) / size).rg;
      if (v.r > 0.002) {
        float pass = exp(-extinction * v.r * stepLength);
        vec3 scattered = albedo * (sunColour * phase * v.g + skyColour * (0.35 + 0.65 * v.g));
        light += through * (1.0 - pass) * scattered;
        through *= pass;
      }
      t += stepLength;
    }
    float alpha = 1.0 - through;
    if (alpha < 0.002) discard;
    gl_FragColor = vec4(pow(max(light / alpha, 0.0), vec3(1.0 / 2.2)) * alpha, alpha);
  }`;

export function makeVolumeMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side: THREE.BackSide,
    depthTest: false,
    depthWrite: false,
    blending: THREE.NoBlending,
    uniforms: {
      volume: { value: null },
      solid: { value: null },
      resolution: { value: new THREE.Vector2() },
      corner: { value: new THREE.Vector3() },
      size: { value: new THREE.Vector3(1, 1, 1) },
      sunColour: { value: new THREE.Vector3() },
      skyColour: { value: new THREE.Vector3() },
      albedo: { value: new THREE.Vector3() },
      toSun: { value: new THREE.Vector3() },
      extinction: { value: 1 },
      forward: { value: 0 },
      stepLength: { value: 0.05 },
      inverseProjection: { value: new THREE.Matrix4() },
      inverseView: { value: new THREE.Matrix4() },
    },
  });
}

/** Puts a frame into the material, reusing its texture where the size fits. */
export function showBrick(material: THREE.ShaderMaterial, shown: ShownBrick): void {
  const { brick, light } = shown,
    [nx, ny, nz] = brick.dims,
    u = material.uniforms;
  let texture = u.volume.value as THREE.Data3DTexture | null;
  if (!texture || texture.image.width !== nx || texture.image.height !== ny || texture.image.depth !== nz) {
    texture?.dispose();
    texture = new THREE.Data3DTexture(new Uint8Array(nx * ny * nz * 2), nx, ny, nz);
    texture.format = THREE.RGFormat;
    texture.type = THREE.UnsignedByteType;
    texture.minFilter = texture.magFilter = THREE.LinearFilter;
    texture.wrapS = texture.wrapT = texture.wrapR = THREE.ClampToEdgeWrapping;
    texture.unpackAlignment = 1;
    u.volume.value = texture;
  }
  const data = texture.image.data as unknown as Uint8Array;
  for (let n = 0; n < brick.bytes.length; n++) {
    data[2 * n] = brick.bytes[n];
    data[2 * n + 1] = light[n];
  }
  texture.needsUpdate = true;
  (u.corner.value as THREE.Vector3).set(...brick.corner);
  (u.size.value as THREE.Vector3).set(nx, ny, nz).multiplyScalar(brick.voxelSizeM);
  u.stepLength.value = brick.voxelSizeM * 1.1;
  material.userData.greatest = brick.greatest;
}

export function setLook(material: THREE.ShaderMaterial, look: Look): void {
  const u = material.uniforms;
  (u.albedo.value as THREE.Vector3).set(...look.medium.albedo);
  (u.sunColour.value as THREE.Vector3).set(...look.sun.colour).multiplyScalar(2 ** look.sun.stops);
  (u.skyColour.value as THREE.Vector3).set(...look.sky.colour).multiplyScalar(2 ** look.sky.stops);
  (u.toSun.value as THREE.Vector3).set(...sunDirection(look));
  u.forward.value = look.medium.forward;
  u.extinction.value = look.medium.density * ((material.userData.greatest as number | undefined) ?? 1);
}

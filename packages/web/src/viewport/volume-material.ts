// The medium as a texture and the shader that marches through it: light from one sweep, even light all round.
import * as THREE from 'three';
import type { Look } from '@bramblemist/core/look/look';
import { workLight } from '@bramblemist/core/look/work-light';
import { channelOf, type Shown } from '@bramblemist/core/analysis/flow';
import type { ViewState } from '../data/view';
import type { ShownBrick } from '../live/use-live';
import { STOPS } from '../seeing/ramp';
import { BLOCK, occupiedBlocks } from './occupied';

// The quad fills the picture; what is seen in a pixel is found along its ray.
const VERTEX = /* glsl */ `
  varying vec2 vScreen;
  void main() {
    vScreen = position.xy;
    gl_Position = vec4(position.xy, 0.0, 1.0);
  }`;

const FRAGMENT = /* glsl */ `
  precision highp float;
  precision highp sampler3D;
  uniform sampler3D volume, carried, channel, occupied;
  uniform sampler2D solid;
  uniform vec2 resolution;
  uniform vec3 corner, size, colourSize, channelCorner, channelSize, sunColour, skyColour, albedo, toSun;
  uniform vec3 ramp[RAMP_STOPS];
  uniform vec2 range;
  uniform float blockEdge;
  uniform float extinction, forward, stepLength, greatest, shadowOnSolids;
  uniform int colouring;
  uniform bool coloured, held;
  uniform mat4 inverseProjection, inverseView;
  varying vec2 vScreen;

  vec3 rampAt(float v) {
    float t = clamp((v - range.x) / (range.y - range.x), 0.0, 1.0) * float(RAMP_STOPS - 1);
    int n = int(min(floor(t), float(RAMP_STOPS - 2)));
    return mix(ramp[n], ramp[n + 1], t - float(n));
  }
  vec2 crossing(vec3 from, vec3 way) {
    vec3 a = (corner - from) / way, b = (corner + size - from) / way;
    vec3 lo = min(a, b), hi = max(a, b);
    return vec2(max(max(lo.x, max(lo.y, lo.z)), 0.0), min(hi.x, min(hi.y, hi.z)));
  }
  void main() {
    vec4 far = inverseProjection * vec4(vScreen, 1.0, 1.0);
    vec3 direction = normalize((inverseView * vec4(far.xyz / far.w, 0.0)).xyz);
    vec2 uv = gl_FragCoord.xy / resolution;
    float z = texture2D(solid, uv).r, limit = 1e9;
    if (z < 1.0) {
      vec4 p = inverseProjection * vec4(vScreen, z * 2.0 - 1.0, 1.0);
      limit = length((inverseView * vec4(p.xyz / p.w, 1.0)).xyz - cameraPosition);
    }
    float jitter = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
    vec2 span = held ? crossing(cameraPosition, direction) : vec2(1.0, 0.0);
    float t1 = min(span.y, limit), t = span.x + stepLength * jitter;
    float cosine = dot(direction, toSun), g = forward;
    float base = 1.0 + g * g - 2.0 * g * cosine;
    float phase = (1.0 - g * g) / (base * sqrt(base));
    vec3 light = vec3(0.0);
    float through = 1.0;
    ivec3 lastBlock = textureSize(occupied, 0) - 1;
    for (int s = 0; s < 512; s++) {
      if (t >= t1 || through < 0.01) break;
      vec3 place = cameraPosition + t * direction, at = (place - corner) / size;
      ivec3 block = clamp(ivec3((place - corner) / blockEdge), ivec3(0), lastBlock);
      if (texelFetch(occupied, block, 0).r == 0.0) {
        // by whole steps to the first sample behind the block, so that the picture stays the same
        vec3 faces = corner + (vec3(block) + step(0.0, direction)) * blockEdge;
        vec3 way = (faces - place) / direction;
        t += stepLength * max(1.0, ceil(min(way.x, min(way.y, way.z)) / stepLength));
        continue;
      }
      vec2 v = texture(volume, at).rg;
      if (v.r > 0.002) {
        float pass = exp(-extinction * v.r * stepLength);
        vec3 seen;
        if (colouring == 0) {
          seen = albedo * (sunColour * phase * v.g + skyColour * (0.35 + 0.65 * v.g));
          if (coloured) {
            vec4 c = texture(carried, (place - corner) / colourSize);
            seen *= c.rgb / max(c.a, 0.02);
          }
        } else {
          float value = colouring == 1
            ? v.r * greatest
            : texture(channel, (place - channelCorner) / channelSize).r;
          seen = rampAt(value);
        }
        light += through * (1.0 - pass) * seen;
        through *= pass;
      }
      t += stepLength;
    }
    // the medium keeps the sun from what stands in the domain: where a ray to the sun comes into the brick,
    // the light that is left there is known
    float shade = 1.0;
    if (held && limit < 1e8 && shadowOnSolids > 0.0) {
      vec3 place = cameraPosition + limit * direction;
      vec2 way = crossing(place, toSun);
      vec3 entry = (place + way.x * toSun - corner) / size;
      if (way.y > way.x) shade = mix(1.0, texture(volume, entry).g, shadowOnSolids);
    }
    float alpha = 1.0 - through, cover = 1.0 - through * pow(shade, 1.0 / 2.2);
    if (cover < 0.002) discard;
    // premultiplied; the shadow covers without giving light
    vec3 seen = alpha > 0.0005 ? pow(max(light / alpha, 0.0), vec3(1.0 / 2.2)) * alpha : vec3(0.0);
    gl_FragColor = vec4(seen, cover);
  }`;

/** Part of the light on what stands in the domain that comes from the sun. */
const SUN_SHARE = 0.6;
/** Steps along a ray in brick voxels, by care. */
const STEPS = { full: 1.1, quick: 2.2 } as const;

export function makeVolumeMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    defines: { RAMP_STOPS: STOPS.length },
    depthTest: false,
    depthWrite: false,
    blending: THREE.NoBlending,
    uniforms: {
      volume: { value: null },
      carried: { value: null },
      channel: { value: null },
      occupied: { value: null },
      blockEdge: { value: 1 },
      solid: { value: null },
      resolution: { value: new THREE.Vector2() },
      corner: { value: new THREE.Vector3() },
      size: { value: new THREE.Vector3(1, 1, 1) },
      colourSize: { value: new THREE.Vector3(1, 1, 1) },
      channelCorner: { value: new THREE.Vector3() },
      channelSize: { value: new THREE.Vector3(1, 1, 1) },
      sunColour: { value: new THREE.Vector3() },
      skyColour: { value: new THREE.Vector3() },
      albedo: { value: new THREE.Vector3() },
      toSun: { value: new THREE.Vector3() },
      // as light, since the picture is encoded at the end
      ramp: { value: STOPS.map((c) => new THREE.Vector3(...c.map((v) => (v / 255) ** 2.2))) },
      range: { value: new THREE.Vector2(0, 1) },
      extinction: { value: 1 },
      greatest: { value: 1 },
      forward: { value: 0 },
      stepLength: { value: 0.05 },
      shadowOnSolids: { value: SUN_SHARE },
      colouring: { value: 0 },
      coloured: { value: false },
      held: { value: false },
      inverseProjection: { value: new THREE.Matrix4() },
      inverseView: { value: new THREE.Matrix4() },
    },
  });
}

/** A volume of this size, the one that there is where it fits. */
function volumeTexture(
  present: THREE.Data3DTexture | null,
  [nx, ny, nz]: readonly number[],
  format: THREE.PixelFormat,
  type: THREE.TextureDataType,
  make: () => Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer>,
  filter: THREE.MagnificationTextureFilter = THREE.LinearFilter,
): THREE.Data3DTexture {
  if (present?.image.width === nx && present.image.height === ny && present.image.depth === nz)
    return present;
  present?.dispose();
  const texture = new THREE.Data3DTexture(make() as Uint8Array<ArrayBuffer>, nx, ny, nz);
  texture.format = format;
  texture.type = type;
  texture.minFilter = texture.magFilter = filter;
  texture.wrapS = texture.wrapT = texture.wrapR = THREE.ClampToEdgeWrapping;
  texture.unpackAlignment = 1;
  return texture;
}

/** Puts a frame into the material, reusing its textures where the sizes fit. */
export function showBrick(material: THREE.ShaderMaterial, { brick }: ShownBrick, light: Uint8Array): void {
  const u = material.uniforms;
  const many = brick.bytes.length;
  const texture = volumeTexture(
    u.volume.value as THREE.Data3DTexture | null,
    brick.dims,
    THREE.RGFormat,
    THREE.UnsignedByteType,
    () => new Uint8Array(2 * many),
  );
  u.volume.value = texture;
  const data = texture.image.data as unknown as Uint8Array;
  const both = new Uint16Array(data.buffer, data.byteOffset, many);
  const { bytes } = brick;
  for (let n = 0; n < many; n++) both[n] = bytes[n] | (light[n] << 8);

  texture.needsUpdate = true;
  const { dims: blocksAlong, blocks } = occupiedBlocks(brick.bytes, brick.dims);
  const occupied = volumeTexture(
    u.occupied.value as THREE.Data3DTexture | null,
    blocksAlong,
    THREE.RedFormat,
    THREE.UnsignedByteType,
    () => new Uint8Array(blocks.length),
    THREE.NearestFilter,
  );
  (occupied.image.data as unknown as Uint8Array).set(blocks);
  occupied.needsUpdate = true;
  u.occupied.value = occupied;
  u.blockEdge.value = BLOCK * brick.voxelSizeM;
  (u.corner.value as THREE.Vector3).set(...brick.corner);
  (u.size.value as THREE.Vector3).set(...brick.dims).multiplyScalar(brick.voxelSizeM);
  u.greatest.value = brick.greatest;
  u.held.value = true;
  u.coloured.value = brick.colour !== null;
  if (brick.colour) {
    const { dims, bytes } = brick.colour;
    const carried = volumeTexture(
      u.carried.value as THREE.Data3DTexture | null,
      dims,
      THREE.RGBAFormat,
      THREE.UnsignedByteType,
      () => new Uint8Array(bytes.length),
    );
    (carried.image.data as unknown as Uint8Array).set(bytes);
    carried.needsUpdate = true;
    u.carried.value = carried;
    (u.colourSize.value as THREE.Vector3).set(...dims).multiplyScalar(2 * brick.voxelSizeM);
  }
}

/** What the colours tell, and their range. A frame without a glimpse of the air keeps to its light. */
export function colourBy(
  material: THREE.ShaderMaterial,
  { glimpse }: ShownBrick,
  { colouring, care }: Pick<ViewState, 'colouring' | 'care'>,
  range: readonly [number, number],
): void {
  const u = material.uniforms;
  const byChannel = glimpse ? 2 : 0;
  u.colouring.value = { light: 0, density: 1 }[colouring as string] ?? byChannel;
  (u.range.value as THREE.Vector2).set(...range);
  u.shadowOnSolids.value = care === 'full' && colouring === 'light' ? SUN_SHARE : 0;
  u.stepLength.value =
    ((u.size.value as THREE.Vector3).x / (u.volume.value as THREE.Data3DTexture).image.width) * STEPS[care];
  if (u.colouring.value !== 2) return;
  const { dims, cellM, corner } = glimpse!;
  const values = channelOf(glimpse!, colouring as Shown);
  const texture = volumeTexture(
    u.channel.value as THREE.Data3DTexture | null,
    dims,
    THREE.RedFormat,
    THREE.HalfFloatType,
    () => new Uint16Array(values.length),
  );
  const data = texture.image.data as unknown as Uint16Array;
  for (let n = 0; n < values.length; n++) data[n] = THREE.DataUtils.toHalfFloat(values[n]);
  texture.needsUpdate = true;
  u.channel.value = texture;
  (u.channelCorner.value as THREE.Vector3).set(...corner);
  (u.channelSize.value as THREE.Vector3).set(...dims).multiplyScalar(cellM);
}

/** Gives the graphics memory back. */
export function disposeOf(material: THREE.ShaderMaterial): void {
  for (const name of ['volume', 'carried', 'channel', 'occupied'])
    (material.uniforms[name].value as THREE.Data3DTexture | null)?.dispose();
  material.dispose();
}

export function setLook(material: THREE.ShaderMaterial, look: Look): void {
  const u = material.uniforms;
  (u.albedo.value as THREE.Vector3).set(...look.medium.scatter);
  const { toSun, sun, sky } = workLight(look);
  (u.sunColour.value as THREE.Vector3).set(...sun);
  (u.skyColour.value as THREE.Vector3).set(...sky);
  (u.toSun.value as THREE.Vector3).set(...toSun);
  u.forward.value = look.medium.forward;
  u.extinction.value = look.medium.density * (u.greatest.value as number);
}

// The medium, marched at a resolution that keeps pace, and laid over the scene.
import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import * as THREE from 'three';
import type { StoreApi, UseBoundStore } from 'zustand';
import type { Look } from '@bramblemist/core/look/look';
import type { ShownBrick } from '../live/use-live';
import { SOLID_LAYER } from './shapes';
import { useView } from '../data/view';
import { lightUnder } from './light';
import { rangeOf } from './range';
import { colourBy, disposeOf, makeVolumeMaterial, setLook, showBrick } from './volume-material';

/** Whether a graphics card draws; in software, smoothing edges costs more than the medium itself. */
export const HARDWARE = ((): boolean => {
  const gl = document.createElement('canvas').getContext('webgl2');
  const name = gl?.getExtension('WEBGL_debug_renderer_info');
  const renderer = gl && name ? String(gl.getParameter(name.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return !/swiftshader|llvmpipe|software/i.test(renderer);
})();

const FINEST = 1;
const COARSEST = HARDWARE ? 0.22 : 0.4;
const START = 0.6;
/** Of the window's pixels along an edge, those that are drawn in software while something moves. */
const MOVING_RATIO = 0.5;
/** Longer frames than this make the medium coarser, shorter ones finer. */
const STILL_AFTER_MS = 350;
const SLOW_MS = 48;
const QUICK_MS = 22;

export function Medium({
  frame,
  look,
}: {
  frame: UseBoundStore<StoreApi<{ readonly shown: ShownBrick | null }>>;
  look: Look;
}): ReactNode {
  const shown = frame((s) => s.shown);
  const colouring = useView((s) => s.colouring);
  const care = useView((s) => s.care);
  const locked = useView((s) => s.locked);
  const { gl, scene, camera, size, invalidate } = useThree();
  const kit = useMemo(() => {
    const volumeScene = new THREE.Scene();
    const material = makeVolumeMaterial();
    const quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), material);
    quad.frustumCulled = false;
    volumeScene.add(quad);
    const depth = new THREE.DepthTexture(1, 1);
    const solid = new THREE.WebGLRenderTarget(1, 1, { depthTexture: depth });
    const medium = new THREE.WebGLRenderTarget(1, 1, {
      type: THREE.UnsignedByteType,
      minFilter: THREE.LinearFilter,
      magFilter: THREE.LinearFilter,
    });
    const overScene = new THREE.Scene();
    const overCamera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
    const over = new THREE.Mesh(
      new THREE.PlaneGeometry(2, 2),
      new THREE.ShaderMaterial({
        uniforms: { picture: { value: medium.texture } },
        vertexShader: 'varying vec2 v; void main() { v = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
        fragmentShader:
          'varying vec2 v; uniform sampler2D picture; void main() { gl_FragColor = texture2D(picture, v); }',
        depthTest: false,
        depthWrite: false,
        transparent: true,
        blending: THREE.CustomBlending,
        blendSrc: THREE.OneFactor,
        blendDst: THREE.OneMinusSrcAlphaFactor,
      }),
    );
    over.frustumCulled = false;
    overScene.add(over);
    return { volumeScene, material, solid, medium, overScene, overCamera };
  }, []);
  const pace = useRef({ scale: START, last: 0, still: false, timer: 0 });

  useEffect(() => {
    if (!shown) return invalidate();
    showBrick(kit.material, shown, lightUnder(shown, look));
    invalidate();
  }, [shown, look, kit, invalidate]);
  useEffect(() => {
    if (!shown) return;
    colourBy(kit.material, shown, { colouring, care }, locked ?? rangeOf(shown, colouring));
    invalidate();
  }, [shown, colouring, care, locked, kit, invalidate]);
  useEffect(() => {
    setLook(kit.material, look);
    invalidate();
  }, [look, shown, kit, invalidate]);
  useEffect(
    () => () => {
      window.clearTimeout(pace.current.timer);
      disposeOf(kit.material);
      kit.solid.dispose();
      kit.medium.dispose();
    },
    [kit],
  );

  // a priority above 0 takes the drawing over from the default loop
  useFrame(() => {
    const now = performance.now();
    const p = pace.current;
    const took = now - p.last;
    p.last = now;
    // without a graphics card the whole picture is smaller while something moves
    const software = p.still || !shown ? 1 : MOVING_RATIO;
    const ratio = HARDWARE ? gl.getPixelRatio() : software;
    if (gl.getPixelRatio() !== ratio) gl.setPixelRatio(ratio);
    gl.setRenderTarget(null);
    gl.render(scene, camera);
    if (!shown) return;
    if (took < 400)
      if (took > SLOW_MS) p.scale = Math.max(COARSEST, p.scale * 0.93);
      else if (took < QUICK_MS) p.scale = Math.min(FINEST, p.scale * 1.03);
    // once nothing moves any more, one picture at full resolution
    const scale = p.still ? FINEST : p.scale;
    window.clearTimeout(p.timer);
    if (p.still) p.still = false;
    else
      p.timer = window.setTimeout(() => {
        p.still = true;
        invalidate();
      }, STILL_AFTER_MS);
    const w = Math.max(2, Math.round((size.width * ratio * scale) / 8) * 8);
    const h = Math.max(2, Math.round((size.height * ratio * scale) / 8) * 8);
    if (kit.medium.width !== w || kit.medium.height !== h) {
      kit.medium.setSize(w, h);
      kit.solid.setSize(w, h);
    }

    const clear = gl.getClearAlpha();
    const colour = gl.getClearColor(new THREE.Color());
    gl.setRenderTarget(kit.solid);
    gl.clear();
    camera.layers.set(SOLID_LAYER);
    gl.render(scene, camera);
    camera.layers.enableAll();
    const u = kit.material.uniforms;
    u.solid.value = kit.solid.depthTexture;
    (u.resolution.value as THREE.Vector2).set(w, h);
    (u.inverseProjection.value as THREE.Matrix4).copy(camera.projectionMatrixInverse);
    (u.inverseView.value as THREE.Matrix4).copy(camera.matrixWorld);
    gl.setClearColor(0x000000, 0);
    gl.setRenderTarget(kit.medium);
    gl.clear();
    gl.render(kit.volumeScene, camera);
    gl.setClearColor(colour, clear);
    gl.setRenderTarget(null);
    gl.autoClear = false;
    gl.render(kit.overScene, kit.overCamera);
    gl.autoClear = true;
  }, 1);
  return null;
}

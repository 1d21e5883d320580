// The window on the scene: the room, sources and obstacles as shapes, the medium marched at a resolution that keeps pace.
import { OrbitControls } from '@react-three/drei';
import { Canvas, useFrame, useThree, type ThreeEvent } from '@react-three/fiber';
import { useEffect, useImperativeHandle, useMemo, useRef, type ComponentRef, type ReactNode, type Ref } from 'react';
import * as THREE from 'three';
import { useTheme } from 'styled-components';
import type { Dots } from '@bramblemist/core/cache/dots';
import type { Look } from '@bramblemist/core/look/look';
import { ownTime, type Assets } from '@bramblemist/core/geometry/assets';
import type { Mesh } from '@bramblemist/core/geometry/mesh';
import { poseOf, type Pose } from '@bramblemist/core/geometry/pose';
import { recipeAt } from '@bramblemist/core/recipe/keys';
import { dabbed, paintedAt } from '@bramblemist/core/geometry/paint';
import type { Recipe, SourcePart, StandingPart, Triple } from '@bramblemist/core/recipe/recipe';
import type { ShownBrick } from '../live/use-live';
import { change, useBench } from '../data/bench';
import { select, useSelection } from '../data/selection';
import { Handle, useHandle } from './Handle';
import { geometryOf, inMetresOnce } from './shapes';
import { makeVolumeMaterial, setLook, showBrick } from './volume-material';

export interface ViewportHandle {
  frameAll(): void;
  lookThroughCamera(): void;
}
export interface ViewportProps {
  readonly recipe: Recipe;
  readonly assets: Assets;
  readonly look: Look;
  readonly shown: ShownBrick | null;
  readonly handle?: Ref<ViewportHandle>;
}

/** Whether a graphics card draws; in software, smoothing edges costs more than the medium itself. */
const HARDWARE = ((): boolean => {
  const gl = document.createElement('canvas').getContext('webgl2'),
    name = gl?.getExtension('WEBGL_debug_renderer_info');
  const renderer = gl && name ? String(gl.getParameter(name.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return !/swiftshader|llvmpipe|software/i.test(renderer);
})();

const FILM_BACK_MM = 36;
const FINEST = 1,
  COARSEST = 0.22,
  START = HARDWARE ? 0.6 : 0.3;
/** Longer frames than this make the medium coarser, shorter ones finer. */
const STILL_AFTER_MS = 350;
const SLOW_MS = 48,
  QUICK_MS = 22;

function Medium({ shown, look }: { shown: ShownBrick | null; look: Look }): ReactNode {
  const { gl, scene, camera, size, invalidate } = useThree();
  const kit = useMemo(() => {
    const volumeScene = new THREE.Scene(),
      material = makeVolumeMaterial();
    const box = new THREE.Mesh(new THREE.BoxGeometry(1, 1, 1), material);
    box.frustumCulled = false;
    volumeScene.add(box);
    const depth = new THREE.DepthTexture(1, 1);
    const solid = new THREE.WebGLRenderTarget(1, 1, { depthTexture: depth });
    const medium = new THREE.WebGLRenderTarget(1, 1, {
      type: THREE.UnsignedByteType,
      minFilter: THREE.LinearFilter,
      magFilter: THREE.LinearFilter,
    });
    const overScene = new THREE.Scene(),
      overCamera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
    const over = new THREE.Mesh(
      new THREE.PlaneGeometry(2, 2),
      new THREE.ShaderMaterial({
        uniforms: { picture: { value: medium.texture } },
        vertexShader: 'varying vec2 v; void main() { v = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
        fragmentShader: 'varying vec2 v; uniform sampler2D picture; void main() { gl_FragColor = texture2D(picture, v); }',
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
    return { volumeScene, material, box, solid, medium, overScene, overCamera };
  }, []);
  const pace = useRef({ scale: START, last: 0, still: false, timer: 0 });

  useEffect(() => {
    if (!shown) return invalidate();
    showBrick(kit.material, shown);
    const u = kit.material.uniforms;
    kit.box.scale.copy(u.size.value as THREE.Vector3);
    kit.box.position.copy(u.corner.value as THREE.Vector3).addScaledVector(u.size.value as THREE.Vector3, 0.5);
    invalidate();
  }, [shown, kit, invalidate]);
  useEffect(() => {
    setLook(kit.material, look);
    invalidate();
  }, [look, shown, kit, invalidate]);
  useEffect(
    () => () => {
      window.clearTimeout(pace.current.timer);
      (kit.material.uniforms.volume.value as THREE.Data3DTexture | null)?.dispose();
      kit.material.dispose();
      kit.solid.dispose();
      kit.medium.dispose();
    },
    [kit],
  );

  // a priority above 0 takes the drawing over from the default loop
  useFrame(() => {
    gl.setRenderTarget(null);
    gl.render(scene, camera);
    if (!shown) return;
    const now = performance.now(),
      p = pace.current,
      took = now - p.last;
    p.last = now;
    if (took < 400)
      p.scale = took > SLOW_MS ? Math.max(COARSEST, p.scale * 0.93) : took < QUICK_MS ? Math.min(FINEST, p.scale * 1.03) : p.scale;
    // once nothing moves any more, one picture at full resolution
    const scale = p.still ? FINEST : p.scale;
    window.clearTimeout(p.timer);
    if (p.still) p.still = false;
    else
      p.timer = window.setTimeout(() => {
        p.still = true;
        invalidate();
      }, STILL_AFTER_MS);
    const ratio = gl.getPixelRatio(),
      w = Math.max(2, Math.round((size.width * ratio * scale) / 8) * 8),
      h = Math.max(2, Math.round((size.height * ratio * scale) / 8) * 8);
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

const SOLID_LAYER = 1;
/** Faces that meet at less are drawn as one. */
const SHARP_DEGREES = 20;

/** A source or an obstacle as it stands at the frame that is shown. */
function Shape({
  part,
  kind,
  pose,
  mesh,
}: {
  part: StandingPart & { points?: readonly Triple[] };
  kind: 'source' | 'obstacle';
  pose: Pose;
  mesh: Mesh | null;
}): ReactNode {
  const theme = useTheme();
  const geometry = useMemo(() => geometryOf(part, kind === 'source' ? 20 : 48, mesh), [part, kind, mesh]);
  const chosen = useSelection((s) => s.id === part.id);
  // what has edges is drawn by them, what has none by a net
  const round = ['sphere', 'ring', 'path'].includes(part.shape) && kind === 'source',
    vessel = 'facing' in part && part.facing === 'vessel';
  const lines = useMemo(
    () => (round ? new THREE.WireframeGeometry(geometry) : new THREE.EdgesGeometry(geometry, SHARP_DEGREES)),
    [geometry, round],
  );
  useEffect(
    () => () => {
      geometry.dispose();
      lines.dispose();
    },
    [geometry, lines],
  );
  return (
    <group
      position={pose.centre}
      quaternion={turned(pose)}
      onClick={(e) => {
        e.stopPropagation();
        select(part.id);
      }}
    >
      {kind === 'obstacle' && !vessel && (
        <mesh geometry={geometry} layers-mask={(1 << SOLID_LAYER) | 1}>
          <meshStandardMaterial color="#55565a" roughness={0.95} flatShading={part.shape === 'mesh'} side={THREE.DoubleSide} />
        </mesh>
      )}
      <lineSegments geometry={lines}>
        <lineBasicMaterial
          color={kind === 'source' || chosen ? theme.thorn : '#85858a'}
          transparent
          opacity={chosen ? 1 : kind === 'source' ? (round ? 0.35 : 0.9) : 0.5}
        />
      </lineSegments>
    </group>
  );
}

function turned({ toOwn: [x, y, z] }: Pose): THREE.Quaternion {
  // the rows are the obstacle's own axes in the world
  const m = new THREE.Matrix4().makeBasis(new THREE.Vector3(...x), new THREE.Vector3(...y), new THREE.Vector3(...z));
  return new THREE.Quaternion().setFromRotationMatrix(m);
}

/** The chosen mesh to be painted on: a press or a stroke lays dabs on it, with Shift held it wipes them away. */
function PaintedOn({ source, index, pose, mesh }: { source: SourcePart; index: number; pose: Pose; mesh: Mesh }): ReactNode {
  const theme = useTheme(),
    controls = useThree((s) => s.controls) as unknown as { enabled: boolean } | null;
  const brushM = useHandle((s) => s.brushM);
  const geometry = useMemo(() => geometryOf(source, 8, mesh), [source, mesh]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  const dab = useMemo(() => new THREE.SphereGeometry(1, 16, 10), []);
  const balls = useRef<THREE.InstancedMesh>(null),
    painted = source.paint.filter(([x, y, z, , amount]) => amount > 0 && paintedAt(source.paint, x, y, z) > 0.1);
  useEffect(() => {
    const m = new THREE.Matrix4();
    painted.forEach(([x, y, z, r], n) => balls.current?.setMatrixAt(n, m.makeScale(r, r, r).setPosition(x, y, z)));
    if (balls.current) balls.current.instanceMatrix.needsUpdate = true;
  });
  const lay = (e: ThreeEvent<PointerEvent>): void => {
    if (e.buttons !== 1) return;
    e.stopPropagation();
    const now = useBench.getState().documents?.recipe.sources[index];
    if (!now) return;
    const d = e.point.toArray().map((v, a) => v - pose.centre[a]),
      place = pose.toOwn.map((r) => r[0] * d[0] + r[1] * d[1] + r[2] * d[2]) as Triple;
    const next = dabbed(now.paint, place, brushM, e.nativeEvent.shiftKey ? -1 : 1);
    if (next !== now.paint) change(`paint ${now.name}`, 'recipe', `sources.${index}.paint`, next);
  };
  return (
    <group position={pose.centre} quaternion={turned(pose)}>
      <mesh
        geometry={geometry}
        layers-mask={(1 << SOLID_LAYER) | 1}
        onPointerDown={(e) => {
          if (controls) controls.enabled = false;
          lay(e);
        }}
        onPointerMove={lay}
        onPointerUp={() => {
          if (controls) controls.enabled = true;
        }}
        onPointerLeave={() => {
          if (controls) controls.enabled = true;
        }}
        onClick={(e) => e.stopPropagation()}
      >
        <meshStandardMaterial color="#77777c" roughness={0.9} flatShading side={THREE.DoubleSide} />
      </mesh>
      <instancedMesh
        key={painted.length}
        ref={balls}
        args={[dab, undefined, Math.max(1, painted.length)]}
        visible={painted.length > 0}
        raycast={() => null}
      >
        <meshBasicMaterial color={theme.thorn} transparent opacity={0.35} depthWrite={false} />
      </instancedMesh>
    </group>
  );
}

/** Sides of the room but the floor: where each is, and how its plane is turned to look inward. */
const WALLS: readonly { side: 'top' | 'left' | 'right' | 'back' | 'front'; axis: 0 | 1 | 2; end: -1 | 1; turn: Triple }[] = [
  { side: 'top', axis: 1, end: 1, turn: [Math.PI / 2, 0, 0] },
  { side: 'left', axis: 0, end: -1, turn: [0, Math.PI / 2, 0] },
  { side: 'right', axis: 0, end: 1, turn: [0, -Math.PI / 2, 0] },
  { side: 'back', axis: 2, end: -1, turn: [0, 0, 0] },
  { side: 'front', axis: 2, end: 1, turn: [0, Math.PI, 0] },
];
const HATCHES = 14;

/** A side that is a wall: a faint plane with hatches, seen from inside only, so that none stands before the scene. */
function Wall({ place, turn, width, height }: { place: Triple; turn: Triple; width: number; height: number }): ReactNode {
  const hatches = useMemo(() => {
    // slanting strips from edge to edge; strips, as lines have no side from which they are not seen
    const points: number[] = [],
      all = width + height,
      half = (0.0012 * all) / Math.SQRT2;
    for (let n = 1; n < HATCHES; n++) {
      const at = (all * n) / HATCHES,
        a = [Math.min(at, width) - width / 2, Math.max(0, at - width) - height / 2],
        b = [Math.max(0, at - height) - width / 2, Math.min(at, height) - height / 2];
      const [p, q, r, t] = [
        [a[0] - half, a[1] - half],
        [a[0] + half, a[1] + half],
        [b[0] + half, b[1] + half],
        [b[0] - half, b[1] - half],
      ];
      for (const c of [p, q, r, p, r, t]) points.push(c[0], c[1], 0);
    }
    return new THREE.BufferGeometry().setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
  }, [width, height]);
  useEffect(() => () => hatches.dispose(), [hatches]);
  return (
    <group position={place} rotation={turn}>
      <mesh>
        <planeGeometry args={[width, height]} />
        <meshBasicMaterial color="#8a8a90" transparent opacity={0.13} depthWrite={false} />
      </mesh>
      <mesh geometry={hatches}>
        <meshBasicMaterial color="#c9c9cc" transparent opacity={0.16} depthWrite={false} />
      </mesh>
    </group>
  );
}

/** Particles at the frame that is shown. */
function Particles({ dots }: { dots: Dots }): ReactNode {
  const geometry = useMemo(() => {
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.BufferAttribute(dots.places, 3, true));
    g.boundingSphere = new THREE.Sphere(new THREE.Vector3(0.5, 0.5, 0.5), 1);
    return g;
  }, [dots]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <points geometry={geometry} position={dots.corner} scale={dots.size} raycast={() => null}>
      <pointsMaterial color="#efe3c2" size={Math.max(2 * dots.radius, 1e-4)} sizeAttenuation transparent opacity={0.85} />
    </points>
  );
}

/** The room: edges, a floor where it holds, hatches where another side is a wall; an open side is nothing but its edges. */
function Room({ recipe }: { recipe: Recipe }): ReactNode {
  const { size, corner, sides } = recipe.space;
  const edges = useMemo(() => new THREE.EdgesGeometry(new THREE.BoxGeometry(...size)), [size]);
  useEffect(() => () => edges.dispose(), [edges]);
  const middle = corner.map((c, a) => c + size[a] / 2) as [number, number, number];
  return (
    <>
      <lineSegments geometry={edges} position={middle}>
        <lineBasicMaterial color="#c9c9cc" transparent opacity={0.55} />
      </lineSegments>
      {sides.floor === 'wall' && (
        <mesh position={[middle[0], corner[1] - 0.002, middle[2]]} rotation={[-Math.PI / 2, 0, 0]}>
          <planeGeometry args={[size[0], size[2]]} />
          <meshStandardMaterial color="#4a4a4c" roughness={1} side={THREE.DoubleSide} />
        </mesh>
      )}
      {WALLS.filter(({ side }) => sides[side] === 'wall').map(({ side, axis, end, turn }) => {
        const place = [...middle] as Triple;
        place[axis] += (end * size[axis]) / 2;
        return <Wall key={side} place={place} turn={turn} width={axis === 0 ? size[2] : size[0]} height={axis === 1 ? size[2] : size[1]} />;
      })}
    </>
  );
}

function Rig({ recipe, look, handle }: { recipe: Recipe; look: Look; handle?: Ref<ViewportHandle> }): ReactNode {
  const controls = useRef<ComponentRef<typeof OrbitControls>>(null);
  const { camera, size, invalidate } = useThree();
  const { space } = recipe;
  const act = useMemo(
    () => ({
      frameAll(): void {
        const c = controls.current;
        if (!c) return;
        const middle = new THREE.Vector3(...space.corner).addScaledVector(new THREE.Vector3(...space.size), 0.5);
        // the least distance from which every corner of the room lies inside the frame, with a little air around
        const { fov, aspect } = camera as THREE.PerspectiveCamera,
          up = Math.tan((fov * Math.PI) / 360) * 0.94,
          across = up * aspect;
        const away = new THREE.Vector3(0.42, 0.3, 1).normalize(),
          right = new THREE.Vector3(0, 1, 0).cross(away).normalize(),
          above = away.clone().cross(right);
        let distance = 0;
        for (let n = 0; n < 8; n++) {
          const p = new THREE.Vector3(...space.size.map((v, a) => ((n >> a) & 1 ? 0.5 : -0.5) * v));
          distance = Math.max(distance, p.dot(away) + Math.abs(p.dot(right)) / across, p.dot(away) + Math.abs(p.dot(above)) / up);
        }
        c.target.copy(middle);
        camera.position.copy(middle).addScaledVector(away, distance);
        c.update();
        invalidate();
      },
      lookThroughCamera(): void {
        const c = controls.current;
        if (!c) return;
        camera.position.set(...look.camera.eye);
        c.target.set(...look.camera.target);
        c.update();
        invalidate();
      },
    }),
    [space, look, camera, invalidate],
  );
  useImperativeHandle(handle, () => act, [act]);
  useEffect(() => {
    const perspective = camera as THREE.PerspectiveCamera,
      { width, height, focal } = look.camera;
    // the shot's width fills the window's width, or its height the height, whichever shows all of it
    const across = 2 * Math.atan(FILM_BACK_MM / 2 / focal),
      down = 2 * Math.atan((Math.tan(across / 2) * height) / width);
    const fromWidth = 2 * Math.atan(Math.tan(across / 2) / (size.width / size.height));
    perspective.fov = (Math.max(down, fromWidth) * 180) / Math.PI;
    perspective.updateProjectionMatrix();
    invalidate();
  }, [camera, size, look.camera, invalidate]);
  const first = useRef(true);
  useEffect(() => {
    if (!first.current) return;
    first.current = false;
    act.frameAll();
  }, [act]);
  return <OrbitControls ref={controls} makeDefault enableDamping={false} onChange={() => invalidate()} />;
}

export function Viewport({ recipe, assets, look, shown, handle }: ViewportProps): ReactNode {
  const theme = useTheme();
  const { space } = recipe,
    timeS = shown ? ((shown.brick.frame - space.firstFrame + 1) * space.timeScale) / space.frameRate : 0;
  const now = useMemo(() => (shown ? recipeAt(recipe, shown.brick.frame) : recipe), [recipe, shown]);
  /** In metres; null until it is here. */
  const meshOf = (part: StandingPart): Mesh | null => {
    const file = part.shape === 'mesh' ? recipe.files.find((f) => f.id === part.file) : undefined;
    if (!file) return null;
    try {
      const mesh = assets.mesh(file);
      return inMetresOnce(mesh.at(ownTime(file, mesh, space, timeS)), file.scale, file.up);
    } catch {
      return null;
    }
  };
  const chosenId = useSelection((s) => s.id),
    mode = useHandle((s) => s.mode),
    index = now.sources.findIndex((s) => s.id === chosenId && s.shape === 'mesh' && s.mask === 'painted'),
    painting = mode === 'paint' && index >= 0 ? { index, source: now.sources[index] } : null,
    paintedMesh = painting && meshOf(painting.source);
  // a mesh is drawn once it is here
  const drawn = (part: StandingPart): boolean => part.on && (part.shape !== 'mesh' || meshOf(part) !== null);
  return (
    <Canvas
      frameloop="demand"
      dpr={[1, 1.5]}
      flat
      camera={{ near: 0.01, far: 5000, position: [3, 2, 6] }}
      gl={{ antialias: HARDWARE, powerPreference: 'high-performance' }}
      onCreated={({ gl, camera }) => {
        gl.setClearColor(theme.surround);
        camera.layers.enableAll();
      }}
      onPointerMissed={() => !painting && select(null)}
      aria-label="The scene"
      role="img"
    >
      <ambientLight intensity={1.1} />
      <directionalLight position={[3, 6, 4]} intensity={1.6} />
      <Room recipe={recipe} />
      {now.sources
        .filter((p) => p.shape !== 'particles' && drawn(p))
        .map((s) => (
          <Shape key={s.id} part={s} kind="source" pose={poseOf(s, timeS)} mesh={meshOf(s)} />
        ))}
      {painting && paintedMesh && (
        <PaintedOn source={painting.source} index={painting.index} pose={poseOf(painting.source, timeS)} mesh={paintedMesh} />
      )}
      {now.obstacles.filter(drawn).map((o) => (
        <Shape key={o.id} part={o} kind="obstacle" pose={poseOf(o, timeS)} mesh={meshOf(o)} />
      ))}
      {now.particles
        .filter((p) => (p.born === 'burst' || p.born === 'rate') && drawn(p))
        .map((p) => (
          <Shape key={p.id} part={p} kind="source" pose={poseOf(p, timeS)} mesh={meshOf(p)} />
        ))}
      {now.currents
        .filter((c) => c.on && c.id === chosenId)
        .map((c) => (
          <Shape key={c.id} part={c} kind="source" pose={poseOf(c, timeS)} mesh={null} />
        ))}
      {shown?.dots && <Particles dots={shown.dots} />}
      <Handle recipe={recipe} />
      <Rig recipe={recipe} look={look} handle={handle} />
      <Medium shown={shown} look={look} />
    </Canvas>
  );
}

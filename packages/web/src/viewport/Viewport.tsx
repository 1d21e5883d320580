// The window on the scene: the room, what stands in it, the medium, the camera.
import { OrbitControls } from '@react-three/drei';
import { Canvas, useThree } from '@react-three/fiber';
import { useEffect, useImperativeHandle, useMemo, useRef, type ComponentRef, type ReactNode, type Ref } from 'react';
import * as THREE from 'three';
import { useTheme } from 'styled-components';
import type { Look } from '@bramblemist/core/look/look';
import { ownTime, type Assets } from '@bramblemist/core/geometry/assets';
import type { Mesh } from '@bramblemist/core/geometry/mesh';
import { isPath } from '@bramblemist/core/air/currents';
import { poseIn, poseOf } from '@bramblemist/core/geometry/pose';
import { solid } from '@bramblemist/core/air/regions';
import { recipeAt } from '@bramblemist/core/recipe/keys';
import type { CurrentPart, Recipe, StandingPart } from '@bramblemist/core/recipe/recipe';
import type { ShownBrick } from '../live/use-live';
import { select, useSelection } from '../data/selection';
import type { Seen } from '../seeing/messages';
import { AirLines, ForceArrows, RegionVeil, SlicePlane } from './Air';
import { Handle, useHandle } from './Handle';
import { HARDWARE, Medium } from './Medium';
import { Room } from './Room';
import { NoticedPlaces } from './NoticedPlaces';
import { inMetresOnce } from './shapes';
import { PaintedOn, Particles, Shape } from './Standing';

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
  /** What was seen of how the air is moved, and the force whose arrows are drawn. */
  readonly seen: Seen | null;
  readonly arrows: string | null;
}

const FILM_BACK_MM = 36;
const asShape = (c: CurrentPart): CurrentPart => (isPath(c) ? { ...c, shape: 'path' } : c);
/** A press this near a line, in parts of the room's least edge, is on it. */
const NEAR_A_LINE = 0.012;

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

export function Viewport({ recipe, assets, look, shown, handle, seen, arrows }: ViewportProps): ReactNode {
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
      raycaster={{ params: { ...new THREE.Raycaster().params, Line: { threshold: NEAR_A_LINE * Math.min(...space.size) } } }}
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
          <Shape key={s.id} part={s} kind="source" pose={poseIn(now, s, timeS)} mesh={meshOf(s)} />
        ))}
      {painting && paintedMesh && (
        <PaintedOn source={painting.source} index={painting.index} pose={poseIn(now, painting.source, timeS)} mesh={paintedMesh} />
      )}
      {now.obstacles.filter(drawn).map((o) => (
        <Shape key={o.id} part={o} kind="obstacle" pose={poseOf(o, timeS)} mesh={meshOf(o)} />
      ))}
      {now.particles
        .filter((p) => (p.born === 'burst' || p.born === 'rate') && drawn(p))
        .map((p) => (
          <Shape key={p.id} part={p} kind="source" pose={poseIn(now, p, timeS)} mesh={meshOf(p)} />
        ))}
      {now.currents
        .filter((c) => c.on && c.id === chosenId)
        .map((c) => (
          <Shape key={c.id} part={asShape(c)} kind="source" pose={poseIn(now, c, timeS)} mesh={null} />
        ))}
      {now.regions
        .filter((r) => r.on && r.id === chosenId && !['noise', 'channel', 'formula'].includes(r.shape) && drawn(solid(r)))
        .map((r) => (
          <Shape key={r.id} part={solid(r)} kind="source" pose={poseIn(now, solid(r), timeS)} mesh={meshOf(solid(r))} />
        ))}
      {seen?.veil && <RegionVeil veil={seen.veil} />}
      {seen?.slice && <SlicePlane slice={seen.slice} />}
      {seen?.lines && <AirLines lines={seen.lines} />}
      {seen?.arrows && arrows && <ForceArrows arrows={seen.arrows} name={arrows} />}
      {shown?.dots && <Particles dots={shown.dots} />}
      <NoticedPlaces edge={Math.min(...space.size)} />
      <Handle recipe={recipe} />
      <Rig recipe={recipe} look={look} handle={handle} />
      <Medium shown={shown} look={look} />
    </Canvas>
  );
}

// The window on the scene: the domain, what stands in it, the medium, the camera.
import { OrbitControls } from '@react-three/drei';
import { Canvas, useThree } from '@react-three/fiber';
import {
  memo,
  useEffect,
  useImperativeHandle,
  useMemo,
  useRef,
  useState,
  type ComponentRef,
  type ReactNode,
  type Ref,
} from 'react';
import * as THREE from 'three';
import { create, type StoreApi, type UseBoundStore } from 'zustand';
import { useTheme } from 'styled-components';
import type { Look } from '@bramblemist/core/look/look';
import { ownTime } from '@bramblemist/core/assets/own-time';
import type { Assets } from '@bramblemist/core/assets/assets';
import type { Mesh } from '@bramblemist/core/geometry/mesh';
import { isPath } from '@bramblemist/core/step/forces/currents';
import { poseIn, poseOf } from '@bramblemist/core/geometry/pose';
import { solid } from '@bramblemist/core/geometry/shape';
import { recipeAt } from '@bramblemist/core/recipe/keys';
import type { CurrentPart, Recipe, StandingPart } from '@bramblemist/core/recipe/types';
import type { ShownBrick } from '../live/use-live';
import { select, useSelection } from '../data/selection';
import type { Incident } from '@bramblemist/core/record/incident';
import { sameEye, useView, type Eye } from '../data/view';
import type { Seen } from '../seeing/messages';
import { AirLines, ForceArrows, RegionVeil, SlicePlane } from './Air';
import { useHandle } from './chosen';
import { Handle } from './Handle';
import { HARDWARE, Medium } from './Medium';
import { Domain } from './Domain';
import { NoticedPlaces } from './NoticedPlaces';
import { inMetresOnce } from './shapes';
import { PaintedOn, Particles, Shape } from './Standing';

export interface ViewportHandle {
  frameAll(): void;
  lookFrom(from: Eye): void;
}
export interface ViewportProps {
  readonly recipe: Recipe;
  readonly assets: Assets;
  readonly look: Look;
  readonly shown: ShownBrick | null;
  /** Of a cache that was retimed the moments that its frames show, s since the start. */
  readonly times?: ReadonlyMap<number, number>;
  readonly handle?: Ref<ViewportHandle>;
  /** What was seen of how the air is moved, and the force whose arrows are drawn. */
  readonly seen: Seen | null;
  readonly arrows: string | null;
  readonly noticed: readonly { readonly first: Incident }[];
  /** Whether parts can be chosen and moved. */
  readonly handles: boolean;
  /** Whether what lies behind the window is seen where nothing stands. */
  readonly clear: boolean;
}

/** The grey to judge against, or nothing. */
function Surround({ clear }: { clear: boolean }): ReactNode {
  const { gl, invalidate } = useThree();
  const theme = useTheme();
  useEffect(() => {
    gl.setClearColor(theme.surround, clear ? 0 : 1);
    invalidate();
  }, [gl, theme.surround, clear, invalidate]);
  return null;
}

const asShape = (c: CurrentPart): CurrentPart => (isPath(c) ? { ...c, shape: 'path' } : c);
/** A press this near a line, in parts of the domain's least edge, is on it. */
const NEAR_A_LINE = 0.012;

function Rig({
  recipe,
  look,
  handle,
}: {
  recipe: Recipe;
  look: Look;
  handle?: Ref<ViewportHandle>;
}): ReactNode {
  const controls = useRef<ComponentRef<typeof OrbitControls>>(null);
  const { camera, size, invalidate } = useThree();
  const { space } = recipe;
  const act = useMemo(
    () => ({
      frameAll(): void {
        const c = controls.current;
        if (!c) return;
        const middle = new THREE.Vector3(...space.corner).addScaledVector(
          new THREE.Vector3(...space.size),
          0.5,
        );
        // the least distance from which every corner of the domain lies inside the frame, with a little air
        // around
        const { fov, aspect } = camera as THREE.PerspectiveCamera;
        const up = Math.tan((fov * Math.PI) / 360) * 0.94;
        const across = up * aspect;
        const away = new THREE.Vector3(0.42, 0.3, 1).normalize();
        const right = new THREE.Vector3(0, 1, 0).cross(away).normalize();
        const above = away.clone().cross(right);
        let distance = 0;
        for (let n = 0; n < 8; n++) {
          const p = new THREE.Vector3(...space.size.map((v, a) => ((n >> a) & 1 ? 0.5 : -0.5) * v));
          distance = Math.max(
            distance,
            p.dot(away) + Math.abs(p.dot(right)) / across,
            p.dot(away) + Math.abs(p.dot(above)) / up,
          );
        }

        c.target.copy(middle);
        camera.position.copy(middle).addScaledVector(away, distance);
        c.update();
        invalidate();
      },
      lookFrom({ eye, target }: Eye): void {
        const c = controls.current;
        if (!c) return;
        camera.position.set(...eye);
        c.target.set(...target);
        c.update();
        invalidate();
      },
    }),
    [space, camera, invalidate],
  );
  useImperativeHandle(handle, () => act, [act]);
  useEffect(() => {
    const perspective = camera as THREE.PerspectiveCamera;
    const { width, height, focal, back, squeeze } = look.camera;
    // the shot's width fills the window's width, or its height the height, whichever shows all of it
    const across = 2 * Math.atan(back / 2 / focal);
    const down = 2 * Math.atan((Math.tan(across / 2) * height) / width / squeeze);
    const fromWidth = 2 * Math.atan(Math.tan(across / 2) / (size.width / size.height));
    perspective.fov = (Math.max(down, fromWidth) * 180) / Math.PI;
    perspective.updateProjectionMatrix();
    invalidate();
  }, [camera, size, look.camera, invalidate]);
  // every window of a shot looks from the same place; the first one finds it
  const follows = useRef(false);
  const moved = (): void => {
    invalidate();
    const c = controls.current;
    if (!c || follows.current) return;
    useView.setState({ at: { eye: camera.position.toArray(), target: c.target.toArray() } });
  };

  useEffect(() => {
    const follow = (at: Eye | null): void => {
      const c = controls.current;
      if (!c || !at || sameEye(at, { eye: camera.position.toArray(), target: c.target.toArray() })) return;
      follows.current = true;
      act.lookFrom(at);
      follows.current = false;
    };

    const { at } = useView.getState();
    if (at) follow(at);
    else act.frameAll();
    return useView.subscribe((now) => follow(now.at));
    // only once: a change of the domain leaves the camera where it is
  }, []); // eslint-disable-line react-hooks/exhaustive-deps
  return <OrbitControls ref={controls} makeDefault enableDamping={false} onChange={moved} />;
}

/** The frame that is shown, beside React's way down the tree: only what draws it is told of the next. */
type ShownFrame = UseBoundStore<StoreApi<{ readonly shown: ShownBrick | null }>>;

export function Viewport({ shown, ...scene }: ViewportProps): ReactNode {
  const [frame] = useState<ShownFrame>(() => create(() => ({ shown })));
  useEffect(() => frame.setState({ shown }), [frame, shown]);
  return <Scene {...scene} frame={frame} />;
}

const CAMERA = { near: 0.01, far: 5000, position: [3, 2, 6] } as const;
const GL = { antialias: HARDWARE, powerPreference: 'high-performance' } as const;
const DPR: [number, number] = [1, 1.5];

const Scene = memo(function Scene({
  recipe,
  assets,
  look,
  times,
  handle,
  seen,
  arrows,
  noticed,
  handles,
  clear,
  frame,
}: Omit<ViewportProps, 'shown'> & { frame: ShownFrame }): ReactNode {
  const { space } = recipe;
  const edge = Math.min(...space.size);
  const raycaster = useMemo(
    () => ({ params: { ...new THREE.Raycaster().params, Line: { threshold: NEAR_A_LINE * edge } } }),
    [edge],
  );
  return (
    <Canvas
      frameloop="demand"
      dpr={DPR}
      flat
      camera={CAMERA as unknown as { near: number }}
      gl={GL}
      onCreated={({ camera }) => camera.layers.enableAll()}
      raycaster={raycaster}
      onPointerMissed={() => useHandle.getState().mode !== 'paint' && select(null)}
      aria-label="The scene"
      role="img"
    >
      <Surround clear={clear} />
      <ambientLight intensity={1.1} />
      <directionalLight position={[3, 6, 4]} intensity={1.6} />
      <Domain recipe={recipe} bare={clear} />
      <Scenery recipe={recipe} assets={assets} frame={frame} times={times} bare={clear} />
      {seen?.veil && <RegionVeil veil={seen.veil} />}
      {seen?.slice && <SlicePlane slice={seen.slice} />}
      {seen?.lines && <AirLines lines={seen.lines} />}
      {seen?.arrows && arrows && <ForceArrows arrows={seen.arrows} name={arrows} />}
      <ShownParticles frame={frame} />
      <NoticedPlaces edge={edge} noticed={noticed} />
      {handles && <Handle recipe={recipe} />}
      <Rig recipe={recipe} look={look} handle={handle} />
      <Medium frame={frame} look={look} />
    </Canvas>
  );
});

function ShownParticles({ frame }: { frame: ShownFrame }): ReactNode {
  const dots = frame((s) => s.shown?.dots ?? null);
  return dots && <Particles dots={dots} />;
}

/** Whether anything of the scene is elsewhere in another frame. */
function moves({ curves, sources, obstacles, particles, currents, regions, files }: Recipe): boolean {
  return (
    curves.length > 0 ||
    files.length > 0 ||
    [sources, obstacles, particles, currents, regions]
      .flat()
      .some((p) => 'motion' in p && p.motion !== 'still')
  );
}

/** Sources, obstacles and what is chosen, as they stand at the frame that is shown. */
const Scenery = memo(function Scenery({
  recipe,
  assets,
  frame,
  times,
  bare,
}: {
  recipe: Recipe;
  assets: Assets;
  frame: ShownFrame;
  times: ReadonlyMap<number, number> | undefined;
  bare: boolean;
}): ReactNode {
  const { space } = recipe;
  const moving = useMemo(() => moves(recipe), [recipe]);
  const number = frame((s) => (moving ? (s.shown?.brick.frame ?? null) : null));
  const frameS = space.timeScale / space.frameRate;
  const timeS = number === null ? 0 : (times?.get(number) ?? (number - space.firstFrame + 1) * frameS);
  /** Its place among the frames of the recipe, where keys stand. */
  const at = number === null ? null : space.firstFrame - 1 + timeS / frameS;
  const now = useMemo(() => (at === null ? recipe : recipeAt(recipe, at)), [recipe, at]);
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

  const chosenId = useSelection((s) => s.id);
  const mode = useHandle((s) => s.mode);
  const index = now.sources.findIndex((s) => s.id === chosenId && s.shape === 'mesh' && s.mask === 'painted');
  const painting = mode === 'paint' && index >= 0 ? { index, source: now.sources[index] } : null;
  const paintedMesh = painting && meshOf(painting.source);
  // a mesh is drawn once it is here
  const drawn = (part: StandingPart): boolean => part.on && (part.shape !== 'mesh' || meshOf(part) !== null);
  return (
    <>
      {now.sources
        .filter((p) => p.shape !== 'particles' && drawn(p))
        .map((s) => (
          <Shape key={s.id} part={s} kind="source" pose={poseIn(now, s, timeS)} mesh={meshOf(s)} />
        ))}
      {painting && paintedMesh && (
        <PaintedOn
          source={painting.source}
          index={painting.index}
          pose={poseIn(now, painting.source, timeS)}
          mesh={paintedMesh}
        />
      )}
      {now.obstacles.filter(drawn).map((o) => (
        <Shape key={o.id} part={o} kind="obstacle" pose={poseOf(o, timeS)} mesh={meshOf(o)} bare={bare} />
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
        .filter(
          (r) =>
            r.on &&
            r.id === chosenId &&
            !['noise', 'channel', 'formula'].includes(r.shape) &&
            drawn(solid(r)),
        )
        .map((r) => (
          <Shape
            key={r.id}
            part={solid(r)}
            kind="source"
            pose={poseIn(now, solid(r), timeS)}
            mesh={meshOf(solid(r))}
          />
        ))}
    </>
  );
});

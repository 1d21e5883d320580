// The window of a shot: the scene or a picture, alone or held against another run, and what is said over it.
import { Bookmark, Box, Image, Maximize, SquareSplitHorizontal, Video } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, type ReactNode, type RefObject } from 'react';
import styled from 'styled-components';
import { useShallow } from 'zustand/react/shallow';
import { routes } from '@bramblemist/contracts/routes';
import { mediumDifference } from '@bramblemist/core/volume/preview-volume';
import { lookAt, type Look } from '@bramblemist/core/look/look';
import type { Size } from '@bramblemist/core/recipe/sizes';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { formatValue } from '@bramblemist/core/recipe/units';
import { useThere, type Source } from '../app/there';
import { brickOf, useBricks, wantBricks } from '../data/bricks';
import { compareWith, holdLive, MODES, useCompare, type Mode } from '../data/compare';
import { useAssets } from '../data/files';
import { sameEye, useView } from '../data/view';
import { usePlayhead } from '../data/playhead';
import { useLive, type ShownBrick } from '../live/use-live';
import { ChoiceWord } from '../parts/controls';
import { Plain } from '../parts/ui';
import { useNoticed } from '../readings/use-noticed';
import { ReferenceOnFrame } from '../reference/ReferenceOnFrame';
import { useSeen, useSeeing, useWish } from '../seeing/use-seeing';
import type { StageKey, StageProps } from '../stages/context';
import { later } from '../parts/later';
import type { ViewportHandle } from '../viewport/Viewport';
import { Foot, LiveTrouble, Over } from './Foot';
import { OnFrame, useThroughCamera } from './FrameLines';
import { ProbeReading } from './ProbeReading';
import { Scenes } from './Scenes';
import { Rail } from './Rail';
import { SeenTold, useSeeingItems } from './seeing-panels';
import { useOther, type OtherRun } from './use-other';
import { Views } from './Views';
import { useBakeFrames } from '../data/queries/bakes';
import { useThrough } from '../data/camera';

const Viewport = later(() => import('../viewport/Viewport'), 'Viewport');
const ContactSheet = later(() => import('../stages/hand-over/ContactSheet'), 'ContactSheet');
const RenderView = later(() => import('../picture/RenderView'), 'RenderView');

export const Window = styled.section`
  position: relative;
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-width: 0;
  min-height: 0;
  overflow: hidden;
  background: ${({ theme }) => theme.surround};
`;
const Scene = styled.div`
  position: relative;
  min-width: 0;
  min-height: 0;
  overflow: hidden;
`;
const Named = styled.p<{ $right: boolean }>`
  position: absolute;
  bottom: 8px;
  ${({ $right }) => ($right ? 'right: 12px;' : 'left: 12px;')}
  margin: 0;
  color: #f2f0f1;
  text-shadow: 0 1px 2px #000a;
  pointer-events: none;
`;

/** The frame that is to be shown; until it is there the last one stays, so that playing does not blink. */
function useSteady(found: ShownBrick | null, none: boolean): ShownBrick | null {
  const [last, setLast] = useState(found);
  if (found && found !== last) setLast(found);
  return found ?? (none ? null : last);
}

/** Simulated seconds at the end of a frame, as the cache’s list or its number says. */
const timeOf = ({ space }: Recipe, frame: number, times: ReadonlyMap<number, number> | undefined): number =>
  times?.get(frame) ?? ((frame - space.firstFrame + 1) / space.frameRate) * space.timeScale;

export function WindowPane({
  props,
  stage,
  source,
  handle,
  size,
  setSize,
}: {
  props: StageProps;
  stage: StageKey;
  source: Source;
  handle: RefObject<ViewportHandle | null>;
  size: Size;
  setSize: (size: Size) => void;
}): ReactNode {
  const { shot, documents, bake } = props;
  const frame = usePlayhead((s) => s.frame);
  const there = useThere(source, bake);
  const ofBake = source === 'bake' && bake !== null;
  const recipe = ofBake ? bake.recipe : documents.recipe;
  const times = useMemo(
    () =>
      ofBake
        ? new Map(bake.frames.flatMap(({ frame: f, timeS }) => (timeS === undefined ? [] : [[f, timeS]])))
        : undefined,
    [ofBake, bake],
  );
  const throughId = useThrough((s) => s.camera);
  const cameraId = stage === 'light' ? throughId : null;
  const look = useMemo(
    () => lookAt(documents.look, frame, cameraId ?? undefined),
    [documents.look, frame, cameraId],
  );
  useFollowedCamera(look, handle);
  const assets = useAssets(recipe);
  const live = useLive(
    useShallow((s) => ({ brick: s.frames.get(frame) ?? null, status: s.status, none: s.frames.size === 0 })),
  );
  const cached = useBricks((s) => {
    if (!ofBake) return null;
    return s.tried?.bakeId === bake.id && s.tried.frame === frame
      ? s.tried.shown
      : brickOf(s.kept, bake.id, frame);
  });
  useEffect(() => {
    if (source === 'bake' && bake) wantBricks(bake.id, frame, there);
  }, [source, bake, frame, there]);
  const shown = useSteady(ofBake ? cached : live.brick, !ofBake && live.status === 'trouble' && live.none);

  const [showPicture, setShowPicture] = useState(true);
  const lit = stage === 'light' && ofBake;
  const looks = stage === 'set-up' || stage === 'run';
  useSeeing(recipe, shown, looks);
  const seen = useSeen((s) => s.seen);
  const wish = useWish();
  const [bakeFrames] = useBakeFrames([bake]);
  const noticed = useNoticed(source, bakeFrames);
  const through = useThroughCamera(look);
  const under = shot.reference.place === 'under' && through && looks;
  const other = useOther(shot, size, frame);
  const ownName = ofBake ? `bake ${bake.id}` : `variant ${props.variant.number}`;
  const baked = `bake ${bake?.id ?? ''}, voxels of ${formatValue(bake?.voxelSizeM ?? 0, 'm')}`;
  const where = source === 'live' ? null : baked;
  const seeing = useSeeingItems(recipe, shown);
  const onFrame = useThroughCamera(look);
  const hasSheet = stage === 'hand-over' && ofBake && bake.frames.length > 0;
  const isPictured = (lit || hasSheet) && showPicture;
  return (
    <Window aria-label="The window">
      <Scene>
        {under && <ReferenceOnFrame shot={shot} look={look} />}
        <Scenes
          one={
            <Viewport
              recipe={recipe}
              assets={assets}
              look={look}
              shown={shown}
              times={times}
              handle={handle}
              seen={looks ? seen : null}
              arrows={wish.arrows}
              noticed={noticed}
              handles={stage === 'set-up'}
              clear={under}
            />
          }
          two={other && looks ? <OtherScene other={other} /> : null}
        />
        {looks && through && shot.reference.place === 'over' && <ReferenceOnFrame shot={shot} look={look} />}
        {looks && through && !other && <OnFrame look={look} lines />}
        {hasSheet && showPicture && <ContactSheet {...props} key={bake.id} bakeId={bake.id} />}
        {lit && showPicture && (
          <RenderView
            look={look}
            own={documents.look}
            camera={cameraId}
            recipe={recipe}
            url={there.includes(frame) ? routes.volume(bake.id, frame) : null}
            timeS={timeOf(recipe, frame, times)}
            frame={frame}
          />
        )}
        {looks && <SeenTold recipe={recipe} shown={shown} />}
        {looks && other && <Compared one={ownName} shown={shown} other={other} />}
        {looks && seen?.slice && shown?.glimpse && <ProbeReading shown={shown} />}
        {source === 'live' && <LiveTrouble recipe={documents.recipe} size={size} />}
        <Rail
          groups={[
            looks ? seeing : [],
            isPictured
              ? []
              : [
                  {
                    key: 'all',
                    label: 'Frame all',
                    icon: <Maximize size={16} />,
                    onPress: () => handle.current?.frameAll(),
                  },
                  {
                    key: 'camera',
                    label: 'Shot camera',
                    icon: <Video size={16} />,
                    isOn: onFrame,
                    onPress: () => handle.current?.lookFrom(look.camera),
                  },
                  {
                    key: 'views',
                    label: 'Views',
                    icon: <Bookmark size={16} />,
                    panel: <Views shot={shot} look={look} handle={handle} />,
                  },
                ],
            stage === 'set-up' && !other && !live.none
              ? [
                  {
                    key: 'hold',
                    label: 'Hold to compare',
                    icon: <SquareSplitHorizontal size={16} />,
                    onPress: () => holdLive(recipe, look),
                  },
                ]
              : [],
            lit || hasSheet
              ? [
                  {
                    key: 'picture',
                    label: pictureWords(showPicture, hasSheet),
                    icon: showPicture ? <Box size={16} /> : <Image size={16} />,
                    onPress: () => setShowPicture(!showPicture),
                  },
                ]
              : [],
          ]}
        />
      </Scene>
      {!(lit && showPicture) && (
        <Foot
          recipe={documents.recipe}
          source={source}
          size={size}
          setSize={setSize}
          baked={where}
          handles={stage === 'set-up'}
        />
      )}
    </Window>
  );
}

function pictureWords(isShown: boolean, isSheet: boolean): string {
  if (isShown) return 'Show the scene';
  return isSheet ? 'Show the contact sheet' : 'Show the picture';
}

/** A scene that is seen through the camera stays so when the camera moves, by keys or by hand. */
function useFollowedCamera({ camera }: Look, handle: RefObject<ViewportHandle | null>): void {
  const last = useRef(camera);
  useEffect(() => {
    const before = last.current;
    last.current = camera;
    if (before !== camera && sameEye(useView.getState().at, before)) handle.current?.lookFrom(camera);
  }, [camera, handle]);
}

/** The other run's scene: looked at, not touched. */
function OtherScene({ other }: { other: OtherRun }): ReactNode {
  const assets = useAssets(other.recipe);
  const shown = useSteady(other.shown, false);
  return (
    <Viewport
      recipe={other.recipe}
      assets={assets}
      look={other.look}
      shown={shown}
      seen={null}
      arrows={null}
      noticed={[]}
      handles={false}
      clear={false}
    />
  );
}

/** Which is which, how they are held against each other, and how far apart they are. */
function Compared({
  one,
  shown,
  other,
}: {
  one: string;
  shown: ShownBrick | null;
  other: OtherRun;
}): ReactNode {
  const mode = useCompare((s) => s.mode);
  const far =
    shown && other.shown && shown.brick.frame === other.shown.brick.frame
      ? mediumDifference(shown.brick, other.shown.brick)
      : null;
  return (
    <>
      <Over style={{ top: 10, justifyContent: 'center' }}>
        <span role="group" aria-label="Comparison">
          {one} and {other.name},{' '}
          <ChoiceWord
            name="How they are compared"
            value={mode}
            options={MODES}
            onChange={(v) => useCompare.setState({ mode: v as Mode })}
          />
          {far !== null &&
            ` · ${far < 0.001 ? 'none' : `${(100 * far).toFixed(far < 0.1 ? 1 : 0)} %`} of the medium ` +
              'elsewhere'}
          {other.why && ` · ${other.why}`} · <Plain onPress={() => compareWith(null)}>End</Plain>
        </span>
      </Over>
      {mode !== 'difference' && (
        <>
          <Named $right={false}>{one}</Named>
          <Named $right>{other.name}</Named>
        </>
      )}
    </>
  );
}

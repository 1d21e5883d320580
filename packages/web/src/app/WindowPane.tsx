// The window of a shot: the scene or a picture, what is said over it, and the handle's words.
import { useEffect, useState, type ReactNode, type RefObject } from 'react';
import styled from 'styled-components';
import { useShallow } from 'zustand/react/shallow';
import { routes } from '@bramblemist/contracts/routes';
import { solid } from '@bramblemist/core/air/regions';
import { poseOf } from '@bramblemist/core/geometry/pose';
import { cellShape } from '@bramblemist/core/geometry/shape';
import type { Triple } from '@bramblemist/core/recipe/recipe';
import { formatValue } from '@bramblemist/core/recipe/units';
import { change, useBench } from '../data/bench';
import { brickOf, useBricks, wantBricks } from '../data/bricks';
import { useAssets } from '../data/files';
import { usePlayhead } from '../data/playhead';
import { useSelection } from '../data/selection';
import { chooseThreads, mostThreads, roughVoxelSize, useLive } from '../live/use-live';
import { ChoiceWord } from '../parts/controls';
import { bytes, Plain, Trouble } from '../parts/ui';
import { combineOf } from '../stages/Combine';
import type { StageKey, StageProps } from '../stages/context';
import { renderOf } from '../stages/Light';
import { chosenPart, ROOM, useHandle, type Chosen } from '../viewport/Handle';
import { Viewport, type ViewportHandle } from '../viewport/Viewport';
import { useSeen, useSeeing, useWish } from '../seeing/use-seeing';
import { ProbeReading } from './ProbeReading';
import { SeeingStrip } from './SeeingStrip';
import { playAgain, useThere, type Source } from './there';

export const Window = styled.section`
  position: relative;
  min-width: 0;
  min-height: 0;
  background: ${({ theme }) => theme.surround};
  > div:first-child {
    position: absolute !important;
    inset: 0;
  }
`;
const Over = styled.div`
  position: absolute;
  left: 12px;
  right: 12px;
  display: flex;
  justify-content: space-between;
  gap: 12px;
  color: #f2f0f1;
  text-shadow: 0 1px 2px #000a;
  pointer-events: none;
  > * {
    pointer-events: auto;
  }
  button {
    color: #f2f0f1;
  }
`;
const Picture = styled.div`
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  background: ${({ theme }) => theme.surround};
  img {
    max-width: 100%;
    max-height: 100%;
    background: repeating-conic-gradient(#474748 0 25%, #414142 0 50%) 0 0 / 24px 24px;
  }
`;

const LIVE_SIZES = [
  { value: '40', label: 'rough' },
  { value: '64', label: 'fair' },
  { value: '96', label: 'fine' },
];

/** Sets a part down on the floor of the room, by how far it reaches below its middle. */
function onGround({ list, index, part: { on }, name }: Chosen): void {
  const recipe = useBench.getState().documents!.recipe;
  if (list === ROOM || !on) return;
  const part = list === 'regions' ? solid(recipe.regions[index]) : recipe[list][index],
    shape = cellShape(part, poseOf(part, 0), 1, null),
    low = shape.reach ? Math.min(...corners(shape.reach).map((c) => c.reduce((y, v, m) => y + v * shape.toOwn[m][1], 0))) : 0;
  change(`${name} to the ground`, 'recipe', `${list}.${index}.centre.1`, Number((recipe.space.corner[1] - low).toFixed(4)));
}
function corners([least, most]: readonly [Triple, Triple]): Triple[] {
  return Array.from({ length: 8 }, (_, n) => [0, 1, 2].map((a) => ((n >> a) & 1 ? most : least)[a]) as Triple);
}

export function WindowPane({
  props,
  stage,
  source,
  handle,
  longest,
  setLongest,
}: {
  props: StageProps;
  stage: StageKey;
  source: Source;
  handle: RefObject<ViewportHandle | null>;
  longest: string;
  setLongest: (v: string) => void;
}): ReactNode {
  const grip = useHandle(),
    chosen = chosenPart(
      props.documents.recipe,
      useSelection((s) => s.id),
    );
  const { documents, bake } = props,
    assets = useAssets(documents.recipe),
    frame = usePlayhead((s) => s.frame),
    there = useThere(source, bake);
  const live = useLive(
    useShallow((s) => ({
      brick: s.frames.get(frame) ?? null,
      status: s.status,
      message: s.message,
      voxels: s.voxels,
      bytes: s.bytes,
      keptBytes: s.keptBytes,
      threads: s.threads,
      none: s.frames.size === 0,
      changedFrom: s.changedFrom,
    })),
  );
  const cached = useBricks((s) => (source === 'bake' && bake ? brickOf(s.kept, bake.id, frame) : null));
  useEffect(() => {
    if (source === 'bake' && bake) wantBricks(bake.id, frame, there);
  }, [source, bake, frame, there]);

  const found = source === 'live' ? live.brick : cached;
  // until the frame is there the last one stays, so that playing does not blink
  const [last, setLast] = useState(found);
  if (found && found !== last) setLast(found);
  const shown = found ?? (live.status === 'trouble' && live.none && source === 'live' ? null : last);

  const rendered = stage === 'light' || stage === 'combine' ? renderOf(props, frame) : null,
    combined = stage === 'combine' ? combineOf(props, frame) : null;
  const [showPicture, setShowPicture] = useState(true);
  const picture = combined
    ? routes.combinePicture(combined.id, frame, 'png')
    : rendered
      ? routes.renderPicture(rendered.render.id, frame, 'png')
      : null;
  const rough = roughVoxelSize(documents.recipe, Number(longest));
  const setUp = stage === 'set-up';
  useSeeing(documents.recipe, shown, setUp);
  const seen = useSeen((s) => s.seen),
    wish = useWish();
  const changed = live.changedFrom !== null && frame < live.changedFrom;
  return (
    <Window aria-label="The window">
      <Viewport
        recipe={documents.recipe}
        assets={assets}
        look={documents.look}
        shown={shown}
        handle={handle}
        seen={setUp ? seen : null}
        arrows={wish.arrows}
      />
      {picture && showPicture && (
        <Picture>
          <img src={picture} alt={`${combined ? 'Combined' : 'Rendered'} frame ${frame}`} />
        </Picture>
      )}
      <Over style={{ top: 10 }}>
        <span>
          {source === 'live' ? (
            <>
              playing at <ChoiceWord name="Live size" value={longest} options={LIVE_SIZES} onChange={setLongest} /> size, voxels of{' '}
              {formatValue(rough, 'm')}
            </>
          ) : picture && showPicture ? (
            combined ? (
              `combine ${combined.id}`
            ) : (
              `render ${rendered!.render.id}${rendered!.current ? '' : ' · look changed since'}`
            )
          ) : (
            `bake ${bake?.id ?? ''}, voxels of ${formatValue(bake?.voxelSizeM ?? 0, 'm')}`
          )}
        </span>
        <span style={{ display: 'flex', gap: 14 }}>
          {picture && <Plain onPress={() => setShowPicture(!showPicture)}>{showPicture ? 'show the scene' : 'show the picture'}</Plain>}
          <Plain onPress={() => handle.current?.frameAll()}>frame all</Plain>
          <Plain onPress={() => handle.current?.lookThroughCamera()}>shot camera</Plain>
        </span>
      </Over>
      {setUp && <SeeingStrip recipe={documents.recipe} />}
      {setUp && seen?.slice && shown?.glimpse && <ProbeReading shown={shown} />}
      <Over style={{ bottom: 10 }}>
        <span>
          {source === 'live' && live.changedFrom !== null && (
            <span aria-live="polite" style={{ display: 'block' }}>
              {changed
                ? `This frame is from before the change at ${live.changedFrom}`
                : `Changed while it ran, from frame ${live.changedFrom}`}{' '}
              ·{' '}
              <Plain style={{ textDecoration: 'underline' }} onPress={() => playAgain(documents.recipe, longest)}>
                play it from the start
              </Plain>
            </span>
          )}
          {source === 'live' && live.voxels > 0 && (
            <>
              {(live.voxels / 1e6).toFixed(2)} million voxels · {bytes(live.bytes)} and {bytes(live.keptBytes)} of states ·{' '}
              <ChoiceWord
                name="Threads"
                value={String(live.threads)}
                options={Array.from({ length: mostThreads() }, (_, n) => ({
                  value: String(n + 1),
                  label: n === 0 ? '1 thread' : `${n + 1} threads`,
                }))}
                onChange={(v) => {
                  chooseThreads(Number(v));
                  playAgain(documents.recipe, longest);
                }}
              />
            </>
          )}
        </span>
        <span style={{ display: 'flex', gap: 14, marginLeft: 'auto' }}>
          {chosen && (
            <>
              <span role="group" aria-label={`Handle of ${chosen.name}`} style={{ display: 'flex', gap: 8 }}>
                {chosen.name}:
                {chosen.modes.map((mode) => {
                  const own = (chosen.modes.includes(grip.mode) ? grip.mode : 'move') === mode;
                  return (
                    <Plain
                      key={mode}
                      aria-pressed={own}
                      style={own ? { textDecoration: 'underline', textUnderlineOffset: 3 } : {}}
                      onPress={() => useHandle.setState({ mode })}
                    >
                      {mode}
                    </Plain>
                  );
                })}
              </span>
              {chosen.modes.includes('paint') && grip.mode === 'paint' && (
                <span role="group" aria-label="Brush" title="Hold Shift to wipe away" style={{ display: 'flex', gap: 8 }}>
                  brush {formatValue(grip.brushM, 'm')}
                  <Plain
                    aria-label="Smaller brush"
                    onPress={() => useHandle.setState({ brushM: Math.max(0.005, Number((grip.brushM / 1.4).toPrecision(2))) })}
                  >
                    −
                  </Plain>
                  <Plain
                    aria-label="Larger brush"
                    onPress={() => useHandle.setState({ brushM: Math.min(10, Number((grip.brushM * 1.4).toPrecision(2))) })}
                  >
                    +
                  </Plain>
                </span>
              )}
              <Plain onPress={() => useHandle.setState({ snap: !grip.snap })}>{grip.snap ? 'by steps' : 'freely'}</Plain>
              {chosen.list !== ROOM && <Plain onPress={() => onGround(chosen)}>to the ground</Plain>}
            </>
          )}
        </span>
        {live.status === 'trouble' && source === 'live' && <Trouble>{live.message}</Trouble>}
        {documents.recipe.sources.every((s) => !s.on) && source === 'live' && (
          <span>Nothing gives off the medium: add a source, or turn one on.</span>
        )}
      </Over>
    </Window>
  );
}

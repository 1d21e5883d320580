// The window in Combine is the comp: its frame with zoom and pan, handles of what is chosen, a wipe against
// what it is held against, and values under the pointer.
import { Grid2x2, Maximize, SquareDashed } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, type PointerEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import type { CompVersionInfo } from '@bramblemist/contracts/payloads/comp';
import type { Combine } from '@bramblemist/core/combine/combine';
import { withNewest } from '@bramblemist/core/combine/edit';
import { usePlayhead } from '../data/playhead';
import { ChoiceWord } from '../parts/controls';
import { Plain } from '../parts/ui';
import type { StageProps } from '../stages/context';
import { madeOf, newestRender } from '../stages/made';
import { Window } from '../window/Window';
import { usePanZoom, type PanZoom } from '../picture/use-pan-zoom';
import { CompHandles } from './CompHandles';
import type { Channel, Ground } from './messages';
import { endComp, frameReady, useComp, useCompView, wantFrame, type Against } from './use-comp';

const Stage = styled.div`
  position: absolute;
  inset: 0 0 30px 0;
  overflow: hidden;
  background: ${({ theme }) => theme.surround};
  touch-action: none;
  cursor: grab;
  canvas {
    position: absolute;
    left: 50%;
    top: 50%;
    transform-origin: center;
  }
`;
const Line = styled.div`
  position: absolute;
  left: 0;
  right: 0;
  bottom: 0;
  height: 30px;
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 0 12px;
  background: #191217;
  color: #e9e2e6;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
  button {
    color: inherit;
  }
`;
const Top = styled.div`
  position: absolute;
  top: 10px;
  right: 12px;
  display: flex;
  gap: 6px;
`;
const Pill = styled.span`
  background: #191217d9;
  color: #e9e2e6;
  border: 1px solid #ffffff24;
  border-radius: 14px;
  padding: 3px 11px;
  font: 13px/1.4 ${({ theme }) => theme.sans};
  button {
    color: inherit;
  }
`;
const Push = styled.span`
  flex: 1;
`;
const Said = styled.span`
  overflow: hidden;
  text-overflow: ellipsis;
`;

const CHANNELS: readonly { value: Channel; label: string }[] = [
  { value: 'colour', label: 'Colour' },
  { value: 'red', label: 'Red' },
  { value: 'green', label: 'Green' },
  { value: 'blue', label: 'Blue' },
  { value: 'alpha', label: 'Alpha' },
  { value: 'luminance', label: 'Brightness' },
];
const GROUNDS: readonly { value: Ground; label: string }[] = [
  { value: 'squares', label: 'on squares' },
  { value: 'black', label: 'on black' },
  { value: 'white', label: 'on white' },
  { value: 'red', label: 'on red' },
];
const STOPS = [-4, -2, -1, 0, 1, 2, 4];

/** Sizes that frames are made at, of the comp's. */
const SCALES = [1 / 8, 1 / 4, 3 / 8, 1 / 2, 3 / 4, 1];
/** How long a change rests before the frame begins anew. */
const REST_MS = 15;

/** The comp that is held against this one. */
function heldAgainst(comp: Combine, against: Against, versions: readonly CompVersionInfo[]): Combine | null {
  if (against === 'nothing') return null;
  if (typeof against === 'number') return versions.find(({ id }) => id === against)?.settings ?? null;
  const plate = comp.layers.findLast(({ on }) => on);
  return { ...comp, layers: comp.layers.map((l) => ({ ...l, on: l.id === plate?.id })) };
}

/** The window of the stage. */
export function CompWindow({ shot, documents }: StageProps): ReactNode {
  const newest = newestRender(shot);
  const comp = useMemo(() => withNewest(documents.combine, newest), [documents.combine, newest]);
  const versions = useMemo(
    () => shot.comps.map((v) => ({ ...v, settings: withNewest(v.settings, newest) })),
    [shot.comps, newest],
  );
  const { text: made, isGrowing } = madeOf(comp, shot.renders);
  return (
    <Window aria-label="The window">
      <CompView comp={comp} versions={versions} made={made} isGrowing={isGrowing} />
    </Window>
  );
}

function CompView({
  comp,
  versions,
  made,
  isGrowing,
}: {
  comp: Combine;
  versions: readonly CompVersionInfo[];
  /** Which frames of its renders there are: with others, its own frames are made anew. */
  made: string;
  isGrowing: boolean;
}): ReactNode {
  const { frame, playing } = usePlayhead();
  const { news, trouble, ready } = useComp();
  const { exposure, channel, ground, against, wipe, safe } = useCompView();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [under, setUnder] = useState<{ x: number; y: number } | null>(null);
  const { width, height, squeeze } = comp.frame;
  const { stage, room, zoom, view, placeOf, toScreen, onWheel, moveFrom, fit, zoomTo } = usePanZoom(
    width,
    height,
    squeeze,
  );
  const needed = zoom * window.devicePixelRatio;
  const scale = SCALES.find((s) => s >= needed - 0.001) ?? 1;
  const isReady = ready.has(frame);
  const canMake = room.width > 0;
  useEffect(() => {
    if (!canMake || (playing && isReady)) return;
    const shown = { exposure, channel, ground };
    const held = heldAgainst(comp, against, versions);
    const timer = setTimeout(
      () => wantFrame({ comp, frame, scale, shown, against: held }, made, isGrowing),
      REST_MS,
    );
    return () => clearTimeout(timer);
  }, [
    comp,
    frame,
    scale,
    exposure,
    channel,
    ground,
    against,
    versions,
    playing,
    isReady,
    canMake,
    made,
    isGrowing,
  ]);
  useEffect(() => endComp, []);

  const image = frameReady(frame);
  const shownNews = news?.frame === frame ? news : null;
  const newest = useMemo(
    () => news && new ImageData(news.bytes as Uint8ClampedArray<ArrayBuffer>, news.width, news.height),
    [news],
  );
  // until a frame is ready the last one stays, so that nothing blinks
  const drawn = image ?? newest;
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !drawn) return;
    context.canvas.width = drawn.width;
    context.canvas.height = drawn.height;
    context.putImageData(drawn, 0, 0);
    const held = shownNews?.against;
    if (held)
      context.putImageData(
        new ImageData(held as Uint8ClampedArray<ArrayBuffer>, drawn.width, drawn.height),
        0,
        0,
        0,
        0,
        Math.round(wipe * drawn.width),
        drawn.height,
      );
  }, [drawn, shownNews, wipe]);

  const drag = useRef<{ x: number; y: number; view: PanZoom['view']; wipes: boolean } | null>(null);
  const onDown = (e: PointerEvent): void => {
    e.currentTarget.setPointerCapture(e.pointerId);
    const at = placeOf(e).x / width;
    const wipes = shownNews?.against !== null && shownNews !== null && Math.abs(at - wipe) * width * zoom < 8;
    drag.current = { x: e.clientX, y: e.clientY, view, wipes };
  };

  const onMove = (e: PointerEvent): void => {
    const p = placeOf(e);
    setUnder(p);
    const from = drag.current;
    if (!from) return;
    if (from.wipes) return useCompView.setState({ wipe: Math.min(1, Math.max(0, p.x / width)) });
    moveFrom(from.view, e.clientX - from.x, e.clientY - from.y);
  };

  const ratio = drawn ? (zoom * width) / drawn.width : zoom;
  return (
    <>
      <Stage
        ref={stage}
        onWheel={onWheel}
        onPointerDown={onDown}
        onPointerMove={onMove}
        onPointerUp={() => (drag.current = null)}
        onPointerLeave={() => setUnder(null)}
        onDoubleClick={fit}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={`The comp, frame ${frame}`}
          hidden={!drawn}
          style={{
            transform:
              `translate(-50%, -50%) translate(${view.x}px, ${view.y}px) scale(${ratio * squeeze}, ` +
              `${ratio})`,
            imageRendering: zoom > 1.5 ? 'pixelated' : 'auto',
          }}
        />
        {room.width > 0 && (
          <CompHandles
            comp={comp}
            layers={news?.layers ?? []}
            toScreen={toScreen}
            toComp={placeOf}
            zoom={zoom}
            safe={safe}
            wipe={shownNews?.against ? wipe : null}
          />
        )}
      </Stage>
      <Top>
        <Pill>
          <ChoiceWord
            name="Held against"
            value={String(against)}
            options={[
              { value: 'nothing', label: 'Held against nothing' },
              { value: 'plate', label: 'The lowest layer alone' },
              ...versions.map((v) => ({
                value: String(v.id),
                label: `Comp ${v.number}${v.note ? `, ${v.note}` : ''}`,
              })),
            ]}
            onChange={(v) =>
              useCompView.setState({ against: v === 'nothing' || v === 'plate' ? v : Number(v) })
            }
          />
        </Pill>
        <Pill>
          <ChoiceWord
            name="Channel"
            value={channel}
            options={CHANNELS}
            onChange={(v) => useCompView.setState({ channel: v as Channel })}
          />
        </Pill>
        <Pill>
          <ChoiceWord
            name="Behind what is clear"
            value={ground}
            options={GROUNDS}
            onChange={(v) => useCompView.setState({ ground: v as Ground })}
          />
        </Pill>
        <Pill>
          <ChoiceWord
            name="Exposure of the window"
            value={String(exposure)}
            options={STOPS.map((s) => ({
              value: String(s),
              label: s === 0 ? 'as it is' : `${s > 0 ? '+' : '−'}${Math.abs(s)} stops`,
            }))}
            onChange={(v) => useCompView.setState({ exposure: Number(v) })}
          />
        </Pill>
      </Top>
      <Line>
        <Plain aria-label="Fit the frame into the window" onPress={fit}>
          <Maximize size={14} /> {Math.round(100 * zoom)} %
        </Plain>
        <Plain aria-label="One pixel of the comp on one of the screen" onPress={() => zoomTo(1)}>
          <Grid2x2 size={14} /> 1:1
        </Plain>
        <Plain aria-pressed={safe} onPress={() => useCompView.setState({ safe: !safe })}>
          <SquareDashed size={14} /> Safe lines
        </Plain>
        {under && shownNews?.rgba && (
          <Under news={shownNews} x={under.x / width} y={under.y / height} width={width} height={height} />
        )}
        <Push />
        <Said role="status" title={trouble ?? shownNews?.notes.join(' ')}>
          {wordOf(trouble, shownNews, isReady)}
        </Said>
      </Line>
    </>
  );
}

function wordOf(
  trouble: string | null,
  news: ReturnType<typeof useComp.getState>['news'],
  isReady: boolean,
): string {
  if (trouble) return trouble;
  if (!news) return isReady ? '' : 'Making the frame …';
  return news.notes[0] ?? `Ready in ${Math.max(1, Math.round(news.ms))} ms`;
}

/** Linear light under the pointer, what the screen shows of it, and alpha. */
function Under({
  news,
  x,
  y,
  width,
  height,
}: {
  news: NonNullable<ReturnType<typeof useComp.getState>['news']>;
  x: number;
  y: number;
  width: number;
  height: number;
}): ReactNode {
  if (x < 0 || y < 0 || x >= 1 || y >= 1 || !news.rgba) return null;
  const n = 4 * (Math.floor(y * news.height) * news.width + Math.floor(x * news.width));
  const [r, g, b, a] = news.rgba.subarray(n, n + 4);
  const bytes = [0, 1, 2].map((c) => news.bytes[n + c]).join(' ');
  return (
    <span aria-label="Under the pointer">
      x {Math.floor(x * width)} y {Math.floor(y * height)} · {[r, g, b].map((v) => v.toFixed(3)).join(' ')} ·
      shown {bytes} · α {a.toFixed(2)}
    </span>
  );
}

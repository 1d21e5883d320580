// The window while lighting: the render itself, with zoom and pan on its pixels, a region that is done first,
// values under the pointer, and a line that tells how far it has come.
import { Camera, Crop, Maximize, Move3d, X } from 'lucide-react';
import { useEffect, useRef, useState, type PointerEvent, type ReactNode, type WheelEvent } from 'react';
import styled from 'styled-components';
import type { Look } from '@bramblemist/core/look/look';
import { layersOf } from '@bramblemist/core/look/look-at-pass';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { formatValue } from '@bramblemist/core/recipe/units';
import { Plain } from '../parts/ui';
import { LightHandles } from './LightHandles';
import type { PictureNews } from './messages';
import { dolly, orbit, pan } from './move-camera';
import { display, layerValuesAt, valuesAt } from './pixels';
import { usePanZoom, type PanZoom } from './use-pan-zoom';
import { endPicture, takeSnapshot, useLightbox, usePicture, wantPicture } from './use-picture';

const Stage = styled.div`
  position: absolute;
  inset: 0;
  overflow: hidden;
  background: ${({ theme }) => theme.surround};
  touch-action: none;
  canvas {
    position: absolute;
    left: 50%;
    top: 50%;
    image-rendering: pixelated;
    transform-origin: center;
  }
`;
const Line = styled.div`
  position: absolute;
  left: 0;
  right: 0;
  bottom: 0;
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 4px 12px;
  background: #191217d9;
  color: #e9e2e6;
  font-variant-numeric: tabular-nums;
  button {
    color: inherit;
  }
`;
const Done = styled.span<{ $part: number }>`
  position: absolute;
  left: 0;
  top: -2px;
  height: 2px;
  width: ${({ $part }) => 100 * $part}%;
  background: ${({ theme }) => theme.thorn};
`;
const Push = styled.span`
  flex: 1;
`;
const Box = styled.div<{ $soft?: boolean }>`
  position: absolute;
  border: 1px ${({ $soft }) => ($soft ? 'dashed' : 'solid')} #fff;
  box-shadow: 0 0 0 1px #0008;
  pointer-events: none;
`;

/** How long a change rests before the picture begins anew. */
const REST_MS = 40;

export function RenderView({
  look,
  own,
  camera,
  recipe,
  url,
  timeS,
  frame,
}: {
  /** As it is at the frame, seen by its camera. */
  look: Look;
  /** As it stands in the document. */
  own: Look;
  /** The further camera that it is seen by; null: the shot's. */
  camera: string | null;
  recipe: Recipe;
  /** The frame's volume; null where there is none yet. */
  url: string | null;
  timeS: number;
  frame: number;
}): ReactNode {
  const region = useLightbox((s) => s.region);
  const wantedLayer = useLightbox((s) => s.layer);
  // one that the look has no more is not shown
  const layer = layersOf(look).includes(wantedLayer ?? '') ? wantedLayer : null;
  useEffect(() => {
    if (url === null) return;
    const wish = { url, look, own, camera, layer, recipe, timeS, frame, region };
    const timer = setTimeout(() => wantPicture(wish), REST_MS);
    return () => clearTimeout(timer);
  }, [url, look, own, camera, layer, recipe, timeS, frame, region]);
  useEffect(() => endPicture, []);
  const { picture, trouble, isAsked } = usePicture();
  const { snapshots, against, mode, at, exposure, how } = useLightbox();
  const held = snapshots.find((s) => s.id === against)?.picture ?? null;
  const canvas = useRef<HTMLCanvasElement>(null);
  const { width, height, squeeze } = look.camera;
  const {
    stage,
    zoom,
    view,
    placeOf,
    toScreen,
    moveFrom,
    fit,
    onWheel: zoomAt,
  } = usePanZoom(width, height, squeeze);
  const [under, setUnder] = useState<{ x: number; y: number } | null>(null);
  const [cropping, setCropping] = useState(false);
  const [drawn, setDrawn] = useState<readonly number[] | null>(null);
  const [moving, setMoving] = useState(false);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !picture) return;
    context.canvas.width = picture.width;
    context.canvas.height = picture.height;
    const same = held?.width === picture.width && held.height === picture.height ? held : null;
    context.putImageData(
      display(picture, exposure, how, same && mode === 'difference' ? same : undefined),
      0,
      0,
    );
    if (same && mode === 'wipe')
      context.putImageData(
        display(same, exposure, how),
        0,
        0,
        0,
        0,
        Math.round(at * same.width),
        same.height,
      );
  }, [picture, held, mode, at, exposure, how]);

  // a picture that is smaller for the while of a change takes the place of the whole
  const scale = picture ? (zoom * width) / picture.width : zoom;
  const onWheel = (e: WheelEvent): void =>
    moving ? dolly(look, camera, 1.1 ** (e.deltaY / 100)) : zoomAt(e);

  const drag = useRef<{ x: number; y: number; view: PanZoom['view'] } | null>(null);
  const onDown = (e: PointerEvent): void => {
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { x: e.clientX, y: e.clientY, view };
    if (cropping) {
      const p = placeOf(e);
      setDrawn([p.x, p.y, p.x, p.y]);
    }
  };

  const onMove = (e: PointerEvent): void => {
    const p = placeOf(e);
    setUnder(p);
    const from = drag.current;
    if (!from) return;
    if (moving) {
      const [dx, dy] = [e.clientX - from.x, e.clientY - from.y];
      drag.current = { ...from, x: e.clientX, y: e.clientY };
      if (e.shiftKey) pan(look, camera, dx / zoom / squeeze, dy / zoom);
      else orbit(look, camera, dx, dy);
      return;
    }

    if (cropping && drawn) return setDrawn([drawn[0], drawn[1], p.x, p.y]);
    moveFrom(from.view, e.clientX - from.x, e.clientY - from.y);
  };

  const onUp = (): void => {
    drag.current = null;
    if (!cropping || !drawn) return;
    const clamp = (v: number, most: number): number => Math.round(Math.min(most, Math.max(0, v)));
    const [x0, x1] = [drawn[0], drawn[2]].sort((a, b) => a - b).map((v) => clamp(v, width));
    const [y0, y1] = [drawn[1], drawn[3]].sort((a, b) => a - b).map((v) => clamp(v, height));
    setDrawn(null);
    setCropping(false);
    if (x1 - x0 > 3 && y1 - y0 > 3) useLightbox.setState({ region: { from: [x0, y0], end: [x1, y1] } });
  };

  const onScreen = (box: readonly number[]): React.CSSProperties => ({
    left: toScreen(Math.min(box[0], box[2]), 0).x,
    top: toScreen(0, Math.min(box[1], box[3])).y,
    width: Math.abs(box[2] - box[0]) * zoom * squeeze,
    height: Math.abs(box[3] - box[1]) * zoom,
  });
  const { left, right, top, bottom } = look.camera.crop;
  const cropped =
    left + right + top + bottom > 0
      ? [left * width, top * height, (100 - right) * width, (100 - bottom) * height].map((v) => v / 100)
      : null;
  const framed = drawn ?? (region ? [...region.from, ...region.end] : null);
  const taken = moving ? 'move' : 'grab';
  const cursor = cropping ? 'crosshair' : taken;
  return (
    <>
      <Stage
        ref={stage}
        onWheel={onWheel}
        onPointerDown={onDown}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onPointerLeave={() => setUnder(null)}
        onDoubleClick={fit}
        style={{ cursor }}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={picture ? `The picture, ${toldOf(picture)}` : 'The picture'}
          hidden={!picture}
          style={{
            transform:
              `translate(-50%, -50%) translate(${view.x}px, ${view.y}px) ` +
              `scale(${scale * squeeze}, ${scale})`,
          }}
        />
        {framed && <Box style={onScreen(framed)} />}
        {cropped && <Box style={onScreen(cropped)} $soft />}
        <LightHandles look={look} onScreen={toScreen} pixel={zoom} />
      </Stage>
      <Line>
        {picture && look.quality.mode === 'true' && (
          <Done $part={Math.min(1, picture.samples / look.quality.samples)} />
        )}
        <span role="status">{wordOf(picture, trouble, isAsked, url, look)}</span>
        <Push />
        {under && picture && (
          <Under
            picture={picture}
            x={(under.x / width) * picture.width}
            y={(under.y / height) * picture.height}
          />
        )}
        {region && (
          <Plain onPress={() => useLightbox.setState({ region: null })}>
            <X size={14} /> Whole picture
          </Plain>
        )}
        <Plain
          aria-pressed={moving}
          aria-label="Move the camera: drag turns about what it looks at, with Shift shifts, the wheel nears"
          onPress={() => setMoving(!moving)}
        >
          <Move3d size={14} /> Camera
        </Plain>
        <Plain aria-pressed={cropping} onPress={() => setCropping(!cropping)}>
          <Crop size={14} /> Region
        </Plain>
        <Plain isDisabled={!picture} onPress={() => takeSnapshot(own)}>
          <Camera size={14} /> Snapshot
        </Plain>
        <Plain aria-label="Fit the picture into the window" onPress={fit}>
          <Maximize size={14} /> {Math.round(100 * zoom)} %
        </Plain>
      </Line>
    </>
  );
}

const STAGES = { first: 'first look', quick: 'quick', blurred: 'quick', true: 'true' } as const;

const toldOf = ({ stage, samples }: PictureNews): string =>
  samples > 0 ? `${STAGES[stage]}, ${samples} samples` : STAGES[stage];

/** How far the picture has come, in a line. */
function wordOf(
  picture: PictureNews | null,
  trouble: string | null,
  isAsked: boolean,
  url: string | null,
  { quality }: Look,
): string {
  if (url === null) return 'This frame is not baked yet.';
  if (trouble) return trouble;
  if (!picture) return isAsked ? 'Reading the frame …' : '';
  const { stage, samples, noise, seconds, isDone } = picture;
  const told = (s: number): string => formatValue(Number(s.toPrecision(2)), 's');
  if (stage !== 'true') return `${STAGES[stage]}, ${told(seconds)}`;
  const left = isDone ? 'done' : `about ${told((seconds / samples) * (quality.samples - samples))} left`;
  const unsure = Number.isFinite(noise) ? `noise ${noise.toPrecision(2)}, ` : '';
  return `true, ${samples} of ${quality.samples} samples, ${unsure}${left}`;
}

/** Light and coverage under the pointer. */
function Under({ picture, x, y }: { picture: PictureNews; x: number; y: number }): ReactNode {
  const values = valuesAt(picture, x, y);
  if (!values) return null;
  const { layer } = picture;
  if (layer)
    return (
      <span aria-label="Under the pointer">
        {layer.name}{' '}
        {layerValuesAt(picture, layer, x, y)
          .map((v, n) => `${layer.channels[n]} ${Number(v.toPrecision(4))}`)
          .join(' · ')}
      </span>
    );
  return (
    <span aria-label="Under the pointer">
      {values
        .slice(0, 3)
        .map((v) => v.toFixed(3))
        .join(' ')}{' '}
      · alpha {values[3].toFixed(3)}
    </span>
  );
}

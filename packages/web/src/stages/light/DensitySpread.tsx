// How the frame's densities are spread, with what is clipped and the curve by which they are shown; and what
// a ramp runs over, with its colours.
import { Timer } from 'lucide-react';
import { useRef, type PointerEvent, type ReactNode } from 'react';
import styled, { useTheme } from 'styled-components';
import type { Look } from '@bramblemist/core/look/look';
import { encodeSrgb } from '@bramblemist/core/look/picture';
import { below, type Spread } from '@bramblemist/core/look/spread';
import { valueAt } from '@bramblemist/core/recipe/profile';
import { change } from '../../data/bench';
import { Plain, Quiet } from '../../parts/ui';
import { measureClip, usePicture } from '../../picture/use-picture';

const Chart = styled.svg`
  display: block;
  width: 100%;
  height: 72px;
  margin-top: 6px;
  background: ${({ theme }) => theme.ground};
  border-radius: 3px;
  touch-action: none;
`;
const Legend = styled.div`
  height: 8px;
  border-radius: 2px;
`;
const Ends = styled.div`
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  font-variant-numeric: tabular-nums;
  color: ${({ theme }) => theme.quiet};
`;
const TALL = 72;

const told = (v: number): string => String(Number(v.toPrecision(3))).replace('-', '−');
const percent = (part: number): string =>
  part > 0 && part < 0.001 ? 'under 0.1 %' : `${Number((100 * part).toPrecision(2))} %`;

/** Heights of bars from counts that span many sizes. */
const heightOf = (count: number, most: number): number =>
  count > 0 ? (TALL * Math.log1p(count)) / Math.log1p(most) : 0;

function Bars({ spread: { voxels }, isOut }: { spread: Spread; isOut: (bar: number) => boolean }): ReactNode {
  const theme = useTheme();
  const most = Math.max(...voxels, 1);
  return voxels.map((count, n) => (
    <rect
      key={n}
      x={n}
      width={1}
      y={TALL - heightOf(count, most)}
      height={heightOf(count, most)}
      fill={isOut(n) ? theme.line : theme.quiet}
    />
  ));
}

export function DensitySpread({ medium }: { medium: Look['medium'] }): ReactNode {
  const theme = useTheme();
  const { spread, clipCost } = usePicture();
  const chart = useRef<SVGSVGElement>(null);
  if (!spread || spread.density.voxels.length === 0) return null;
  const { density, ramp } = spread;
  const count = density.voxels.length;
  const { clip } = medium;
  const left = below(density, clip);
  const clipAt = (e: PointerEvent): void => {
    const box = chart.current!.getBoundingClientRect();
    const part = Math.min(1, Math.max(0, (e.clientX - box.left) / box.width));
    change('Medium: clip below', 'look', 'medium.clip', Number((part * density.most).toPrecision(3)));
  };

  const curve =
    medium.remap === 'drawn'
      ? Array.from({ length: 65 }, (_, n) => {
          const at = (n / 64) * density.most;
          const shown = valueAt(medium.curve, Math.min(1, at / medium.full));
          return `${((n / 64) * count).toFixed(2)},${(TALL * (1 - shown)).toFixed(2)}`;
        }).join(' ')
      : null;
  return (
    <>
      <Chart
        ref={chart}
        role="img"
        aria-label={`Densities of the frame, from 0 to ${told(density.most)}`}
        viewBox={`0 0 ${count} ${TALL}`}
        preserveAspectRatio="none"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          clipAt(e);
        }}
        onPointerMove={(e) => {
          if (e.buttons === 1) clipAt(e);
        }}
        style={{ cursor: 'ew-resize' }}
      >
        <title>Voxels by their density, counted by powers. Drag to clip what is fainter.</title>
        <Bars spread={density} isOut={(n) => ((n + 1) / count) * density.most <= clip} />
        {curve && (
          <polyline
            points={curve}
            fill="none"
            stroke={theme.thorn}
            strokeWidth={1.5}
            vectorEffect="non-scaling-stroke"
          />
        )}
        <line
          x1={(clip / density.most) * count}
          x2={(clip / density.most) * count}
          y1={0}
          y2={TALL}
          stroke={theme.straw}
          strokeWidth={1.5}
          vectorEffect="non-scaling-stroke"
        />
      </Chart>
      <Ends>
        <span>0</span>
        <span>density {told(density.most)}</span>
      </Ends>
      <Quiet as="div">
        {clip > 0
          ? `Clipped below ${told(clip)}: ${percent(left.voxels)} of its voxels, ` +
            `${percent(left.medium)} of the medium.`
          : 'Nothing is clipped. Drag over the histogram to leave out what is fainter.'}{' '}
        {clip > 0 && (
          <Plain isDisabled={clipCost === 'asked'} onPress={measureClip}>
            <Timer size={13} /> Measure what it saves
          </Plain>
        )}
        {clipCost !== null && clipCost !== 'asked' && (
          <span role="status">
            {' '}
            {clipCost.clippedS.toFixed(2)} s a quick picture, {clipCost.wholeS.toFixed(2)} s without.
          </span>
        )}
      </Quiet>
      {medium.colour === 'ramp' && ramp && ramp.voxels.length > 0 && <Ramp medium={medium} spread={ramp} />}
    </>
  );
}

/** What the ramp runs over, above its colours. */
function Ramp({ medium, spread }: { medium: Look['medium']; spread: Spread }): ReactNode {
  const css = (rgb: readonly number[]): string =>
    `rgb(${rgb.map((v) => Math.round(255 * encodeSrgb(v))).join(' ')})`;
  const { low, high, first, last, channel } = medium;
  const place = (v: number): number => (100 * (v - spread.least)) / (spread.most - spread.least || 1);
  return (
    <>
      <Chart
        role="img"
        aria-label={`What the medium has of ${channel}`}
        viewBox={`0 0 ${spread.voxels.length} ${TALL}`}
        preserveAspectRatio="none"
      >
        <Bars spread={spread} isOut={() => false} />
      </Chart>
      <Legend
        style={{
          background: `linear-gradient(to right, ${css(first)} ${place(low)}%, ${css(last)} ${place(high)}%)`,
        }}
      />
      <Ends>
        <span>{told(spread.least)}</span>
        <span>
          {channel} {told(spread.most)}
        </span>
      </Ends>
    </>
  );
}

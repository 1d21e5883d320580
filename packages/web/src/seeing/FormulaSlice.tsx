// What a formula does, on a plane through the domain: before it and after it, in the colours of one range.
import { useEffect, useRef, type ReactNode } from 'react';
import styled from 'styled-components';
import type { Slice } from '@bramblemist/core/analysis/seeing';
import type { FormulaSeen } from './messages';
import { pictured, RAMP_CSS, spanOf } from './ramp';

const Pair = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  margin: 4px 0;
  font-size: 12px;
  color: ${({ theme }) => theme.quiet};
  canvas {
    width: 100%;
    border-radius: 3px;
    display: block;
  }
  > div:last-child {
    grid-column: 1 / -1;
    display: flex;
    gap: 6px;
    align-items: center;
    i {
      flex: 1;
      height: 7px;
      border-radius: 2px;
      background: ${RAMP_CSS};
    }
  }
`;

function Plane({
  slice,
  range,
  label,
}: {
  slice: Slice;
  range: readonly [number, number];
  label: string;
}): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [nx, ny] = slice.dims;
  const [least, most] = range;
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    const bytes = pictured(slice.values, least, most);
    const upright = new Uint8ClampedArray(bytes.length);
    // the first row of a slice is its lowest
    for (let j = 0; j < ny; j++)
      upright.set(bytes.subarray(j * nx * 4, (j + 1) * nx * 4), (ny - 1 - j) * nx * 4);
    context.putImageData(new ImageData(upright, nx, ny), 0, 0);
  }, [slice, least, most, nx, ny]);
  return (
    <div>
      <canvas
        ref={canvas}
        width={nx}
        height={ny}
        role="img"
        aria-label={`${label}, on a plane through the domain`}
      />
      {label}
    </div>
  );
}

export function FormulaSlice({ seen: { channel, before, after } }: { seen: FormulaSeen }): ReactNode {
  const range = spanOf(before.values, after.values);
  const text = (v: number): string => `${Number(v.toPrecision(3))}${before.unit && ` ${before.unit}`}`;
  return (
    <Pair>
      <Plane slice={before} range={range} label={`${channel} before`} />
      <Plane slice={after} range={range} label={`${channel} after one step`} />
      <div>
        {text(range[0])} <i /> {text(range[1])}
      </div>
    </Pair>
  );
}

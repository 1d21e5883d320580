// What the frame holds where the pointer is on a slice: the place and every channel, in their units.
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { SHOWN, shownAt, type Shown } from '@bramblemist/core/analysis/flow';
import type { ShownBrick } from '../live/use-live';
import { useProbe } from '../viewport/probe';

const Box = styled.div`
  position: absolute;
  right: 12px;
  bottom: 8px;
  text-align: right;
  color: #f2f0f1;
  text-shadow: 0 1px 2px #000a;
  pointer-events: none;
  font-variant-numeric: tabular-nums;
`;

export function ProbeReading({ shown: { glimpse } }: { shown: ShownBrick }): ReactNode {
  const place = useProbe((s) => s.place);
  if (!place || !glimpse) return <Box>point at the slice to read it</Box>;
  const text = (name: Shown): string => {
    const v = shownAt(glimpse, name, ...place);
    return `${name} ${Number(v.toPrecision(3))}${SHOWN[name] && ` ${SHOWN[name]}`}`;
  };

  return (
    <Box>
      {place.map((v) => v.toFixed(2)).join(', ')} m
      <br />
      {(Object.keys(SHOWN) as Shown[]).map(text).join(' · ')}
    </Box>
  );
}

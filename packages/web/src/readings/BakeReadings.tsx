// The notebook's readings of a bake, against others of the shot where one asks for them.
import { useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { BakeInfo, FrameInfo } from '@bramblemist/contracts/payloads/made';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { readingsCsv } from '@bramblemist/core/record/readings-csv';
import { useCalmFrame } from '../data/playhead';
import { useBakeFrames } from '../data/queries/bakes';
import { keepAsFile, Plain, Quiet } from '../parts/ui';
import { later } from '../parts/later';
import { MOST_CHARTED, type ChartedRun } from './charted';

const ForceShares = later(() => import('../seeing/ForceShares'), 'ForceShares');
const Charts = later(() => import('./Charts'), 'Charts');

const Row = styled.p`
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 0 0 6px;
`;

export const chartedBake = (b: BakeInfo, frames: readonly FrameInfo[]): ChartedRun => ({
  name: `bake ${b.id}, variant ${b.variantNumber}`,
  frames,
  frameS: b.recipe.space.timeScale / b.recipe.space.frameRate,
});

export function BakeReadings({ shot, bake }: { shot: ShotInfo; bake: BakeInfo }): ReactNode {
  const [with_, setWith] = useState<readonly number[]>([]);
  const frame = useCalmFrame();
  const others = shot.bakes.filter((b) => b.id !== bake.id && b.frames.length > 1);
  const chosen = useMemo(
    () => shot.bakes.filter((b) => b.id !== bake.id && with_.includes(b.id)),
    [shot.bakes, bake.id, with_],
  );
  const charted = useMemo(() => [bake, ...chosen].slice(0, MOST_CHARTED), [bake, chosen]);
  const frames = useBakeFrames(charted);
  const runs = useMemo(() => charted.map((b, n) => chartedBake(b, frames[n])), [charted, frames]);
  const [own] = frames;
  const shares = useMemo(
    () => own.flatMap((f) => (f.readings.forces ? [{ frame: f.frame, forces: f.readings.forces }] : [])),
    [own],
  );
  return (
    <>
      {bake.frames.length > 1 && (
        <Row>
          <Plain onPress={() => keepAsFile(`bake_${bake.id}_readings.csv`, readingsCsv(own), 'text/csv')}>
            as a table (CSV)
          </Plain>
        </Row>
      )}
      {others.length > 0 && (
        <Row role="group" aria-label="Bakes on the same charts">
          <Quiet as="span">against</Quiet>
          {others.map((b) => {
            const is = with_.includes(b.id);
            return (
              <Plain
                key={b.id}
                aria-pressed={is}
                isDisabled={!is && chosen.length >= MOST_CHARTED - 1}
                style={is ? { textDecoration: 'underline', textUnderlineOffset: 3 } : {}}
                onPress={() => setWith(is ? with_.filter((id) => id !== b.id) : [...with_, b.id])}
              >
                bake {b.id}
              </Plain>
            );
          })}
        </Row>
      )}
      <Charts runs={runs} />
      {shares.length > 1 && (
        <figure style={{ margin: 0 }}>
          <Quiet as="figcaption">what moves it</Quiet>
          <ForceShares recipe={bake.recipe} frames={shares} frame={frame} />
        </figure>
      )}
    </>
  );
}

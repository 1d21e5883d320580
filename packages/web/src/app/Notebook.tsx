// The notebook on the right: reference, variants, readings.
import { useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { readingsCsv } from '@bramblemist/core/record/readings-csv';
import type { Readings } from '@bramblemist/core/record/readings';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { useCompare } from '../data/compare';
import { useCalmFrame } from '../data/playhead';
import { beside, useLive } from '../live/use-live';
import { Heading, keepAsFile, Plain, Section } from '../parts/ui';
import { BakeReadings, chartedBake } from '../readings/BakeReadings';
import type { ChartedRun } from '../readings/charted';
import { Reference } from '../reference/Reference';
import { useCalm } from '../reel/Reel';
import { later } from '../parts/later';
import type { FrameShares } from '../seeing/ForceShares';
import type { StageKey, StageProps } from '../stages/context';
import { Noticed } from '../stages/Noticed';
import { ReviewInNotebook } from '../review/InNotebook';
import { Variants } from '../variants/Variants';
import { useBakeFrames } from '../data/queries/bakes';

const ForceShares = later(() => import('../seeing/ForceShares'), 'ForceShares');

const Scopes = later(() => import('../comp/Scopes'), 'Scopes');
const CompVersions = later(() => import('../comp/Versions'), 'Versions');
const Charts = later(() => import('../readings/Charts'), 'Charts');

const Aside = styled.aside`
  position: relative;
  border-left: 1px solid ${({ theme }) => theme.line};
  background: ${({ theme }) => theme.panel};
  padding: 14px 18px;
  overflow: auto;
  min-height: 0;
`;
const ShotNote = styled.p`
  font: 14px/1.45 ${({ theme }) => theme.serif};
  color: ${({ theme }) => theme.quiet};
`;

/**
 * Of the live run, at a calm pace; its curves are drawn where one asks for them, against what it is compared
 * with.
 */
function LiveReadings({ shot, variant, documents: { recipe } }: StageProps): ReactNode {
  const readings = useCalm(
    useLive((s) => s.readings),
    CALM_MS,
  );
  const frame = useCalmFrame();
  const frames = useMemo(() => sharesOf(readings), [readings]);
  const [curves, setCurves] = useState(false);
  const other = useCompare((s) => s.other);
  const besides = useCalm(
    beside.use((s) => s.readings),
    CALM_MS,
  );
  const otherBake = shot.bakes.find((b) => other?.kind === 'bake' && b.id === other.id) ?? null;
  const [otherFrames] = useBakeFrames([otherBake]);
  const runs = useMemo((): ChartedRun[] => {
    const charted = (name: string, r: Recipe, of: ReadonlyMap<number, Readings>): ChartedRun => ({
      name,
      frames: tableOf(of),
      frameS: r.space.timeScale / r.space.frameRate,
    });
    const own = charted(`variant ${variant.number}`, recipe, readings);
    if (other?.kind === 'held') return [own, charted('as it was held', other.recipe, other.readings)];
    const second = other?.kind === 'variant' ? shot.variants.find((v) => v.id === other.id) : undefined;
    if (second) return [own, charted(`variant ${second.number}`, second.recipe, besides)];
    return otherBake ? [own, chartedBake(otherBake, otherFrames)] : [own];
  }, [shot, variant.number, recipe, readings, other, besides, otherBake, otherFrames]);
  if (frames.length < 2) return null;
  return (
    <Section>
      <Heading>
        What moves it{' '}
        <span style={{ display: 'flex', gap: 6 }}>
          <Plain aria-expanded={curves} onPress={() => setCurves(!curves)}>
            readings
          </Plain>
          <Plain
            aria-label="readings as CSV"
            onPress={() =>
              keepAsFile('live_readings.csv', readingsCsv(tableOf(useLive.getState().readings)), 'text/csv')
            }
          >
            CSV
          </Plain>
        </span>
      </Heading>
      <ForceShares recipe={recipe} frames={frames} frame={frame} />
      {curves && <Charts runs={runs} />}
    </Section>
  );
}

const CALM_MS = 500;

const tableOf = (readings: ReadonlyMap<number, Readings>): { frame: number; readings: Readings }[] =>
  [...readings].map(([frame, r]) => ({ frame, readings: r })).sort((a, b) => a.frame - b.frame);

function sharesOf(readings: ReadonlyMap<number, Readings>): FrameShares[] {
  return [...readings]
    .flatMap(([frame, { forces }]) => (forces ? [{ frame, forces }] : []))
    .sort((a, b) => a.frame - b.frame);
}

export function Notebook(
  props: StageProps & { stage: StageKey; chooseVariant: (id: number) => void },
): ReactNode {
  const { shot, bake, stage } = props;
  return (
    <Aside aria-label="Notebook">
      {stage === 'run' && bake && (
        <Section>
          <Heading>
            Readings <small>bake {bake.id}</small>
          </Heading>
          <BakeReadings shot={shot} bake={bake} />
        </Section>
      )}
      {stage === 'combine' && <Scopes />}
      {stage === 'combine' && <CompVersions shot={shot} comp={props.documents.combine} />}
      {(stage === 'set-up' || stage === 'run') && (
        <Noticed {...props} of={stage === 'run' && bake ? 'bake' : 'live'} />
      )}
      {stage === 'set-up' && <LiveReadings {...props} />}
      {(stage === 'set-up' || stage === 'run') && <Variants {...props} />}
      {stage !== 'run' && <Reference {...props} />}
      {stage === 'set-up' && shot.note !== '' && (
        <Section>
          <Heading>The shot</Heading>
          <ShotNote>{shot.note}</ShotNote>
        </Section>
      )}
      <ReviewInNotebook shotId={shot.id} />
      {stage !== 'set-up' && stage !== 'run' && <Variants {...props} />}
    </Aside>
  );
}

// Run: bakes of the variant, their cost before and their progress after.
import { useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { JobInfo } from '@bramblemist/contracts/payloads';
import { windowOver } from '@bramblemist/core/grid/lattice';
import { formatValue } from '@bramblemist/core/recipe/units';
import { useAssets } from '../data/files';
import { costOf } from '@bramblemist/core/readings/cost';
import { flush } from '../data/bench';
import { compareWith, useCompare } from '../data/compare';
import { useCost, useGoOnJob, usePauseJob, useStartBake, useStopJob } from '../data/queries';
import { Preflight } from './Noticed';
import { ChoiceWord } from '../parts/controls';
import { Bar, Button, bytes, duration, Heading, Mark, Plain, Primary, Quiet, Section, Trouble } from '../parts/ui';
import type { StageProps } from './context';

const Sizes = [
  { value: '3', label: 'rough', doc: 'voxels three times as large' },
  { value: '2', label: 'half', doc: 'voxels twice as large' },
  { value: '1', label: 'working', doc: 'the recipe’s voxels' },
];
const Sentence = styled.div`
  font: 15px/1.62 ${({ theme }) => theme.serif};
  margin-bottom: 8px;
`;
const Table = styled.dl`
  display: grid;
  grid-template-columns: auto auto;
  gap: 3px 12px;
  margin: 0 0 12px;
  dt {
    color: ${({ theme }) => theme.quiet};
  }
  dd {
    margin: 0;
    text-align: right;
  }
`;
const Row = styled.div<{ $chosen: boolean }>`
  border-top: 1px solid ${({ theme }) => theme.line};
  border-left: 3px solid ${({ theme, $chosen }) => ($chosen ? theme.thorn : 'transparent')};
  padding: 8px 0 8px 10px;
  margin-left: -10px;
`;
const Top = styled.div`
  display: flex;
  justify-content: space-between;
  gap: 8px;
  margin-bottom: 4px;
`;
const Name = styled.button`
  background: none;
  border: none;
  padding: 0;
  font-weight: 600;
  cursor: pointer;
  text-align: left;
`;

export function jobMark(job: JobInfo | null): ReactNode {
  if (!job) return null;
  if (job.state === 'done') return <Mark state="well">done</Mark>;
  if (job.state === 'running') return <Mark state="busy">running</Mark>;
  if (job.state === 'queued') return <Mark state="idle">waiting</Mark>;
  if (job.state === 'paused') return <Mark state="stale">paused</Mark>;
  if (job.state === 'stopped') return <Mark state="stale">stopped</Mark>;
  return <Mark state="trouble">failed</Mark>;
}

export function timeLeft(job: JobInfo): string {
  if (job.state !== 'running' || !job.startedAt || job.done < 2) return '';
  const spent = (Date.now() - Date.parse(job.startedAt)) / 1000;
  return `${duration((spent / job.done) * (job.total - job.done))} left`;
}

export function Run(props: StageProps): ReactNode {
  const { shot, variant, documents, bake, chooseBake } = props;
  const { space } = documents.recipe;
  const [times, setTimes] = useState('1');
  const start = useStartBake(shot.id),
    stop = useStopJob(),
    pause = usePauseJob(),
    goOn = useGoOnJob();
  const voxelSizeM = space.voxelSize * Number(times);
  const assets = useAssets(documents.recipe);
  const cost = useMemo(() => {
    try {
      return { ...costOf(documents.recipe, voxelSizeM, 2, assets), error: null };
    } catch (error) {
      const w = windowOver(space.corner, space.size, voxelSizeM).lattice;
      return { voxels: w.nx * w.ny * w.nz, bytes: 0, error: (error as Error).message };
    }
  }, [documents.recipe, space, voxelSizeM, assets]);
  const probe = useCost(documents.recipe, voxelSizeM),
    about = (value: string | undefined): string => (probe.isPlaceholderData || probe.isPending ? 'measuring …' : (value ?? 'not known'));
  const own = [...shot.bakes].reverse(),
    compared = useCompare((s) => (s.other?.kind === 'bake' ? s.other.id : null));
  return (
    <>
      <Section>
        <Heading>
          Bake{' '}
          <small>
            frames {space.firstFrame}–{space.lastFrame}
          </small>
        </Heading>
        <Sentence>
          Variant {variant.number} at <ChoiceWord name="Size" value={times} options={Sizes} onChange={setTimes} /> size, voxels of{' '}
          {formatValue(voxelSizeM, 'm')}.
        </Sentence>
        <Table>
          <dt>voxels</dt>
          <dd>{(cost.voxels / 1e6).toFixed(2)} million</dd>
          <dt>memory</dt>
          <dd>{bytes(probe.data && !probe.isPlaceholderData ? probe.data.bytes : cost.bytes)}</dd>
          <dt>time, about</dt>
          <dd>{about(probe.data && duration(probe.data.seconds))}</dd>
          <dt>disk, about</dt>
          <dd>{about(probe.data && bytes(probe.data.diskBytes))}</dd>
        </Table>
        <Preflight {...props} />
        {cost.error && <Trouble>{cost.error}</Trouble>}
        {start.error && <Trouble>{start.error.message}</Trouble>}
        <Primary
          isDisabled={start.isPending || cost.error !== null}
          onPress={() =>
            void flush().then(() =>
              start.mutate(
                { variantId: variant.id, voxelSizeM, frames: { first: space.firstFrame, last: space.lastFrame } },
                { onSuccess: (made) => chooseBake(made.id) },
              ),
            )
          }
        >
          Bake {space.lastFrame - space.firstFrame + 1} frames
        </Primary>
      </Section>
      <Section>
        <Heading>Bakes</Heading>
        {own.length === 0 && <Quiet>None yet. A bake writes one OpenVDB file a frame and keeps on when you leave this page.</Quiet>}
        {own.map((b) => (
          <Row key={b.id} $chosen={b.id === bake?.id}>
            <Top>
              <Name type="button" aria-pressed={b.id === bake?.id} onClick={() => chooseBake(b.id)}>
                Bake {b.id} · variant {b.variantNumber}
              </Name>
              {b.job?.state === 'done' ? (
                b.outOfDate.length ? (
                  <Mark state="stale">out of date</Mark>
                ) : (
                  <Mark state="well">current</Mark>
                )
              ) : (
                jobMark(b.job)
              )}
            </Top>
            <Quiet>
              voxels of {formatValue(b.voxelSizeM, 'm')} · {b.frames.length} of {b.last - b.first + 1} frames · {bytes(b.bytes)}
            </Quiet>
            {b.job?.state === 'running' && (
              <>
                <Bar
                  $part={b.job.done / b.job.total}
                  style={{ margin: '6px 0' }}
                  role="progressbar"
                  aria-valuenow={b.job.done}
                  aria-valuemax={b.job.total}
                  aria-label={`Bake ${b.id}`}
                />
                <Top>
                  <Quiet>{timeLeft(b.job)}</Quiet>
                  <span style={{ display: 'flex', gap: 6 }}>
                    <Button onPress={() => pause.mutate(b.job!.id)}>Pause</Button>
                    <Button onPress={() => stop.mutate(b.job!.id)}>Stop</Button>
                  </span>
                </Top>
              </>
            )}
            {b.id !== bake?.id && b.frames.length > 0 && (
              <Plain aria-pressed={compared === b.id} onPress={() => compareWith(compared === b.id ? null : { kind: 'bake', id: b.id })}>
                {compared === b.id ? 'end comparing' : 'compare'}
              </Plain>
            )}
            {b.job && ['paused', 'stopped', 'failed'].includes(b.job.state) && (
              <Button onPress={() => goOn.mutate(b.job!.id)}>{b.job.state === 'failed' ? 'Try again' : 'Go on'}</Button>
            )}
            {b.job?.message && <Trouble>{b.job.message}</Trouble>}
            {b.job?.state === 'done' && b.outOfDate.length > 0 && (
              <Quiet>
                changed since:{' '}
                {b.outOfDate
                  .slice(0, 3)
                  .map((d) => d.path)
                  .join(', ')}
                {b.outOfDate.length > 3 ? ` and ${b.outOfDate.length - 3} more` : ''}
              </Quiet>
            )}
          </Row>
        ))}
      </Section>
    </>
  );
}

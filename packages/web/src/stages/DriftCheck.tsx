// The drift check: the variant at two sizes, run in the queue as bakes, and what the smaller one may be
// trusted for.
import { useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { BakeInfo } from '@bramblemist/contracts/payloads/made';
import { driftCheck, type Drift } from '@bramblemist/core/analysis/drift-check';
import { voxelSizeAt, type Size } from '@bramblemist/core/recipe/sizes';
import { useBakeFrames, useStartBake } from '../data/queries/bakes';
import { SizeWord } from '../parts/SizeWord';
import { Course } from '../parts/Course';
import { jobMark, timeLeft } from '../parts/Job';
import { Button, Heading, Mark, Quiet, Section, Trouble } from '../parts/ui';
import type { StageProps } from './context';

const Verdict = styled.p`
  margin: 6px 0;
  font: 15px/1.5 ${({ theme }) => theme.serif};
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
  th {
    text-align: left;
    font-weight: 500;
  }
  td {
    text-align: right;
  }
  th,
  td {
    padding: 3px 0;
    border-top: 1px solid ${({ theme }) => theme.line};
  }
  tr[aria-selected='true'] th {
    font-weight: 600;
  }
  button {
    all: unset;
    cursor: pointer;
    border-bottom: 1px dotted ${({ theme }) => theme.thorn};
  }
  button:focus-visible {
    outline: 2px solid ${({ theme }) => theme.thorn};
  }
`;
const TRUST = {
  holds: { state: 'well', text: 'holds' },
  roughly: { state: 'stale', text: 'roughly' },
  apart: { state: 'trouble', text: 'apart' },
} as const;

/** The newest current bake of a variant at a size, straight from a run. */
function bakeAt({ shot, variant, documents: { recipe } }: StageProps, size: Size): BakeInfo | null {
  const { firstFrame, lastFrame } = recipe.space;
  const voxelSizeM = voxelSizeAt(recipe, size);
  const fits = (b: BakeInfo): boolean =>
    b.variantId === variant.id &&
    b.made === null &&
    b.outOfDate.length === 0 &&
    Math.abs(b.voxelSizeM / voxelSizeM - 1) < 1e-6 &&
    b.first === firstFrame &&
    b.last === lastFrame;
  return shot.bakes.filter(fits).at(-1) ?? null;
}

export function DriftCheck(props: StageProps): ReactNode {
  const { shot, variant, documents } = props;
  const { recipe } = documents;
  const [first, setFirst] = useState<Size>('rough');
  const [second, setSecond] = useState<Size>('working');
  const [chosen, setChosen] = useState<string | null>(null);
  const start = useStartBake(shot.id);
  const voxels = [first, second].map((size) => voxelSizeAt(recipe, size));
  const [coarse, fine] = voxels[0] >= voxels[1] ? [first, second] : [second, first];
  const bakes = [bakeAt(props, coarse), bakeAt(props, fine)];
  const [own, other] = useBakeFrames(bakes);
  const check = useMemo(() => driftCheck(own, other, coarse), [own, other, coarse]);
  const missing = [coarse, fine].filter((_, n) => bakes[n] === null);
  const alike = Math.abs(voxels[0] / voxels[1] - 1) < 1e-6;
  const run = async (): Promise<void> => {
    const { firstFrame, lastFrame } = recipe.space;
    for (const size of missing)
      await start.mutateAsync({
        variantId: variant.id,
        voxelSizeM: voxelSizeAt(recipe, size),
        frames: { first: firstFrame, last: lastFrame },
      });
  };

  return (
    <Section aria-label="Drift check">
      <Heading>Drift check</Heading>
      <Verdict>
        How far <SizeWord name="First size" value={first} onChange={setFirst} /> size foretells{' '}
        <SizeWord name="Second size" value={second} onChange={setSecond} /> size, over all frames.
      </Verdict>
      {alike && <Quiet as="p">Both have the same voxels: choose another size.</Quiet>}
      {!alike && missing.length > 0 && (
        <Button isDisabled={start.isPending} onPress={() => void run()}>
          {missing.length === 2 ? 'Bake both' : `Bake at ${missing[0]} size`}
        </Button>
      )}
      {start.error && <Trouble>{start.error.message}</Trouble>}
      {!alike &&
        bakes.map(
          (b, n) =>
            b &&
            b.job?.state !== 'done' && (
              <Quiet as="div" key={b.id}>
                {[coarse, fine][n]} size: bake {b.id}, {b.frames.length} of {b.last - b.first + 1} frames{' '}
                {jobMark(b.job)} {b.job && timeLeft(b.job)}
              </Quiet>
            ),
        )}
      {!alike && check.drifts.length > 0 && (
        <>
          <Verdict role="status">{check.verdict}</Verdict>
          <Table>
            <tbody>
              {check.drifts.map((d) => (
                <tr key={d.key} aria-selected={d.key === chosen}>
                  <th scope="row">
                    <button type="button" onClick={() => setChosen(d.key === chosen ? null : d.key)}>
                      {d.label}
                    </button>
                  </th>
                  <td title="mean over the second half of the frames">{(100 * d.mean).toFixed(1)} %</td>
                  <td>
                    <Mark state={TRUST[d.trust].state}>{TRUST[d.trust].text}</Mark>
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
          {check.drifts.map(
            (d) =>
              d.key === chosen && (
                <Curves key={d.key} drift={d} frames={check.frames} names={[fine, coarse]} />
              ),
          )}
        </>
      )}
    </Section>
  );
}

function Curves({
  drift,
  frames,
  names,
}: {
  drift: Drift;
  frames: readonly number[];
  names: readonly [fine: Size, coarse: Size];
}): ReactNode {
  const at =
    (values: readonly (number | null)[]) =>
    (frame: number): number =>
      values[Math.min(frames.length - 1, Math.max(0, Math.round(frame - frames[0])))] ?? NaN;
  return (
    <>
      <Course
        title={drift.label}
        unit={drift.unit}
        x="frame"
        from={frames[0]}
        to={frames[frames.length - 1]}
        lines={[
          { name: names[0], at: at(drift.fine) },
          { name: names[1], at: at(drift.coarse) },
        ]}
      />
      <Quiet as="p">
        Furthest apart at frame {drift.frame}: {(100 * drift.most).toFixed(0)} %.
      </Quiet>
    </>
  );
}

// Pictures in files: what is asked for, what is made.
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { usePlayhead } from '../../data/playhead';
import { useStartRender, useStopJob } from '../../data/queries';
import { Bar, Button, Heading, Mark, Primary, Quiet, Section, Trouble } from '../../parts/ui';
import { jobMark, timeLeft } from '../../parts/Job';
import type { RenderInfo } from '@bramblemist/contracts/payloads';
import { LOOK } from '@bramblemist/core/look/look';
import { differencesTold } from '@bramblemist/core/recipe/tell';
import type { StageProps } from '../context';
import { Movies } from '../Movies';
import { rendersOf } from '../made';

const Row = styled.div`
  border-top: 1px solid ${({ theme }) => theme.line};
  padding: 7px 0;
`;
const Spread = styled.div`
  display: flex;
  justify-content: space-between;
  gap: 8px;
`;
const Keys = styled.div`
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
`;

export function Renders(props: StageProps): ReactNode {
  const { documents, bake, shot } = props;
  const frame = usePlayhead((s) => s.frame);
  const start = useStartRender(shot.id);
  const stop = useStopJob();
  const [asked, setAsked] = useState<number | null>(null);
  const there = bake?.frames.map((f) => f.frame) ?? [];
  const renders = rendersOf(props).reverse();
  const begin = (frames: { first: number; last: number }): void => {
    if (bake)
      start.mutate(
        { bakeId: bake.id, look: documents.look, frames },
        { onSuccess: (made) => setAsked(made.id) },
      );
  };

  const waiting = renders.find(
    (r) => r.id === asked && (r.job?.state === 'queued' || r.job?.state === 'running'),
  );
  return (
    <>
      <Section>
        <Heading>Render</Heading>
        {!bake || there.length === 0 ? (
          <Quiet>There is nothing to light yet: bake the shot in Run first.</Quiet>
        ) : (
          <Keys>
            <Primary
              isDisabled={start.isPending || waiting !== undefined || !there.includes(frame)}
              onPress={() => begin({ first: frame, last: frame })}
            >
              Render frame {frame}
            </Primary>
            <Button
              isDisabled={start.isPending}
              onPress={() => begin({ first: there[0], last: there[there.length - 1] })}
            >
              All {there.length} frames
            </Button>
          </Keys>
        )}
        {start.error && <Trouble>{start.error.message}</Trouble>}
      </Section>
      {renders.length > 0 && (
        <Section>
          <Heading>Renders</Heading>
          {renders.slice(0, 8).map((r) => (
            <Row key={r.id}>
              <Spread>
                <span>Render {r.id}</span>
                {jobMark(r.job)}
              </Spread>
              <Quiet>
                {r.frames.length === 1 ? `frame ${r.frames[0]}` : `${r.frames.length} frames`} ·{' '}
                {r.look.camera.width} × {r.look.camera.height}
                {r.job ? ` · ${timeLeft(r.job)}` : ''}
              </Quiet>
              {r.job?.state === 'running' && r.job.total > 1 && (
                <Spread style={{ alignItems: 'center' }}>
                  <Bar $part={r.job.done / r.job.total} style={{ flex: 1 }} />
                  <Button onPress={() => stop.mutate(r.job!.id)}>Stop</Button>
                </Spread>
              )}
              {r.job?.message && <Trouble>{r.job.message}</Trouble>}
              <Currency render={r} {...props} />
              <Movies of="renders" id={r.id} shot={shot} variant={props.variant} frames={r.frames.length} />
            </Row>
          ))}
        </Section>
      )}
    </>
  );
}

/** How many differences are told. */
const MOST_TOLD = 4;

/** Whether a render is what the look and the recipe would give now; if not, what differs. */
function Currency({ render, bake, documents }: { render: RenderInfo } & StageProps): ReactNode {
  if (render.frames.length === 0) return null;
  const look = differencesTold(render.look, documents.look, LOOK.parts);
  const recipe = bake?.outOfDate.length ?? 0;
  if (look.length === 0 && recipe === 0) return <Mark state="well">current</Mark>;
  return (
    <div>
      <Mark state="stale">out of date</Mark>
      <ul aria-label={`What render ${render.id} differs by`}>
        {look.slice(0, MOST_TOLD).map((d) => (
          <li key={d.path}>
            {d.part}
            {d.setting && `: ${d.setting}`} {d.from ?? ''} → {d.to ?? ''}
          </li>
        ))}
        {look.length > MOST_TOLD && <li>and {look.length - MOST_TOLD} more settings of the look</li>}
        {recipe > 0 && <li>the bake that it shows is out of date: see Run</li>}
      </ul>
    </div>
  );
}

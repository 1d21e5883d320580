// Pictures in files: what is asked for, what is made.
import { Timer } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { usePlayhead } from '../../data/playhead';
import { useRenderCost, useStartRender, useStartSavings } from '../../data/queries/pictures';
import { useStopJob } from '../../data/queries/jobs';
import {
  Bar,
  Button,
  bytes,
  duration,
  Heading,
  Mark,
  Plain,
  Primary,
  Quiet,
  Section,
  Trouble,
} from '../../parts/ui';
import { NextStep } from '../../parts/NextStep';
import { jobMark, timeLeft } from '../../parts/Job';
import type { BakeInfo, RenderInfo } from '@bramblemist/contracts/payloads/made';
import { routes } from '@bramblemist/contracts/routes';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { differencesTold } from '@bramblemist/core/recipe/tell';
import type { StageProps } from '../context';
import { BundleLink } from '../BundleLink';
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
  margin: 6px 0;
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
`;

export function Renders(props: StageProps): ReactNode {
  const { documents, bake, shot } = props;
  const frame = usePlayhead((s) => s.frame);
  const start = useStartRender(shot.id);
  const stop = useStopJob();
  const measure = useStartSavings(shot.id);
  const navigate = useNavigate();
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
  const isRendered =
    bake !== null &&
    there.length > 0 &&
    renders.some((r) => r.frames.length >= there.length && isCurrent(r, props));
  return (
    <>
      <NextStep>
        {isRendered ? (
          <Primary onPress={() => void navigate(`/shots/${shot.id}/combine`)}>Combine it</Primary>
        ) : (
          <Primary
            isDisabled={start.isPending || there.length === 0}
            onPress={() => begin({ first: there[0], last: there[there.length - 1] })}
          >
            Render {there.length === 1 ? 'the frame' : `${there.length} frames`}
          </Primary>
        )}
      </NextStep>
      <Section>
        <Heading>Render</Heading>
        {!bake || there.length === 0 ? (
          <Quiet>There is nothing to light yet: bake the shot in Run first.</Quiet>
        ) : (
          <Keys>
            <Button
              isDisabled={start.isPending || waiting !== undefined || !there.includes(frame)}
              onPress={() => begin({ first: frame, last: frame })}
            >
              Render frame {frame}
            </Button>
            <BundleLink href={routes.renderBundle(bake.id)} />
          </Keys>
        )}
        {start.error && <Trouble>{start.error.message}</Trouble>}
        {bake && there.length > 0 && <Cost bake={bake} look={documents.look} />}
        {bake && there.includes(frame) && (
          <Keys>
            <Button
              isDisabled={measure.isPending}
              onPress={() =>
                measure.mutate(
                  { bakeId: bake.id, look: documents.look, frame },
                  { onSuccess: (made) => void navigate(`/shots/${shot.id}/savings?sheet=${made.id}`) },
                )
              }
            >
              <Timer size={13} /> What would make it cheaper?
            </Button>
            {shot.savings.length > 0 && (
              <Plain onPress={() => void navigate(`/shots/${shot.id}/savings`)}>what was measured</Plain>
            )}
          </Keys>
        )}
        {measure.error && <Trouble>{measure.error.message}</Trouble>}
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
                {r.job && timeLeft(r.job) !== '' ? ` · ${timeLeft(r.job)}` : ''}
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

/** How long a look rests before its cost is asked for, ms. */
const REST_MS = 1500;

/** What a render of all frames will take. */
function Cost({ bake, look }: { bake: BakeInfo; look: Look }): ReactNode {
  const [settled, setSettled] = useState(look);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(look), REST_MS);
    return () => clearTimeout(timer);
  }, [look]);
  const cost = useRenderCost(bake.id, settled);
  if (cost.error) return <Trouble>{cost.error.message}</Trouble>;
  if (!cost.data) return <Quiet>What it takes is being tried …</Quiet>;
  const { seconds, bytes: memory, diskBytes, frames } = cost.data;
  return (
    <Quiet>
      {frames === 1 ? 'One frame takes' : `All ${frames} frames take`} about {duration(seconds)},{' '}
      {bytes(memory)} of memory and {bytes(diskBytes)} on disk.
    </Quiet>
  );
}

/** How many differences are told. */
const MOST_TOLD = 4;

const isCurrent = (render: RenderInfo, { bake, documents }: StageProps): boolean =>
  (bake?.outOfDate.length ?? 0) === 0 &&
  differencesTold(render.look, documents.look, LOOK.parts).length === 0;

/** Whether a render is what the look and the recipe would give now; if not, what differs. */
function Currency({ render, ...props }: { render: RenderInfo } & StageProps): ReactNode {
  const { bake, documents } = props;
  if (render.frames.length === 0) return null;
  const look = differencesTold(render.look, documents.look, LOOK.parts);
  const recipe = bake?.outOfDate.length ?? 0;
  if (isCurrent(render, props)) return <Mark state="well">current</Mark>;
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

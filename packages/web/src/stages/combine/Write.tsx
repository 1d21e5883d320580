// Writing the comp: how its frames are written, and what was written.
import type { ReactNode } from 'react';
import styled from 'styled-components';
import type { CombineInfo, CompWritten } from '@bramblemist/contracts/payloads/comp';
import { routes } from '@bramblemist/contracts/routes';
import { COMBINE_PARTS, type Combine } from '@bramblemist/core/combine/combine';
import { canonicalText } from '@bramblemist/core/recipe/document';
import { usePlayhead } from '../../data/playhead';
import { useStartCombine } from '../../data/queries/pictures';
import { ChoiceWord } from '../../parts/controls';
import { jobMark, timeLeft } from '../../parts/Job';
import { Button, Heading, LinkButton, Mark, Section, Trouble } from '../../parts/ui';
import type { StageProps } from '../context';
import { Movies } from '../Movies';
import { useOutput } from './WriteFrames';

const Row = styled.div`
  border-top: 1px solid ${({ theme }) => theme.line};
  padding: 7px 0;
`;
const Line = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
`;
const Keys = styled.div`
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  margin: 6px 0 8px;
`;
const Sentence = styled.div`
  font: 15px/1.62 ${({ theme }) => theme.serif};
`;
const SHOWN = 6;

const isSame = (a: Combine, b: Combine): boolean =>
  COMBINE_PARTS.every(
    ({ key }) => canonicalText(a[key as keyof Combine]) === canonicalText(b[key as keyof Combine]),
  );

export function Write(props: StageProps): ReactNode {
  const { shot, variant } = props;
  const comp = props.documents.combine;
  const { first, last, width, height } = comp.frame;
  const start = useStartCombine(shot.id);
  const frame = usePlayhead((s) => s.frame);
  const output = useOutput();
  const setOutput = (next: CompWritten): void => useOutput.setState(next);
  const begin = (frames: { first: number; last: number }): void =>
    start.mutate({ settings: comp, frames, output });
  const isEmpty = !comp.layers.some(({ on }) => on);
  const size = (scale: number): string => `${Math.round(width * scale)} × ${Math.round(height * scale)}`;
  return (
    <Section>
      <Heading>Write</Heading>
      <Sentence>
        OpenEXR as{' '}
        <ChoiceWord
          name="OpenEXR values"
          value={output.exr}
          options={[
            { value: 'half', label: 'half floats' },
            { value: 'float', label: 'floats' },
          ]}
          onChange={(v) => setOutput({ ...output, exr: v as 'half' | 'float' })}
        />
        , PNG of{' '}
        <ChoiceWord
          name="PNG bits"
          value={String(output.png)}
          options={[
            { value: '8', label: '8 bits' },
            { value: '16', label: '16 bits' },
          ]}
          onChange={(v) => setOutput({ ...output, png: v === '8' ? 8 : 16 })}
        />
        ,{' '}
        <ChoiceWord
          name="JPEG"
          value={String(output.jpeg)}
          options={[
            { value: 'false', label: 'no JPEG' },
            { value: 'true', label: 'JPEG over black' },
          ]}
          onChange={(v) => setOutput({ ...output, jpeg: v === 'true' })}
        />
        , at{' '}
        <ChoiceWord
          name="Size"
          value={String(output.scale)}
          options={[0.25, 0.5, 1, 2].map((s) => ({ value: String(s), label: size(s) }))}
          onChange={(v) => setOutput({ ...output, scale: Number(v) })}
        />
        .
      </Sentence>
      <Keys>
        {frame >= first && frame <= last && (
          <Button
            isDisabled={isEmpty || start.isPending}
            onPress={() => begin({ first: frame, last: frame })}
          >
            Only frame {frame}
          </Button>
        )}
      </Keys>
      {start.error && <Trouble>{start.error.message}</Trouble>}
      {[...shot.combines]
        .reverse()
        .slice(0, SHOWN)
        .map((made) => (
          <Made key={made.id} made={made} comp={comp} shot={shot} variant={variant} />
        ))}
    </Section>
  );
}

function Made({
  made,
  comp,
  shot,
  variant,
}: { made: CombineInfo; comp: Combine } & Pick<StageProps, 'shot' | 'variant'>): ReactNode {
  const { id, frames, job, settings } = made;
  const frame = usePlayhead((s) => s.frame);
  return (
    <Row>
      <Line>
        <span>
          Comp {id} · {frames.length} {frames.length === 1 ? 'frame' : 'frames'} {job && timeLeft(job)}
        </span>
        {jobMark(job)}
      </Line>
      {job?.state === 'done' && !isSame(settings, comp) && (
        <Mark state="stale">the comp has changed since</Mark>
      )}
      {frames.includes(frame) && (
        <Keys>
          {(['png', 'exr'] as const).map((kind) => (
            <LinkButton
              key={kind}
              href={routes.combinePicture(id, frame, kind)}
              download={`comp_${id}.${frame}.${kind}`}
            >
              Frame {frame} as {kind === 'png' ? 'PNG' : 'OpenEXR'}
            </LinkButton>
          ))}
        </Keys>
      )}
      {job?.message && <Trouble>{job.message}</Trouble>}
      <Movies of="combines" id={id} shot={shot} variant={variant} frames={frames.length} />
    </Row>
  );
}

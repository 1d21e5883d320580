// Combine: the rendered element over a plate.
import { useRef, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { routes } from '@bramblemist/contracts/routes';
import { COMBINE } from '@bramblemist/core/combine/combine';
import { change } from '../data/bench';
import { usePlayhead } from '../data/playhead';
import { useStartCombine, useUpload } from '../data/queries';
import { ChoiceWord } from '../parts/controls';
import { Ingredient } from '../parts/Ingredient';
import { Button, Heading, Primary, Quiet, Section, Trouble } from '../parts/ui';
import { jobMark, timeLeft } from '../parts/Job';
import type { StageProps } from './context';
import { Movies } from './Movies';
import { combinesOf, rendersOf } from './made';

const Plate = styled.img`
  display: block;
  width: 100%;
  border-radius: 3px;
  margin: 6px 0 8px;
`;
const Row = styled.div`
  border-top: 1px solid ${({ theme }) => theme.line};
  padding: 7px 0;
  display: flex;
  justify-content: space-between;
`;
const Keys = styled.div`
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
`;
const Sentence = styled.div`
  font: 15px/1.62 ${({ theme }) => theme.serif};
`;

export function Combine(props: StageProps): ReactNode {
  const { shot, documents } = props;
  const renders = rendersOf(props).filter((r) => r.frames.length > 0);
  const plates = shot.assets.filter((a) => a.kind === 'plate');
  const [renderId, setRenderId] = useState<number | null>(null);
  const [plateId, setPlateId] = useState<number | null>(null);
  const render =
    renders.find((r) => r.id === renderId) ??
    renders.reduce<(typeof renders)[number] | null>(
      (best, r) => (!best || r.frames.length >= best.frames.length ? r : best),
      null,
    );
  const plate = plates.find((p) => p.id === plateId) ?? plates[0] ?? null;
  const start = useStartCombine(shot.id);
  const upload = useUpload(shot.id);
  const file = useRef<HTMLInputElement>(null);
  const done = combinesOf(props).reverse();
  const frame = usePlayhead((s) => s.frame);
  const begin = (frames: { first: number; last: number }): void => {
    if (render)
      start.mutate({
        renderId: render.id,
        settings: documents.combine,
        plateId: plate?.id ?? null,
        frames,
      });
  };

  return (
    <>
      <Section>
        <Heading>Layers</Heading>
        {!render ? (
          <Quiet>There is no rendered picture of this bake yet: render it in Light first.</Quiet>
        ) : (
          <Sentence>
            <ChoiceWord
              name="Element"
              value={String(render.id)}
              options={renders.map((r) => ({
                value: String(r.id),
                label: `render ${r.id} (${r.frames.length} ${r.frames.length === 1 ? 'frame' : 'frames'})`,
              }))}
              onChange={(v) => setRenderId(Number(v))}
            />{' '}
            over{' '}
            {plate ? (
              <ChoiceWord
                name="Plate"
                value={String(plate.id)}
                options={plates.map((p) => ({ value: String(p.id), label: p.name }))}
                onChange={(v) => setPlateId(Number(v))}
              />
            ) : (
              'no plate'
            )}
            .
          </Sentence>
        )}
        {plate && (
          <Plate src={routes.asset(plate.id)} alt={`Plate ${plate.name}, ${plate.width} × ${plate.height}`} />
        )}
        <input
          ref={file}
          type="file"
          accept="image/png"
          hidden
          onChange={(e) =>
            e.target.files?.[0] &&
            upload.mutate({ file: e.target.files[0], kind: 'plate' }, { onSuccess: (a) => setPlateId(a.id) })
          }
        />
        <Button onPress={() => file.current?.click()} isDisabled={upload.isPending}>
          {upload.isPending ? 'Bringing in …' : 'Bring in a plate'}
        </Button>
        {upload.error && <Trouble>{upload.error.message}</Trouble>}
      </Section>
      {COMBINE.parts.map((part) => (
        <Section key={part.key}>
          <Heading>{part.title}</Heading>
          <Ingredient
            part={part}
            values={documents.combine[part.key as 'element' | 'plate']}
            frameRate={documents.recipe.space.frameRate}
            onChange={(path, label, value) => change(label, 'combine', `${part.key}.${path}`, value)}
          />
        </Section>
      ))}
      <Section>
        <Heading>Write</Heading>
        <Keys>
          <Primary
            isDisabled={!render || start.isPending}
            onPress={() =>
              render && begin({ first: render.frames[0], last: render.frames[render.frames.length - 1] })
            }
          >
            Combine{' '}
            {render ? `${render.frames.length} ${render.frames.length === 1 ? 'frame' : 'frames'}` : ''}
          </Primary>
          {render && render.frames.length > 1 && render.frames.includes(frame) && (
            <Button isDisabled={start.isPending} onPress={() => begin({ first: frame, last: frame })}>
              Only frame {frame}
            </Button>
          )}
        </Keys>
        {start.error && <Trouble>{start.error.message}</Trouble>}
        {done.slice(0, 8).map((c) => (
          <div key={c.id}>
            <Row>
              <span>
                Combine {c.id} · {c.frames.length} {c.frames.length === 1 ? 'frame' : 'frames'}{' '}
                {c.job && timeLeft(c.job)}
              </span>
              {jobMark(c.job)}
            </Row>
            {c.job?.message && <Trouble>{c.job.message}</Trouble>}
            <Movies of="combines" id={c.id} shot={shot} variant={props.variant} frames={c.frames.length} />
          </div>
        ))}
      </Section>
    </>
  );
}

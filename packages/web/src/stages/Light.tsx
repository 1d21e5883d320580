// Light: how the baked volume is lit and seen. The window shows the render itself; files are made on the
// server by the same kernels.
import { ClipboardPaste, Copy, CopyPlus, Eye, EyeOff, Focus, SunMedium, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import {
  LIGHT_STARTERS,
  lookText,
  MEDIUM_LOOKS,
  pastedLook,
  withLight,
} from '@bramblemist/core/presets/looks';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change, replace, useBench } from '../data/bench';
import { usePlayhead } from '../data/playhead';
import { useStartRender, useStopJob } from '../data/queries';
import { AddMenu } from '../parts/AddMenu';
import { Ingredient } from '../parts/Ingredient';
import { Bar, Button, Heading, Plain, Primary, Quiet, Section, Trouble } from '../parts/ui';
import { jobMark, timeLeft } from '../parts/Job';
import { Lightbox } from '../picture/Lightbox';
import type { StageProps } from './context';
import { rendersOf } from './made';
import { Actions, newId } from './page-parts';

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
const Tools = styled.span`
  display: inline-flex;
  gap: 10px;
`;

/** One named change of the look as it is now. */
function changeLook(label: string, next: (look: Look) => Look): void {
  const { documents } = useBench.getState();
  if (documents) replace(label, { ...documents, look: next(documents.look) });
}

export function Light(props: StageProps): ReactNode {
  const { documents } = props;
  const { look } = documents;
  const [wrong, setWrong] = useState<string | null>(null);
  const attempt = async (act: () => Promise<void>): Promise<void> => {
    try {
      await act();
      setWrong(null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };

  const one = (key: 'medium' | 'sky' | 'solids' | 'camera' | 'quality'): ReactNode => (
    <Ingredient
      part={partOf(LOOK.parts, key)}
      values={look[key]}
      frameRate={documents.recipe.space.frameRate}
      onChange={(path, label, value) => change(label, 'look', `${key}.${path}`, value)}
    />
  );
  return (
    <>
      <Section>
        <Heading>
          Medium
          <Tools>
            <Plain
              aria-label="Copy the look as text"
              onPress={() => void attempt(() => navigator.clipboard.writeText(lookText(look)))}
            >
              <Copy size={13} /> Copy look
            </Plain>
            <Plain
              aria-label="Paste a look"
              onPress={() =>
                void attempt(async () => {
                  const next = pastedLook(look, await navigator.clipboard.readText());
                  changeLook('paste a look', () => next);
                })
              }
            >
              <ClipboardPaste size={13} /> Paste
            </Plain>
            <AddMenu
              label="Take a medium’s look"
              starters={MEDIUM_LOOKS}
              icon={<SunMedium size={13} />}
              onAdd={({ name, settings }) =>
                changeLook(`look of ${name.toLowerCase()}`, (l) => ({
                  ...l,
                  medium: { ...l.medium, ...settings },
                }))
              }
            >
              presets
            </AddMenu>
          </Tools>
        </Heading>
        {wrong && <Trouble>{wrong}</Trouble>}
        {one('medium')}
      </Section>
      <Section>
        <Heading>
          Lights
          <AddMenu
            label="Add a light"
            starters={LIGHT_STARTERS}
            onAdd={(s) => changeLook(`add ${s.name}`, (l) => withLight(l, s, newId()))}
          />
        </Heading>
        {look.lights.length === 0 && <Quiet>No light but what comes from all round.</Quiet>}
        {look.lights.map((light, n) => (
          <LightLine key={light.id} look={look} n={n} frameRate={documents.recipe.space.frameRate} />
        ))}
        {one('sky')}
      </Section>
      <Section>
        <Heading>Surfaces</Heading>
        {one('solids')}
      </Section>
      <Section>
        <Heading>Camera</Heading>
        {one('camera')}
      </Section>
      <Section>
        <Heading>Quality</Heading>
        {one('quality')}
      </Section>
      <Lightbox look={look} />
      <Renders {...props} />
    </>
  );
}

function LightLine({ look, n, frameRate }: { look: Look; n: number; frameRate: number }): ReactNode {
  const light = look.lights[n];
  const set = (label: string, lights: (all: Look['lights']) => Look['lights']): void =>
    changeLook(`${label} ${light.name}`, (l) => ({ ...l, lights: lights(l.lights) }));
  const isAlone = light.on && look.lights.every((l) => l === light || !l.on);
  return (
    <Ingredient
      part={partOf(LOOK.parts, 'lights')}
      values={light}
      frameRate={frameRate}
      onChange={(path, label, value) => change(label, 'look', `lights.${n}.${path}`, value)}
      actions={
        <Actions>
          <Plain
            onPress={() =>
              change(`${light.name} ${light.on ? 'off' : 'on'}`, 'look', `lights.${n}.on`, !light.on)
            }
          >
            {light.on ? <EyeOff size={13} /> : <Eye size={13} />} {light.on ? 'Turn off' : 'Turn on'}
          </Plain>
          <Plain
            onPress={() => set('only', (all) => all.map((l) => ({ ...l, on: isAlone || l.id === light.id })))}
          >
            <Focus size={13} /> {isAlone ? 'All on' : 'Only this'}
          </Plain>
          <Plain
            onPress={() =>
              set('duplicate', (all) => [...all, { ...light, id: newId(), name: `${light.name} copy` }])
            }
          >
            <CopyPlus size={13} /> Duplicate
          </Plain>
          <Plain onPress={() => set('remove', (all) => all.filter((l) => l.id !== light.id))}>
            <Trash2 size={13} /> Remove
          </Plain>
        </Actions>
      }
    />
  );
}

/** Pictures in files: what is asked for, what is made. */
function Renders(props: StageProps): ReactNode {
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
            </Row>
          ))}
        </Section>
      )}
    </>
  );
}

// Work on a bake: tools in a row, refining, particles; tried on the frame that is shown, then made as a job.
import { X } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { BakeInfo } from '@bramblemist/contracts/payloads/made';
import { routes } from '@bramblemist/contracts/routes';
import { REFINE, type Refine } from '@bramblemist/core/cache/refine-settings';
import { newStep, TOOLS, type ToolStep } from '@bramblemist/core/volume/tools/tools';
import { PARTICLE_ADVECTION, type ParticleAdvection } from '@bramblemist/core/analysis/particle-settings';
import { setAt } from '@bramblemist/core/recipe/paths';
import type { Part } from '@bramblemist/core/recipe/settings';
import { showTried, useBricks } from '../data/bricks';
import { usePlayhead } from '../data/playhead';
import { useStartParticles, useStartRefine, useStartTool } from '../data/queries/bakes';
import { ChoiceWord } from '../parts/controls';
import { Ingredient } from '../parts/Ingredient';
import { jobMark, timeLeft } from '../parts/Job';
import { Button, bytes, Plain, Primary, Quiet, Trouble } from '../parts/ui';
import type { StageProps } from './context';

const Kinds = styled.div`
  display: flex;
  gap: 6px;
  margin: 8px 0 4px;
`;
const Keys = styled.div`
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  align-items: center;
  margin: 6px 0;
`;
const StepRow = styled.div`
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 6px;
  align-items: start;
  border-left: 1px solid ${({ theme }) => theme.line};
  padding-left: 8px;
  margin: 4px 0;
`;
type Kind = 'tools' | 'refine' | 'particles';
const KINDS: readonly { key: Kind; label: string }[] = [
  { key: 'tools', label: 'tools' },
  { key: 'refine', label: 'refine' },
  { key: 'particles', label: 'particles' },
];
const FORMATS = [
  { value: 'ply', label: 'PLY' },
  { value: 'csv', label: 'CSV' },
];

export function Work(props: StageProps & { bake: BakeInfo }): ReactNode {
  const [kind, setKind] = useState<Kind | null>(null);
  return (
    <>
      <Kinds role="group" aria-label="Work on it">
        {KINDS.map(({ key, label }) => (
          <Plain
            key={key}
            aria-expanded={kind === key}
            style={kind === key ? { textDecoration: 'underline', textUnderlineOffset: 3 } : {}}
            onPress={() => setKind(kind === key ? null : key)}
          >
            {label} …
          </Plain>
        ))}
      </Kinds>
      {kind === 'tools' && <Tools {...props} />}
      {kind === 'refine' && <Refining {...props} />}
      {kind === 'particles' && <ParticlesForm {...props} />}
    </>
  );
}

/** Asks for one frame as it would come out, and shows it in the window. */
function useTrying(bake: BakeInfo): {
  busy: boolean;
  error: string | null;
  on: boolean;
  attempt: (what: object) => void;
  end: () => void;
} {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string | null>(null);
  const on = useBricks((s) => s.tried?.bakeId === bake.id);
  useEffect(() => () => void showTried(null), [bake.id]);
  return {
    busy,
    error,
    on,
    attempt: (what) => {
      const { frame } = usePlayhead.getState();
      setBusy(true);
      setError(null);
      void (async () => {
        const answer = await fetch(routes.tried(bake.id), {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify({ frame, ...what }),
        });
        if (!answer.ok) throw new Error(((await answer.json()) as { error: string }).error);
        await showTried({ bakeId: bake.id, frame, bytes: new Uint8Array(await answer.arrayBuffer()) });
      })()
        .catch((e: Error) => setError(e.message))
        .finally(() => setBusy(false));
    },
    end: () => void showTried(null),
  };
}

function Trying({ trying, what }: { trying: ReturnType<typeof useTrying>; what: object }): ReactNode {
  const frame = usePlayhead((s) => s.frame);
  return (
    <>
      <Button isDisabled={trying.busy} onPress={() => trying.attempt(what)}>
        {trying.busy ? 'Trying …' : `Try on frame ${frame}`}
      </Button>
      {trying.on && <Plain onPress={trying.end}>as it was</Plain>}
    </>
  );
}

function Form({
  part,
  values,
  frameRate,
  onChange,
}: {
  part: Part;
  values: object;
  frameRate: number;
  onChange: (path: string, value: unknown) => void;
}): ReactNode {
  return (
    <Ingredient
      part={part}
      values={values}
      frameRate={frameRate}
      onChange={(path, _label, value) => onChange(path, value)}
    />
  );
}

function Tools({ shot, bake, chooseBake }: StageProps & { bake: BakeInfo }): ReactNode {
  const [steps, setSteps] = useState<readonly ToolStep[]>(() => [atHand('smooth', bake)]);
  const start = useStartTool(shot.id);
  const trying = useTrying(bake);
  const { frameRate } = bake.recipe.space;
  return (
    <>
      {steps.map((s, n) => (
        <StepRow key={n}>
          <Form
            part={TOOLS.find((t) => t.part.key === s.tool)!.part}
            values={s.settings}
            frameRate={frameRate}
            onChange={(path, value) =>
              setSteps(
                steps.map((o, m) => (m === n ? { ...o, settings: setAt(o.settings, path, value) } : o)),
              )
            }
          />
          <Plain
            aria-label={`Take away step ${n + 1}`}
            onPress={() => setSteps(steps.filter((_, m) => m !== n))}
          >
            <X size={13} />
          </Plain>
        </StepRow>
      ))}
      <Keys>
        <span>
          {steps.length > 0 ? 'then ' : ''}
          <ChoiceWord
            name="Next step"
            value=""
            options={[
              { value: '', label: 'add a tool' },
              ...TOOLS.map(({ part }) => ({ value: part.key, label: part.title.toLowerCase() })),
            ]}
            onChange={(tool) => tool !== '' && setSteps([...steps, atHand(tool, bake)])}
          />
        </span>
      </Keys>
      {(trying.error ?? start.error?.message) && <Trouble>{trying.error ?? start.error?.message}</Trouble>}
      <Keys>
        <Trying trying={trying} what={{ steps }} />
        <Primary
          isDisabled={steps.length === 0 || start.isPending}
          onPress={() =>
            start.mutate({ bakeId: bake.id, steps }, { onSuccess: (made) => chooseBake(made.id) })
          }
        >
          Make a new cache
        </Primary>
      </Keys>
    </>
  );
}

/** A new step with what suits the cache: its frames, its domain, two of its voxels. */
function atHand(tool: string, bake: BakeInfo): ToolStep {
  const step = newStep(tool);
  const { corner, size } = bake.recipe.space;
  const suits: Record<string, object> = {
    trim: { from: bake.first, until: bake.last },
    crop: { least: corner, most: corner.map((c, a) => c + size[a]) },
    smooth: { radius: Number((2 * bake.voxelSizeM).toPrecision(2)) },
    sharpen: { radius: Number((2 * bake.voxelSizeM).toPrecision(2)) },
  };
  return { tool, settings: { ...step.settings, ...suits[tool] } };
}

function Refining({ shot, bake, chooseBake }: StageProps & { bake: BakeInfo }): ReactNode {
  const [settings, setSettings] = useState<Refine>(REFINE.start);
  const start = useStartRefine(shot.id);
  const trying = useTrying(bake);
  if (!bake.channels.includes('velocity'))
    return <Quiet>It keeps no velocity for detail to ride on. Bake it with velocity.</Quiet>;
  return (
    <>
      <Form
        part={REFINE.part}
        values={settings}
        frameRate={bake.recipe.space.frameRate}
        onChange={(path, value) => setSettings(setAt(settings, path, value))}
      />
      {(trying.error ?? start.error?.message) && <Trouble>{trying.error ?? start.error?.message}</Trouble>}
      <Keys>
        <Trying trying={trying} what={{ refine: settings }} />
        <Primary
          isDisabled={start.isPending}
          onPress={() =>
            start.mutate({ bakeId: bake.id, settings }, { onSuccess: (made) => chooseBake(made.id) })
          }
        >
          Refine {bake.frames.length} frames
        </Primary>
      </Keys>
      <Quiet>Compare the two afterwards, wiped: what lies over a coarse voxel stays the same.</Quiet>
    </>
  );
}

function ParticlesForm({ shot, bake }: StageProps & { bake: BakeInfo }): ReactNode {
  const [settings, setSettings] = useState<ParticleAdvection>(PARTICLE_ADVECTION.start);
  const [format, setFormat] = useState('ply');
  const start = useStartParticles(shot.id);
  const own = shot.particleRuns.filter((d) => d.bakeId === bake.id);
  if (!bake.channels.includes('velocity'))
    return <Quiet>It keeps no velocity to carry them. Bake it with velocity.</Quiet>;
  return (
    <>
      <Form
        part={PARTICLE_ADVECTION.part}
        values={settings}
        frameRate={bake.recipe.space.frameRate}
        onChange={(path, value) => setSettings(setAt(settings, path, value))}
      />
      {start.error && <Trouble>{start.error.message}</Trouble>}
      <Keys>
        <span>
          as <ChoiceWord name="Format" value={format} options={FORMATS} onChange={setFormat} /> files
        </span>
        <Primary
          isDisabled={start.isPending}
          onPress={() => start.mutate({ bakeId: bake.id, settings, format: format as 'ply' | 'csv' })}
        >
          Send them through
        </Primary>
      </Keys>
      {own.map((d) => (
        <Quiet as="div" key={d.id}>
          {d.settings.count.toLocaleString('en')} particles{' '}
          {d.settings.way === 'forward' ? 'forward' : 'back'}, {d.frames} frames, {bytes(d.bytes)}{' '}
          {d.job?.state === 'done' ? (
            <a href={routes.particlePackage(d.id)}>Download particles</a>
          ) : (
            <>
              {jobMark(d.job)} {d.job && timeLeft(d.job)}
            </>
          )}
        </Quiet>
      ))}
    </>
  );
}

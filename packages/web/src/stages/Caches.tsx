// The bakes of a shot and what was made of them: how current, how trusted, and what can be done with the
// chosen one.
import { zip, type Zippable } from 'fflate';
import { useState, type ReactNode } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import type { BakeInfo, OutOfDate } from '@bramblemist/contracts/payloads/made';
import type { VolumesReport } from '@bramblemist/core/volume/adopt';
import { TOOLS } from '@bramblemist/core/volume/tools/tools';
import { getAt } from '@bramblemist/core/recipe/paths';
import { sizeOf } from '@bramblemist/core/recipe/sizes';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { moreSubsteps, withMoreSubsteps } from '@bramblemist/core/record/incident';
import { formatValue } from '@bramblemist/core/recipe/units';
import { changeRecipe, useBench } from '../data/bench';
import { compareWith, useCompare } from '../data/compare';
import { useBringVolumes, useLock, useVerify, useVolumesFolder } from '../data/queries/bakes';
import { useGoOnJob, useMoreSubsteps, usePauseJob, useStopJob } from '../data/queries/jobs';
import { useKeeping } from '../data/queries/storage';
import { ChoiceWord } from '../parts/controls';
import { jobMark, pace, timeLeft } from '../parts/Job';
import { Bar, Button, bytes, Heading, Mark, Plain, Quiet, Section, Trouble } from '../parts/ui';
import type { StageProps } from './context';
import { Work } from './Work';

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
const Acts = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  margin-top: 4px;
`;

/** Its voxels, and what their size is called where it is one of the recipe's and straight from a run. */
function voxelsOf({ made, recipe, voxelSizeM }: BakeInfo): string {
  const size = made ? null : sizeOf(recipe, voxelSizeM);
  const voxels = `voxels of ${formatValue(Number(voxelSizeM.toPrecision(4)), 'm')}`;
  const finer = !made && recipe.space.medium === 'finer' ? ', the medium twice as fine' : '';
  return `${size ? `${size} size, ` : ''}${voxels}${finer}`;
}

/** “Bake 5 · bake 3 refined 2 ×”: what it is in a few words. */
function cacheName({ id, variantNumber, made }: BakeInfo): string {
  if (!made) return `Bake ${id} · variant ${variantNumber}`;
  if (made.kind === 'brought') return `Bake ${id} · ${made.name}`;
  if (made.kind === 'refine') return `Bake ${id} · bake ${made.of} refined ${made.settings.times} ×`;
  const titles = made.steps.map(
    (s) => TOOLS.find((t) => t.part.key === s.tool)?.part.title.toLowerCase() ?? s.tool,
  );
  return `Bake ${id} · bake ${made.of}: ${titles.join(', ')}`;
}

export function Caches(props: StageProps): ReactNode {
  const { shot, bake, chooseBake } = props;
  const own = [...shot.bakes].reverse();
  return (
    <Section aria-label="Bakes">
      <Heading>
        Bakes <Bring {...props} />
      </Heading>
      {own.length === 0 && (
        <Quiet>None yet. A bake writes one OpenVDB file a frame and keeps on when you leave this page.</Quiet>
      )}
      {own.map((b) => (
        <Row key={b.id} $chosen={b.id === bake?.id}>
          <Top>
            <Name type="button" aria-pressed={b.id === bake?.id} onClick={() => chooseBake(b.id)}>
              {cacheName(b)}
            </Name>
            <StateOf bake={b} />
          </Top>
          <Quiet>
            {voxelsOf(b)} · {b.frames.length} of {b.last - b.first + 1} frames · {bytes(b.bytes)}
          </Quiet>
          {b.made?.kind === 'brought' && b.id === bake?.id && <Grids report={b.made.report} />}
          <Running bake={b} />
          {b.job?.message && <Trouble>{b.job.message}</Trouble>}
          <Stale bake={b} />
          {b.id === bake?.id ? <Chosen {...props} bake={b} /> : <Others bake={b} />}
        </Row>
      ))}
    </Section>
  );
}

/** What a sequence from elsewhere holds, and what was made of it. */
function Grids({ report }: { report: VolumesReport }): ReactNode {
  const short = (v: number): string => String(Number(v.toPrecision(3)));
  return (
    <Quiet as="ul" style={{ margin: '2px 0', paddingLeft: 16 }}>
      {report.grids.map((g, n) => (
        <li key={n}>
          {g.name}, {g.type}
          {g.range && `, ${short(g.range[0])} to ${short(g.range[1])}`}
          {g.box && ', ' + edges(g.box)}
        </li>
      ))}
      {report.notes.map((note) => (
        <li key={note}>{note}</li>
      ))}
    </Quiet>
  );
}

/** Brings volumes from elsewhere in as a bake of the shot. */
function Bring({ shot, chooseBake }: StageProps): ReactNode {
  const bring = useBringVolumes(shot.id);
  const folder = useVolumesFolder();
  const [part, setPart] = useState<number | null>(null);
  const [error, setError] = useState<string | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const go = async (what: { file?: File; name?: string }): Promise<void> => {
    setError(null);
    setPart(0);
    try {
      const came = await bring.mutateAsync({ ...what, onPart: setPart });
      if ('isResult' in came && came.what === 'render')
        setSaid(`Render ${came.id} is back with ${came.frames} frames: see Light.`);
      else chooseBake(came.id);
    } catch (e) {
      setError((e as Error).message);
    } finally {
      setPart(null);
    }
  };

  const chosen = async (list: FileList | null): Promise<void> => {
    const files = [...(list ?? [])];
    if (files.length === 1) return go({ file: files[0] });
    if (files.length > 1) return go({ file: await zipped(files) });
  };

  return (
    <small>
      {part !== null ? (
        <>bringing in … {Math.round(100 * part)} %</>
      ) : (
        <>
          <FileTrigger
            allowsMultiple
            acceptedFileTypes={['.vdb', '.zip']}
            onSelect={(list) => void chosen(list)}
          >
            <Plain>+ bring volumes</Plain>
          </FileTrigger>
          {(folder.data?.names.length ?? 0) > 0 && (
            <>
              {' '}
              <ChoiceWord
                name="Volumes"
                value=""
                options={[
                  { value: '', label: 'from the folder' },
                  ...folder.data!.names.map((n) => ({ value: n, label: n })),
                ]}
                onChange={(name) => name !== '' && void go({ name })}
              />
            </>
          )}
        </>
      )}
      {said && <span role="status">{said}</span>}
      {error && <Trouble>{error}</Trouble>}
    </small>
  );
}

/** Many files as one ZIP, unpacked as they are: volumes are packed already. */
async function zipped(files: readonly File[]): Promise<File> {
  const parts = Object.fromEntries(
    await Promise.all(
      files.map(async (f) => [f.name, [new Uint8Array(await f.arrayBuffer()), { level: 0 }]] as const),
    ),
  ) as unknown as Zippable;
  const bytes = await new Promise<Uint8Array>((done, fail) =>
    zip(parts, (error, data) => (error ? fail(error) : done(data))),
  );
  return new File([bytes as BlobPart], `${files[0].name.replace(/[._-]?\d*\.\w+$/, '') || 'volumes'}.zip`);
}

function StateOf({ bake: b }: { bake: BakeInfo }): ReactNode {
  if (b.verified && b.verified.damages.length > 0) return <Mark state="trouble">damaged</Mark>;
  if (b.job?.state !== 'done') return jobMark(b.job);
  if (b.outOfDate.length > 0) return <Mark state="stale">out of date{b.locked ? ', locked' : ''}</Mark>;
  return <Mark state="well">{b.locked ? 'current, locked' : 'current'}</Mark>;
}

function Running({ bake: b }: { bake: BakeInfo }): ReactNode {
  const stop = useStopJob();
  const pause = usePauseJob();
  const goOn = useGoOnJob();
  const more = useMoreSubsteps();
  if (!b.job) return null;
  if (['paused', 'stopped', 'failed'].includes(b.job.state))
    return (
      <Acts>
        <Button onPress={() => goOn.mutate(b.job!.id)}>
          {b.job.state === 'failed' ? 'Try again' : 'Go on'}
        </Button>
        {b.job.state === 'failed' && b.made === null && b.frames.length > 0 && (
          <Button
            onPress={() => {
              takeUpSubsteps(b.recipe);
              more.mutate(b.job!.id);
            }}
          >
            Go on with more substeps
          </Button>
        )}
        {more.error && <Trouble>{more.error.message}</Trouble>}
      </Acts>
    );
  if (b.job.state !== 'running') return null;
  return (
    <>
      <Bar
        $part={b.job.done / Math.max(1, b.job.total)}
        style={{ margin: '6px 0' }}
        role="progressbar"
        aria-valuenow={b.job.done}
        aria-valuemax={b.job.total}
        aria-label={`Bake ${b.id}`}
      />
      <Top>
        <Quiet>{[timeLeft(b.job), pace(b.job)].filter(Boolean).join(' · ')}</Quiet>
        <span style={{ display: 'flex', gap: 6 }}>
          <Button onPress={() => pause.mutate(b.job!.id)}>Pause</Button>
          <Button onPress={() => stop.mutate(b.job!.id)}>Stop</Button>
        </span>
      </Top>
    </>
  );
}

/** The variant asks for as many substeps from now on, where it asked for as many as the bake had. */
function takeUpSubsteps(baked: Recipe): void {
  const { recipe } = useBench.getState().documents!;
  const settings = moreSubsteps(baked);
  if (settings.some(([path]) => getAt(recipe, path) !== getAt(baked, path))) return;
  changeRecipe('more substeps', withMoreSubsteps(recipe));
}

const MOST_TOLD = 4;

/** What has changed since, when, and which channels it reaches. */
function Stale({ bake: b }: { bake: BakeInfo }): ReactNode {
  if (b.job?.state !== 'done' || b.outOfDate.length === 0) return null;
  const told = b.outOfDate.slice(0, MOST_TOLD);
  const all = new Set(b.outOfDate.flatMap((d) => d.channels));
  return (
    <Quiet as="div">
      changed since in variant {b.variantNumber}:
      <ul style={{ margin: '2px 0', paddingLeft: 16 }}>
        {told.map((d) => (
          <li key={d.path}>{inWords(d, b)}</li>
        ))}
      </ul>
      {b.outOfDate.length > MOST_TOLD && `and ${b.outOfDate.length - MOST_TOLD} more; `}
      {all.size === 0 && 'no channel that is kept comes out otherwise'}
      {all.size > 0 &&
        all.size < b.channels.length &&
        `${[...all].join(', ')} alone would come out otherwise`}
    </Quiet>
  );
}

function inWords({ path, from, to, at }: OutOfDate, b: BakeInfo): string {
  if (path === 'solver') return 'the solver, which makes it otherwise now';
  const words = path.split('.');
  const part = (b.recipe as unknown as Record<string, unknown>)[words[0]];
  const name = Array.isArray(part)
    ? ((part[Number(words[1])] as { name?: string } | undefined)?.name ?? words[1])
    : words[0];
  const rest = words.slice(Array.isArray(part) ? 2 : 1).join(' ');
  const short = (v: unknown): string => (v === null || typeof v === 'object' ? '…' : String(v));
  const when =
    at === null ? '' : `, ${new Date(at).toLocaleString([], { dateStyle: 'short', timeStyle: 'short' })}`;
  return typeof from === 'object' || typeof to === 'object' || from === undefined || to === undefined
    ? `${name} ${rest}${when}`
    : `${name} ${rest} ${short(from)} → ${short(to)}${when}`;
}

function Others({ bake: b }: { bake: BakeInfo }): ReactNode {
  const compared = useCompare((s) => (s.other?.kind === 'bake' ? s.other.id : null));
  if (b.frames.length === 0) return null;
  return (
    <Plain
      aria-pressed={compared === b.id}
      onPress={() => compareWith(compared === b.id ? null : { kind: 'bake', id: b.id })}
    >
      {compared === b.id ? 'end comparing' : 'compare'}
    </Plain>
  );
}

/** What can be done with the bake that is looked at. */
function Chosen(props: StageProps & { bake: BakeInfo }): ReactNode {
  const { shot, bake: b } = props;
  const verify = useVerify(shot.id);
  const lock = useLock(shot.id);
  const keep = useKeeping();
  if (b.frames.length === 0) return null;
  const busy = b.job?.state === 'running' || b.job?.state === 'queued';
  const error = verify.error ?? lock.error ?? keep.error;
  return (
    <>
      <Acts role="group" aria-label={`Bake ${b.id}`}>
        <Plain onPress={() => verify.mutate({ bakeId: b.id })}>Verify files</Plain>
        <Plain
          isDisabled={busy}
          aria-pressed={b.locked}
          onPress={() => lock.mutate({ bakeId: b.id, locked: !b.locked })}
        >
          {b.locked ? 'unlock' : 'lock'}
        </Plain>
        <Plain
          isDisabled={busy || b.locked}
          onPress={() => keep.mutate({ act: 'clear', kind: 'bakes', id: b.id })}
        >
          Move to bin · {bytes(b.bytes)}
        </Plain>
      </Acts>
      {b.verified && (
        <Quiet>
          {b.verified.damages.length === 0
            ? 'verified: as it was written'
            : `damaged: ${b.verified.damages.map((d) => `frame ${d.frame}, ${d.what}`).join('; ')}`}
          , {new Date(b.verified.at).toLocaleString([], { dateStyle: 'short', timeStyle: 'short' })}
        </Quiet>
      )}
      {error && <Trouble>{error.message}</Trouble>}
      <Work {...props} />
    </>
  );
}

/** The edges of a box, as lengths. */
const edges = ({ least, most }: { least: readonly number[]; most: readonly number[] }): string =>
  most.map((m, a) => formatValue(Number((m - least[a]).toPrecision(3)), 'm')).join(' × ');

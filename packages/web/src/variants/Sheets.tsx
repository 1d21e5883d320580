// Trial sheets of a shot: pick one setting or two and the values to try, and see all runs in step; adopt one
// as a variant.
import { Pause, Play } from 'lucide-react';
import { useEffect, useMemo, useState, type ReactNode } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import styled from 'styled-components';
import type { SheetInfo, ShotInfo, VariantInfo } from '@bramblemist/contracts/payloads/shot';
import { around, captionOf, cellsOf, MOST_CELLS, type Varied } from '@bramblemist/core/analysis/sheet';
import { voxelSizeAt, type Size } from '@bramblemist/core/recipe/sizes';
import { numbersOf } from '@bramblemist/core/recipe/tell';
import { formatValue } from '@bramblemist/core/recipe/units';
import { readValues, valuesText, type ReadValues } from './values';
import { windowOver } from '@bramblemist/core/grid/lattice';
import { TopBar } from '../app/TopBar';
import { useNewVariant, useShot } from '../data/queries/shot';
import { useStartSheet } from '../data/queries/bakes';
import { useStopJob } from '../data/queries/jobs';
import { ChoiceWord } from '../parts/controls';
import { SizeWord } from '../parts/SizeWord';
import { Bar, Button, Heading, Plain, Primary, Quiet, Section, Trouble } from '../parts/ui';
import { jobMark, timeLeft } from '../parts/Job';
import { MovingPicture } from './MovingPicture';
import { PickNumber } from './PickNumber';

const Page = styled.main`
  height: calc(100% - 46px);
  display: grid;
  grid-template-columns: clamp(300px, 27vw, 420px) 1fr;
  > * {
    overflow: auto;
    min-height: 0;
    padding: 14px 18px;
  }
  > :first-child {
    border-right: 1px solid ${({ theme }) => theme.line};
    background: ${({ theme }) => theme.panel};
  }
`;
const Sentence = styled.div`
  font: 15px/1.7 ${({ theme }) => theme.serif};
  margin-bottom: 8px;
`;
const Values = styled.input<{ $wrong: boolean }>`
  width: 100%;
  background: transparent;
  color: ${({ theme }) => theme.text};
  border: 1px solid ${({ theme, $wrong }) => ($wrong ? theme.rust : theme.line)};
  border-radius: 4px;
  padding: 3px 8px;
  font: 13px/1.4 ${({ theme }) => theme.sans};
`;
const Grid = styled.div<{ $across: number }>`
  display: grid;
  grid-template-columns: repeat(${({ $across }) => $across}, minmax(0, 1fr));
  gap: 14px 12px;
`;
const Cell = styled.figure`
  margin: 0;
  figcaption {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    margin-top: 4px;
  }
`;
const Controls = styled.span`
  display: flex;
  gap: 12px;
  align-items: center;
  white-space: nowrap;
  font: 13px/1.3 ${({ theme }) => theme.sans};
  font-variant-numeric: tabular-nums;
  color: ${({ theme }) => theme.quiet};
  input {
    accent-color: ${({ theme }) => theme.thorn};
  }
`;
const Old = styled.div`
  border-top: 1px solid ${({ theme }) => theme.line};
  padding: 7px 0;
`;

/** Frames of a sheet at first: enough to see a motion. */
const FIRST_LENGTH = 72;
/** Runs beside each other at the most. */
const MOST_ACROSS = 4;

interface Tried {
  readonly path: string;
  readonly text: string;
}
export function Sheets(): ReactNode {
  const { id } = useParams();
  const shot = useShot(Number(id));
  if (shot.error)
    return (
      <>
        <TopBar crumbs={[{ label: 'Trial sheets' }]} />
        <Trouble>{shot.error.message}</Trouble>
      </>
    );
  if (!shot.data) return <TopBar crumbs={[{ label: 'Fetching the shot …' }]} />;
  return <OpenSheets shot={shot.data} />;
}

function OpenSheets({ shot }: { shot: ShotInfo }): ReactNode {
  const [params, setParams] = useSearchParams();
  const sheets = [...shot.sheets].reverse();
  const chosen = sheets.find((s) => s.id === Number(params.get('sheet'))) ?? sheets[0] ?? null;
  const choose = (id: number): void => setParams({ sheet: String(id) });
  return (
    <>
      <TopBar
        crumbs={[
          { label: shot.production.name, to: '/board' },
          { label: shot.name, to: `/shots/${shot.id}/set-up` },
          { label: 'Trial sheets' },
        ]}
      />
      <Page>
        <div>
          <NewSheet shot={shot} onMade={choose} path={params.get('vary')} />
          <Section>
            <Heading>Sheets</Heading>
            {sheets.length === 0 && <Quiet>None yet.</Quiet>}
            {sheets.map((s) => (
              <Old key={s.id}>
                <Plain
                  aria-pressed={s.id === chosen?.id}
                  onPress={() => choose(s.id)}
                  style={s.id === chosen?.id ? { fontWeight: 600 } : {}}
                >
                  Sheet {s.id} · variant {s.variantNumber}
                </Plain>{' '}
                {jobMark(s.job)}
                <Quiet>{s.varied.map((v) => nameOf(s, v)).join(' and ')}</Quiet>
              </Old>
            ))}
          </Section>
        </div>
        {chosen ? (
          <Shown key={chosen.id} shot={shot} sheet={chosen} />
        ) : (
          <section>
            <Quiet>
              A trial sheet runs the shot many times at a small size with one setting or two varied, and shows
              all of them moving in step. Pick a setting on the left, say which values to try, and run them.
            </Quiet>
          </section>
        )}
      </Page>
    </>
  );
}

const nameOf = ({ recipe }: SheetInfo, { path, values }: Varied): string => {
  const found = numbersOf(recipe).find((n) => n.path === path);
  return found
    ? `${found.part}: ${found.setting.label} ` +
        `${values.map((v) => formatValue(v, found.setting.unit)).join(', ')}`
    : path;
};

function NewSheet({
  shot,
  onMade,
  path,
}: {
  shot: ShotInfo;
  onMade: (id: number) => void;
  path: string | null;
}): ReactNode {
  const [variantId, setVariantId] = useState(shot.variants[shot.variants.length - 1].id);
  const variant = shot.variants.find((v) => v.id === variantId)!;
  const { recipe } = variant;
  const { space } = recipe;
  const numbers = useMemo(() => numbersOf(recipe), [recipe]);
  const fresh = (p: string, count: number): Tried => {
    const n = numbers.find((x) => x.path === p);
    return { path: p, text: n ? valuesText(around(n.setting, n.value, count), n.setting.unit) : '' };
  };

  const [tried, setTried] = useState<readonly Tried[]>(() => [
    fresh(path !== null && numbers.some((n) => n.path === path) ? path : 'turbulence/strength', 6),
  ]);
  const [size, setSize] = useState<Size>('rough');
  const [length, setLength] = useState(String(FIRST_LENGTH));
  const start = useStartSheet(shot.id);
  const read = tried.map(({ path: p, text }): ReadValues => {
    const n = numbers.find((x) => x.path === p);
    return n ? readValues(text, n.setting.unit, space.frameRate) : { ok: false, message: 'Pick a setting.' };
  });
  const last = Math.min(space.lastFrame, space.firstFrame + Number(length) - 1);
  const voxelSizeM = voxelSizeAt(recipe, size);
  const varied = read.map((r, n): Varied => ({ path: tried[n].path, values: r.ok ? r.values : [] }));
  let count = 0;
  let wrong: string | null = null;
  if (read.every((r) => r.ok)) {
    try {
      count = cellsOf(recipe, varied).length;
    } catch (error) {
      wrong = (error as Error).message;
    }
  }

  const { nx, ny, nz } = windowOver(space.corner, space.size, voxelSizeM).lattice;
  return (
    <Section>
      <Heading>Try values</Heading>
      <Sentence>
        From variant{' '}
        <ChoiceWord
          name="Variant"
          value={String(variantId)}
          options={shot.variants.map((v: VariantInfo) => ({
            value: String(v.id),
            label: `${v.number}, ${v.note || 'untitled'}`,
          }))}
          onChange={(v) => setVariantId(Number(v))}
        />{' '}
        at <SizeWord name="Size of the runs" value={size} onChange={setSize} />
        {' size, for '}
        <ChoiceWord
          name="Length of the runs"
          value={length}
          options={['24', '48', '72', '120', '240'].map((v) => ({ value: v, label: `${v} frames` }))}
          onChange={setLength}
        />
        .
      </Sentence>
      {tried.map((t, n) => {
        const r = read[n];
        const set = (next: Partial<Tried>): void =>
          setTried(tried.map((o, m) => (m === n ? { ...o, ...next } : o)));
        return (
          <div key={n} style={{ marginBottom: 10 }}>
            <PickNumber
              label={n === 0 ? 'What varies' : 'And what varies from row to row'}
              numbers={numbers}
              path={t.path}
              onPick={(p) =>
                setTried(tried.map((o, m) => (m === n ? fresh(p, tried.length === 1 ? 6 : 3) : o)))
              }
            />
            <Values
              aria-label={`Values to try${n ? ', from row to row' : ''}`}
              value={t.text}
              $wrong={!r.ok}
              onChange={(e) => set({ text: e.target.value })}
            />
            <Quiet as="span">
              around the present value:{' '}
              {[3, 4, 6].map((c) => (
                <Plain key={c} onPress={() => set(fresh(t.path, c))} style={{ marginRight: 4 }}>
                  {c} values
                </Plain>
              ))}
            </Quiet>
            {!r.ok && <Trouble>{r.message}</Trouble>}
          </div>
        );
      })}
      <p>
        {tried.length === 1 ? (
          <Plain
            onPress={() =>
              setTried([
                fresh(tried[0].path, 3),
                fresh(
                  numbers.find((n) => n.path !== tried[0].path && /density\.amount$/.test(n.path))?.path ??
                    'wind/speed',
                  3,
                ),
              ])
            }
          >
            + vary a second one from row to row
          </Plain>
        ) : (
          <Plain onPress={() => setTried([tried[0]])}>vary only the first</Plain>
        )}
      </p>
      {wrong && <Trouble>{wrong}</Trouble>}
      {start.error && <Trouble>{start.error.message}</Trouble>}
      <Quiet style={{ margin: '8px 0' }}>
        {count > 0
          ? `${count} runs of ${last - space.firstFrame + 1} frames, voxels of ` +
            `${formatValue(voxelSizeM, 'm')}, ${(nx * ny * nz).toLocaleString()} of them in each; at ` +
            `most ${MOST_CELLS} runs.`
          : 'Say what to vary.'}
      </Quiet>
      <Primary
        isDisabled={count === 0 || start.isPending}
        onPress={() =>
          start.mutate({ variantId, varied, voxelSizeM, last }, { onSuccess: (made) => onMade(made.id) })
        }
      >
        Run {count || ''} trials
      </Primary>
    </Section>
  );
}

function Shown({ shot, sheet }: { shot: ShotInfo; sheet: SheetInfo }): ReactNode {
  const stop = useStopJob();
  const create = useNewVariant(shot.id);
  const navigate = useNavigate();
  const cells = useMemo(() => cellsOf(sheet.recipe, sheet.varied), [sheet]);
  const there = sheet.job ? Math.floor(sheet.job.done / cells.length) : 0;
  const length = sheet.last - sheet.first + 1;
  const [playing, setPlaying] = useState(true);
  const [at, setAt] = useState(0);
  useEffect(() => {
    if (!playing || there === 0) return;
    const timer = setInterval(() => setAt((n) => (n + 1) % there), 1000 / sheet.recipe.space.frameRate);
    return () => clearInterval(timer);
  }, [playing, there, sheet.recipe.space.frameRate]);
  const shown = Math.min(at, Math.max(0, there - 1));
  const running = sheet.job?.state === 'running' || sheet.job?.state === 'queued';
  const across =
    sheet.varied.length === 2
      ? sheet.varied[0].values.length
      : Math.min(MOST_ACROSS, cells.length > 4 ? Math.ceil(cells.length / 2) : cells.length);
  const adopt = (n: number): void => {
    const note = captionOf(sheet.recipe, sheet.varied, cells[n].values);
    create.mutate(
      { note: `${note} (sheet ${sheet.id})`, from: sheet.variantId, recipe: cells[n].recipe },
      { onSuccess: () => navigate(`/shots/${shot.id}/set-up`) },
    );
  };

  return (
    <section aria-label={`Sheet ${sheet.id}`}>
      <Heading>
        <span>
          Sheet {sheet.id}{' '}
          <small>
            of variant {sheet.variantNumber},{' '}
            {sheet.varied
              .map((v) => numbersOf(sheet.recipe).find((n) => n.path === v.path))
              .map((n) => n && `${n.part}: ${n.setting.label}`)
              .join(' and ')}
          </small>
        </span>
        <Controls>
          <Plain aria-label={playing ? 'Pause' : 'Play'} onPress={() => setPlaying(!playing)}>
            {playing ? <Pause size={15} /> : <Play size={15} />}
          </Plain>
          <input
            type="range"
            aria-label="Frame"
            min={0}
            max={Math.max(0, there - 1)}
            value={shown}
            onChange={(e) => {
              setPlaying(false);
              setAt(Number(e.target.value));
            }}
          />
          frame {sheet.first + shown} of {sheet.last}
        </Controls>
      </Heading>
      {running && sheet.job && (
        <div style={{ display: 'flex', gap: 12, alignItems: 'center', margin: '0 0 10px' }}>
          <Bar
            $part={there / length}
            style={{ flex: 1 }}
            role="progressbar"
            aria-label={`Sheet ${sheet.id}`}
            aria-valuenow={there}
            aria-valuemax={length}
          />
          <Quiet>{sheet.job.state === 'queued' ? 'waits in the queue' : timeLeft(sheet.job)}</Quiet>
          <Button onPress={() => stop.mutate(sheet.job!.id)}>Stop here</Button>
        </div>
      )}
      {sheet.job?.message && <Trouble>{sheet.job.message}</Trouble>}
      {create.error && <Trouble>{create.error.message}</Trouble>}
      <Grid $across={across}>
        {cells.map((c, n) => {
          const caption = captionOf(sheet.recipe, sheet.varied, c.values);
          return (
            <Cell key={caption}>
              <MovingPicture sheet={sheet} cell={n} there={there} shown={shown} label={caption} />
              <figcaption>
                <span>{caption}</span>
                <Plain aria-label={`Adopt ${caption}`} isDisabled={create.isPending} onPress={() => adopt(n)}>
                  adopt
                </Plain>
              </figcaption>
              {sheet.troubles[n] && <Trouble>{sheet.troubles[n]}</Trouble>}
            </Cell>
          );
        })}
      </Grid>
    </section>
  );
}

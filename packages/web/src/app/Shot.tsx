// A shot: the page on the left, the window in the middle, the notebook on the right, the reel below.
import { Redo2, Undo2 } from 'lucide-react';
import { memo, useEffect, useMemo, useRef, useState, type ComponentType, type ReactNode, type RefObject } from 'react';
import { NavLink, useParams } from 'react-router';
import styled from 'styled-components';
import { useShallow } from 'zustand/react/shallow';
import type { BakeInfo, ShotInfo } from '@bramblemist/contracts/payloads';
import { routes } from '@bramblemist/contracts/routes';
import { canonicalText } from '@bramblemist/core/recipe/document';
import type { Readings } from '@bramblemist/core/readings/readings';
import { poseOf } from '@bramblemist/core/geometry/pose';
import { cellShape } from '@bramblemist/core/geometry/shape';
import type { Triple } from '@bramblemist/core/recipe/recipe';
import { alone } from '@bramblemist/core/recipe/edit';
import { formatValue } from '@bramblemist/core/recipe/units';
import { change, openVariant, redo, undo, useBench } from '../data/bench';
import { brickOf, useBricks, wantBricks } from '../data/bricks';
import { useAssets } from '../data/files';
import { play, usePlayhead } from '../data/playhead';
import { useSelection } from '../data/selection';
import { useShot } from '../data/queries';
import { endLive, liveThreads, pauseLive, roughVoxelSize, startLive, useLive } from '../live/use-live';
import { ChoiceWord } from '../parts/controls';
import { bytes, Plain, Quiet, Trouble } from '../parts/ui';
import { Lanes } from '../reel/Lanes';
import { Reel, useCalm, type FrameState } from '../reel/Reel';
import { Combine, combineOf } from '../stages/Combine';
import { STAGES, type StageKey, type StageProps } from '../stages/context';
import { HandOver } from '../stages/HandOver';
import { Light, renderOf } from '../stages/Light';
import { Run } from '../stages/Run';
import { SetUp } from '../stages/SetUp';
import { chosenPart, ROOM, useHandle, type Chosen } from '../viewport/Handle';
import { Viewport, type ViewportHandle } from '../viewport/Viewport';
import { Notebook } from './Notebook';
import { TopBar } from './TopBar';

const Bench = styled.div`
  height: calc(100% - 46px);
  display: grid;
  grid-template-columns: clamp(300px, 27vw, 460px) 1fr clamp(230px, 21vw, 380px);
  grid-template-rows: minmax(0, 1fr) 172px auto;
  > footer,
  > footer + div {
    grid-column: 1 / -1;
  }
`;
const Page = styled.main`
  border-right: 1px solid ${({ theme }) => theme.line};
  background: ${({ theme }) => theme.panel};
  padding: 14px 18px;
  overflow: auto;
  min-height: 0;
`;
const Window = styled.section`
  position: relative;
  min-width: 0;
  min-height: 0;
  background: ${({ theme }) => theme.surround};
  > div:first-child {
    position: absolute !important;
    inset: 0;
  }
`;
const Over = styled.div`
  position: absolute;
  left: 12px;
  right: 12px;
  display: flex;
  justify-content: space-between;
  gap: 12px;
  color: #f2f0f1;
  text-shadow: 0 1px 2px #000a;
  pointer-events: none;
  > * {
    pointer-events: auto;
  }
  button {
    color: #f2f0f1;
  }
`;
const Picture = styled.div`
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  background: ${({ theme }) => theme.surround};
  img {
    max-width: 100%;
    max-height: 100%;
    background: repeating-conic-gradient(#474748 0 25%, #414142 0 50%) 0 0 / 24px 24px;
  }
`;

const LIVE_SIZES = [
  { value: '40', label: 'rough' },
  { value: '64', label: 'fair' },
  { value: '96', label: 'fine' },
];
const RESTART_AFTER_MS = 150;
/** The reel's drawing follows the run no more often than this. */
const CALM_MS = 300;

export function Shot(): ReactNode {
  const { id, stage } = useParams();
  const shot = useShot(Number(id));
  if (shot.error) {
    return (
      <>
        <TopBar crumbs={[{ label: 'Shot' }]} />
        <Page style={{ border: 'none' }}>
          <Trouble>{shot.error.message} Go back to the board to choose another shot.</Trouble>
        </Page>
      </>
    );
  }
  if (!shot.data) return <TopBar crumbs={[{ label: 'Fetching the shot …' }]} />;
  return <OpenShot key={shot.data.id} shot={shot.data} stage={(STAGES.find((s) => s.key === stage)?.key ?? 'set-up') as StageKey} />;
}

const SetUpPage = memo(SetUp),
  RunPage = memo(Run),
  LightPage = memo(Light),
  CombinePage = memo(Combine),
  HandOverPage = memo(HandOver);
const PAGES: Record<StageKey, ComponentType<StageProps>> = {
  'set-up': SetUpPage,
  run: RunPage,
  light: LightPage,
  combine: CombinePage,
  'hand-over': HandOverPage,
};
const QuietNotebook = memo(Notebook);

/** What plays: the live run while the shot is set up or nothing is baked, else the bake. */
type Source = 'live' | 'bake';

/** Play and pause mean the live run while it is followed, and the playhead otherwise. */
function setPlaying(on: boolean): void {
  if (useLive.getState().status === 'paused' && on) {
    pauseLive(false);
    usePlayhead.setState({ follow: true, playing: false });
  } else if (usePlayhead.getState().follow && useLive.getState().status === 'running') pauseLive(true);
  else play(on);
}

function OpenShot({ shot, stage }: { shot: ShotInfo; stage: StageKey }): ReactNode {
  const [variantId, setVariantId] = useState<number | null>(null),
    [bakeId, setBakeId] = useState<number | null>(null),
    [longest, setLongest] = useState('64');
  const variant = shot.variants.find((v) => v.id === variantId) ?? shot.variants[shot.variants.length - 1];
  useEffect(() => openVariant(variant), [variant]);
  const open = useBench((b) => b.variantId),
    kept = useBench((b) => b.documents),
    documents = open === variant.id ? kept : null;
  const bake = shot.bakes.find((b) => b.id === bakeId) ?? shot.bakes[shot.bakes.length - 1] ?? null;
  const handle = useRef<ViewportHandle>(null);
  const source: Source = stage === 'set-up' || !bake ? 'live' : 'bake';

  // The live run starts with the page and again whenever something that reaches a voxel changed.
  const aloneId = useSelection((s) => s.alone);
  const recipeText = documents ? canonicalText({ ...alone(documents.recipe, aloneId), name: '', keep: null }) : null;
  const wantLive = source === 'live';
  useEffect(() => {
    if (!wantLive || recipeText === null) return;
    const timer = setTimeout(() => {
      const now = useBench.getState().documents;
      if (!now) return;
      // who stays at a frame goes on seeing that frame
      const { follow, playing } = usePlayhead.getState();
      if (follow || playing) usePlayhead.setState({ frame: now.recipe.space.firstFrame, follow: true, playing: false });
      startLive(alone(now.recipe, useSelection.getState().alone), roughVoxelSize(now.recipe, Number(longest)), liveThreads());
    }, RESTART_AFTER_MS);
    return () => clearTimeout(timer);
  }, [recipeText, wantLive, longest]);
  useEffect(() => {
    if (!wantLive) endLive();
  }, [wantLive]);
  useEffect(() => endLive, []);
  // A bake that runs is followed frame by frame until one looks elsewhere; a finished one keeps the playhead.
  const bakeKey = source === 'bake' && bake ? bake.id : null;
  const entered = useRef(bake);
  useEffect(() => {
    entered.current = bake;
  }, [bake]);
  useEffect(() => {
    const b = entered.current;
    if (bakeKey === null || !b) return;
    const { frame } = usePlayhead.getState(),
      unfinished = b.job?.state === 'queued' || b.job?.state === 'running';
    usePlayhead.setState({ follow: unfinished, playing: false, frame: frame < b.first || frame > b.last ? b.first : frame });
  }, [bakeKey]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      const target = e.target as HTMLElement;
      if (target.closest('input, textarea, select, [role=listbox]')) return;
      const command = e.ctrlKey || e.metaKey;
      if (command && e.key.toLowerCase() === 'z') {
        e.preventDefault();
        if (e.shiftKey) redo();
        else undo();
      } else if (command && e.key.toLowerCase() === 'y') {
        e.preventDefault();
        redo();
      } else if (!command && !e.altKey && e.key === ' ' && !target.closest('button, a, [role=spinbutton]')) {
        e.preventDefault();
        const head = usePlayhead.getState();
        setPlaying(!(head.playing || (head.follow && useLive.getState().status === 'running')));
      } else if (!command && e.key === 'h') handle.current?.frameAll();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  const props = useMemo<StageProps | null>(
    () => documents && { shot, variant, documents, bake, chooseBake: setBakeId },
    [shot, variant, documents, bake],
  );
  const StagePage = PAGES[stage];
  return (
    <>
      <ShotBar shot={shot} />
      <Bench>
        <Page aria-label="The page">{props && <StagePage {...props} />}</Page>
        {props ? (
          <WindowPane props={props} stage={stage} source={source} handle={handle} longest={longest} setLongest={setLongest} />
        ) : (
          <Window aria-label="The window" />
        )}
        {props ? (
          <QuietNotebook {...props} stage={stage} chooseVariant={setVariantId} />
        ) : (
          <aside>
            <Quiet>…</Quiet>
          </aside>
        )}
        {props ? <ReelPane documents={props.documents} bake={bake} source={source} /> : <footer />}
      </Bench>
    </>
  );
}

const ShotBar = memo(function ShotBar({ shot }: { shot: ShotInfo }): ReactNode {
  const past = useBench((b) => b.past[b.past.length - 1]?.label),
    future = useBench((b) => b.future[0]?.label);
  const saving = useBench((b) => b.saving),
    saveError = useBench((b) => b.saveError);
  const crumbs = useMemo(() => [{ label: shot.production.name, to: '/board' }, { label: shot.name }], [shot.production.name, shot.name]);
  return (
    <TopBar
      crumbs={crumbs}
      stages={STAGES.map((s) => (
        <NavLink key={s.key} to={`/shots/${shot.id}/${s.key}`}>
          {s.label}
        </NavLink>
      ))}
      tools={
        <>
          <span role="status">{saving === 'failed' ? `not saved: ${saveError ?? ''}` : saving === 'saved' ? 'saved' : 'saving …'}</span>
          <Plain aria-label={`Undo ${past ?? ''}`} isDisabled={past === undefined} onPress={undo}>
            <Undo2 size={16} />
          </Plain>
          <Plain aria-label={`Redo ${future ?? ''}`} isDisabled={future === undefined} onPress={redo}>
            <Redo2 size={16} />
          </Plain>
        </>
      }
    />
  );
});

/** The frames that can be shown now. */
function useThere(source: Source, bake: BakeInfo | null): readonly number[] {
  const live = useLive((s) => s.frames);
  return useMemo(() => (source === 'live' ? [...live.keys()] : (bake?.frames.map((f) => f.frame) ?? [])), [source, live, bake]);
}

/** Sets a part down on the floor of the room, by how far it reaches below its middle. */
function onGround({ list, index, part: { on }, name }: Chosen): void {
  const recipe = useBench.getState().documents!.recipe;
  if (list === ROOM || !on) return;
  const part = recipe[list][index],
    shape = cellShape(part, poseOf(part, 0), 1, null),
    low = shape.reach ? Math.min(...corners(shape.reach).map((c) => c.reduce((y, v, m) => y + v * shape.toOwn[m][1], 0))) : 0;
  change(`${name} to the ground`, 'recipe', `${list}.${index}.centre.1`, Number((recipe.space.corner[1] - low).toFixed(4)));
}
function corners([least, most]: readonly [Triple, Triple]): Triple[] {
  return Array.from({ length: 8 }, (_, n) => [0, 1, 2].map((a) => ((n >> a) & 1 ? most : least)[a]) as Triple);
}

function WindowPane({
  props,
  stage,
  source,
  handle,
  longest,
  setLongest,
}: {
  props: StageProps;
  stage: StageKey;
  source: Source;
  handle: RefObject<ViewportHandle | null>;
  longest: string;
  setLongest: (v: string) => void;
}): ReactNode {
  const grip = useHandle(),
    chosen = chosenPart(
      props.documents.recipe,
      useSelection((s) => s.id),
    );
  const { documents, bake } = props,
    assets = useAssets(documents.recipe),
    frame = usePlayhead((s) => s.frame),
    there = useThere(source, bake);
  const live = useLive(
    useShallow((s) => ({
      brick: s.frames.get(frame) ?? null,
      status: s.status,
      message: s.message,
      voxels: s.voxels,
      bytes: s.bytes,
      threads: s.threads,
      none: s.frames.size === 0,
    })),
  );
  const cached = useBricks((s) => (source === 'bake' && bake ? brickOf(s.kept, bake.id, frame) : null));
  useEffect(() => {
    if (source === 'bake' && bake) wantBricks(bake.id, frame, there);
  }, [source, bake, frame, there]);

  const found = source === 'live' ? live.brick : cached;
  // until the frame is there the last one stays, so that playing does not blink
  const [last, setLast] = useState(found);
  if (found && found !== last) setLast(found);
  const shown = found ?? (live.status === 'trouble' && live.none && source === 'live' ? null : last);

  const rendered = stage === 'light' || stage === 'combine' ? renderOf(props, frame) : null,
    combined = stage === 'combine' ? combineOf(props, frame) : null;
  const [showPicture, setShowPicture] = useState(true);
  const picture = combined
    ? routes.combinePicture(combined.id, frame, 'png')
    : rendered
      ? routes.renderPicture(rendered.render.id, frame, 'png')
      : null;
  const rough = roughVoxelSize(documents.recipe, Number(longest));
  return (
    <Window aria-label="The window">
      <Viewport recipe={documents.recipe} assets={assets} look={documents.look} shown={shown} handle={handle} />
      {picture && showPicture && (
        <Picture>
          <img src={picture} alt={`${combined ? 'Combined' : 'Rendered'} frame ${frame}`} />
        </Picture>
      )}
      <Over style={{ top: 10 }}>
        <span>
          {source === 'live' ? (
            <>
              playing at <ChoiceWord name="Live size" value={longest} options={LIVE_SIZES} onChange={setLongest} /> size, voxels of{' '}
              {formatValue(rough, 'm')}
            </>
          ) : picture && showPicture ? (
            combined ? (
              `combine ${combined.id}`
            ) : (
              `render ${rendered!.render.id}${rendered!.current ? '' : ' · look changed since'}`
            )
          ) : (
            `bake ${bake?.id ?? ''}, voxels of ${formatValue(bake?.voxelSizeM ?? 0, 'm')}`
          )}
        </span>
        <span style={{ display: 'flex', gap: 14 }}>
          {picture && <Plain onPress={() => setShowPicture(!showPicture)}>{showPicture ? 'show the scene' : 'show the picture'}</Plain>}
          <Plain onPress={() => handle.current?.frameAll()}>frame all</Plain>
          <Plain onPress={() => handle.current?.lookThroughCamera()}>shot camera</Plain>
        </span>
      </Over>
      <Over style={{ bottom: 10 }}>
        <span>
          {source === 'live' &&
            live.voxels > 0 &&
            `${(live.voxels / 1e6).toFixed(2)} million voxels · ${bytes(live.bytes)} · ${live.threads} ${live.threads === 1 ? 'thread' : 'threads'}`}
        </span>
        <span style={{ display: 'flex', gap: 14, marginLeft: 'auto' }}>
          {chosen && (
            <>
              <span role="group" aria-label={`Handle of ${chosen.name}`} style={{ display: 'flex', gap: 8 }}>
                {chosen.name}:
                {chosen.modes.map((mode) => {
                  const own = (chosen.modes.includes(grip.mode) ? grip.mode : 'move') === mode;
                  return (
                    <Plain
                      key={mode}
                      aria-pressed={own}
                      style={own ? { textDecoration: 'underline', textUnderlineOffset: 3 } : {}}
                      onPress={() => useHandle.setState({ mode })}
                    >
                      {mode}
                    </Plain>
                  );
                })}
              </span>
              {chosen.modes.includes('paint') && grip.mode === 'paint' && (
                <span role="group" aria-label="Brush" title="Hold Shift to wipe away" style={{ display: 'flex', gap: 8 }}>
                  brush {formatValue(grip.brushM, 'm')}
                  <Plain
                    aria-label="Smaller brush"
                    onPress={() => useHandle.setState({ brushM: Math.max(0.005, Number((grip.brushM / 1.4).toPrecision(2))) })}
                  >
                    −
                  </Plain>
                  <Plain
                    aria-label="Larger brush"
                    onPress={() => useHandle.setState({ brushM: Math.min(10, Number((grip.brushM * 1.4).toPrecision(2))) })}
                  >
                    +
                  </Plain>
                </span>
              )}
              <Plain onPress={() => useHandle.setState({ snap: !grip.snap })}>{grip.snap ? 'by steps' : 'freely'}</Plain>
              {chosen.list !== ROOM && <Plain onPress={() => onGround(chosen)}>to the ground</Plain>}
            </>
          )}
        </span>
        {live.status === 'trouble' && source === 'live' && <Trouble>{live.message}</Trouble>}
        {documents.recipe.sources.every((s) => !s.on) && source === 'live' && (
          <span>Nothing gives off the medium: add a source, or turn one on.</span>
        )}
      </Over>
    </Window>
  );
}

function ReelPane({ documents, bake, source }: { documents: StageProps['documents']; bake: BakeInfo | null; source: Source }): ReactNode {
  const { frame, playing, follow } = usePlayhead(),
    there = useThere(source, bake),
    { space } = documents.recipe;
  const live = useLive(useShallow((s) => ({ status: s.status, newest: s.newest, rate: s.rate, readings: s.readings })));
  const range = source === 'live' || !bake ? { first: space.firstFrame, last: space.lastFrame } : { first: bake.first, last: bake.last };

  // Follow the newest frame; when the live run is over, play it.
  useEffect(() => {
    const newest = source === 'live' ? live.newest : (there[there.length - 1] ?? null);
    if (follow && newest !== null) usePlayhead.setState({ frame: newest });
  }, [source, follow, live.newest, there]);
  useEffect(() => {
    if (source === 'live' && live.status === 'finished' && usePlayhead.getState().follow)
      usePlayhead.setState({ follow: false, playing: true });
  }, [source, live.status]);

  const available = useRef(there);
  useEffect(() => {
    available.current = there;
  }, [there]);
  useEffect(() => {
    if (!playing) return;
    const timer = setInterval(() => {
      const list = available.current;
      if (list.length === 0) return;
      const at = list.indexOf(usePlayhead.getState().frame);
      usePlayhead.setState({ frame: list[(at + 1) % list.length] });
    }, 1000 / space.frameRate);
    return () => clearInterval(timer);
  }, [playing, space.frameRate]);

  const baked = useMemo(() => new Map<number, Readings>(bake?.frames.map((f) => [f.frame, f.readings]) ?? []), [bake]);
  const stale = (bake?.outOfDate.length ?? 0) > 0,
    drawnFrames = useCalm(there, CALM_MS),
    drawnReadings = useCalm(source === 'live' ? live.readings : baked, CALM_MS);
  const stateOf = useMemo(() => {
    const have = new Set(drawnFrames);
    return (f: number): FrameState => (!have.has(f) ? 'none' : source === 'live' ? 'live' : stale ? 'stale' : 'kept');
  }, [drawnFrames, source, stale]);
  const words = {
    running: `${live.rate.toFixed(0)} fr/s live`,
    finished: 'run complete',
    idle: '',
    starting: 'starting',
    paused: 'paused',
    trouble: 'stopped',
  };
  return (
    <>
      <Reel
        first={range.first}
        last={range.last}
        frame={frame}
        frameRate={space.frameRate}
        playing={playing || (source === 'live' && follow && live.status === 'running')}
        stateOf={stateOf}
        readings={drawnReadings}
        note={source === 'live' ? words[live.status] : `bake ${bake?.id ?? ''}`}
        legend={
          source === 'live'
            ? `${there.length} of ${range.last - range.first + 1} computed`
            : `${there.length} kept${stale ? ', out of date' : ''}`
        }
        onPlay={setPlaying}
      />
      <Lanes recipe={documents.recipe} first={range.first} last={range.last} frame={frame} />
    </>
  );
}

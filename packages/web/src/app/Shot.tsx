// A shot: the page on the left, the window in the middle, the notebook on the right, the reel below.
import { Redo2, Undo2 } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { NavLink, useParams } from 'react-router';
import styled from 'styled-components';
import type { ShotInfo } from '@bramblemist/contracts/payloads';
import { routes } from '@bramblemist/contracts/routes';
import { canonicalText } from '@bramblemist/core/recipe/document';
import type { Readings } from '@bramblemist/core/readings/readings';
import { formatValue } from '@bramblemist/core/recipe/units';
import { openVariant, redo, undo, useBench } from '../data/bench';
import { brickOf, useBricks, wantBricks } from '../data/bricks';
import { goTo, play, usePlayhead } from '../data/playhead';
import { useShot } from '../data/queries';
import { endLive, liveThreads, pauseLive, roughVoxelSize, startLive, useLive } from '../live/use-live';
import { ChoiceWord } from '../parts/controls';
import { bytes, Plain, Quiet, Trouble } from '../parts/ui';
import { Reel, type FrameState } from '../reel/Reel';
import { Combine, combineOf } from '../stages/Combine';
import { STAGES, type StageKey, type StageProps } from '../stages/context';
import { HandOver } from '../stages/HandOver';
import { Light, renderOf } from '../stages/Light';
import { Run } from '../stages/Run';
import { SetUp } from '../stages/SetUp';
import { Viewport, type ViewportHandle } from '../viewport/Viewport';
import { Notebook } from './Notebook';
import { TopBar } from './TopBar';

const Bench = styled.div`
  height: calc(100% - 46px);
  display: grid;
  grid-template-columns: clamp(300px, 27vw, 460px) 1fr clamp(230px, 21vw, 380px);
  grid-template-rows: minmax(0, 1fr) 172px;
  > footer {
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

const PAGES: Record<StageKey, (props: StageProps) => ReactNode> = {
  'set-up': SetUp,
  run: Run,
  light: Light,
  combine: Combine,
  'hand-over': HandOver,
};
const LIVE_SIZES = [
  { value: '40', label: 'rough' },
  { value: '64', label: 'fair' },
  { value: '96', label: 'fine' },
];
const RESTART_AFTER_MS = 150;

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

function OpenShot({ shot, stage }: { shot: ShotInfo; stage: StageKey }): ReactNode {
  const [variantId, setVariantId] = useState<number | null>(null),
    [bakeId, setBakeId] = useState<number | null>(null),
    [longest, setLongest] = useState('64');
  const variant = shot.variants.find((v) => v.id === variantId) ?? shot.variants[shot.variants.length - 1];
  useEffect(() => openVariant(variant), [variant]);
  const bench = useBench(),
    documents = bench.variantId === variant.id ? bench.documents : null;
  const bake = shot.bakes.find((b) => b.id === bakeId) ?? shot.bakes[shot.bakes.length - 1] ?? null;
  const { frame, playing, follow } = usePlayhead();
  const live = useLive(),
    bricks = useBricks((s) => s.kept),
    handle = useRef<ViewportHandle>(null);
  const source = stage === 'set-up' || !bake ? 'live' : 'bake';

  // The live run starts with the page and again whenever something that reaches a voxel changed.
  const recipeText = documents ? canonicalText({ ...documents.recipe, name: '', keep: null }) : null;
  const wantLive = source === 'live';
  useEffect(() => {
    if (!wantLive || recipeText === null) return;
    const timer = setTimeout(() => {
      const now = useBench.getState().documents;
      if (!now) return;
      usePlayhead.setState({ frame: now.recipe.space.firstFrame, follow: true, playing: false });
      startLive(now.recipe, roughVoxelSize(now.recipe, Number(longest)), liveThreads());
    }, RESTART_AFTER_MS);
    return () => clearTimeout(timer);
  }, [recipeText, wantLive, longest]);
  useEffect(() => {
    if (!wantLive) endLive();
  }, [wantLive]);
  useEffect(() => endLive, []);

  const range =
    source === 'live' && documents
      ? { first: documents.recipe.space.firstFrame, last: documents.recipe.space.lastFrame }
      : bake
        ? { first: bake.first, last: bake.last }
        : { first: 1, last: 1 };
  const frameRate = documents?.recipe.space.frameRate ?? 24;
  const there = useMemo(
    () => (source === 'live' ? [...live.frames.keys()] : (bake?.frames.map((f) => f.frame) ?? [])),
    [source, live.frames, bake],
  );

  // Follow the newest live frame; when the run is over, play it.
  useEffect(() => {
    if (source === 'live' && follow && live.newest !== null) usePlayhead.setState({ frame: live.newest });
  }, [source, follow, live.newest]);
  useEffect(() => {
    if (source === 'live' && live.status === 'finished' && usePlayhead.getState().follow)
      usePlayhead.setState({ follow: false, playing: true });
  }, [source, live.status]);
  useEffect(() => {
    if (source !== 'bake' || !bake) return;
    usePlayhead.setState({ follow: false });
    const at = usePlayhead.getState().frame;
    if (at < bake.first || at > bake.last) goTo(bake.first);
  }, [source, bake]);

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
    }, 1000 / frameRate);
    return () => clearInterval(timer);
  }, [playing, frameRate]);

  useEffect(() => {
    if (source === 'bake' && bake) wantBricks(bake.id, frame, there);
  }, [source, bake, frame, there]);

  const found = source === 'live' ? (live.frames.get(frame) ?? null) : bake ? brickOf(bricks, bake.id, frame) : null;
  // until the frame is there the last one stays, so that playing does not blink
  const kept = useRef<typeof found>(null);
  if (found) kept.current = found;
  else if (source === 'live' && live.frames.size === 0 && live.status === 'trouble') kept.current = null;

  const onPlay = useCallback((on: boolean) => {
    if (useLive.getState().status === 'paused' && on) {
      pauseLive(false);
      usePlayhead.setState({ follow: true, playing: false });
    } else if (usePlayhead.getState().follow && useLive.getState().status === 'running') pauseLive(true);
    else play(on);
  }, []);

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
        onPlay(!(head.playing || (head.follow && useLive.getState().status === 'running')));
      } else if (!command && e.key === 'h') handle.current?.frameAll();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [onPlay]);

  const props: StageProps | null = documents && { shot, variant, documents, bake, chooseBake: setBakeId, frame };
  const StagePage = PAGES[stage];
  const rendered = props && stage === 'light' ? renderOf(props) : null,
    combined = props && stage === 'combine' ? combineOf(props) : null;
  const fallback = props && stage === 'combine' && !combined ? renderOf(props) : null;
  const [showPicture, setShowPicture] = useState(true);
  const picture = combined
    ? routes.combinePicture(combined.id, frame, 'png')
    : (rendered ?? fallback)
      ? routes.renderPicture((rendered ?? fallback)!.render.id, frame, 'png')
      : null;
  const readings = useMemo(
    () => (source === 'live' ? live.readings : new Map<number, Readings>(bake?.frames.map((f) => [f.frame, f.readings]) ?? [])),
    [source, live.readings, bake],
  );
  const stale = (bake?.outOfDate.length ?? 0) > 0;
  const have = useMemo(() => new Set(there), [there]);
  const stateOf = (f: number): FrameState => (!have.has(f) ? 'none' : source === 'live' ? 'live' : stale ? 'stale' : 'kept');
  const note =
    source === 'live'
      ? live.status === 'running'
        ? `${live.rate.toFixed(0)} fr/s live`
        : live.status === 'finished'
          ? 'run complete'
          : live.status === 'paused'
            ? 'paused'
            : live.status
      : `bake ${bake?.id ?? ''}`;
  const legend =
    source === 'live' ? `${have.size} of ${range.last - range.first + 1} computed` : `${have.size} kept${stale ? ', out of date' : ''}`;
  const isLivePlaying = playing || (source === 'live' && follow && live.status === 'running');

  return (
    <>
      <TopBar
        crumbs={[{ label: shot.production.name, to: '/board' }, { label: shot.name }]}
        stages={STAGES.map((s) => (
          <NavLink key={s.key} to={`/shots/${shot.id}/${s.key}`}>
            {s.label}
          </NavLink>
        ))}
        tools={
          <>
            <span role="status">
              {bench.saving === 'failed' ? `not saved: ${bench.saveError ?? ''}` : bench.saving === 'saved' ? 'saved' : 'saving …'}
            </span>
            <Plain
              aria-label={`Undo ${bench.past[bench.past.length - 1]?.label ?? ''}`}
              isDisabled={bench.past.length === 0}
              onPress={undo}
            >
              <Undo2 size={16} />
            </Plain>
            <Plain aria-label={`Redo ${bench.future[0]?.label ?? ''}`} isDisabled={bench.future.length === 0} onPress={redo}>
              <Redo2 size={16} />
            </Plain>
          </>
        }
      />
      <Bench>
        <Page aria-label="The page">{props && <StagePage {...props} />}</Page>
        <Window aria-label="The window">
          {documents && <Viewport recipe={documents.recipe} look={documents.look} shown={kept.current} handle={handle} />}
          {picture && showPicture && (
            <Picture>
              <img src={picture} alt={`${combined ? 'Combined' : 'Rendered'} frame ${frame}`} />
            </Picture>
          )}
          <Over style={{ top: 10 }}>
            <span>
              {source === 'live' ? (
                <>
                  playing at <ChoiceWord name="Live size" value={longest} options={LIVE_SIZES} onChange={setLongest} /> size
                  {documents && `, voxels of ${formatValue(roughVoxelSize(documents.recipe, Number(longest)), 'm')}`}
                </>
              ) : picture && showPicture ? (
                combined ? (
                  `combine ${combined.id}`
                ) : (
                  `render ${(rendered ?? fallback)!.render.id}${(rendered ?? fallback)!.current ? '' : ' · look changed since'}`
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
            {live.status === 'trouble' && source === 'live' && <Trouble>{live.message}</Trouble>}
            {documents?.recipe.sources.every((s) => !s.on) && source === 'live' && (
              <span>Nothing gives off the medium: add a source, or turn one on.</span>
            )}
          </Over>
        </Window>
        {props ? (
          <Notebook {...props} stage={stage} chooseVariant={setVariantId} />
        ) : (
          <aside>
            <Quiet>…</Quiet>
          </aside>
        )}
        <Reel
          first={range.first}
          last={range.last}
          frame={frame}
          frameRate={frameRate}
          playing={isLivePlaying}
          stateOf={stateOf}
          readings={readings}
          note={note}
          legend={legend}
          onPlay={onPlay}
        />
      </Bench>
    </>
  );
}

// A shot: the page on the left, the window in the middle, the notebook on the right, the reel below.
import { Redo2, Undo2 } from 'lucide-react';
import {
  memo,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type ComponentType,
  type ReactNode,
} from 'react';
import { NavLink, useParams } from 'react-router';
import styled from 'styled-components';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { canonicalText } from '@bramblemist/core/recipe/document';
import { withoutOtherForces, canContinue } from '@bramblemist/core/presets/edit';
import type { Size } from '@bramblemist/core/recipe/sizes';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { firstTouched } from '@bramblemist/core/recipe/touch';
import { onlySubsteps } from '@bramblemist/core/record/incident';
import { openVariant, redo, undo, useBench } from '../data/bench';
import { enterShot } from '../data/shot-store';
import { compareWith, holdLive, MODES, useCompare } from '../data/compare';
import { tellingFrame, usePlayhead } from '../data/playhead';
import { useSelection } from '../data/selection';
import { usePresent, useShot } from '../data/queries/shot';
import { live, useLive } from '../live/use-live';
import { Plain, Quiet, Trouble } from '../parts/ui';
import { STAGES, type StageKey, type StageProps } from '../stages/context';
import type { ViewportHandle } from '../viewport/Viewport';
import { actionOf, pressed, type ActionId } from './actions';
import { Finder } from './Finder';
import { History } from './History';
import { Shortcuts } from './Shortcuts';
import { Notebook } from './Notebook';
import { ReelPane } from './ReelPane';
import { playAgain, setPlaying, stepBy, type Source } from './there';
import { TopBar } from './TopBar';
import { Window, WindowPane } from '../window/Window';
import { OthersHere, SaveState, SaveTrouble } from './SaveState';
import { later } from '../parts/later';
import { Broken } from './Broken';
import { Tour } from '../tour/Tour';

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
  position: relative;
  border-right: 1px solid ${({ theme }) => theme.line};
  background: ${({ theme }) => theme.panel};
  padding: 14px 18px;
  overflow: auto;
  min-height: 0;
`;
const RESTART_AFTER_MS = 150;
/** What goes wrong begins some frames before it shows. */
const FRAMES_BACK = 3;

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
  return (
    <OpenShot
      key={shot.data.id}
      shot={shot.data}
      stage={(STAGES.find((s) => s.key === stage)?.key ?? 'set-up') as StageKey}
    />
  );
}

const CompWindow = later(() => import('../comp/CompView'), 'CompWindow');
const CompReel = later(() => import('../comp/CompReel'), 'CompReel');
const PAGES: Record<StageKey, ComponentType<StageProps>> = {
  'set-up': later(() => import('../stages/SetUp'), 'SetUp'),
  run: later(() => import('../stages/Run'), 'Run'),
  light: later(() => import('../stages/light/Light'), 'Light'),
  combine: later(() => import('../stages/combine/Combine'), 'Combine'),
  'hand-over': later(() => import('../stages/hand-over/HandOver'), 'HandOver'),
};
const QuietNotebook = memo(Notebook);

function OpenShot({ shot, stage }: { shot: ShotInfo; stage: StageKey }): ReactNode {
  useLayoutEffect(() => enterShot(shot.id), [shot.id]);
  const [variantId, setVariantId] = useState<number | null>(null);
  const [bakeId, setBakeId] = useState<number | null>(null);
  const [size, setSize] = useState<Size>('live');
  const variant = shot.variants.find((v) => v.id === variantId) ?? shot.variants[shot.variants.length - 1];
  useEffect(() => openVariant(variant, shot.id), [variant, shot.id]);
  const open = useBench((b) => b.variantId);
  const kept = useBench((b) => b.documents);
  const documents = open === variant.id ? kept : null;
  const bake = shot.bakes.find((b) => b.id === bakeId) ?? shot.bakes[shot.bakes.length - 1] ?? null;
  const handle = useRef<ViewportHandle>(null);
  const source: Source = stage === 'set-up' || (!bake && stage !== 'combine') ? 'live' : 'bake';

  // The live run starts with the page and again whenever something that reaches a voxel changed.
  const aloneId = useSelection((s) => s.alone);
  const recipeText = documents
    ? canonicalText({ ...withoutOtherForces(documents.recipe, aloneId), name: '', keep: null })
    : null;
  const wantLive = source === 'live';
  /** What the live run was started or changed with. */
  const run = useRef<{ recipe: Recipe; size: Size } | null>(null);
  useEffect(() => {
    if (!wantLive || recipeText === null) return;
    live.ask();
    const timer = setTimeout(() => {
      const now = useBench.getState().documents;
      if (!now) return;
      const next = withoutOtherForces(now.recipe, useSelection.getState().alone);
      const before = run.current;
      run.current = { recipe: next, size };
      // what only moves the air is taken up by a run that goes on
      if (before?.size === size && canContinue(before.recipe, next) && live.change(next)) return;
      const { changedFrom, wentWrong, newest } = useLive.getState();
      // a run that went wrong goes on with other substeps from some frames before that
      const goesOn = wentWrong && newest !== null && before && onlySubsteps(before.recipe, next);
      const touched = changedFrom === null && before && firstTouched(before.recipe, next);
      const from = goesOn ? newest - FRAMES_BACK : touched;
      playAgain(next, size, (before?.size === size && from) || undefined);
    }, RESTART_AFTER_MS);
    return () => clearTimeout(timer);
  }, [recipeText, wantLive, size]);
  useEffect(() => {
    if (wantLive) return;
    run.current = null;
    live.end();
  }, [wantLive]);
  useEffect(
    () => () => {
      live.end();
    },
    [],
  );
  // A bake that runs is followed frame by frame until one looks elsewhere; a finished one keeps the playhead.
  const bakeKey = source === 'bake' && bake ? bake.id : null;
  const entered = useRef(bake);
  useEffect(() => {
    entered.current = bake;
  }, [bake]);
  useEffect(() => {
    const b = entered.current;
    if (bakeKey === null || !b) return;
    const { frame, follow } = usePlayhead.getState();
    const unfinished = b.job?.state === 'queued' || b.job?.state === 'running';
    usePlayhead.setState({
      follow: unfinished,
      playing: false,
      frame: follow || frame < b.first || frame > b.last ? tellingFrame(b.first, b.last) : frame,
    });
  }, [bakeKey]);

  const [asked, setAsked] = useState<'find' | 'shortcuts' | null>(null);
  const onFind = useCallback(() => setAsked('find'), []);
  useEffect(() => {
    const act: Readonly<Record<ActionId, () => void>> = {
      find: () => setAsked('find'),
      shortcuts: () => setAsked('shortcuts'),
      play: () => {
        const head = usePlayhead.getState();
        setPlaying(!(head.playing || (head.follow && useLive.getState().status === 'running')));
      },
      back: () => stepBy(-1),
      on: () => stepBy(1),
      loop: () => usePlayhead.setState({ loop: !usePlayhead.getState().loop }),
      undo,
      redo,
      domain: () => handle.current?.frameAll(),
      camera: () => {
        const { documents: now } = useBench.getState();
        if (now) handle.current?.lookFrom(now.look.camera);
      },
      hold: () => {
        const { documents: now } = useBench.getState();
        if (useCompare.getState().other) compareWith(null);
        else if (now && useLive.getState().frames.size > 0) holdLive(now.recipe, now.look);
      },
      mode: () => {
        const at = MODES.findIndex((m) => m.value === useCompare.getState().mode);
        useCompare.setState({ mode: MODES[(at + 1) % MODES.length].value });
      },
    };
    const onKey = (e: KeyboardEvent): void => {
      const target = e.target as HTMLElement;
      if (target.closest('input, textarea, select, [role=listbox], [role=dialog]')) return;
      const id = actionOf(pressed(e));
      if (!id || (e.key === ' ' && target.closest('button, a, [role=spinbutton]'))) return;
      e.preventDefault();
      act[id]();
    };

    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  const props = useMemo<StageProps | null>(
    () => documents && { shot, variant, documents, bake, chooseBake: setBakeId },
    [shot, variant, documents, bake],
  );
  const StagePage = PAGES[stage];
  const close = (): void => setAsked(null);
  return (
    <>
      <ShotBar shot={shot} variantId={variant.id} onFind={onFind} />
      <SaveTrouble />
      {props && (
        <Finder documents={props.documents} shotId={shot.id} open={asked === 'find'} onClose={close} />
      )}
      <Shortcuts open={asked === 'shortcuts'} onClose={close} />
      <Tour shot={shot} />
      <Bench>
        <Page aria-label="The page">
          <Broken pane="This part of the page" key={stage}>
            {props && <StagePage {...props} />}
          </Broken>
        </Page>
        {props && stage === 'combine' && (
          <Broken pane="The window">
            <CompWindow {...props} />
          </Broken>
        )}
        {props && stage !== 'combine' && (
          <Broken pane="The window">
            <WindowPane
              props={props}
              stage={stage}
              source={source}
              handle={handle}
              size={size}
              setSize={setSize}
            />
          </Broken>
        )}
        {!props && <Window aria-label="The window" />}
        {props ? (
          <Broken pane="The notebook">
            <QuietNotebook {...props} stage={stage} chooseVariant={setVariantId} />
          </Broken>
        ) : (
          <aside>
            <Quiet>…</Quiet>
          </aside>
        )}
        {props ? (
          <Broken pane="The reel">
            {stage === 'combine' ? (
              <CompReel {...props} />
            ) : (
              <ReelPane
                documents={props.documents}
                bake={bake}
                source={source}
                keyed={stage === 'light' ? 'look' : 'recipe'}
              />
            )}
          </Broken>
        ) : (
          <footer />
        )}
      </Bench>
    </>
  );
}

const ShotBar = memo(function ShotBar({
  shot,
  variantId,
  onFind,
}: {
  shot: ShotInfo;
  variantId: number;
  onFind: () => void;
}): ReactNode {
  const past = useBench((b) => b.past[b.past.length - 1]?.label);
  const future = useBench((b) => b.future[0]?.label);
  const others = usePresent(shot.id, variantId);
  const crumbs = useMemo(
    () => [{ label: shot.production.name, to: '/board' }, { label: shot.name }],
    [shot.production.name, shot.name],
  );
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
          <OthersHere count={others.length} />
          <SaveState />
          <Plain aria-label={`Undo ${past ?? ''}`} isDisabled={past === undefined} onPress={undo}>
            <Undo2 size={16} />
          </Plain>
          <Plain aria-label={`Redo ${future ?? ''}`} isDisabled={future === undefined} onPress={redo}>
            <Redo2 size={16} />
          </Plain>
          <History />
          <Plain onPress={onFind}>Find ⌃K</Plain>
        </>
      }
    />
  );
});

// The reel of a shot: follows and plays the live run or a bake.
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import { useShallow } from 'zustand/react/shallow';
import type { BakeInfo } from '@bramblemist/contracts/payloads/made';
import type { Readings } from '@bramblemist/core/record/readings';
import type { KeyedName } from '../data/keyed';
import { usePlayhead } from '../data/playhead';
import { useBakeFrames } from '../data/queries/bakes';
import { useLive } from '../live/use-live';
import { Lanes } from '../reel/Lanes';
import { Reel, useCalm, type FrameState } from '../reel/Reel';
import type { StageProps } from '../stages/context';
import { useNoticed } from '../readings/use-noticed';
import { setPlaying, stepBy, useThere, type Source } from './there';

/** The reel's drawing follows the run no more often than this. */
const CALM_MS = 300;

export function ReelPane({
  documents,
  bake,
  source,
  keyed,
}: {
  documents: StageProps['documents'];
  bake: BakeInfo | null;
  source: Source;
  /** Whose keyed settings stand under the frames. */
  keyed: KeyedName;
}): ReactNode {
  const { frame, playing, follow } = usePlayhead();
  const there = useThere(source, bake);
  const { space } = documents.recipe;
  const live = useLive(
    useShallow(({ status, newest, rate, readings, changedFrom, asked }) => ({
      status,
      newest,
      rate,
      readings,
      changedFrom,
      asked,
    })),
  );
  const range =
    source === 'live' || !bake
      ? { first: space.firstFrame, last: space.lastFrame }
      : { first: bake.first, last: bake.last };

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
      const { frame: now, loop } = usePlayhead.getState();
      const at = list.indexOf(now);
      if (at === list.length - 1 && !loop) usePlayhead.setState({ playing: false });
      else usePlayhead.setState({ frame: list[(at + 1) % list.length] });
    }, 1000 / space.frameRate);
    return () => clearInterval(timer);
  }, [playing, space.frameRate]);

  const [frames] = useBakeFrames([bake]);
  const baked = useMemo(() => new Map<number, Readings>(frames.map((f) => [f.frame, f.readings])), [frames]);
  const stale = (bake?.outOfDate.length ?? 0) > 0;
  const drawnFrames = useCalm(there, CALM_MS);
  const drawnReadings = useCalm(source === 'live' ? live.readings : baked, CALM_MS);
  const stateOf = useMemo(() => {
    const have = new Set(drawnFrames);
    const old = source === 'live' ? (live.changedFrom ?? 0) : Infinity;
    return (f: number): FrameState => {
      if (!have.has(f)) return 'none';
      if (source === 'live') return f < old ? 'stale' : 'live';
      return stale ? 'stale' : 'kept';
    };
  }, [drawnFrames, source, stale, live.changedFrom]);
  const noticed = useNoticed(source, frames);
  const flags = useMemo(() => noticed.map((n) => n.first.frame), [noticed]);
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
        flags={flags}
        note={
          source === 'live'
            ? words[live.asked && live.status === 'finished' ? 'starting' : live.status]
            : `bake ${bake?.id ?? ''}`
        }
        legend={
          source === 'live'
            ? `${there.length} of ${range.last - range.first + 1} ` +
              `computed${live.changedFrom ? `, before ${live.changedFrom} with earlier settings` : ''}`
            : `${there.length} kept${stale ? ', out of date' : ''}`
        }
        onPlay={setPlaying}
        onStep={(by) => {
          const to = usePlayhead.getState().frame + by;
          if (to >= range.first && to <= range.last) stepBy(by);
        }}
      />
      <Lanes
        document={keyed}
        content={documents[keyed]}
        first={range.first}
        last={range.last}
        frame={frame}
      />
    </>
  );
}

// The reel of a comp: each layer's range with its keys, and the frames that are ready to be played.
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import type { Combine, CompLayer } from '@bramblemist/core/combine/combine';
import type { Readings } from '@bramblemist/core/record/readings';
import { goTo, play, tellingFrame, usePlayhead } from '../data/playhead';
import { Lanes } from '../reel/Lanes';
import { Reel, useCalm, type FrameState, type Strip } from '../reel/Reel';
import type { StageProps } from '../stages/context';
import { useChosen, useComp } from './use-comp';

const NOTHING: ReadonlyMap<number, Readings> = new Map();
const CALM_MS = 200;

/** From which frame to which a layer is seen, as far as its own settings say. */
function rangeOf({ time }: CompLayer, { frame }: Combine): { from: number; to: number } {
  const from = time.before === 'gone' ? Math.max(frame.first, time.start) : frame.first;
  const isBounded = time.after === 'gone' && time.to > 0 && time.speed > 0;
  const length = isBounded ? Math.floor((time.to - time.from) / (time.speed / 100)) : Infinity;
  return { from, to: Math.min(frame.last, time.start + length) };
}

export function CompReel({ documents }: StageProps): ReactNode {
  const comp = documents.combine;
  const { frame, playing } = usePlayhead();
  const { first, last, rate } = comp.frame;
  const ready = useComp((s) => s.ready);
  const chosen = useChosen((s) => s.id);
  useEffect(() => {
    const { frame: now, follow } = usePlayhead.getState();
    const isNew = follow || now < first || now > last;
    usePlayhead.setState({ follow: false, ...(isNew ? { frame: tellingFrame(first, last) } : {}) });
  }, [first, last]);
  const available = useRef(ready);
  useEffect(() => {
    available.current = ready;
  }, [ready]);
  useEffect(() => {
    if (!playing) return;
    let due = performance.now();
    let timer = 0;
    const step = (): void => {
      const { frame: now, loop } = usePlayhead.getState();
      const next = now < last ? now + 1 : first;
      if (now >= last && !loop) return usePlayhead.setState({ playing: false });
      // at the comp's rate where the next one is ready, else as soon as it is
      if (available.current.has(next)) usePlayhead.setState({ frame: next });
      due = Math.max(due + 1000 / rate, performance.now());
      timer = window.setTimeout(step, due - performance.now());
    };

    timer = window.setTimeout(step, 1000 / rate);
    return () => window.clearTimeout(timer);
  }, [playing, first, last, rate]);

  const drawn = useCalm(ready, CALM_MS);
  const stateOf = useMemo(
    () =>
      (f: number): FrameState =>
        drawn.has(f) ? 'kept' : 'none',
    [drawn],
  );
  const strips = useMemo(
    () =>
      comp.layers.slice(0, 6).map((layer): Strip => {
        const own = new Set([
          layer.id,
          ...comp.operations.filter((o) => o.layer === layer.id).map((o) => o.id),
        ]);
        const curves = comp.curves.filter(({ path }) => own.has(path.split('/')[1]));
        return {
          id: layer.id,
          label: layer.on ? layer.name : `${layer.name} (off)`,
          ...rangeOf(layer, comp),
          marks: [...new Set(curves.flatMap((c) => c.keys.map((k) => k.frame)))],
          isChosen: chosen !== null && own.has(chosen),
        };
      }),
    [comp, chosen],
  );
  return (
    <>
      <Reel
        first={first}
        last={last}
        frame={frame}
        frameRate={rate}
        playing={playing}
        stateOf={stateOf}
        readings={NOTHING}
        flags={[]}
        strips={strips}
        note={`${rate} fps`}
        legend={`${drawn.size} of ${last - first + 1} ready to play`}
        onPlay={play}
        onStep={(by) => {
          const to = usePlayhead.getState().frame + by;
          if (to >= first && to <= last) goTo(to);
        }}
      />
      <Lanes document="combine" content={comp} first={first} last={last} frame={frame} />
    </>
  );
}

// A step of the tour: a card that says what to do, and a ring about where. It goes on when that was done.
import { Check, X } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { useLocation } from 'react-router';
import styled from 'styled-components';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { useBench } from '../data/bench';
import { usePlayhead } from '../data/playhead';
import { useView } from '../data/view';
import { Button, Plain } from '../parts/ui';
import { goToStep, STEPS, useTour, type Seen } from './tour';

const Card = styled.aside`
  position: fixed;
  right: 16px;
  bottom: 188px;
  z-index: 20;
  width: 300px;
  padding: 12px 14px;
  border: 1px solid ${({ theme }) => theme.thorn};
  border-radius: 10px;
  background: ${({ theme }) => theme.raised};
  box-shadow: 0 10px 30px #0009;
  h2 {
    margin: 0 0 4px;
    font: 600 17px/1.25 ${({ theme }) => theme.serif};
  }
  p {
    margin: 0 0 10px;
    line-height: 1.45;
  }
  footer {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  small {
    flex: 1;
    color: ${({ theme }) => theme.quiet};
  }
`;
const Close = styled(Plain)`
  position: absolute;
  right: 6px;
  top: 6px;
`;
const Ring = styled.div`
  position: fixed;
  z-index: 19;
  border: 2px solid ${({ theme }) => theme.thorn};
  border-radius: 12px;
  pointer-events: none;
`;
/** How often it is looked where the ring belongs. */
const LOOK_MS = 200;
/** How long a step that was done still stands. */
const DONE_MS = 900;
const AROUND = 4;

function useSeen({ bakes, renders, combines, movies }: ShotInfo): Seen {
  const { pathname: path } = useLocation();
  const changes = useBench((b) => b.past.length);
  const eye = useView((v) => v.at?.eye.map((x) => x.toFixed(2)).join() ?? '');
  const isStill = usePlayhead((p) => !p.follow && !p.playing);
  const frame = usePlayhead((p) => (p.follow || p.playing ? 0 : p.frame));
  return {
    ...{ path, changes, eye, isStill, frame },
    ...{ bakes: bakes.length, renders: renders.length, combines: combines.length, movies: movies.length },
  };
}

export function Tour({ shot }: { shot: ShotInfo }): ReactNode {
  const step = useTour((s) => s.step);
  const seen = useSeen(shot);
  if (step === null) return null;
  return <Step key={step} step={step} seen={seen} />;
}

function Step({ step, seen }: { step: number; seen: Seen }): ReactNode {
  const { title, text, at, isDone } = STEPS[step];
  const [before, setBefore] = useState(seen);
  const [done, setDone] = useState(false);
  // the scene may stand only some time after the step
  if (before.eye === '' && seen.eye !== '') setBefore({ ...before, eye: seen.eye });
  const now = isDone(seen, before);
  useEffect(() => {
    if (now) setDone(true);
  }, [now]);
  useEffect(() => {
    if (!done) return;
    const timer = window.setTimeout(() => goToStep(step + 1), DONE_MS);
    return () => window.clearTimeout(timer);
  }, [done, step]);
  const isLast = step === STEPS.length - 1;
  return (
    <>
      <Around selector={at} />
      <Card aria-label="Tour" role="complementary">
        <Close aria-label="Leave the tour" onPress={() => goToStep(null)}>
          <X size={14} />
        </Close>
        <div aria-live="polite">
          <h2>{title}</h2>
          <p>{text}</p>
        </div>
        <footer>
          <small>
            {done ? (
              <>
                <Check size={13} /> done
              </>
            ) : (
              `${step + 1} of ${STEPS.length}`
            )}
          </small>
          {step > 0 && <Plain onPress={() => goToStep(step - 1)}>Back</Plain>}
          <Button onPress={() => goToStep(isLast ? null : step + 1)}>{isLast ? 'End' : 'Next'}</Button>
        </footer>
      </Card>
    </>
  );
}

/** A ring about the first of what a selector finds, wherever that moves. */
function Around({ selector }: { selector: string }): ReactNode {
  const [box, setBox] = useState<DOMRect | null>(null);
  useEffect(() => {
    const look = (): void => {
      const found = document.querySelector(selector)?.getBoundingClientRect() ?? null;
      setBox((old) => (old && found && same(old, found) ? old : found));
    };

    look();
    const timer = window.setInterval(look, LOOK_MS);
    return () => window.clearInterval(timer);
  }, [selector]);
  if (!box || box.width === 0) return null;
  return (
    <Ring
      aria-hidden
      style={{
        left: box.left - AROUND,
        top: box.top - AROUND,
        width: box.width + 2 * AROUND,
        height: box.height + 2 * AROUND,
      }}
    />
  );
}

const same = (a: DOMRect, b: DOMRect): boolean =>
  a.left === b.left && a.top === b.top && a.width === b.width && a.height === b.height;

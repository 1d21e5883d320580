// One version that is looked at: its picture of the frame, and what was drawn over it.
import { useEffect, useRef, useState, type PointerEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import type { ReviewNoteInfo, ReviewVersion, Stroke } from '@bramblemist/contracts/payloads/review';
import { pathOf, pictureOf, shownFrame, strokeOf } from './versions';

const Figure = styled.figure`
  margin: 0;
  min-width: 0;
  display: grid;
  gap: 6px;
  align-content: start;
`;
const Frame = styled.div<{ $draws: boolean }>`
  position: relative;
  background: ${({ theme }) => theme.surround};
  touch-action: ${({ $draws }) => ($draws ? 'none' : 'auto')};
  cursor: ${({ $draws }) => ($draws ? 'crosshair' : 'default')};
  img {
    display: block;
    width: 100%;
    height: 100%;
    user-select: none;
  }
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    overflow: visible;
    pointer-events: none;
  }
  path {
    fill: none;
    stroke: ${({ theme }) => theme.straw};
    stroke-width: 3px;
    stroke-linejoin: round;
    stroke-linecap: round;
    vector-effect: non-scaling-stroke;
  }
`;

/** What stands above and below the pictures, px. */
const AROUND = 190;

/** Fetches all pictures of a version, so that it plays; a browser keeps them. */
function usePrefetched(version: ReviewVersion): void {
  useEffect(() => {
    let gone = false;
    const fetchAll = async (): Promise<void> => {
      for (const frame of version.frames) {
        if (gone) return;
        const image = new Image();
        image.src = pictureOf(version, frame);
        await image.decode().catch(() => undefined);
      }
    };

    void fetchAll();
    return () => {
      gone = true;
    };
  }, [version]);
}

export function Pane({
  version,
  frame,
  notes,
  drawn,
  onDraw,
  children,
}: {
  version: ReviewVersion;
  frame: number;
  /** What was said of it. */
  notes: readonly ReviewNoteInfo[];
  /** Lines of the note that is being written. */
  drawn: readonly Stroke[];
  /** Where it may be drawn on: told of each line. */
  onDraw: ((stroke: Stroke) => void) | null;
  children: ReactNode;
}): ReactNode {
  usePrefetched(version);
  const shown = shownFrame(version, frame);
  const box = useRef<HTMLDivElement>(null);
  const [aspect, setAspect] = useState(16 / 9);
  const [points, setPoints] = useState<readonly (readonly [number, number])[] | null>(null);
  const at = (e: PointerEvent): [number, number] => {
    const r = box.current!.getBoundingClientRect();
    return [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height];
  };

  const lines = [
    ...notes.filter((n) => n.frame === shown && !n.done).flatMap((n) => n.strokes),
    ...drawn,
    ...(points ? [strokeOf(points)] : []),
  ];
  const end = (): void => {
    if (points && points.length > 1) onDraw?.(strokeOf(points));
    setPoints(null);
  };

  return (
    <Figure>
      <Frame
        ref={box}
        $draws={onDraw !== null}
        // as large as the page lets it, and no larger than its picture: lines keep their places
        style={{ aspectRatio: aspect, width: `min(100%, calc((100vh - ${AROUND}px) * ${aspect}))` }}
        onPointerDown={(e) => {
          if (!onDraw) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          setPoints([at(e)]);
        }}
        onPointerMove={(e) => points && setPoints([...points, at(e)])}
        onPointerUp={end}
        onPointerCancel={() => setPoints(null)}
      >
        <img
          src={pictureOf(version, shown)}
          alt={`${version.name}, frame ${shown}`}
          draggable={false}
          onLoad={({ currentTarget: { naturalWidth, naturalHeight } }) =>
            setAspect(naturalWidth / naturalHeight)
          }
        />
        <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden>
          {lines.map((s, n) => (
            <path key={n} d={pathOf(s)} />
          ))}
        </svg>
      </Frame>
      <figcaption>{children}</figcaption>
    </Figure>
  );
}

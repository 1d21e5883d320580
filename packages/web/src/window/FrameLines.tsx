// What lies on the shot camera's frame: its lines and middle while one looks through it, and a picture lined
// up with it.
import { useEffect, useRef, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { Look } from '@bramblemist/core/look/look';
import { sameEye, useView } from '../data/view';

const Whole = styled.div`
  position: absolute;
  inset: 0;
  pointer-events: none;
  overflow: hidden;
`;
const Frame = styled.div`
  position: absolute;
  outline: 4000px solid #0003;
  border: 1px solid #f2f0f1aa;
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    stroke: #f2f0f166;
    fill: none;
  }
`;

/** Whether the window looks through the shot's camera. */
export function useThroughCamera({ camera }: Look): boolean {
  return useView((s) => sameEye(s.at, camera));
}

/**
 * The camera's frame in a box: its width fills the box's, or its height the height, whichever shows all of
 * it.
 */
function frameIn(
  width: number,
  height: number,
  camera: Look['camera'],
): { left: number; top: number; width: number; height: number } {
  const wide = camera.width * camera.squeeze;
  const scale = Math.min(width / wide, height / camera.height);
  const w = wide * scale;
  const h = camera.height * scale;
  return { left: (width - w) / 2, top: (height - h) / 2, width: w, height: h };
}

/** Lies where the camera's frame lies, with what stands in it. */
export function OnFrame({
  look,
  lines,
  children,
}: {
  look: Look;
  lines: boolean;
  children?: ReactNode;
}): ReactNode {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 1, height: 1 });
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) =>
      setSize({ width: entry.contentRect.width, height: entry.contentRect.height }),
    );
    if (box.current) watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const frame = frameIn(size.width, size.height, look.camera);
  return (
    <Whole ref={box}>
      <Frame style={{ ...frame, ...(lines ? {} : { outline: 'none', border: 'none' }) }}>
        {children}
        {lines && (
          <svg
            viewBox="0 0 100 100"
            preserveAspectRatio="none"
            role="img"
            aria-label="Frame lines of the shot camera"
          >
            <path
              d={
                'M47 50H53M50 46V54M33.3 0V2M66.7 0V2M33.3 98V100M66.7 98V100M0 33.3H1.2M0 66.7H1.2M98.8 ' +
                '33.3H100M98.8 66.7H100'
              }
              vectorEffect="non-scaling-stroke"
            />
            <rect
              x="5"
              y="5"
              width="90"
              height="90"
              strokeDasharray="3 4"
              vectorEffect="non-scaling-stroke"
            />
          </svg>
        )}
      </Frame>
    </Whole>
  );
}

// How the light of the frame is spread: a histogram, the same column by column, or its colours about grey.
import { useEffect, useRef, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { luminanceOf } from '@bramblemist/core/math/luminance';
import { ChoiceWord } from '../parts/controls';
import { Heading, Quiet, Section } from '../parts/ui';
import { useComp } from './use-comp';

const Drawn = styled.canvas`
  width: 100%;
  height: 120px;
  background: #110c10;
  border-radius: 3px;
  display: block;
`;
const KINDS = [
  { value: 'histogram', label: 'histogram' },
  { value: 'columns', label: 'brightness by column' },
  { value: 'colours', label: 'colours about grey' },
] as const;
type Kind = (typeof KINDS)[number]['value'];
const WIDE = 256;
const HIGH = 128;
/** Pixels that are counted: enough for the eye. */
const COUNTED = 60_000;

const TONES = ['#e0705a', '#79b86a', '#6a8fe0'] as const;

export function Scopes(): ReactNode {
  const news = useComp((s) => s.news);
  const [kind, setKind] = useState<Kind>('histogram');
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !news) return;
    context.canvas.width = WIDE;
    context.canvas.height = HIGH;
    context.clearRect(0, 0, WIDE, HIGH);
    const { bytes, width } = news;
    const count = bytes.length / 4;
    const step = Math.max(1, Math.floor(count / COUNTED));
    context.globalCompositeOperation = 'lighter';
    if (kind === 'histogram') return histogram(context, bytes, step);
    context.fillStyle = kind === 'columns' ? '#d8d0d6' : '#c9a5d8';
    context.globalAlpha = 0.16;
    for (let p = 0; p < count; p += step) {
      const [r, g, b] = bytes.subarray(4 * p, 4 * p + 3);
      const light = luminanceOf(r, g, b);
      if (kind === 'columns')
        context.fillRect(((p % width) / width) * WIDE, HIGH - 1 - (light / 255) * (HIGH - 2), 1, 1);
      else {
        // differences of blue and red to brightness, as video has them
        const x = WIDE / 2 + ((b - light) / 255) * (HIGH / 2 / 0.93);
        const y = HIGH / 2 - ((r - light) / 255) * (HIGH / 2 / 0.79);
        context.fillRect(x, y, 1, 1);
      }
    }
  }, [news, kind]);
  return (
    <Section>
      <Heading>
        Scopes{' '}
        <small>
          <ChoiceWord name="Scope" value={kind} options={KINDS} onChange={(v) => setKind(v as Kind)} />
        </small>
      </Heading>
      <Drawn ref={canvas} role="img" aria-label={`Scope: ${KINDS.find((k) => k.value === kind)!.label}`} />
      {!news && <Quiet>No frame is ready yet.</Quiet>}
    </Section>
  );
}

function histogram(context: CanvasRenderingContext2D, bytes: Uint8ClampedArray, step: number): void {
  const bins = TONES.map(() => new Uint32Array(WIDE));
  for (let n = 0; n < bytes.length; n += 4 * step) bins.forEach((bin, c) => bin[bytes[n + c]]++);
  // the ends are often full, and would flatten all the rest
  const most = Math.max(1, ...bins.flatMap((bin) => [...bin.subarray(1, WIDE - 1)]));
  bins.forEach((bin, c) => {
    context.fillStyle = TONES[c];
    context.globalAlpha = 0.7;
    bin.forEach((v, n) => {
      const high = Math.min(1, v / most) * HIGH;
      context.fillRect(n, HIGH - high, 1, high);
    });
  });
}

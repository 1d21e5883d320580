// The lightbox: pictures that were kept with their looks, to hold the present one against.
import { Trash2, Undo2 } from 'lucide-react';
import { useEffect, useRef, type ReactNode } from 'react';
import styled from 'styled-components';
import type { Look } from '@bramblemist/core/look/look';
import { DISPLAYS, type Display } from '@bramblemist/core/look/picture';
import { LOOK } from '@bramblemist/core/look/look';
import { formatValue } from '@bramblemist/core/recipe/units';
import { differencesTold } from '@bramblemist/core/recipe/tell';
import { replace, useBench } from '../data/bench';
import { ChoiceWord } from '../parts/controls';
import { NumberControl } from '../parts/NumberControl';
import { Heading, Plain, Quiet, Section } from '../parts/ui';
import { display } from './pixels';
import { useLightbox, type Snapshot } from './use-picture';

const Strip = styled.div`
  display: flex;
  gap: 8px;
  overflow-x: auto;
  padding: 2px 2px 8px;
`;
const Card = styled.button<{ $held: boolean }>`
  flex: none;
  width: 104px;
  padding: 0;
  border: 1px solid ${({ theme }) => theme.line};
  outline: ${({ theme, $held }) => ($held ? `2px solid ${theme.thorn}` : 'none')};
  border-radius: 4px;
  overflow: hidden;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
  canvas {
    display: block;
    width: 100%;
  }
  span {
    display: block;
    padding: 2px 6px;
  }
`;
const EXPOSURE = {
  kind: 'number',
  path: 'exposure',
  label: 'exposure',
  unit: '',
  least: -10,
  most: 10,
  default: 0,
  doc: 'Of the display only, in stops.',
} as const;

export function Lightbox({ look }: { look: Look }): ReactNode {
  const { snapshots, against, mode, at, exposure, how } = useLightbox();
  const held = snapshots.find((s) => s.id === against) ?? null;
  return (
    <Section>
      <Heading>Lightbox</Heading>
      <Quiet as="div">
        Shown{' '}
        <NumberControl
          setting={EXPOSURE}
          name="Display, exposure"
          value={exposure}
          frameRate={24}
          onChange={(v) => useLightbox.setState({ exposure: v as number })}
        />{' '}
        stops brighter than it is, in{' '}
        <ChoiceWord
          name="How the picture is shown"
          value={how}
          options={DISPLAYS}
          onChange={(v) => useLightbox.setState({ how: v as Display })}
        />
        .
      </Quiet>
      {snapshots.length === 0 ? (
        <Quiet>
          Keep a snapshot of the picture, then change the look: both can be held against each other.
        </Quiet>
      ) : (
        <Strip role="group" aria-label="Snapshots">
          {snapshots.map((s) => (
            <Thumb key={s.id} snapshot={s} isHeld={s.id === against} />
          ))}
        </Strip>
      )}
      {held && (
        <>
          <Quiet as="div">
            {held.name} is held against the picture,{' '}
            <ChoiceWord
              name="How snapshots are held"
              value={mode}
              options={[
                { value: 'wipe', label: 'wiped' },
                { value: 'difference', label: 'as their difference, four times' },
              ]}
              onChange={(v) => useLightbox.setState({ mode: v as 'wipe' })}
            />
            .
          </Quiet>
          {mode === 'wipe' && (
            <input
              type="range"
              aria-label="Where the wipe stands"
              min={0}
              max={1}
              step={0.005}
              value={at}
              style={{ width: '100%' }}
              onChange={(e) => useLightbox.setState({ at: Number(e.target.value) })}
            />
          )}
          <Changed from={held.look} to={look} />
          <Plain onPress={() => takeBack(held)}>
            <Undo2 size={13} /> Take back its look
          </Plain>{' '}
          <Plain
            onPress={() =>
              useLightbox.setState({ snapshots: snapshots.filter((s) => s !== held), against: null })
            }
          >
            <Trash2 size={13} /> Remove
          </Plain>
        </>
      )}
    </Section>
  );
}

function takeBack({ name, look }: Snapshot): void {
  const { documents } = useBench.getState();
  if (documents) replace(`take back the look of ${name}`, { ...documents, look });
}

/** What differs between two looks, in words. */
function Changed({ from, to }: { from: Look; to: Look }): ReactNode {
  const all = differencesTold(from, to, LOOK.parts);
  return (
    <ul aria-label="What changed since">
      {all.length === 0 && <li>Its look is the present one.</li>}
      {all.slice(0, 8).map((d) => (
        <li key={d.path}>
          {d.part}
          {d.setting && `: ${d.setting}`} {d.from ?? ''} → {d.to ?? ''}
        </li>
      ))}
    </ul>
  );
}

function Thumb({ snapshot, isHeld }: { snapshot: Snapshot; isHeld: boolean }): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { picture } = snapshot;
  useEffect(() => {
    const context = canvas.current!.getContext('2d')!;
    context.canvas.width = picture.width;
    context.canvas.height = picture.height;
    context.putImageData(display(picture, 0), 0, 0);
  }, [picture]);
  return (
    <Card
      $held={isHeld}
      aria-label={snapshot.name}
      aria-pressed={isHeld}
      onClick={() => useLightbox.setState({ against: isHeld ? null : snapshot.id })}
    >
      <canvas ref={canvas} aria-hidden />
      <span>
        {snapshot.name}
        <br />
        {formatValue(Number(picture.seconds.toPrecision(2)), 's')}
        {picture.samples > 0 ? `, ${picture.samples} samples` : ''}
      </span>
    </Card>
  );
}

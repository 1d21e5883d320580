// The notebook on the right: reference, variants, readings.
import { useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { routes } from '@bramblemist/contracts/routes';
import { differences } from '@bramblemist/core/recipe/paths';
import { useNewVariant } from '../data/queries';
import { readingsCsv } from '@bramblemist/core/readings/csv';
import type { Readings } from '@bramblemist/core/readings/readings';
import type { Recipe } from '@bramblemist/core/recipe/recipe';
import { flush } from '../data/bench';
import { usePlayhead } from '../data/playhead';
import { useLive } from '../live/use-live';
import { Heading, keepAsFile, Mark, Plain, Quiet, Section } from '../parts/ui';
import { useCalm } from '../reel/Reel';
import { Noticed } from '../stages/Noticed';
import { ForceShares, type FrameShares } from '../seeing/ForceShares';
import { ReadingCharts } from '../stages/Run';
import type { StageKey, StageProps } from '../stages/context';

const Aside = styled.aside`
  position: relative;
  border-left: 1px solid ${({ theme }) => theme.line};
  background: ${({ theme }) => theme.panel};
  padding: 14px 18px;
  overflow: auto;
  min-height: 0;
`;
const Reference = styled.img`
  display: block;
  width: 100%;
  border-radius: 3px;
`;
const Variant = styled.button<{ $chosen: boolean }>`
  display: grid;
  grid-template-columns: 22px 1fr auto;
  width: 100%;
  text-align: left;
  background: none;
  border: none;
  border-top: 1px solid ${({ theme }) => theme.line};
  padding: 7px 0;
  cursor: pointer;
  strong {
    color: ${({ theme, $chosen }) => ($chosen ? theme.thorn : theme.text)};
    font-weight: 600;
  }
  em {
    grid-column: 2 / 4;
    font: italic 13px/1.35 ${({ theme }) => theme.serif};
    color: ${({ theme }) => theme.quiet};
  }
`;

const ShotNote = styled.p`
  font: 14px/1.45 ${({ theme }) => theme.serif};
  color: ${({ theme }) => theme.quiet};
`;
/** Of the live run, at a calm pace. */
function LiveShares({ recipe }: { recipe: Recipe }): ReactNode {
  const readings = useCalm(
      useLive((s) => s.readings),
      CALM_MS,
    ),
    frame = usePlayhead((s) => s.frame),
    frames = useMemo(() => sharesOf(readings), [readings]);
  if (frames.length < 2) return null;
  return (
    <Section>
      <Heading>
        What moves it{' '}
        <Plain onPress={() => keepAsFile('live_readings.csv', readingsCsv(tableOf(useLive.getState().readings)), 'text/csv')}>
          readings as CSV
        </Plain>
      </Heading>
      <ForceShares recipe={recipe} frames={frames} frame={frame} />
    </Section>
  );
}
const CALM_MS = 500;

const tableOf = (readings: ReadonlyMap<number, Readings>): { frame: number; readings: Readings }[] =>
  [...readings].map(([frame, r]) => ({ frame, readings: r })).sort((a, b) => a.frame - b.frame);

function sharesOf(readings: ReadonlyMap<number, Readings>): FrameShares[] {
  return [...readings].flatMap(([frame, { forces }]) => (forces ? [{ frame, forces }] : [])).sort((a, b) => a.frame - b.frame);
}

/** A difference in few words: what was added or taken away by its name. */
function told({ path, from, to }: { path: string; from: unknown; to: unknown }): string {
  const named = (v: unknown): string | null => (v !== null && typeof v === 'object' && 'name' in v ? String(v.name) : null);
  if (from === undefined) return `+ ${named(to) ?? path}`;
  if (to === undefined) return `− ${named(from) ?? path}`;
  return `${path.split('.').slice(-1)[0]} ${String(from)} → ${String(to)}`;
}

export function Notebook(props: StageProps & { stage: StageKey; chooseVariant: (id: number) => void }): ReactNode {
  const { shot, variant, bake, stage, chooseVariant } = props;
  const reference = shot.assets.find((a) => a.kind === 'reference'),
    create = useNewVariant(shot.id);
  const [note, setNote] = useState<string | null>(null);
  const branch = (text: string): void => {
    setNote(null);
    void flush().then(() =>
      create.mutate({ note: text.trim() || 'untitled try', from: variant.id }, { onSuccess: (made) => chooseVariant(made.id) }),
    );
  };
  return (
    <Aside aria-label="Notebook">
      {stage === 'run' && bake && (
        <Section>
          <Heading>
            Readings <small>bake {bake.id}</small>
          </Heading>
          <ReadingCharts bake={bake} recipe={props.documents.recipe} />
        </Section>
      )}
      {stage !== 'run' && (
        <Section>
          <Heading>Reference</Heading>
          {reference ? (
            <Reference src={routes.asset(reference.id)} alt={`Reference ${reference.name}`} />
          ) : (
            <Quiet>No reference picture yet.</Quiet>
          )}
        </Section>
      )}
      {stage === 'set-up' && shot.note !== '' && (
        <Section>
          <Heading>The shot</Heading>
          <ShotNote>{shot.note}</ShotNote>
        </Section>
      )}
      {stage === 'set-up' && <Noticed {...props} />}
      {stage === 'set-up' && <LiveShares recipe={props.documents.recipe} />}
      <Section>
        <Heading>
          Variants <Plain onPress={() => setNote('')}>+ try another</Plain>
        </Heading>
        {note !== null && (
          <input
            autoFocus
            aria-label="What this variant tries"
            placeholder="what this one tries"
            value={note}
            maxLength={120}
            style={{
              width: '100%',
              marginBottom: 8,
              background: 'transparent',
              border: '1px solid currentColor',
              borderRadius: 4,
              padding: '3px 8px',
            }}
            onChange={(e) => setNote(e.target.value)}
            onBlur={() => setNote(null)}
            onKeyDown={(e) => {
              if (e.key === 'Enter') branch(note);
              if (e.key === 'Escape') setNote(null);
              e.stopPropagation();
            }}
          />
        )}
        {[...shot.variants].reverse().map((v) => {
          const parent = shot.variants.find((p) => p.id === v.parent),
            changed = parent ? differences(parent.recipe, v.recipe) : [];
          const bakes = shot.bakes.filter((b) => b.variantId === v.id && b.job?.state === 'done');
          return (
            <Variant
              key={v.id}
              type="button"
              $chosen={v.id === variant.id}
              aria-pressed={v.id === variant.id}
              onClick={() => chooseVariant(v.id)}
            >
              <span>{v.number}</span>
              <strong>{v.note || 'untitled'}</strong>
              {v.id === variant.id ? (
                <span>now</span>
              ) : bakes.some((b) => b.outOfDate.length === 0) ? (
                <Mark state="well">kept</Mark>
              ) : bakes.length ? (
                <Mark state="stale">out of date</Mark>
              ) : (
                <span />
              )}
              {changed.length > 0 && (
                <em>
                  {changed.slice(0, 2).map(told).join(', ')}
                  {changed.length > 2 ? ` and ${changed.length - 2} more` : ''}
                </em>
              )}
            </Variant>
          );
        })}
      </Section>
    </Aside>
  );
}

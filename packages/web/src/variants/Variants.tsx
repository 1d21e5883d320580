// The variants of a shot as a tree: why each was tried, what it changed, its bakes; to open, go back to,
// branch, compare.
import { useMemo, useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import type { BakeInfo } from '@bramblemist/contracts/payloads/made';
import type { VariantInfo } from '@bramblemist/contracts/payloads/shot';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { differencesTold, type Difference } from '@bramblemist/core/recipe/tell';
import { compareWith, useCompare } from '../data/compare';
import { useChangeNote, useNewVariant } from '../data/queries/shot';
import { MoreMenu } from '../parts/MoreMenu';
import { Heading, Mark, Plain, Quiet, Section, Trouble } from '../parts/ui';
import type { StageProps } from '../stages/context';

const Row = styled.div<{ $depth: number }>`
  border-top: 1px solid ${({ theme }) => theme.line};
  padding: 6px 0 6px ${({ $depth }) => 10 * Math.min(5, $depth)}px;
`;
const Open = styled.button<{ $chosen: boolean }>`
  display: grid;
  grid-template-columns: 22px 1fr auto;
  width: 100%;
  text-align: left;
  background: none;
  border: none;
  padding: 0;
  cursor: pointer;
  strong {
    color: ${({ theme, $chosen }) => ($chosen ? theme.thorn : theme.text)};
    font-weight: 600;
  }
`;
const Changes = styled.ul`
  list-style: none;
  margin: 2px 0 2px 22px;
  padding: 0;
  font: italic 13px/1.35 ${({ theme }) => theme.serif};
  color: ${({ theme }) => theme.quiet};
`;
const Acts = styled.p`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
  margin: 4px 0 0 22px;
`;
const Field = styled.input`
  width: 100%;
  margin-bottom: 8px;
  background: transparent;
  border: 1px solid currentColor;
  border-radius: 4px;
  padding: 3px 8px;
`;
/** Changes that are told without unfolding them. */
const FEW = 2;

export const inWords = ({ part, setting, from, to }: Difference): string =>
  setting === '' ? `${part} ${to ?? from ?? ''}` : `${part}: ${setting} ${from ?? 'none'} → ${to ?? 'none'}`;

/** Children under their parents, the newest branch first. */
function asTree(variants: readonly VariantInfo[]): { variant: VariantInfo; depth: number }[] {
  const out: { variant: VariantInfo; depth: number }[] = [];
  const under = (parent: number | null, depth: number): void => {
    for (const v of variants.filter(
      (w) => w.parent === parent || (parent === null && !variants.some((x) => x.id === w.parent)),
    )) {
      out.push({ variant: v, depth });
      under(v.id, depth + 1);
    }
  };

  under(null, 0);
  return out;
}

function NoteField({
  label,
  value,
  onDone,
}: {
  label: string;
  value: string;
  onDone: (text: string | null) => void;
}): ReactNode {
  const [text, setText] = useState(value);
  return (
    <Field
      autoFocus
      aria-label={label}
      placeholder="what this one tries"
      value={text}
      maxLength={120}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => onDone(null)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') onDone(text);
        if (e.key === 'Escape') onDone(null);
        e.stopPropagation();
      }}
    />
  );
}

export function Variants(props: StageProps & { chooseVariant: (id: number) => void }): ReactNode {
  const { shot, variant, chooseVariant } = props;
  const { recipe } = props.documents;
  const create = useNewVariant(shot.id);
  const rename = useChangeNote(shot.id);
  const navigate = useNavigate();
  const [asks, setAsks] = useState<'new' | number | null>(null);
  const [unfolded, setUnfolded] = useState<number | null>(null);
  const other = useCompare((s) => s.other);
  const branch = (note: string, from: number): void =>
    create.mutate({ note, from }, { onSuccess: (made) => chooseVariant(made.id) });
  const rows = useMemo(
    () =>
      asTree(shot.variants).map(({ variant: v, depth }) => {
        const parent = shot.variants.find((p) => p.id === v.parent);
        const now = (w: VariantInfo): Recipe => (w.id === variant.id ? recipe : w.recipe);
        return { v, depth, parent, told: parent ? differencesTold(now(parent), now(v)) : [] };
      }),
    [shot.variants, variant.id, recipe],
  );
  return (
    <Section>
      <Heading>
        Variants{' '}
        <span style={{ display: 'flex', gap: 6 }}>
          <Plain onPress={() => navigate(`/shots/${shot.id}/sheets`)}>trial sheets</Plain>
          <Plain onPress={() => setAsks('new')}>+ try another</Plain>
        </span>
      </Heading>
      {asks === 'new' && (
        <NoteField
          label="What this variant tries"
          value=""
          onDone={(text) => {
            setAsks(null);
            if (text !== null) branch(text.trim() || 'untitled try', variant.id);
          }}
        />
      )}
      {create.error && <Trouble>{create.error.message}</Trouble>}
      {rows.map(({ v, depth, parent, told }) => {
        const chosen = v.id === variant.id;
        const open = unfolded === v.id;
        const bakes = shot.bakes.filter((b) => b.variantId === v.id && b.job?.state === 'done');
        const compared = other?.kind === 'variant' && other.id === v.id;
        return (
          <Row key={v.id} $depth={depth}>
            {asks === v.id ? (
              <NoteField
                label={`What variant ${v.number} tries`}
                value={v.note}
                onDone={(text) => {
                  setAsks(null);
                  if (text !== null) rename.mutate({ id: v.id, note: text.trim() });
                }}
              />
            ) : (
              <Open type="button" $chosen={chosen} aria-pressed={chosen} onClick={() => chooseVariant(v.id)}>
                <span>{v.number}</span>
                <strong>{v.note || 'untitled'}</strong>
                {chosen ? <span>now</span> : <Kept bakes={bakes} />}
              </Open>
            )}
            {told.length > 0 && (
              <Changes aria-label={`What variant ${v.number} changed of ${parent!.number}`}>
                {told.slice(0, open ? undefined : FEW).map((d) => (
                  <li key={d.path}>{inWords(d)}</li>
                ))}
                {told.length > FEW && !open && <li>and {told.length - FEW} more</li>}
              </Changes>
            )}
            {parent && told.length === 0 && <Quiet style={{ marginLeft: 22 }}>as {parent.number}</Quiet>}
            <Acts>
              {(told.length > FEW || open) && (
                <Plain aria-expanded={open} onPress={() => setUnfolded(open ? null : v.id)}>
                  {open ? 'fewer' : 'all changes'}
                </Plain>
              )}
              {!chosen && (
                <Plain
                  aria-pressed={compared}
                  onPress={() => compareWith(compared ? null : { kind: 'variant', id: v.id })}
                >
                  {compared ? 'end comparing' : 'compare'}
                </Plain>
              )}
              <MoreMenu
                label={`More of variant ${v.number}`}
                deeds={[
                  ...(chosen
                    ? []
                    : [{ label: 'Branch from here', act: () => branch(`back to ${v.number}`, v.id) }]),
                  { label: 'Change its note', act: () => setAsks(v.id) },
                ]}
              />
            </Acts>
          </Row>
        );
      })}
    </Section>
  );
}

/** Whether a variant has a bake that is current, or one that is not. */
function Kept({ bakes }: { bakes: readonly BakeInfo[] }): ReactNode {
  if (bakes.some((b) => b.outOfDate.length === 0)) return <Mark state="well">kept</Mark>;
  return bakes.length > 0 ? <Mark state="stale">out of date</Mark> : <span />;
}

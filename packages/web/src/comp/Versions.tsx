// Comps of the shot that were put aside, each with a line on what it is.
import { Trash2, Undo2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { CompVersionInfo } from '@bramblemist/contracts/payloads/comp';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { COMBINE_PARTS, type Combine } from '@bramblemist/core/combine/combine';
import { canonicalText } from '@bramblemist/core/recipe/document';
import { differencesTold } from '@bramblemist/core/recipe/tell';
import { useDropComp, useNoteComp, usePutAside } from '../data/queries/pictures';
import { Button, Heading, Mark, Plain, Quiet, Section, Trouble } from '../parts/ui';
import { changeComp } from '../stages/combine/change-comp';
import { useCompView } from './use-comp';

const Row = styled.div`
  border-top: 1px solid ${({ theme }) => theme.line};
  padding: 7px 0;
`;
const Line = styled.div`
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
  align-items: center;
`;
const Note = styled.input`
  flex: 1;
  min-width: 0;
  background: none;
  border: none;
  border-bottom: 1px dotted ${({ theme }) => theme.line};
  color: ${({ theme }) => theme.text};
  font: 15px/1.4 ${({ theme }) => theme.serif};
`;

const same = (a: Combine, b: Combine): boolean =>
  COMBINE_PARTS.every(
    ({ key }) => canonicalText(a[key as keyof Combine]) === canonicalText(b[key as keyof Combine]),
  );

export function Versions({ shot, comp }: { shot: ShotInfo; comp: Combine }): ReactNode {
  const putAside = usePutAside(shot.id);
  const all = [...shot.comps].reverse();
  return (
    <Section>
      <Heading>
        Comps put aside{' '}
        <Button isDisabled={putAside.isPending} onPress={() => putAside.mutate({ settings: comp, note: '' })}>
          Put aside
        </Button>
      </Heading>
      {putAside.error && <Trouble>{putAside.error.message}</Trouble>}
      {all.length === 0 && (
        <Quiet>Put the comp aside before you try something else, and hold it against that.</Quiet>
      )}
      {all.map((version) => (
        <Version key={version.id} version={version} shot={shot} comp={comp} />
      ))}
    </Section>
  );
}

function Version({
  version,
  shot,
  comp,
}: {
  version: CompVersionInfo;
  shot: ShotInfo;
  comp: Combine;
}): ReactNode {
  const { id, number, note, settings } = version;
  const tell = useNoteComp(shot.id);
  const drop = useDropComp(shot.id);
  const against = useCompView((s) => s.against);
  const [text, setText] = useState(note);
  const isNow = same(settings, comp);
  const differs = isNow ? [] : differencesTold(settings, comp, COMBINE_PARTS);
  return (
    <Row>
      <Line>
        <b>{number}</b>
        <Note
          aria-label={`Note of comp ${number}`}
          value={text}
          placeholder="what it is"
          maxLength={500}
          onChange={(e) => setText(e.target.value)}
          onBlur={() => text !== note && tell.mutate({ id, note: text })}
        />
        {isNow && <Mark state="well">now</Mark>}
      </Line>
      {differs.length > 0 && (
        <Quiet
          title={differs.map((d) => `${d.part} ${d.setting}: ${d.from ?? ''} → ${d.to ?? ''}`).join('\n')}
        >
          {differs.length === 1 ? 'One setting differs now' : `${differs.length} settings differ now`}
        </Quiet>
      )}
      <Line>
        <Plain
          aria-pressed={against === id}
          isDisabled={isNow}
          onPress={() => useCompView.setState({ against: against === id ? 'nothing' : id })}
        >
          {against === id ? 'Stop holding against it' : 'Hold against it'}
        </Plain>
        <Plain
          isDisabled={isNow}
          onPress={() => changeComp(`take comp ${number}`, (c) => ({ ...settings, name: c.name }))}
        >
          <Undo2 size={13} /> Take it
        </Plain>
        <Plain
          aria-label={`Remove comp ${number}`}
          isDisabled={drop.isPending}
          onPress={() => {
            if (against === id) useCompView.setState({ against: 'nothing' });
            drop.mutate(id);
          }}
        >
          <Trash2 size={13} /> Remove
        </Plain>
      </Line>
    </Row>
  );
}

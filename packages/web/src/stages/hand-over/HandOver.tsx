// Hand over: what goes into a package, what it takes, what its files are called; and the packages so far.
import { PackageCheck } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { PackedLine, PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import { routes } from '@bramblemist/contracts/routes';
import { checkChannelNames, type ChannelNames } from '@bramblemist/core/cache/channel-names';
import { DEFAULT_NAMES, FileNames, NAME_FIELDS } from '@bramblemist/core/cache/file-names';
import { useNewPackage } from '../../data/queries/packages';
import { NextStep } from '../../parts/NextStep';
import { bytes, fieldStyle, Heading, Primary, Quiet, Section, Trouble } from '../../parts/ui';
import { Channels } from './Channels';
import { Earlier, List } from './Earlier';
import { useOwnPacking } from './own-packing';
import { bytesOf, bytesOfAll, chosenAtFirst, framesOf, namesOf } from './packing';
import type { StageProps } from '../context';

const Fields = styled.div`
  display: grid;
  gap: 10px;
  margin: 4px 0 12px;
  label {
    display: grid;
    gap: 3px;
    color: ${({ theme }) => theme.quiet};
  }
  .beside {
    display: flex;
    align-items: end;
    gap: 10px;
  }
  input {
    ${fieldStyle}
    width: 100%;
  }
  input[type='number'] {
    width: 84px;
  }
  input.names {
    font:
      12px ui-monospace,
      monospace;
  }
`;
const Pattern = styled.details`
  color: ${({ theme }) => theme.quiet};
  summary {
    cursor: pointer;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 2px 10px;
    margin: 4px 0 0;
  }
  dt {
    font:
      12px ui-monospace,
      monospace;
    color: ${({ theme }) => theme.text};
  }
  dd {
    margin: 0;
  }
`;

/** What a line is, in words. */
function wordsOf(line: PackedLine): string {
  const ending = line.ending.toUpperCase();
  switch (line.kind) {
    case 'volumes':
      return `${line.files} ${line.files === 1 ? 'volume' : 'volumes'} with their manifest`;
    case 'scene':
      return 'Scene for other programs: cameras, lights, obstacles';
    case 'contact':
      return 'Contact sheet of the newest pictures';
    case 'review':
      return 'Review movie of them, with the frame burnt in';
    case 'particles':
      return `Particles ${line.of}, ${line.files} × ${ending}`;
    case 'documents':
      return 'Recipe, looks, comps and notes';
    case 'reference':
      return `${line.files} reference ${line.files === 1 ? 'picture' : 'pictures'}`;
    default: {
      const of = `${line.kind === 'render' ? 'Render' : 'Comp'} ${line.of}`;
      if (line.what === 'movie') return `${of}, ${line.files} ${line.files === 1 ? 'movie' : 'movies'}`;
      return `${of}, ${line.files} × ${line.what.endsWith('_deep') ? 'deep ' : ''}${ending}`;
    }
  }
}

/** What is wrong with a pattern; null where nothing is. */
function faultOf(pattern: string): string | null {
  try {
    void new FileNames(pattern);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}

function faultOfChannels(names: ChannelNames, channels: readonly string[]): string | null {
  try {
    checkChannelNames(names, channels);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}

const isRenamed = (names: ChannelNames): boolean =>
  Object.entries(names).some(([channel, name]) => name !== channel);

export function HandOver(props: StageProps): ReactNode {
  const { bake } = props;
  const isThere = bake !== null && bake.frames.length > 0;
  const packing = useOwnPacking(props);
  if (!isThere)
    return (
      <Section>
        <Heading>Package</Heading>
        <Quiet>There is nothing to hand over yet: bake the shot in Run first.</Quiet>
      </Section>
    );
  if (packing.error) return <Trouble>{packing.error.message}</Trouble>;
  if (!packing.data) return <Quiet>Looking at what is there …</Quiet>;
  return (
    <>
      <Choice key={bake.id} bakeId={bake.id} packing={packing.data} />
      <Earlier packing={packing.data} />
    </>
  );
}

/** A frame that the package begins or ends with; empty where it is the bake's own. */
function FrameField({
  label,
  at,
  all: [least, most],
  otherwise,
  onType,
}: {
  label: string;
  at: number | null;
  all: readonly [number, number];
  otherwise: number;
  onType: (frame: number | null) => void;
}): ReactNode {
  return (
    <label>
      {label}
      <input
        type="number"
        min={least}
        max={most}
        placeholder={String(otherwise)}
        value={at ?? ''}
        onChange={({ target: { value } }) =>
          onType(value === '' ? null : Math.max(0, Math.round(Number(value))))
        }
      />
    </label>
  );
}

function Choice({ bakeId, packing }: { bakeId: number; packing: PackingInfo }): ReactNode {
  const { lines, next, packages } = packing;
  const make = useNewPackage(bakeId);
  const [left, setLeft] = useState<ReadonlySet<string>>(() => {
    const first = chosenAtFirst(packing);
    return new Set(lines.map((l) => l.key).filter((k) => !first.includes(k)));
  });
  const [names, setNames] = useState(packages[0]?.names ?? DEFAULT_NAMES);
  const [note, setNote] = useState('');
  const [channels, setChannels] = useState<ChannelNames>(packages[0]?.wanted.channels ?? {});
  const all = lines.flatMap((l) => l.frames);
  const least = Math.min(...all);
  const most = Math.max(...all);
  const [from, setFrom] = useState<number | null>(null);
  const [to, setTo] = useState<number | null>(null);
  const frames =
    from === null && to === null ? null : { first: from ?? least, last: Math.max(from ?? least, to ?? most) };
  const wrong = faultOfChannels(channels, packing.channels);
  const fault = faultOf(names);
  const chosen = lines.filter(
    (l) => !left.has(l.key) && (l.frames.length === 0 || framesOf(l, { frames }).length > 0),
  );
  const wanted = { lines: chosen.map((l) => l.key), frames };
  const toggle = (key: string, on: boolean): void =>
    setLeft((now) => new Set(on ? [...now].filter((k) => k !== key) : [...now, key]));
  const send = (): void =>
    make.mutate(
      { ...wanted, names, note: note.trim(), ...(isRenamed(channels) ? { channels } : {}) },
      {
        onSuccess: ({ id }) => {
          setNote('');
          window.location.assign(routes.package(id));
        },
      },
    );
  return (
    <Section>
      <Heading>
        Package{' '}
        <small>
          version {next} · bake {bakeId}
        </small>
      </Heading>
      <List aria-label="What goes into it">
        {lines.map((l) => (
          <li key={l.key}>
            <label>
              <input
                type="checkbox"
                checked={!left.has(l.key)}
                onChange={(e) => toggle(l.key, e.target.checked)}
              />
              <span>{wordsOf(l)}</span>
              <Quiet as="span">{l.bytes === null ? '' : bytes(bytesOf(l, wanted))}</Quiet>
              {!fault && !left.has(l.key) && <code>{namesOf(l, names, packing, bakeId, wanted)}</code>}
            </label>
          </li>
        ))}
      </List>
      <Fields>
        <label>
          Names
          <input
            className="names"
            value={names}
            spellCheck={false}
            aria-invalid={fault !== null}
            onChange={(e) => setNames(e.target.value)}
          />
        </label>
        {fault && <Trouble>{fault}</Trouble>}
        <Pattern>
          <summary>Fields of names</summary>
          <dl>
            {Object.entries(NAME_FIELDS).map(([field, about]) => (
              <div key={field} style={{ display: 'contents' }}>
                <dt>{`{${field}}`}</dt>
                <dd>{about}</dd>
              </div>
            ))}
            <dt>{'{frame:4}'}</dt>
            <dd>a number with four digits at least; / makes a folder</dd>
          </dl>
        </Pattern>
        <Channels packing={packing} bakeId={bakeId} names={channels} onChange={setChannels} fault={wrong} />
        <div className="beside">
          <FrameField label="First frame" at={from} all={[least, most]} otherwise={least} onType={setFrom} />
          <FrameField label="Last frame" at={to} all={[least, most]} otherwise={most} onType={setTo} />
        </div>
        <label>
          Note for whoever gets it
          <input value={note} maxLength={500} onChange={(e) => setNote(e.target.value)} />
        </label>
      </Fields>
      <NextStep>
        <Primary
          isDisabled={fault !== null || wrong !== null || chosen.length === 0 || make.isPending}
          onPress={send}
        >
          <PackageCheck size={15} /> Make version {next}
        </Primary>
        {make.error && <Trouble>{make.error.message}</Trouble>}
      </NextStep>
      <Quiet style={{ marginTop: 8 }}>
        {bytes(bytesOfAll(lines, wanted))} in all: a ZIP with a readable sheet and checksums;{' '}
        <code>bramblemist verify</code> holds it against them.
      </Quiet>
    </Section>
  );
}

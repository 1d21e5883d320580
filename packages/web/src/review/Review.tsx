// Review of a shot: its versions in motion, one or two beside each other, with notes on frames and what was
// decided.
import { Check, Pause, Pencil, Play, RotateCcw } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { useParams, useSearchParams } from 'react-router';
import styled from 'styled-components';
import type { ReviewInfo, ReviewVersion, Stroke } from '@bramblemist/contracts/payloads/review';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { TopBar } from '../app/TopBar';
import { STATUS_WORDS } from '../board/filter';
import { useAddReviewNote, useReview } from '../data/queries/review';
import { useChangeCard } from '../data/queries/board';
import { useShot } from '../data/queries/shot';
import { Button, fieldStyle, Heading, Plain, Primary, Quiet, Section, Trouble } from '../parts/ui';
import { ReviewNotes } from './ReviewNotes';
import { Pane } from './Pane';
import { keyOf, notesOf, rangeOf, shownFrame } from './versions';

const Page = styled.main`
  height: calc(100% - 46px);
  display: grid;
  grid-template-columns: minmax(0, 1fr) clamp(300px, 27vw, 420px);
  > * {
    overflow: auto;
    min-height: 0;
    padding: 14px 18px;
  }
  > aside {
    border-left: 1px solid ${({ theme }) => theme.line};
    background: ${({ theme }) => theme.panel};
  }
  select,
  textarea,
  input[type='text'] {
    ${fieldStyle}
  }
`;
const Panes = styled.div<{ $two: boolean }>`
  display: grid;
  gap: 12px;
  grid-template-columns: ${({ $two }) => ($two ? 'repeat(2, minmax(0, 1fr))' : 'minmax(0, 1fr)')};
`;
const Transport = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
  margin-top: 12px;
  input[type='range'] {
    flex: 1;
    accent-color: ${({ theme }) => theme.thorn};
  }
  strong {
    font-variant-numeric: tabular-nums;
    min-width: 4ch;
  }
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
`;
const Form = styled.form`
  display: grid;
  gap: 8px;
  margin-bottom: 16px;
  label {
    display: grid;
    gap: 3px;
    color: ${({ theme }) => theme.quiet};
  }
  textarea,
  input[type='text'] {
    width: 100%;
    resize: vertical;
  }
`;

export function Review(): ReactNode {
  const { id } = useParams();
  const shot = useShot(Number(id));
  const review = useReview(Number(id));
  const error = shot.error ?? review.error;
  if (error)
    return (
      <>
        <TopBar crumbs={[{ label: 'Review' }]} />
        <Trouble>{error.message}</Trouble>
      </>
    );
  if (!shot.data || !review.data) return <TopBar crumbs={[{ label: 'Fetching the shot …' }]} />;
  return (
    <>
      <TopBar
        crumbs={[
          { label: shot.data.production.name, to: '/board' },
          { label: shot.data.name, to: `/shots/${shot.data.id}/set-up` },
          { label: 'Review' },
        ]}
      />
      {review.data.versions.length === 0 ? (
        <Page>
          <div>
            <Quiet>There is nothing to look at yet: bake the shot in Run, or render it in Light.</Quiet>
          </div>
        </Page>
      ) : (
        <Looking shot={shot.data} review={review.data} />
      )}
    </>
  );
}

function ChooseVersion({
  label,
  versions,
  value,
  none,
  onChoose,
}: {
  label: string;
  versions: readonly ReviewVersion[];
  value: string;
  none?: string;
  onChoose: (key: string) => void;
}): ReactNode {
  return (
    <select aria-label={label} value={value} onChange={(e) => onChoose(e.target.value)}>
      {none !== undefined && <option value="">{none}</option>}
      {versions.map((v) => (
        <option key={keyOf(v)} value={keyOf(v)}>
          {v.name}
          {v.about && ` · ${v.about}`}
        </option>
      ))}
    </select>
  );
}

function Looking({ shot, review }: { shot: ShotInfo; review: ReviewInfo }): ReactNode {
  const { versions } = review;
  const byKey = (key: string): ReviewVersion | undefined => versions.find((v) => keyOf(v) === key);
  const [params] = useSearchParams();
  const [oneKey, setOne] = useState(params.get('of') ?? keyOf(versions[0]));
  const [twoKey, setTwo] = useState('');
  const one = byKey(oneKey) ?? versions[0];
  const two = byKey(twoKey);
  const [first, last] = rangeOf(two ? [one, two] : [one]);
  const [at, setAt] = useState(() => Number(params.get('frame') ?? first));
  const frame = Math.min(last, Math.max(first, at));
  const [plays, setPlays] = useState(false);
  const [draws, setDraws] = useState(false);
  const [drawn, setDrawn] = useState<readonly Stroke[]>([]);
  useEffect(() => {
    if (!plays) return;
    const timer = window.setInterval(() => setAt((n) => (n >= last ? first : n + 1)), 1000 / one.rate);
    return () => window.clearInterval(timer);
  }, [plays, first, last, one.rate]);
  const stand = (to: number): void => {
    setPlays(false);
    setAt(to);
    setDrawn([]);
  };

  return (
    <Page>
      <div>
        <Panes $two={two !== undefined}>
          <Pane
            version={one}
            frame={frame}
            notes={notesOf(review, one)}
            drawn={drawn}
            onDraw={draws ? (s) => setDrawn([...drawn, s]) : null}
          >
            <ChooseVersion label="Version" versions={versions} value={keyOf(one)} onChoose={setOne} />
          </Pane>
          {two && (
            <Pane version={two} frame={frame} notes={notesOf(review, two)} drawn={[]} onDraw={null}>
              <ChooseVersion
                label="Version beside it"
                versions={versions}
                value={keyOf(two)}
                none="nothing beside it"
                onChoose={setTwo}
              />
            </Pane>
          )}
        </Panes>
        <Transport>
          <Plain aria-label={plays ? 'Pause' : 'Play'} onPress={() => setPlays(!plays)}>
            {plays ? <Pause size={16} /> : <Play size={16} />}
          </Plain>
          <strong data-testid="frame">{frame}</strong>
          <input
            type="range"
            aria-label="Frame"
            min={first}
            max={last}
            value={frame}
            onChange={(e) => stand(Number(e.target.value))}
          />
          {!two && versions.length > 1 && (
            <ChooseVersion
              label="Version beside it"
              versions={versions.filter((v) => v !== one)}
              value=""
              none="beside it …"
              onChoose={setTwo}
            />
          )}
        </Transport>
      </div>
      <aside aria-label="Notes">
        <Decision shot={shot} status={review.status} />
        <NewNote
          shotId={shot.id}
          version={one}
          frame={shownFrame(one, frame)}
          drawn={drawn}
          draws={draws}
          onDraws={(on) => {
            setPlays(false);
            setDraws(on);
          }}
          onClear={() => setDrawn([])}
        />
        <ReviewNotes
          review={review}
          shotId={shot.id}
          onShow={(note) => {
            setOne(`${note.kind}:${note.of}`);
            stand(note.frame);
          }}
        />
      </aside>
    </Page>
  );
}

function Decision({ shot, status }: { shot: ShotInfo; status: ReviewInfo['status'] }): ReactNode {
  const change = useChangeCard();
  const to = (next: ReviewInfo['status']): void => change.mutate({ id: shot.id, status: next });
  return (
    <Section>
      <Heading>
        {shot.name} <small>{STATUS_WORDS[status]}</small>
      </Heading>
      <Line style={{ marginBottom: 14 }}>
        <Primary isDisabled={status === 'approved'} onPress={() => to('approved')}>
          <Check size={14} /> Approve
        </Primary>
        <Button isDisabled={status === 'work'} onPress={() => to('work')}>
          <RotateCcw size={14} /> Again
        </Button>
      </Line>
      {change.error && <Trouble>{change.error.message}</Trouble>}
    </Section>
  );
}

/** Who writes, as this browser knows. */
const AUTHOR = 'bramblemist.reviewer';

function NewNote({
  shotId,
  version,
  frame,
  drawn,
  draws,
  onDraws,
  onClear,
}: {
  shotId: number;
  version: ReviewVersion;
  frame: number;
  drawn: readonly Stroke[];
  draws: boolean;
  onDraws: (on: boolean) => void;
  onClear: () => void;
}): ReactNode {
  const add = useAddReviewNote(shotId);
  const [text, setText] = useState('');
  const [author, setAuthor] = useState(() => localStorage.getItem(AUTHOR) ?? '');
  const send = (): void =>
    add.mutate(
      { kind: version.kind, of: version.id, frame, author: author.trim(), text: text.trim(), strokes: drawn },
      {
        onSuccess: () => {
          localStorage.setItem(AUTHOR, author.trim());
          setText('');
          onClear();
          onDraws(false);
        },
      },
    );
  return (
    <Form
      aria-label="New note"
      onSubmit={(e) => {
        e.preventDefault();
        send();
      }}
    >
      <label>
        Note on frame {frame} of {version.name.toLowerCase()}
        <textarea rows={3} value={text} maxLength={2000} onChange={(e) => setText(e.target.value)} />
      </label>
      <label>
        Who says so
        <input type="text" value={author} maxLength={80} onChange={(e) => setAuthor(e.target.value)} />
      </label>
      <Line>
        <Button aria-pressed={draws} onPress={() => onDraws(!draws)}>
          <Pencil size={14} /> {draws ? 'Stop drawing' : 'Draw on the frame'}
        </Button>
        {drawn.length > 0 && (
          <Plain onPress={onClear}>
            clear {drawn.length} {drawn.length === 1 ? 'line' : 'lines'}
          </Plain>
        )}
        <Primary type="submit" isDisabled={text.trim() === '' || add.isPending}>
          Add note
        </Primary>
      </Line>
      {add.error && <Trouble>{add.error.message}</Trouble>}
    </Form>
  );
}
